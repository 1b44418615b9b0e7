import { affineOf, borderGapOf, middleOf, moveBy, unmoved, type Box, type ParamsOf, type UvTransform } from '@jig-peel/core';
import type { GripView, LayoutView, SheetPart } from '../../session/messages.ts';
import { useBench } from '../../store/bench.ts';
import { run } from '../../worker/client.ts';
import { frameRect, holdAt, type Hold } from '../hands/frame.ts';
import { askGrip } from '../hands/gripMirror.ts';
import { noSnaps, pivotPlace, useHands, type Guide } from '../hands/handsState.ts';
import { snapMove, snapPlace, targetsOf, type Targets } from '../hands/snaps.ts';
import type { Stage } from '../views/stage.ts';
import { SelectTool } from './selectTool.ts';
import type { PointerAt, Tool } from './tool.ts';

/** Less than this (px) is a click. */
const dragFrom = 4;
/** How near (px) a hand catches. */
const catches = 7;
/** Degrees that a turn goes by while Shift is held. */
const turnStep = 15;

interface Dragging {
  views: GripView[];
  box: Box;
  hold: Hold | { kind: 'grow' };
  /** Px of the sheet view. */
  press: [number, number];
  pivot: [number, number];
  /** Islands turn and size each by itself. */
  each: boolean;
  /** What moves as one, of each part: split once, not at every frame. */
  groups: { box: Box; corners: Uint32Array; share: Float32Array | null }[][];
  /** Places of each part before: 2 numbers a corner. */
  from: Float32Array[];
  targets: Targets;
  /** The UV point nearest to the press. */
  grabbed: [number, number] | null;
  /** Triangles of the part at work that change: their corners, and which way round they lie. */
  turning: { corners: Uint32Array; signs: Int8Array };
}

/**
 * Moves, turns or sizes what is selected on the sheet: idle → pressed → dragging. A click chooses as the selecting tool does; a press on what is not chosen
 * yet chooses it first. All of it follows live; letting go is one step.
 */
export class TransformTool implements Tool {
  private readonly select = new SelectTool();
  private start: PointerAt | null = null;
  private drag: Dragging | null = null;
  private latest: PointerAt | null = null;
  private era = 0;

  constructor(
    private readonly stage: Stage,
    private readonly kind: 'move' | 'turn' | 'size',
  ) {}

  private get size() {
    return this.stage.rects.sheet;
  }

  private toUv = (x: number, y: number) => this.stage.sheetEye.toUv(x, y, this.size.width, this.size.height);
  private toPx = (u: number, v: number) => this.stage.sheetEye.toPx(u, v, this.size.width, this.size.height);

  /** What of the frame is under px of the sheet view. */
  holdAt(x: number, y: number): Hold | null {
    const hands = useHands.getState();
    const pivot = pivotPlace(hands);
    return hands.grip && pivot ? holdAt(frameRect(hands.grip.box, this.toPx), this.toPx(...pivot), x, y) : null;
  }

  down(at: PointerAt): void {
    this.start = at;
    this.drag = null;
    this.latest = null;
    this.era++;
    // on the model a hand chooses
    if (at.view === 'model') this.select.down(at);
  }

  move(at: PointerAt): void {
    const { start } = this;
    if (!start) return;
    if (start.view === 'model') {
      this.select.move(at);
      return;
    }
    const isFirst = this.latest === null;
    if (isFirst && Math.hypot(at.x - start.x, at.y - start.y) <= dragFrom) return;
    this.latest = at;
    if (isFirst) void this.begin(start);
    else if (this.drag) this.show(at);
  }

  up(at: PointerAt): void {
    const { start, drag, latest } = this;
    if (!start) return;
    this.start = null;
    if (start.view === 'model') {
      this.select.up(at);
      return;
    }
    if (!latest) {
      this.select.down(start);
      this.select.up(at);
      return;
    }
    if (!drag) {
      this.cancel();
      return;
    }
    this.era++;
    this.drag = null;
    if (drag.hold.kind === 'pivot') {
      useHands.getState().set({ pivot: this.pivotAt(drag, at).place, drag: null });
      return;
    }
    const { transform, pivot } = this.transformAt(drag, at);
    const { soft } = useHands.getState();
    const height = useBench.getState().summary?.settings.height ?? 2048;
    const params: ParamsOf<'transform'> = {
      move: [...transform.move],
      turn: transform.turn,
      scale: [...transform.scale],
      pivot: drag.each ? 'each' : pivot,
      ...(soft.on ? { radius: soft.px / height, way: soft.way } : {}),
    };
    const own = useHands.getState().pivot;
    void run('transform', params).then((outcome) => {
      // a pivot that was put somewhere goes along with a move
      if (outcome.ok && typeof own !== 'string' && drag.hold.kind === 'inside')
        useHands.getState().set({ pivot: [own[0] + transform.move[0], own[1] + transform.move[1]] });
      this.done();
    });
  }

  double(at: PointerAt): void {
    this.select.double(at);
  }

  cancel(): void {
    this.start = null;
    this.drag = null;
    this.latest = null;
    this.era++;
    this.select.cancel();
    this.done();
  }

  private done(): void {
    useHands.getState().set({ drag: null });
    this.stage.endMove();
    this.stage.paint(useBench.getState());
  }

  /** Takes hold of what is pressed, choosing it first where it is not chosen. */
  private async begin(start: PointerAt): Promise<void> {
    const { era } = this;
    const known = this.holdAt(start.x, start.y);
    const onHandle = known !== null && known.kind !== 'inside';
    if (!onHandle && !isChosen(start)) {
      if (!start.hit && !useBench.getState().hoverOther && !known) return;
      if (start.hit || useBench.getState().hoverOther) {
        this.select.down(start);
        this.select.up(start);
      }
    }
    const grip = await askGrip();
    if (era !== this.era || !grip || !this.latest) return;
    const hold: Dragging['hold'] = onHandle
      ? known
      : this.kind === 'move'
        ? { kind: 'inside' }
        : this.kind === 'turn'
          ? { kind: 'turn', x: 1, y: 1 }
          : { kind: 'grow' };
    useHands.getState().set({ grip });
    this.drag = this.prepare(grip, hold, start);
    this.show(this.latest);
  }

  private prepare(grip: { views: GripView[]; box: Box }, hold: Dragging['hold'], start: PointerAt): Dragging {
    const { layout, summary } = useBench.getState();
    const hands = useHands.getState();
    const beside = this.stage.shownSheetParts();
    const placesOf = (part: string) => (layout?.part === part ? layout.cornerUv : beside.find((one) => one.part === part)?.cornerUv) ?? new Float32Array(0);
    const { boxes, points } = standing(layout, this.stage.geometry?.faceStart ?? null, beside, grip.views);
    const from = grip.views.map(({ part }) => placesOf(part));
    const [u, v] = this.toUv(start.x, start.y);
    return {
      ...grip,
      hold,
      press: [start.x, start.y],
      pivot: pivotPlace({ ...hands, grip })!,
      each: hands.pivot === 'each' && (hold.kind === 'turn' || hold.kind === 'grow'),
      groups: grip.views.map(groupsOf),
      from,
      targets: targetsOf(hands.snaps, { ...summary!.settings, border: borderGapOf(summary!.settings), tiles: this.stage.tiles }, boxes, points, hands.outline),
      grabbed: nearestCorner(grip.views, from, u, v, this.stage.sheetEye.aspect),
      turning: this.turningOf(grip.views, layout),
    };
  }

  /** Triangles of the part at work that have moved and resting corners, or corners that go along in part. */
  private turningOf(views: readonly GripView[], layout: LayoutView | null): Dragging['turning'] {
    const { geometry } = this.stage;
    const own = views.find(({ part }) => part === layout?.part);
    if (!geometry || !layout || !own || useBench.getState().kind === 'islands') return { corners: new Uint32Array(0), signs: new Int8Array(0) };
    const moved = new Uint8Array(geometry.corners.length);
    for (const c of own.corners) moved[c] = 1;
    const corners: number[] = [];
    for (let t = 0; t < geometry.triangles; t++) {
      const [a, b, c] = [0, 1, 2].map((k) => geometry.triCorner[t * 3 + k]!) as [number, number, number];
      if (moved[a]! + moved[b]! + moved[c]! > 0) corners.push(a, b, c);
    }
    const all = Uint32Array.from(corners);
    return { corners: all, signs: signsOf(all, layout.cornerUv) };
  }

  private snapsNow(at: PointerAt) {
    // Ctrl held: nothing catches
    return at.ctrl ? noSnaps : useHands.getState().snaps;
  }

  private get reach(): [number, number] {
    const { scale, aspect } = this.stage.sheetEye;
    return [catches / (scale * aspect), catches / scale];
  }

  private pivotAt({ targets, box }: Dragging, at: PointerAt): { place: [number, number]; guides: Guide[] } {
    const snaps = this.snapsNow(at);
    const { width, height } = useBench.getState().summary!.settings;
    const [u, v] = this.toUv(at.x, at.y);
    const [left, bottom, right, top] = box;
    const own = (lines: Targets['u'], places: number[]) => [...lines, ...places.map((x) => ({ at: x, words: 'frame' }))];
    const all: Targets = { ...targets, u: own(targets.u, [left, (left + right) / 2, right]), v: own(targets.v, [bottom, (bottom + top) / 2, top]) };
    const [ru, rv] = this.reach;
    const a = at.ctrl ? { at: u, guide: null } : snapPlace(u, 'u', all, snaps, width, ru);
    const b = at.ctrl ? { at: v, guide: null } : snapPlace(v, 'v', all, snaps, height, rv);
    return { place: [a.at, b.at], guides: [a.guide, b.guide].filter((guide) => guide !== null) };
  }

  private transformAt(drag: Dragging, at: PointerAt): { transform: UvTransform; pivot: [number, number]; guides: Guide[] } {
    return transformOf(drag, this.toUv(...drag.press), this.toUv(at.x, at.y), at, this.snapsNow(at), this.reach, this.stage.sheetEye.aspect);
  }

  private show(at: PointerAt): void {
    const begun = performance.now();
    const drag = this.drag!;
    const hands = useHands.getState();
    if (drag.hold.kind === 'pivot') {
      const { place, guides } = this.pivotAt(drag, at);
      hands.set({ pivot: place, drag: { affine: [1, 0, 0, 1, 0, 0], words: ['pivot'], guides, flips: 0, at: [at.x, at.y] } });
      return;
    }
    const { aspect } = this.stage.sheetEye;
    const { transform, pivot, guides } = this.transformAt(drag, at);
    let flips = 0;
    const moved = drag.views.map((view, k) => {
      const from = drag.from[k]!;
      const places = from.slice();
      for (const { box, corners, share } of drag.groups[k]!)
        moveBy(places, from, corners, affineOf(transform, drag.each ? middleOf(box) : pivot, aspect), share);
      if (view.part === this.stage.geometry?.part) flips = flipped(drag.turning, places);
      return { part: view.part, corners: view.corners, places };
    });
    this.stage.showMove(moved);
    hands.set({ drag: { affine: affineOf(transform, pivot, aspect), words: wordsOf(transform), guides, flips, at: [at.x, at.y] } });
    performance.measure('sheet drag', { start: begun });
  }
}

/** The corners of each group of a grip. O(corners) */
function groupsOf({ boxes, corners, group, share }: GripView): Dragging['groups'][number] {
  if (boxes.length === 1) return [{ box: boxes[0]!, corners, share }];
  const at = boxes.map((): number[] => []);
  group.forEach((g, k) => at[g]!.push(k));
  return boxes.map((box, g) => ({
    box,
    corners: Uint32Array.from(at[g]!, (k) => corners[k]!),
    share: share && Float32Array.from(at[g]!, (k) => share[k]!),
  }));
}

/** What a drag from one place of the sheet to another does with a frame. */
function transformOf(
  drag: Pick<Dragging, 'hold' | 'box' | 'pivot' | 'targets' | 'grabbed'>,
  [u0, v0]: [number, number],
  [u1, v1]: [number, number],
  keys: { shift: boolean },
  snaps: Parameters<typeof snapMove>[4],
  reach: [number, number],
  aspect: number,
): { transform: UvTransform; pivot: [number, number]; guides: Guide[] } {
  const { settings } = useBench.getState().summary!;
  const { hold, box, pivot, targets, grabbed } = drag;
  if (hold.kind === 'turn') {
    const angle = (u: number, v: number) => Math.atan2(v - pivot[1], (u - pivot[0]) * aspect);
    let turn = ((angle(u1, v1) - angle(u0, v0)) * 180) / Math.PI;
    turn = ((((turn + 180) % 360) + 360) % 360) - 180;
    if (keys.shift) turn = Math.round(turn / turnStep) * turnStep;
    return { transform: { ...unmoved, turn }, pivot, guides: [] };
  }
  if (hold.kind === 'grow') {
    const along = [(u1 - pivot[0]) / (u0 - pivot[0] || 1e-9), (v1 - pivot[1]) / (v0 - pivot[1] || 1e-9)] as [number, number];
    const even = Math.hypot((u1 - pivot[0]) * aspect, v1 - pivot[1]) / (Math.hypot((u0 - pivot[0]) * aspect, v0 - pivot[1]) || 1e-9);
    const sound = (x: number) => (Math.abs(x) < 1e-3 ? 1e-3 : Math.max(-500, Math.min(500, x)));
    return { transform: { ...unmoved, scale: keys.shift ? [sound(along[0]), sound(along[1])] : [sound(even), sound(even)] }, pivot, guides: [] };
  }
  if (hold.kind === 'size') {
    const [left, bottom, right, top] = box;
    const side = [hold.x < 0 ? left : right, hold.y < 0 ? bottom : top] as const;
    const still = [hold.x < 0 ? right : left, hold.y < 0 ? top : bottom] as const;
    const guides: Guide[] = [];
    const drawn = ([0, 1] as const).map((d) => {
      if (d === 0 ? hold.x === 0 : hold.y === 0) return 1;
      const length = side[d] - still[d];
      if (Math.abs(length) < 1e-9) return 1;
      const to = side[d] + (d === 0 ? u1 - u0 : v1 - v0);
      const caught = snapPlace(to, d === 0 ? 'u' : 'v', targets, snaps, d === 0 ? settings.width : settings.height, reach[d]);
      if (caught.guide) guides.push(caught.guide);
      const factor = (caught.at - still[d]) / length;
      return Math.abs(factor) < 1e-3 ? 1e-3 : factor;
    }) as [number, number];
    // a corner keeps the proportions unless Shift is held, a side does so while it is
    const isCorner = hold.x !== 0 && hold.y !== 0;
    if (isCorner !== keys.shift) {
      const even = isCorner ? (Math.abs(drawn[0] - 1) > Math.abs(drawn[1] - 1) ? drawn[0] : drawn[1]) : hold.x !== 0 ? drawn[0] : drawn[1];
      return {
        transform: { ...unmoved, scale: [even, even] },
        pivot: middleStill(box, hold),
        guides: guides.filter(({ axis }) => (axis === 'u' ? drawn[0] : drawn[1]) === even),
      };
    }
    return { transform: { ...unmoved, scale: drawn }, pivot: middleStill(box, hold), guides };
  }
  let move: [number, number] = [u1 - u0, v1 - v0];
  // Shift: along u or v alone
  if (keys.shift) move = Math.abs(move[0] * aspect) > Math.abs(move[1]) ? [move[0], 0] : [0, move[1]];
  const caught = snapMove(move, box, grabbed, targets, snaps, settings, reach);
  if (keys.shift) caught.move = move[0] === 0 ? [0, caught.move[1]] : [caught.move[0], 0];
  return {
    transform: { ...unmoved, move: caught.move },
    pivot,
    guides: keys.shift ? caught.guides.filter(({ axis }) => (axis === 'u') === (move[0] !== 0)) : caught.guides,
  };
}

/** The side or corner across from the one in hand. */
const middleStill = ([left, bottom, right, top]: Box, { x, y }: { x: number; y: number }): [number, number] => [
  x === 0 ? (left + right) / 2 : x < 0 ? right : left,
  y === 0 ? (bottom + top) / 2 : y < 0 ? top : bottom,
];

/** Is what is pressed part of the selection? */
function isChosen({ hit, picker, x, y }: PointerAt): boolean {
  const { summary, kind, hoverOther } = useBench.getState();
  const selection = summary?.selection;
  if (!selection || selection.kind !== kind) return false;
  if (hoverOther && kind !== 'islands') return picker.isAlsoChosen(x, y, summary.alsoMarks);
  if (hoverOther) return selection.also?.some(({ part, ids }) => part === hoverOther.part && ids.includes(hoverOther.island)) === true;
  if (!hit || selection.part !== summary.activePart) return false;
  const id = kind === 'islands' ? hit.island : kind === 'faces' ? hit.face : kind === 'edges' ? hit.edge : hit.point;
  return selection.ids.includes(id);
}

/** Boxes of islands that stay, and their UV points. O(corners) */
function standing(
  layout: LayoutView | null,
  faceStart: Uint32Array | null,
  beside: readonly SheetPart[],
  views: readonly GripView[],
): { boxes: Box[]; points: Float32Array } {
  const boxes: Box[] = [];
  const points: number[] = [];
  const gather = (part: string, islands: number, cornerUv: Float32Array, each: (take: (island: number, corner: number) => void) => void) => {
    const moved = new Set(views.find((view) => view.part === part)?.corners ?? []);
    const own = Array.from({ length: islands }, (): [number, number, number, number] => [Infinity, Infinity, -Infinity, -Infinity]);
    const moves = new Uint8Array(islands);
    each((island, c) => {
      if (moved.has(c)) moves[island] = 1;
      const [u, v] = [cornerUv[c * 2]!, cornerUv[c * 2 + 1]!];
      const box = own[island]!;
      box[0] = Math.min(box[0], u);
      box[1] = Math.min(box[1], v);
      box[2] = Math.max(box[2], u);
      box[3] = Math.max(box[3], v);
      if (!moved.has(c)) points.push(u, v);
    });
    own.forEach((box, i) => moves[i] === 0 && box[0] <= box[2] && boxes.push(box));
  };
  if (layout && faceStart)
    gather(layout.part, layout.islands.length, layout.cornerUv, (take) => {
      for (let f = 0; f + 1 < faceStart.length; f++)
        if (!layout.unplaced[f]) for (let c = faceStart[f]!; c < faceStart[f + 1]!; c++) take(layout.faceIsland[f]!, c);
    });
  for (const view of beside)
    gather(view.part, view.islands.length, view.cornerUv, (take) => view.triCorner.forEach((c, k) => take(view.triIsland[(k / 3) | 0]!, c)));
  return { boxes, points: Float32Array.from(points) };
}

function nearestCorner(views: readonly GripView[], from: readonly Float32Array[], u: number, v: number, aspect: number): [number, number] | null {
  let best: [number, number] | null = null;
  let near = Infinity;
  views.forEach(({ corners }, k) => {
    for (const c of corners) {
      const [cu, cv] = [from[k]![c * 2]!, from[k]![c * 2 + 1]!];
      const d = Math.hypot((cu - u) * aspect, cv - v);
      if (d >= near) continue;
      near = d;
      best = [cu, cv];
    }
  });
  return best;
}

function signsOf(corners: Uint32Array, uv: Float32Array): Int8Array {
  const out = new Int8Array(corners.length / 3);
  for (let t = 0; t < out.length; t++) {
    const [a, b, c] = [corners[t * 3]! * 2, corners[t * 3 + 1]! * 2, corners[t * 3 + 2]! * 2];
    out[t] = Math.sign((uv[b]! - uv[a]!) * (uv[c + 1]! - uv[a + 1]!) - (uv[c]! - uv[a]!) * (uv[b + 1]! - uv[a + 1]!));
  }
  return out;
}

function flipped({ corners, signs }: Dragging['turning'], places: Float32Array): number {
  if (signs.length === 0) return 0;
  const now = signsOf(corners, places);
  let count = 0;
  // all turned over together is a mirrored piece, meant so
  for (let t = 0; t < now.length; t++) if (now[t] !== signs[t]) count++;
  return count === now.length ? 0 : count;
}

function wordsOf({ move, turn, scale }: UvTransform): string[] {
  const { width, height } = useBench.getState().summary!.settings;
  const px = (x: number) => (Math.abs(x) < 0.005 ? '0' : x.toFixed(Math.abs(x) < 10 ? 2 : 1));
  if (turn !== 0) return [`${turn.toFixed(1)}°`];
  if (scale[0] !== 1 || scale[1] !== 1)
    return scale[0] === scale[1] ? [`× ${scale[0].toFixed(3)}`] : [`u × ${scale[0].toFixed(3)}`, `v × ${scale[1].toFixed(3)}`];
  return [`${px(move[0] * width)}, ${px(move[1] * height)} px`];
}
