import { create } from 'zustand';
import { jigSchema, uprightAxes, type Advice, type Jig, type JigKind, type PlacementAxis, type Vector } from '@jig-peel/core';
import { useBench } from '../store/bench.ts';
import { show } from '../store/shown.ts';
import { coreApi, notify, run } from '../worker/client.ts';
import { LatestOnly } from '../session/latestOnly.ts';
import { modelEye, type ModelCamera } from './views/cameras.ts';
import type { JigRow, Outcome, UvPreview } from '../session/messages.ts';

export type SnapTo = 'off' | 'grid' | 'points';

interface JigsState {
  kind: JigKind;
  axis: PlacementAxis | 'view';
  /** What says the size of a jig that is placed: the chosen faces, or the whole part. */
  sizeBy: 'faces' | 'part';
  advice: Advice[] | null;
  /** Small pictures of the advice, in its order. */
  pictures: string[];
  /** The selection that the advice was measured on. */
  advised: unknown;
  measuring: boolean;
  /** The jig in hand, by id. */
  chosen: string | null;
  /** What the pointer takes in the model view: the part, or the jig in hand. */
  takes: 'part' | 'jig';
  /** The next drag in the model view places a jig. */
  placing: 'draw' | 'surface' | null;
  snap: SnapTo;
  /** The frame is drawn, with the image on it. */
  frame: boolean;
  image: boolean;
  /** Jigs as they were when taken in hand, for the old values. */
  old: Record<string, Jig>;
}

/** The projection in hand at the station Jigs. */
export const useJigs = create<JigsState>(() => ({
  kind: 'planar',
  axis: 'auto',
  sizeBy: 'faces',
  advice: null,
  pictures: [],
  advised: null,
  measuring: false,
  chosen: null,
  takes: 'part',
  placing: null,
  snap: 'off',
  frame: true,
  image: true,
  old: {},
}));

/** Jigs that drive, or drove, faces of the part at work. */
export function jigsOfPart(): JigRow[] {
  const { summary } = useBench.getState();
  return summary?.jigs.filter((jig) => jig.drives.length === 0 || jig.drives.some(({ part }) => part === summary.activePart)) ?? [];
}

/** The jig in hand: the chosen one, while it is one of the part at work. */
export function jigInHand(): JigRow | null {
  const { chosen } = useJigs.getState();
  return jigsOfPart().find((jig) => jig.id === chosen) ?? null;
}

export function takeInHand(id: string | null): void {
  const jig = useBench.getState().summary?.jigs.find((one) => one.id === id)?.jig;
  useJigs.setState((s) => ({ chosen: id, old: id && jig ? { ...s.old, [id]: jig } : s.old }));
}

interface PreviewItem {
  jig: Jig;
  id?: string;
  faces?: Uint32Array;
}
const previews = new LatestOnly<{ items: PreviewItem[]; badly: ArrayLike<number> | null }, UvPreview | null>(
  async ({ items }) => {
    const start = performance.now();
    const found = await coreApi().preview(items);
    performance.measure('jig preview', { start });
    return found;
  },
  (found, { badly }) => {
    if (found) show({ uvs: { preview: found, badly } });
  },
  () => {
    // said when the worker ended
  },
);

/**
 * What jigs would make of the UVs, computed in the worker; the newest question wins.
 * @param badly faces to mark as badly served
 */
export function preview(items: PreviewItem[], badly: ArrayLike<number> | null = null): void {
  previews.ask({ items, badly });
}

/** Back to the layout as it is. */
export function endPreview(): void {
  previews.drop();
  show({ uvs: null });
}

/** Measures every kind of projection on the selected faces. */
export async function advise(): Promise<void> {
  useJigs.setState({ measuring: true });
  const selection = useBench.getState().summary?.selection;
  const outcome = await coreApi().advise();
  if (selection !== useBench.getState().summary?.selection) return;
  useJigs.setState({ measuring: false });
  if (!outcome.ok) {
    notify(outcome, true);
    return;
  }
  // left for a newer question
  if (!outcome.report) return;
  const { list, pictures } = outcome.report;
  useJigs.setState({ advice: list, pictures: pictures.map(asUrl), advised: selection });
}

function asUrl({ width, height, data }: { width: number; height: number; data: Uint8ClampedArray }): string {
  const canvas = document.createElement('canvas');
  canvas.width = width;
  canvas.height = height;
  canvas.getContext('2d')!.putImageData(new ImageData(new Uint8ClampedArray(data), width, height), 0, 0);
  return canvas.toDataURL();
}

/** Puts jigs on faces, live, in one step, and takes the first in hand. */
async function put(items: { jig: Jig; faces: Uint32Array; name?: string }[], replace: string[] = []): Promise<void> {
  const outcome = await run('addJigs', { items, replace }, true);
  endPreview();
  if (!outcome.ok) return;
  takeInHand(outcome.report.jigs[0]!);
  const { overlay, set } = useBench.getState();
  if (overlay === 'plain' || overlay === 'islands') set({ overlay: 'grid' });
}

export function takeAdvice(advice: Advice): Promise<void> {
  useJigs.setState({ kind: advice.parts[0]!.jig.kind, axis: 'auto' });
  return put(advice.parts);
}

interface Fitted {
  jig: Jig;
  faces: Uint32Array;
}

/** A jig of the kind at hand on the selected faces; where it takes the place of the one in hand its image keeps its size. */
async function fit(kind: JigKind, axis: PlacementAxis, before: Jig | null): Promise<Fitted | null> {
  const outcome = await coreApi().fitJig(kind, axis, useJigs.getState().sizeBy, before);
  if (outcome.ok) return outcome.report;
  notify(outcome, true);
  return null;
}

/** The jig in hand, if it drives just the faces that are now chosen: placing again takes its place. */
async function replaced(faces: Uint32Array): Promise<JigRow | null> {
  const row = jigInHand();
  if (!row || row.state === 'written') return null;
  const driven = await coreApi().drivenFaces(row.id);
  return driven && driven.length === faces.length && driven.every((f, k) => f === faces[k]) ? row : null;
}

/** Places the kind at hand on the selected faces. */
export async function placeNow(): Promise<void> {
  const { kind, axis } = useJigs.getState();
  const plain = axis === 'view' ? 'auto' : axis;
  const first = await fit(kind, plain, null);
  if (!first) return;
  const row = await replaced(first.faces);
  const fitted = row ? await fit(kind, plain, row.jig) : first;
  if (!fitted) return;
  const eye = axis === 'view' ? modelEye : null;
  await put(
    [{ ...fitted, jig: eye ? fromView(fitted.jig, eye) : fitted.jig, ...(row && row.jig.kind === kind ? { name: row.name } : {}) }],
    row ? [row.id] : [],
  );
}

/** The same jig as the eye sees it: its image upright in the view. With perspective the image is seen without any distortion from where the eye is. */
function fromView(jig: Jig, eye: ModelCamera): Jig {
  const side = Math.max(...jig.size);
  const { right, up } = eye.axes;
  const turned = { ...jig, right: right as Jig['right'], up: up as Jig['up'] };
  if (jig.kind !== 'view') return { ...turned, size: [side, side, side] };
  // the picture's plane stands where the eye looks at, square to its line of sight
  const tall = 2 * eye.distance * eye.tan;
  return { ...turned, origin: eye.target.toArray() as Jig['origin'], size: [tall, tall, tall], eye: eye.distance };
}

/** The kind of the jig in hand changed where it stands: faces and name stay, the image keeps its size. */
export async function changeKind(row: JigRow, kind: JigKind): Promise<void> {
  const faces = await coreApi().drivenFaces(row.id);
  if (!faces) return;
  const outcome = await coreApi().fitFaces(faces, kind, row.jig);
  if (!outcome.ok) notify(outcome, true);
  else await commit(row.id, outcome.report.jig, `made a ${kind.replace('-', ' ')} of`);
}

/** Keeps a jig as it has become: one step of the history. */
export async function commit(id: string, jig: Jig, what: string): Promise<Outcome> {
  const outcome = await run('changeJig', { id, jig: jigSchema.parse(jig), what });
  show({ jig: null });
  endPreview();
  return outcome;
}

/** Changes numbers of the jig in hand. */
export function change(patch: Partial<Jig>, what = 'changed'): void {
  const row = jigInHand();
  if (row) void commit(row.id, { ...row.jig, ...patch }, what);
}

/** A jig placed by a drag in the view: the one in hand moves there, else a new one is put on the chosen faces. */
export async function placeAt(make: (fitted: Jig) => Jig, what: string): Promise<void> {
  const row = jigInHand();
  const { kind } = useJigs.getState();
  useJigs.setState({ placing: null });
  if (row && row.state === 'live' && row.jig.kind === kind) {
    await commit(row.id, make(row.jig), what);
    return;
  }
  const fitted = await fit(kind, 'auto', null);
  if (fitted) await put([{ ...fitted, jig: make(fitted.jig) }]);
}

/** A jig with its middle on the surface, looking the way that the surface does. */
export function onSurface(jig: Jig, place: Vector, out: Vector): Jig {
  const upright = uprightAxes(out);
  // a tube or ball keeps its upright: it is slid, not tipped over
  if (jig.kind === 'cylindrical' || jig.kind === 'spherical') return { ...jig, origin: [...place] };
  return { ...jig, origin: [...place], right: [...upright.right], up: [...upright.up] };
}
