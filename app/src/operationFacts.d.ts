declare module 'virtual:operation-facts' {
  import type { ChangeKind, Need, OperationName } from '@jig-peel/core';

  /** A parameter of an operation as a form asks for it. */
  export interface Field {
    name: string;
    label: string;
    kind: 'choice' | 'switch' | 'number' | 'text';
    help?: string;
    /** What stands in it at first; nothing: left to the job's settings, or to the operation. */
    first?: string | number | boolean;
    choices?: string[];
    whole?: boolean;
    min?: number;
    max?: number;
  }

  export const operationFacts: Readonly<
    Record<
      OperationName,
      {
        readonly label: string;
        readonly words?: string;
        readonly changes: readonly ChangeKind[];
        readonly needs?: Need;
        /** Parameters that a form asks for. */
        readonly fields: readonly Field[];
        readonly offered?: readonly { id: string; label: string; words?: string; params: never }[];
      }
    >
  >;
}
