/** Starter forms. */
export const formKinds = ['plane', 'box', 'cylinder', 'cone', 'sphere', 'torus'] as const;
export type FormKind = (typeof formKinds)[number];
