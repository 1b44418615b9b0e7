import { create } from 'zustand';
import type { LayoutView, PartGeometry } from '../../session/messages.ts';
import { useBench, type BenchState, type Hover } from '../../store/bench.ts';
import { choose, chooseIslandBeside, chosenNow, combined, cornersMeant } from '../chosen.ts';
import { partsBeside } from '../views/stageMirror.ts';

export type WalkWay = 'left' | 'right' | 'up' | 'down' | 'next' | 'before';

/** An element with its place on the sheet. */
export interface Place {
  /** Its number; of points and edges the corner it is met at. */
  id: number;
  u: number;
  v: number;
  /** Another part's island. */
  part?: string;
}

interface Walking {
  /** Where the keys are, shown as what is under the pointer. */
  at: Place | null;
  /** What is said of it. */
  said: string;
}

export const useWalking = create<Walking>(() => ({ at: null, said: '' }));

/** Further aside counts so many times as far ahead. */
const asideCosts = 2.2;

/** The place that is nearest in a direction of the sheet; in order for next and before. −1 for none. O(places) */
export function stepFrom(places: readonly Place[], from: Place | null, way: WalkWay): number {
  if (places.length === 0) return -1;
  const at = from ? places.findIndex((place) => place.id === from.id && place.part === from.part) : -1;
  if (way === 'next' || way === 'before')
    return at < 0 ? (way === 'next' ? 0 : places.length - 1) : (at + (way === 'next' ? 1 : places.length - 1)) % places.length;
  if (!from) return nearestTo(places, 0.5, 0.5);
  const [du, dv] = { left: [-1, 0], right: [1, 0], up: [0, 1], down: [0, -1] }[way] as [number, number];
  let [best, least] = [-1, Infinity];
  places.forEach((place, k) => {
    if (k === at) return;
    const [x, y] = [place.u - from.u, place.v - from.v];
    const ahead = x * du + y * dv;
    const aside = Math.abs(x * dv - y * du);
    // half a right angle to each side
    if (!(ahead > 1e-9) || aside > ahead * 1.0001) return;
    const cost = ahead + asideCosts * aside;
    if (cost < least) [best, least] = [k, cost];
  });
  return best;
}

function nearestTo(places: readonly Place[], u: number, v: number): number {
  let [best, least] = [-1, Infinity];
  places.forEach((place, k) => {
    const far = Math.hypot(place.u - u, place.v - v);
    if (far < least) [best, least] = [k, far];
  });
  return best;
}

/** What can be walked of the present kind: islands of all parts of the sheet, faces, edges and points of the part at work. O(corners) */
function placesOf(state: BenchState): Place[] {
  const { kind, geometry, layout } = state;
  if (!geometry || !layout || layout.part !== geometry.part || kind === 'parts') return [];
  if (kind === 'islands')
    return [
      ...layout.islands.flatMap(({ unplaced, u, v }, id) => (unplaced ? [] : [{ id, u, v }])),
      ...partsBeside(state).flatMap(({ part, islands }) => islands.flatMap(({ unplaced, u, v }, id) => (unplaced ? [] : [{ id, u, v, part }]))),
    ];
  // of a large part they take a while: made once for a layout
  if (kept?.geometry !== geometry || kept.layout !== layout || kept.kind !== kind)
    kept = { geometry, layout, kind, places: kind === 'faces' ? facePlaces(geometry, layout) : cornerPlaces(geometry, layout, kind) };
  return kept.places;
}

let kept: { geometry: PartGeometry; layout: LayoutView; kind: string; places: Place[] } | null = null;

/** The face of a corner. O(log faces) */
function faceOf({ faceStart, faces }: PartGeometry, corner: number): number {
  let [low, high] = [0, faces - 1];
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (faceStart[middle]! <= corner) low = middle;
    else high = middle - 1;
  }
  return low;
}

function facePlaces({ faces, faceStart }: PartGeometry, { cornerUv, unplaced }: LayoutView): Place[] {
  const out: Place[] = [];
  for (let f = 0; f < faces; f++) {
    if (unplaced[f]) continue;
    let [u, v] = [0, 0];
    const [from, to] = [faceStart[f]!, faceStart[f + 1]!];
    for (let c = from; c < to; c++) {
      u += cornerUv[c * 2]! / (to - from);
      v += cornerUv[c * 2 + 1]! / (to - from);
    }
    out.push({ id: f, u, v });
  }
  return out;
}

/** Points and edges, each once on every island it is on. */
function cornerPlaces(
  { faces, faceStart, corners, cornerEdge }: PartGeometry,
  { cornerUv, unplaced, faceIsland }: LayoutView,
  kind: 'edges' | 'points',
): Place[] {
  const out: Place[] = [];
  const seen = new Set<string>();
  for (let f = 0; f < faces; f++) {
    if (unplaced[f]) continue;
    const [from, to] = [faceStart[f]!, faceStart[f + 1]!];
    for (let c = from; c < to; c++) {
      const [u, v] = [cornerUv[c * 2]!, cornerUv[c * 2 + 1]!];
      const key = kind === 'points' ? `${corners[c]!} ${u} ${v}` : `${cornerEdge[c]!} ${faceIsland[f]!}`;
      if (seen.has(key)) continue;
      seen.add(key);
      const n = c + 1 < to ? c + 1 : from;
      out.push(kind === 'points' ? { id: c, u, v } : { id: c, u: (u + cornerUv[n * 2]!) / 2, v: (v + cornerUv[n * 2 + 1]!) / 2 });
    }
  }
  return out;
}

/** To the next element; shown as under the pointer, and said. */
export function walk(way: WalkWay): void {
  const state = useBench.getState();
  const places = placesOf(state);
  const { at } = useWalking.getState();
  const isThere = at !== null && places.some((place) => place.id === at.id && place.part === at.part);
  const k = stepFrom(places, isThere ? at : startOf(state, places), way);
  if (k < 0) {
    useWalking.setState({ said: places.length === 0 ? 'Nothing has a place on the sheet yet.' : `Nothing further ${way}.` });
    return;
  }
  show(places[k]!, k, places.length);
}

/** From what is selected on. */
function startOf({ summary, kind }: BenchState, places: readonly Place[]): Place | null {
  const { selection } = summary!;
  if (selection.kind !== kind || selection.ids.length === 0) return null;
  const first = kind === 'islands' || kind === 'faces' ? selection.ids[0]! : (selection.corners?.[0] ?? -1);
  return places.find((place) => place.id === first && place.part === undefined) ?? null;
}

/** As if the pointer were on it. */
function hoverOf({ id, part }: Place): Hover | null {
  const { kind, geometry, layout } = useBench.getState();
  if (part !== undefined || !geometry || !layout) return null;
  const none = { view: 'sheet' as const, face: -1, edge: -1, point: -1, island: -1 };
  if (kind === 'islands') return { ...none, island: id };
  if (kind === 'faces') return { ...none, face: id, island: layout.faceIsland[id]! };
  const face = faceOf(geometry, id);
  return kind === 'edges'
    ? { ...none, face, island: layout.faceIsland[face]!, edge: geometry.cornerEdge[id]!, edgeCorner: id }
    : { ...none, face, island: layout.faceIsland[face]!, point: geometry.corners[id]!, pointCorner: id };
}

/** What the walk has put under the pointer. */
let shownHover: Hover | null = null;

function show(place: Place, k: number, count: number): void {
  const { kind, set } = useBench.getState();
  shownHover = hoverOf(place);
  set({ hover: shownHover, hoverOther: place.part === undefined ? null : { part: place.part, island: place.id }, hoverMarks: null });
  useWalking.setState({ at: place, said: `${wordsOf(place)}, ${k + 1} of ${count} ${kind}${isChosen(place) ? ', selected' : ''}` });
}

function wordsOf({ id, part, u, v }: Place): string {
  const { kind, layout, geometry, summary, sheetParts } = useBench.getState();
  const { width, height } = summary!.settings;
  const where = `at ${Math.round(u * width)}, ${Math.round(v * height)} px`;
  if (kind === 'islands') {
    const island = part === undefined ? layout!.islands[id]! : sheetParts.get(part)!.islands[id]!;
    const of = part === undefined ? '' : ` of ${summary!.parts.find((one) => one.id === part)?.name ?? 'another part'}`;
    return `Island ${island.letter}${of}, ${island.faces} ${island.faces === 1 ? 'face' : 'faces'}, ${where}`;
  }
  const letter = layout!.islands[hoverOf({ id, u, v })?.island ?? -1]?.letter ?? '';
  const number = kind === 'faces' ? id : kind === 'edges' ? geometry!.cornerEdge[id]! : geometry!.corners[id]!;
  return `${kind === 'faces' ? 'Face' : kind === 'edges' ? 'Edge' : 'Point'} ${number} of island ${letter}, ${where}`;
}

function isChosen({ id, part }: Place): boolean {
  const { kind, geometry } = useBench.getState();
  const now = chosenNow();
  if (part !== undefined) return now.also.get(part)?.ids.has(id) === true;
  if (kind === 'islands' || kind === 'faces') return now.ids.has(id);
  const number = kind === 'edges' ? geometry!.cornerEdge[id]! : geometry!.corners[id]!;
  return now.ids.has(number) && (now.corners === null || now.corners.has(id));
}

/** Takes what the keys are on: alone, or added to (taken from) what is selected. */
export async function takeWalked(add: boolean): Promise<void> {
  const { at } = useWalking.getState();
  const { kind, geometry, layout } = useBench.getState();
  if (!at || !geometry || !layout || kind === 'parts') return;
  const keys = { shift: add, ctrl: add && isChosen(at) };
  if (at.part !== undefined) {
    await chooseIslandBeside({ part: at.part, island: at.id }, keys);
  } else {
    const hover = hoverOf(at)!;
    const id = kind === 'islands' ? hover.island : kind === 'faces' ? hover.face : kind === 'edges' ? hover.edge : hover.point;
    await choose(combined(new Set([id]), cornersMeant({ ...hover, place: null }), keys));
  }
  useWalking.setState({ said: `${wordsOf(at)}: ${isChosen(at) ? 'selected' : 'no longer selected'}` });
}

/** Without a kind, a layout or a job the walk begins again. @returns how to stop */
export const watchWalk = (): (() => void) =>
  useBench.subscribe((s, before) => {
    // a pointer that points elsewhere ends it: Space then moves the view
    const isPointed = s.hover !== before.hover && s.hover !== null && s.hover !== shownHover;
    if (s.layout !== before.layout) kept = null;
    if (isPointed || s.kind !== before.kind || s.geometry !== before.geometry) useWalking.setState({ at: null, said: '' });
  });
