import { Unzip, UnzipInflate, UnzipPassThrough, unzipSync } from 'fflate';
import { JigError } from '../jigError.ts';

/** What a zip may unpack to: so much anyway, and so much for each of its bytes. */
const bytesAnyway = 256 * 2 ** 20;
const bytesEach = 8;
/** Entries that a zip may have, and bytes of it that are unpacked at a time. */
const mostEntries = 100_000;
const step = 1 << 16;

/**
 * A zip whose entries are unpacked when they are asked for, within limits: by the sizes that it states, and by what really comes out, looked
 * at piece by piece, so that a small file can never fill the memory.
 */
export class ZipReader {
  private readonly sizes = new Map<string, number>();
  private left: number;

  /**
   * @param what how sentences call it; default: a job archive
   * @throws JigError `bad-file` for what is no whole zip
   */
  constructor(
    private readonly bytes: Uint8Array,
    private readonly what = 'The job archive',
  ) {
    this.left = bytesAnyway + bytesEach * bytes.length;
    try {
      unzipSync(bytes, {
        filter: ({ name, originalSize }) => {
          this.sizes.set(name, originalSize);
          if (this.sizes.size > mostEntries) throw new JigError('too-large', `${what} holds too many files.`, '', 'Use one with fewer.');
          return false;
        },
      });
    } catch (error) {
      if (error instanceof JigError) throw error;
      throw damaged(what);
    }
  }

  names(): string[] {
    return [...this.sizes.keys()];
  }

  has(name: string): boolean {
    return this.sizes.has(name);
  }

  /**
   * Unpacks the entries of the given names; those that are not there are left out. O(bytes of the zip and of what comes out).
   * @throws JigError `too-large` where more comes out than the limits allow, `bad-file` where an entry is damaged
   */
  read(names: ReadonlySet<string>): Map<string, Uint8Array> {
    const out = new Map<string, Uint8Array>();
    for (const name of names) {
      this.left -= this.sizes.get(name) ?? 0;
      if (this.left < 0) throw tooLarge(this.what);
    }
    const filled = new Map<string, number>();
    const unzip = new Unzip((file) => {
      const size = this.sizes.get(file.name);
      if (!names.has(file.name) || size === undefined || out.has(file.name)) return;
      const target = new Uint8Array(size);
      out.set(file.name, target);
      filled.set(file.name, 0);
      file.ondata = (error, chunk) => {
        if (error) throw error;
        const at = filled.get(file.name)!;
        if (at + chunk.length > size) throw tooLarge(this.what);
        target.set(chunk, at);
        filled.set(file.name, at + chunk.length);
      };
      file.start();
    });
    unzip.register(UnzipPassThrough);
    unzip.register(UnzipInflate);
    try {
      for (let at = 0; at < this.bytes.length; at += step) unzip.push(this.bytes.subarray(at, at + step), at + step >= this.bytes.length);
    } catch (error) {
      if (error instanceof JigError) throw error;
      throw damaged(this.what);
    }
    for (const [name, at] of filled) if (at !== out.get(name)!.length) throw damaged(this.what);
    return out;
  }
}

const damaged = (what: string) => new JigError('bad-file', `${what} is damaged or cut short.`, '', 'Use an earlier copy.');
const tooLarge = (what: string) =>
  new JigError('too-large', `${what} unpacks to far more than a file of its size.`, '', 'It is damaged, or made to fill the memory. Use an earlier copy.');
