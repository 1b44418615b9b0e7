import type { JobImage, Pixels } from '@jig-peel/core';

type File = Pick<JobImage, 'id' | 'name' | 'bytes'>;

/** Images in memory: those that were asked for last are not read again while their bytes are the same. */
export class KeptImages {
  private kept: { bytes: Uint8Array; pixels: Pixels | null }[] = [];

  /** @param read null for what cannot be read; such an image is left out */
  constructor(private readonly read: (file: File) => Promise<Pixels | null>) {}

  /** O(bytes) for those that are kept */
  async of(files: readonly File[]): Promise<Map<string, Pixels>> {
    const found = new Map<string, Pixels>();
    const next: typeof this.kept = [];
    for (const file of files) {
      const known = this.kept.find(({ bytes }) => isSame(bytes, file.bytes));
      const pixels = known ? known.pixels : await this.read(file);
      next.push({ bytes: file.bytes, pixels });
      if (pixels) found.set(file.id, pixels);
    }
    this.kept = next;
    return found;
  }
}

function isSame(a: Uint8Array, b: Uint8Array): boolean {
  if (a === b) return true;
  if (a.length !== b.length) return false;
  for (let k = 0; k < a.length; k++) if (a[k] !== b[k]) return false;
  return true;
}
