declare module 'virtual:operation-facts' {
  import type { ChangeKind, Need, OperationName } from '@jig-peel/core';
  export const operationFacts: Readonly<
    Record<
      OperationName,
      {
        readonly label: string;
        readonly words?: string;
        readonly changes: readonly ChangeKind[];
        readonly needs?: Need;
        readonly offered?: readonly { id: string; label: string; words?: string; params: never }[];
      }
    >
  >;
}
