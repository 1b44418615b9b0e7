/** The package's main file is not loadable as a module; its .mjs is, but has no types of its own. */
declare module 'maxrects-packer/dist/maxrects-packer.mjs' {
  export { MaxRectsPacker } from 'maxrects-packer';
}
declare module 'gltf-validator' {
  export function validateBytes(
    bytes: Uint8Array,
    options?: { externalResourceFunction?: (uri: string) => Promise<Uint8Array> },
  ): Promise<{
    info?: { totalTriangleCount: number };
    issues: { numErrors: number; numWarnings: number; messages: { code: string; message: string; severity: number }[] };
  }>;
}
