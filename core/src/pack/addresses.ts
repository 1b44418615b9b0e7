/** Hands out addresses of a kernel's memory, one after the other, each by 16 bytes. */
export function addresses(): { take(bytes: number): number; end(): number } {
  // the kernel's own variables come first
  let at = 4096;
  return {
    take(bytes) {
      const here = at;
      at += Math.ceil(bytes / 16) * 16;
      return here;
    },
    end: () => at,
  };
}
