/** A WebAssembly module, compiled when it is first asked for; null in an engine without what it needs (SIMD). @param base64 the binary */
export function moduleFrom(base64: string): () => WebAssembly.Module | null {
  let compiled: WebAssembly.Module | null | undefined;
  return () => {
    if (compiled === undefined) {
      try {
        compiled = new WebAssembly.Module(Uint8Array.from(atob(base64), (c) => c.charCodeAt(0)));
      } catch {
        compiled = null;
      }
    }
    return compiled;
  };
}

const page = 65536;

/** An instance of a module with a memory of its own, at least so many bytes. @throws TypeError where the module is null */
export function instanceOf<Kernel>(module: WebAssembly.Module | null, bytes: number): { kernel: Kernel; memory: WebAssembly.Memory } {
  const memory = new WebAssembly.Memory({ initial: Math.ceil(bytes / page) + 16, maximum: 65536 });
  return { memory, kernel: new WebAssembly.Instance(module!, { env: { memory } }).exports as unknown as Kernel };
}
