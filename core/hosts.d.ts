/* What browsers, workers and Node all have and the core uses; nothing else of the DOM exists for it. Only for `core/tsconfig.json`. */
declare const performance: { now(): number };
declare function atob(text: string): string;
declare class TextEncoder {
  encode(text?: string): Uint8Array<ArrayBuffer>;
}
declare class TextDecoder {
  constructor(label?: string, options?: { fatal?: boolean; ignoreBOM?: boolean });
  decode(bytes?: ArrayBufferView | ArrayBuffer): string;
}
interface AbortSignal {
  readonly aborted: boolean;
}
declare namespace WebAssembly {
  class Module {
    constructor(bytes: ArrayBufferView | ArrayBuffer);
  }
  class Instance {
    constructor(module: Module, imports?: Record<string, Record<string, unknown>>);
    readonly exports: Record<string, unknown>;
  }
  class Memory {
    constructor(description: { initial: number; maximum?: number });
    readonly buffer: ArrayBuffer;
    grow(pages: number): number;
  }
  function validate(bytes: ArrayBufferView | ArrayBuffer): boolean;
}
