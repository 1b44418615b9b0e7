import { JigError } from '@jig-peel/core/jigError';
import type {
  Advice,
  BakedFile,
  BakeInput,
  BakeOptions,
  Band,
  CheckReport,
  FaultFaces,
  GridKind,
  IslandResult,
  IslandTask,
  JigErrorCode,
} from '@jig-peel/core';
import type {
  InputFile,
  Job,
  JobImage,
  Mesh,
  PackOptions,
  PackReport,
  Pixels,
  PictureField,
  ProposeOptions,
  SeamMove,
  SeamProposal,
  SeamWishes,
  SightOptions,
  SmallPicture,
  StateLine,
  SurfacePlan,
  UvSet,
} from '@jig-peel/core';
import type { SeamLook } from '@jig-peel/core/measure/seamLooks';
import type { DeliverPart, DeliverTask } from '../delivery.ts';
import type { DeliveredFile, FormLook, FormView } from '../messages.ts';
import { isFlagged, type CancelFlag } from './cancelBoard.ts';

export interface ToCheck {
  set: UvSet;
  /** Sheet and margin in px. */
  width: number;
  height: number;
  margin: number;
  tiles: number;
  /** Faces that may overlap or go beyond the sheet by design. */
  meant: Uint8Array | null;
  /** The layout as the image lands, where stretch counts it. */
  landed: { set: UvSet; width: number; height: number } | null;
  /** How much each edge is seen; null where the layout has no seams. */
  sight: Float64Array | null;
}

export interface Checked {
  /** Its stretch is that inside of islands, each at its own scale: how their sizes differ is told by density. */
  report: CheckReport;
  faults: FaultFaces;
  state: StateLine[];
}

/** What raises a form: layers ready to evaluate, and the images of the job that they ask for. */
export interface ReliefInput {
  plan: SurfacePlan;
  images: readonly JobImage[];
}

/** What the pool's workers do, by name: what goes in, and what comes out. */
export interface Tasks {
  /** Runs what unwrapping needs on a small form, so that the engine has compiled it before the first real task. */
  warm: { input: null; output: null };
  solve: { input: IslandTask[]; output: IslandResult[] };
  pack: { input: { set: UvSet; options: PackOptions }; output: { set: UvSet; report: PackReport } };
  /** A share of the bands of a baked picture. */
  bake: { input: BakeInput; output: Band[] };
  finishBake: { input: { bands: readonly Band[]; options: BakeOptions; bleed: number | 'full' }; output: BakedFile };
  check: { input: ToCheck; output: Checked };
  /** How much each edge of the mesh is seen. */
  sight: { input: SightOptions; output: Float64Array };
  /** Seams worked out and measured. @param seen how much each edge is seen, in place of what stands before the part; null where that does not count */
  propose: { input: { set: UvSet; options: ProposeOptions; seen: Float64Array | null }; output: SeamProposal };
  /** A seam moved to where seams are cheaper. @param seen how much each edge is seen, where that is known */
  moveSeam: { input: { set: UvSet; edges: readonly number[]; wishes: SeamWishes; seen: Float64Array | null }; output: SeamMove };
  /** The form of a part to look at in place of its cage. */
  form: { input: { set: UvSet; look: FormLook; meshId: number; relief: ReliefInput | null }; output: FormView };
  /** An image in memory; null where it cannot be read. */
  decode: { input: { name: string; bytes: Uint8Array }; output: Pixels | null };
  /** How a surface differs over the seams of a layout, worst first. @param images those that its layers ask for */
  seamLooks: { input: { set: UvSet; plan: SurfacePlan; images: readonly JobImage[] }; output: SeamLook[] };
  /** A spatial index over the triangles on the sheet. */
  index: { input: { set: UvSet }; output: ArrayBuffer };
  /** Projections ranked for the faces; null when it was left meanwhile. */
  advise: { input: { faces: Uint32Array }; output: Advice[] | null };
  picture: { input: { list: Advice[] }; output: SmallPicture[] };
  /** Reads files as a new job. */
  open: { input: { files: InputFile[]; id: string }; output: Job };
  /** Writes files of one format, and reads them back. */
  deliver: { input: DeliverTask; output: DeliverPart };
  zip: { input: DeliveredFile[]; output: Uint8Array };
  /** A test grid as RGBA, first row on top. */
  grid: { input: { kind: GridKind; size: number }; output: Uint8Array };
  gridPng: { input: { kind: GridKind; size: number }; output: Uint8Array };
  /** Fields of a picture by its alpha; RGBA, first row on top. */
  outline: { input: { data: Uint8ClampedArray; width: number; height: number }; output: Float32Array };
  fields: { input: { data: Uint8ClampedArray; width: number; height: number }; output: PictureField[] };
}
export type TaskName = keyof Tasks;

/** What a task has at hand. */
export interface Tools {
  /** @throws Error where the task came without one */
  mesh(): Mesh;
  /** @throws JigError `cancelled` */
  check(): void;
  /** @param found the best so far, where a task looks for ever better answers */
  progress(share: number, text: string, found?: FoundLayout): void;
}

/** A packed layout that is better than those before it. */
export interface FoundLayout {
  uv: Float64Array;
  coverage: number;
  /** Common factor on all sizes. */
  scale: number;
}

/** Said to a worker beside its tasks: advice waits so many ms, or is left. */
export type Note = { kind: 'hold'; ms: number } | { kind: 'leaveAdvice' };

/** The mesh that tasks are about: sent once to each worker, then by number. */
export interface MeshAtHand {
  id: number;
  /** Null where the worker has it. */
  mesh: Mesh | null;
}

export interface TaskRequest<N extends TaskName = TaskName> {
  name: N;
  input: Tasks[N]['input'];
  mesh: MeshAtHand | null;
  cancel: CancelFlag | null;
}

/** Errors go between threads as their parts: a class does not survive it. */
export type Answer<O> = { ok: true; output: O } | { ok: false; error: { code: JigErrorCode | null; message: string; place: string; advice: string } };

type Handler<N extends TaskName> = (input: Tasks[N]['input'], tools: Tools) => Tasks[N]['output'] | Promise<Tasks[N]['output']>;

/** Each group of tasks is loaded when the first of it is asked for. */
const handlers: { [N in TaskName]: () => Promise<Handler<N>> } = {
  warm: async () => (await import('./solving.ts')).warm,
  solve: async () => (await import('./solving.ts')).solve,
  pack: async () => (await import('./packing.ts')).pack,
  bake: async () => (await import('./baking.ts')).bake,
  finishBake: async () => (await import('./baking.ts')).finish,
  check: async () => (await import('./checking.ts')).check,
  propose: async () => (await import('./proposing.ts')).propose,
  moveSeam: async () => (await import('./movingSeams.ts')).moveSeam,
  form: async () => (await import('./forms.ts')).form,
  sight: async () => (await import('./checking.ts')).sight,
  decode: async () => (await import('./looking.ts')).decode,
  seamLooks: async () => (await import('./looking.ts')).seamLooks,
  index: async () => (await import('./indexing.ts')).index,
  advise: async () => (await import('./advising.ts')).advise,
  picture: async () => (await import('./advising.ts')).picture,
  open: async () => (await import('./opening.ts')).open,
  deliver: async () => (await import('./delivering.ts')).deliver,
  zip: async () => (await import('./delivering.ts')).zip,
  grid: async () => (await import('./grids.ts')).grid,
  gridPng: async () => (await import('./grids.ts')).gridPng,
  outline: async () => (await import('./grids.ts')).outline,
  fields: async () => (await import('./grids.ts')).fields,
};

const telling: readonly TaskName[] = ['solve', 'pack', 'bake', 'propose', 'open', 'deliver'];

/** Does a task take long enough to say how far it is? For others no channel is opened. */
export const tellsProgress = (name: TaskName): boolean => telling.includes(name);

/** The last meshes that tasks were about. */
const meshes = new Map<number, Mesh>();
const meshesKept = 2;

/** Runs one task in this thread, whichever that is. */
export async function runTask<N extends TaskName>(
  { name, input, mesh, cancel }: TaskRequest<N>,
  progress: Tools['progress'] = () => {},
): Promise<Answer<Tasks[N]['output']>> {
  try {
    if (mesh?.mesh) {
      meshes.delete(mesh.id);
      meshes.set(mesh.id, mesh.mesh);
      for (const id of meshes.keys()) if (meshes.size > meshesKept) meshes.delete(id);
    }
    const handler = await handlers[name]();
    const output = await handler(input, {
      mesh: () => {
        const held = mesh && meshes.get(mesh.id);
        if (!held) throw new Error('the mesh is not here');
        return held;
      },
      check: () => {
        if (cancel && isFlagged(cancel)) throw new JigError('cancelled', 'Cancelled; nothing was changed.');
      },
      progress,
    });
    return { ok: true, output };
  } catch (error) {
    if (error instanceof JigError) return { ok: false, error: { code: error.code, message: error.message, place: error.place, advice: error.advice } };
    return { ok: false, error: { code: null, message: error instanceof Error ? error.message : String(error), place: '', advice: '' } };
  }
}

/** Tasks whose answers hold nothing that anything else in the worker looks at afterwards. */
const givenAway: readonly TaskName[] = ['form', 'decode', 'index', 'open', 'deliver', 'zip', 'grid', 'gridPng'];

/** Arrays of an answer that are handed over instead of copied. */
export function buffersOf(name: TaskName, answer: Answer<unknown>): ArrayBuffer[] {
  if (!answer.ok) return [];
  if (name === 'solve') return (answer.output as IslandResult[]).map(({ uv }) => uv.buffer as ArrayBuffer);
  if (!givenAway.includes(name)) return [];
  const found = new Set<ArrayBuffer>();
  collect(answer.output, found);
  return [...found];
}

function collect(value: unknown, found: Set<ArrayBuffer>): void {
  if (value instanceof ArrayBuffer) found.add(value);
  else if (ArrayBuffer.isView(value)) {
    if (value.buffer instanceof ArrayBuffer) found.add(value.buffer);
  } else if (value && typeof value === 'object') for (const inner of Object.values(value)) collect(inner, found);
}
