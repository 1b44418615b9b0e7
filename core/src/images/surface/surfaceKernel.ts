import { JigError } from '../../jigError.ts';
import type { Pixels } from './pixels.ts';
import { surfaceModule } from './surfaceModule.generated.ts';

/** A number that the module tells. */
interface Told {
  readonly value: number;
}

/** What core/assembly/surface.ts exports; addresses in bytes, see there. */
export interface SurfaceFunctions {
  setUp(at: number): number;
  clear(count: number): void;
  findSpace(count: number): void;
  sampleByUvs(to: number, pixels: number, width: number, height: number, outside: number, count: number): void;
  sampleFromSides(to: number, pixels: number, width: number, height: number, outside: number, count: number): void;
  fade(to: number, ragged: number, count: number): void;
  noise(to: number, seed: number, size: number, detail: number, count: number): void;
  colourBetween(count: number): void;
  adjust(count: number): void;
  fill(to: number, value: number, count: number): void;
  field(to: number, a: number, b: number, c: number, isLess: boolean, count: number): void;
  threshold(low: number, high: number, count: number): void;
  maskOfTexels(channel: number, count: number): void;
  combine(how: number, isInverted: boolean, count: number): void;
  composite(mode: number, opacity: number, isMasked: boolean, count: number): void;
  beginBand(at: number, width: number, from: number, to: number, samples: number): number;
  /** @returns 0 for a triangle without area */
  beginTriangle(ax: number, ay: number, bx: number, by: number, cx: number, cy: number): number;
  nextPlaces(): number;
  accumulate(count: number): void;
  finishBand(is16: boolean): void;
  readonly contested: Told;
  readonly taken: Told;
  readonly wbx: Told;
  readonly wby: Told;
  readonly wcx: Told;
  readonly wcy: Told;
  readonly data: Told;
  readonly covered: Told;
}

let compiled: WebAssembly.Module | undefined;

function moduleOf(base64: string): WebAssembly.Module {
  try {
    return new WebAssembly.Module(Uint8Array.from(atob(base64), (c) => c.charCodeAt(0)));
  } catch {
    throw new JigError(
      'old-engine',
      'This browser cannot bake: it lacks WebAssembly with SIMD.',
      '',
      'Browsers since 2023 have it: update yours, or bake by “jig bake”.',
    );
  }
}

const memoryPage = 65_536;
/** Bytes of a px of a band. */
const bytesOfPx = 29;
/** Bytes of pictures that are put into one memory. */
const mostBytes = 1.5e9;

export const noMemory = (bytes: number): JigError =>
  new JigError('too-large', `No ${Math.ceil(bytes / 1e6)} MB of memory are left for baking.`, '', 'Bake at a smaller size, or close other pages.');

function memoryOf(bytes: number): WebAssembly.Memory {
  try {
    return new WebAssembly.Memory({ initial: Math.ceil(bytes / memoryPage) + 4, maximum: 65_536 });
  } catch {
    throw noMemory(bytes);
  }
}

/** The functions that cover the px of a picture and colour many places of a surface at once, with a memory of their own in which the surface's pictures stand. */
export class SurfaceKernel {
  readonly functions: SurfaceFunctions;
  /** Places that are worked on together at most. */
  readonly most: number;
  /** The buffers of the module; `out` is what all layers come to. */
  readonly shareB: Float64Array;
  readonly shareC: Float64Array;
  readonly out: Float32Array;
  readonly texels: Float32Array;
  readonly params: Float64Array;
  readonly places: Uint32Array;
  readonly at: { texels: number; reach: number; mask: number; band: number };
  private readonly memory: WebAssembly.Memory;
  private readonly addresses = new Map<Pixels, number>();

  /**
   * @param pictures those that are sampled
   * @param bandPx px of the largest band
   * @throws JigError where the engine has no SIMD, or no memory is left
   */
  constructor(pictures: ReadonlySet<Pixels>, bandPx = 0) {
    let bytes = bandPx * bytesOfPx;
    for (const { width, height } of pictures) bytes += width * height * 4;
    const memory = (this.memory = memoryOf(bytes));
    compiled ??= moduleOf(surfaceModule);
    const exported = new WebAssembly.Instance(compiled, { env: { memory } }).exports;
    this.functions = exported as unknown as SurfaceFunctions;
    let at = this.functions.setUp(memoryPage);
    for (const picture of pictures) {
      new Uint8Array(memory.buffer, at, picture.width * picture.height * 4).set(picture.data);
      this.addresses.set(picture, at);
      at += picture.width * picture.height * 4;
    }
    const told = (name: string) => (exported[name] as unknown as Told).value;
    const most = (this.most = told('most'));
    this.shareB = new Float64Array(memory.buffer, told('shareB'), most);
    this.shareC = new Float64Array(memory.buffer, told('shareC'), most);
    this.out = new Float32Array(memory.buffer, told('under'), most * 4);
    this.texels = new Float32Array(memory.buffer, told('texels'), most * 4);
    this.params = new Float64Array(memory.buffer, told('params'), 64);
    this.places = new Uint32Array(memory.buffer, told('places'), most);
    this.at = { texels: told('texels'), reach: told('reach'), mask: told('mask'), band: (at + 15) & ~15 };
    this.pattern = told('pattern');
  }

  private readonly pattern: number;

  /** Whether so many pictures go into one memory. */
  static holds(pictures: ReadonlySet<Pixels>): boolean {
    let bytes = 0;
    for (const { width, height } of pictures) bytes += width * height * 4;
    return bytes <= mostBytes;
  }

  addressOf(pixels: Pixels): number {
    return this.addresses.get(pixels)!;
  }

  /** The picture's own copy goes: what it is made of is read here from now on. */
  takeOver(picture: Pixels): void {
    const address = this.addresses.get(picture);
    if (address === undefined) return;
    picture.data = new Uint8Array(this.memory.buffer, address, picture.width * picture.height * 4);
    delete picture.words;
  }

  /** Begins rows of a picture. @param samples where they are within a px: x and y of each */
  beginBand(width: number, from: number, to: number, samples: ArrayLike<number>): void {
    new Float64Array(this.memory.buffer, this.pattern, samples.length).set(samples);
    this.functions.beginBand(this.at.band, width, from, to, samples.length / 2);
  }

  /** Ends them. @returns 4 numbers a px, and 1 for each px that is covered */
  finishBand(px: number, depth: 8 | 16): { data: Uint8Array | Uint16Array; covered: Uint8Array } {
    const { functions, memory } = this;
    functions.finishBand(depth === 16);
    const Numbers = depth === 16 ? Uint16Array : Uint8Array;
    return {
      data: new Numbers(memory.buffer, functions.data.value, px * 4).slice(),
      covered: new Uint8Array(memory.buffer, functions.covered.value, px).slice(),
    };
  }
}
