import Flatbush from 'flatbush';
import { BufferAttribute, BufferGeometry, DoubleSide, Matrix4, Raycaster, Triangle, Vector2, Vector3 } from 'three';
import { RegionMask, type Region, type Vector } from '@jig-peel/core';
import { MeshBVH, type SerializedBVH } from 'three-mesh-bvh';
import type { Hover } from '../../store/bench.ts';
import type { AlsoMarks, ContextGeometry, FormView, PartGeometry, RegionView, SheetPart } from '../../session/messages.ts';
import type { Ray } from './jigShape.ts';
import type { Stage } from './stage.ts';

/** How near (px) the pointer must be to an edge to mean it. */
const reach = 13;

export interface Hit extends Hover {
  /** Place on the surface, in space. */
  place: Vector3 | null;
}

type Drawn = Pick<FormView | ContextGeometry, 'positions' | 'bvh'>;

/** What a line of sight meets: a triangle of the cage, or of a form drawn in its place. */
interface Struck {
  triangle: number;
  face: number;
  place: Vector3;
  /** 9 numbers a triangle. */
  positions: Float32Array;
  form: FormView | null;
}

/** A place on another part than the one at work. */
export interface Beside {
  part: string;
  /** Known at once on the sheet alone, else −1. */
  island: number;
  /** In the model view, of those shown. */
  triangle: number;
  /** On the sheet, of the face there. */
  corner: number;
}

/** Finds what is under the pointer in either view. */
export class Picker {
  private bvh: MeshBVH | null = null;
  private of: PartGeometry | null = null;
  private index: Flatbush | null = null;
  private indexData: ArrayBuffer | null = null;
  private readonly ray = new Raycaster();

  constructor(private readonly stage: Stage) {}

  private ready(): PartGeometry | null {
    const { geometry } = this.stage;
    if (geometry && this.of !== geometry) {
      this.of = geometry;
      const g = new BufferGeometry();
      g.setAttribute('position', new BufferAttribute(geometry.positions, 3));
      this.bvh = MeshBVH.deserialize(geometry.bvh as SerializedBVH, g, { setIndex: false });
    }
    return geometry;
  }

  setIndex(data: ArrayBuffer | null): void {
    if (data === this.indexData) return;
    this.indexData = data;
    this.index = data ? Flatbush.from(data) : null;
  }

  /** What the line of sight meets first: triangles of the form that is drawn, or of the cage. Hidden faces are looked through. */
  private struck(x: number, y: number): Struck | null {
    const geometry = this.ready();
    if (!geometry || !this.bvh) return null;
    this.sight(x, y);
    const form = this.stage.formShown;
    const onForm = form?.bvh ? form : null;
    const bvh = onForm ? this.bvhOf(onForm) : this.bvh;
    const { triFace, positions } = onForm ?? geometry;
    const { hidden } = this.stage;
    const hit = hidden
      ? bvh
          .raycast(this.ray.ray, DoubleSide)
          .filter((found) => found.faceIndex != null && !hidden[triFace[found.faceIndex]!])
          .sort((p, q) => p.distance - q.distance)[0]
      : bvh.raycastFirst(this.ray.ray, DoubleSide);
    if (hit?.faceIndex == null) return null;
    return { triangle: hit.faceIndex, face: triFace[hit.faceIndex]!, place: hit.point.clone(), positions, form: onForm };
  }

  private readonly bvhs = new WeakMap<Drawn, MeshBVH>();
  /** The index of what is drawn beside the cage: a form, another part. */
  private bvhOf(drawn: Drawn): MeshBVH {
    let bvh = this.bvhs.get(drawn);
    if (!bvh) {
      const g = new BufferGeometry();
      g.setAttribute('position', new BufferAttribute(drawn.positions, 3));
      bvh = MeshBVH.deserialize(drawn.bvh as SerializedBVH, g, { setIndex: false });
      this.bvhs.set(drawn, bvh);
    }
    return bvh;
  }

  /** @param x, y px from the model view's top left */
  model(x: number, y: number): Hit | null {
    const { layout, topology } = this.stage;
    const hit = layout && this.struck(x, y);
    if (!hit) return null;
    const { face } = hit;
    const geometry = this.of!;
    let edge = -1;
    let nearest = reach;
    let point = -1;
    let nearestPoint = reach;
    for (let c = geometry.faceStart[face]!; c < geometry.faceStart[face + 1]!; c++) {
      const p = geometry.corners[c]!;
      const [px, py] = this.projectPoint(p);
      const away = Math.hypot(px - x, py - y);
      if (away < nearestPoint) {
        nearestPoint = away;
        point = p;
      }
      const d = this.fromEdge(x, y, c, geometry.corners[topology.nextCorner(c, face)]!);
      if (d < nearest) {
        nearest = d;
        edge = geometry.cornerEdge[c]!;
      }
    }
    return { view: 'model', face, edge, point, island: layout.faceIsland[face]!, place: this.onSurface(hit) };
  }

  /** Px from a place of the model view to the edge from a corner to the next point, as it is drawn. */
  private fromEdge(x: number, y: number, corner: number, next: number): number {
    const { onForm } = this.stage.topology;
    const geometry = this.of!;
    if (!onForm?.edges || !this.stage.formShown) return distance(x, y, ...this.projectPoint(geometry.corners[corner]!), ...this.projectPoint(next));
    const { edges, pieces } = onForm;
    let nearest = Infinity;
    for (let k = geometry.cornerEdge[corner]! * pieces, end = k + pieces; k < end; k++) {
      const at = (from: number) => this.projectPlace(edges[from]!, edges[from + 1]!, edges[from + 2]!);
      nearest = Math.min(nearest, distance(x, y, ...at(k * 6), ...at(k * 6 + 3)));
    }
    return nearest;
  }

  /** Where a place that was struck belongs: a raised one to the surface that it was raised from. */
  private onSurface({ triangle, place, positions, form }: Struck): Vector3 {
    if (!form?.flat) return place;
    const [wa, wb, wc] = weightsIn(positions, triangle, place);
    const { sunk } = form.flat;
    const at = (d: number) => wa * sunk[triangle * 9 + d]! + wb * sunk[triangle * 9 + 3 + d]! + wc * sunk[triangle * 9 + 6 + d]!;
    return place.clone().add(new Vector3(at(0), at(1), at(2)));
  }

  /** A view as the worker needs it to find what lies in a region. */
  viewOf(view: 'model' | 'sheet'): RegionView {
    const { width, height } = this.stage.rects[view];
    if (view === 'sheet') {
      const { sheetEye } = this.stage;
      const [left, top] = sheetEye.toPx(0, 0, width, height);
      return { view, width, height, left, top, scaleU: sheetEye.scale * sheetEye.aspect, scaleV: sheetEye.scale };
    }
    this.stage.eye.update(width, height);
    const { camera } = this.stage.eye;
    const beside = this.stage.shownContexts().map(({ part }) => part);
    return { view, width, height, beside, matrix: new Matrix4().multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse).elements };
  }

  /** The triangle of the cage under px of the model view, and the shares of its corners there; null beside the model. */
  shares(x: number, y: number): [number, number, number, number] | null {
    const hit = this.struck(x, y);
    if (!hit) return null;
    if (!hit.form) return [hit.triangle, ...weightsIn(hit.positions, hit.triangle, hit.place)];
    // on a form: where the cage's face is nearest
    const { triFace, positions } = this.of!;
    const place = this.onSurface(hit);
    let best: [number, number, number, number] | null = null;
    let nearest = Infinity;
    for (let t = lowerBound(triFace, hit.face); t < triFace.length && triFace[t] === hit.face; t++) {
      const near = triangleAt(positions, t).closestPointToPoint(place, new Vector3());
      if (near.distanceTo(place) >= nearest) continue;
      nearest = near.distanceTo(place);
      best = [t, ...weightsIn(positions, t, near)];
    }
    return best;
  }

  /** The place in the UV square under px of the model view; null beside the model and on faces without a place. */
  uvAt(x: number, y: number): [number, number] | null {
    const { layout } = this.stage;
    const hit = layout && this.struck(x, y);
    if (!hit || layout.unplaced[hit.face]) return null;
    const { triCorner } = this.of!;
    const { triangle: t, form } = hit;
    const weights = weightsIn(hit.positions, t, hit.place);
    const at = (k: number, d: number) => (form ? form.uvAt[(t * 3 + k) * 2 + d]! : layout.cornerUv[triCorner[t * 3 + k]! * 2 + d]!);
    return [0, 1].map((d) => weights.reduce((sum, w, k) => sum + w * at(k, d), 0)) as [number, number];
  }

  /** The line of sight through px of the model view. */
  sight(x: number, y: number): Ray {
    const { width, height } = this.stage.rects.model;
    this.stage.eye.update(width, height);
    this.ray.setFromCamera(new Vector2((x / width) * 2 - 1, 1 - (y / height) * 2), this.stage.eye.camera);
    const { origin, direction } = this.ray.ray;
    return { from: [origin.x, origin.y, origin.z], along: [direction.x, direction.y, direction.z] };
  }

  /** The facing of the face under px of the model view, towards the eye; null beside the model. */
  facing(x: number, y: number): { place: Vector; out: Vector } | null {
    const hit = this.model(x, y);
    const geometry = this.of;
    if (!hit?.place || !geometry) return null;
    const [a, b, c] = [0, 1, 2].map((k) => {
      const p = geometry.corners[geometry.faceStart[hit.face]! + k]! * 3;
      return new Vector3(geometry.points[p], geometry.points[p + 1], geometry.points[p + 2]);
    }) as [Vector3, Vector3, Vector3];
    const out = b.sub(a).cross(c.sub(a)).normalize();
    if (out.dot(this.ray.ray.direction) > 0) out.negate();
    return { place: [hit.place.x, hit.place.y, hit.place.z], out: [out.x, out.y, out.z] };
  }

  /** The part under the pointer, among all that are in sight. */
  part(x: number, y: number): string | null {
    const geometry = this.ready();
    if (!geometry || !this.bvh) return null;
    const { width, height } = this.stage.rects.model;
    this.stage.eye.update(width, height);
    this.ray.setFromCamera(new Vector2((x / width) * 2 - 1, 1 - (y / height) * 2), this.stage.eye.camera);
    const own = this.model(x, y)?.place;
    let nearest = own ? own.distanceTo(this.ray.ray.origin) : Infinity;
    let found = own ? geometry.part : null;
    for (const context of this.stage.shownContexts()) {
      const hit = this.bvhOf(context).raycastFirst(this.ray.ray, DoubleSide);
      if (hit && hit.distance < nearest) {
        nearest = hit.distance;
        found = context.part;
      }
    }
    return found;
  }

  /** The part that is faintly shown under the pointer, where the part at work is not, and the triangle there. */
  private contextUnder(x: number, y: number): { part: string; triangle: number } | null {
    this.sight(x, y);
    let nearest = Infinity;
    let found: { part: string; triangle: number } | null = null;
    for (const context of this.stage.shownContexts()) {
      const hit = this.bvhOf(context).raycastFirst(this.ray.ray, DoubleSide);
      if (hit?.faceIndex == null || hit.distance >= nearest) continue;
      nearest = hit.distance;
      found = { part: context.part, triangle: hit.faceIndex };
    }
    return found;
  }

  /** What of another part than the one at work is under px of a view; null where the part at work is. */
  beside({ view, x, y, hit }: { view: 'model' | 'sheet'; x: number; y: number; hit: Hit | null }): Beside | null {
    if (hit && hit.face >= 0) return null;
    if (view === 'sheet') {
      const at = this.triangleBeside(x, y);
      return at && { part: at.view.part, island: at.view.triIsland[at.t]!, triangle: -1, corner: at.view.triCorner[at.t * 3]! };
    }
    const at = this.contextUnder(x, y);
    return at && { ...at, island: -1, corner: -1 };
  }

  /** Parts in sight with any place in a region of the model view; of large parts a few thousand places are tried. */
  partsIn(region: Region): string[] {
    const geometry = this.ready();
    if (!geometry) return [];
    const width = Math.floor(this.stage.rects.model.width);
    const height = Math.floor(this.stage.rects.model.height);
    const mask = new RegionMask(width, height, region);
    this.stage.eye.update(width, height);
    const touches = (positions: Float32Array) => {
      const step = Math.max(1, Math.floor(positions.length / 3 / 4000)) * 3;
      for (let k = 0; k < positions.length; k += step) if (mask.has(...this.projectPlace(positions[k]!, positions[k + 1]!, positions[k + 2]!))) return true;
      return false;
    };
    return [{ part: geometry.part, positions: geometry.positions }, ...this.stage.shownContexts()]
      .filter(({ positions }) => touches(positions))
      .map(({ part }) => part);
  }

  /** A point's px in the model view. */
  projectPoint(p: number): [number, number] {
    const points = (this.stage.formShown && this.stage.topology.onForm?.points) ?? this.stage.geometry!.points;
    return this.projectPlace(points[p * 3]!, points[p * 3 + 1]!, points[p * 3 + 2]!);
  }

  projectPlace(px: number, py: number, pz: number): [number, number] {
    const { width, height } = this.stage.rects.model;
    const v = new Vector3(px, py, pz).project(this.stage.eye.camera);
    return [((v.x + 1) / 2) * width, ((1 - v.y) / 2) * height];
  }

  /** @param x, y px from the sheet view's top left */
  sheet(x: number, y: number): Hit | null {
    const geometry = this.ready();
    const { layout } = this.stage;
    if (!geometry || !layout || !this.index) return null;
    const { width, height } = this.stage.rects.sheet;
    const eye = this.stage.sheetEye;
    const [u, v] = eye.toUv(x, y, width, height);
    const r = reach / eye.scale;
    const near = this.index.search(u - r / eye.aspect, v - r, u + r / eye.aspect, v + r);
    let face = -1;
    let edge = -1;
    let place: Vector3 | null = null;
    let nearest = reach;
    let point = -1;
    let nearestPoint = reach;
    let edgeCorner = -1;
    let pointCorner = -1;
    for (const t of near) {
      const f = geometry.triFace[t]!;
      if (layout.unplaced[f] || this.stage.isHidden(f)) continue;
      if (this.contains(t, u, v) && f > face) {
        face = f;
        place = this.placeAt(t, u, v);
      }
      for (let c = geometry.faceStart[f]!; c < geometry.faceStart[f + 1]!; c++) {
        const n = this.stage.topology.nextCorner(c, f);
        const a = eye.toPx(layout.cornerUv[c * 2]!, layout.cornerUv[c * 2 + 1]!, width, height);
        const b = eye.toPx(layout.cornerUv[n * 2]!, layout.cornerUv[n * 2 + 1]!, width, height);
        const d = distance(x, y, a[0], a[1], b[0], b[1]);
        if (d < nearest) {
          nearest = d;
          edge = geometry.cornerEdge[c]!;
          edgeCorner = c;
        }
        if (Math.hypot(a[0] - x, a[1] - y) < nearestPoint) {
          nearestPoint = Math.hypot(a[0] - x, a[1] - y);
          point = geometry.corners[c]!;
          pointCorner = c;
        }
      }
    }
    if (face < 0 && edge < 0) return null;
    return { view: 'sheet', face, edge, point, island: face >= 0 ? layout.faceIsland[face]! : -1, place, edgeCorner, pointCorner };
  }

  private readonly otherIndexes = new WeakMap<SheetPart, Flatbush | null>();

  private triangleBeside(x: number, y: number): { view: SheetPart; t: number } | null {
    const { width, height } = this.stage.rects.sheet;
    const [u, v] = this.stage.sheetEye.toUv(x, y, width, height);
    for (const view of this.stage.shownSheetParts()) {
      let index = this.otherIndexes.get(view);
      if (index === undefined) this.otherIndexes.set(view, (index = view.index.byteLength > 0 ? Flatbush.from(view.index) : null));
      for (const t of index?.search(u, v, u, v) ?? []) if (insideTriangle(view.cornerUv, view.triCorner, t, u, v)) return { view, t };
    }
    return null;
  }

  /** Whether a selected face of another part is under px of the sheet view, or one of its selected edges or points near. O(what is marked) */
  isAlsoChosen(x: number, y: number, marks: readonly AlsoMarks[]): boolean {
    const at = this.triangleBeside(x, y);
    const { width, height } = this.stage.rects.sheet;
    return marks.some(({ part, kind, corners }) => {
      if (kind === 'faces') return at?.view.part === part && corners.includes(at.view.triCorner[at.t * 3]!);
      const view = this.stage.shownSheetParts().find((one) => one.part === part);
      if (!view) return false;
      const placeOf = (c: number) => this.stage.sheetEye.toPx(view.cornerUv[c * 2]!, view.cornerUv[c * 2 + 1]!, width, height);
      const step = kind === 'edges' ? 2 : 1;
      for (let k = 0; k < corners.length; k += step) {
        const [a, b] = [placeOf(corners[k]!), placeOf(corners[k + step - 1]!)];
        if (distance(x, y, ...a, ...b) <= reach) return true;
      }
      return false;
    });
  }

  /** The place in space of a point of the sheet within triangle t. */
  private placeAt(t: number, u: number, v: number): Vector3 {
    const { triCorner, positions } = this.stage.geometry!;
    const { cornerUv } = this.stage.layout!;
    const [a, b, c] = [0, 1, 2].map((k) => triCorner[t * 3 + k]! * 2) as [number, number, number];
    const [x1, y1, x2, y2] = [
      cornerUv[b]! - cornerUv[a]!,
      cornerUv[b + 1]! - cornerUv[a + 1]!,
      cornerUv[c]! - cornerUv[a]!,
      cornerUv[c + 1]! - cornerUv[a + 1]!,
    ];
    const twice = x1 * y2 - x2 * y1 || 1e-30;
    const s = ((u - cornerUv[a]!) * y2 - (v - cornerUv[a + 1]!) * x2) / twice;
    const r = ((v - cornerUv[a + 1]!) * x1 - (u - cornerUv[a]!) * y1) / twice;
    const at = (d: number) => positions[t * 9 + d]! * (1 - s - r) + positions[t * 9 + 3 + d]! * s + positions[t * 9 + 6 + d]! * r;
    return new Vector3(at(0), at(1), at(2));
  }

  private contains(t: number, u: number, v: number): boolean {
    return insideTriangle(this.stage.layout!.cornerUv, this.stage.geometry!.triCorner, t, u, v);
  }
}

const triangleAt = (positions: Float32Array, t: number) =>
  new Triangle(...([0, 3, 6].map((k) => new Vector3().fromArray(positions, t * 9 + k)) as [Vector3, Vector3, Vector3]));

/** Shares of a triangle's corners at a place in it; thirds where it has no area. */
function weightsIn(positions: Float32Array, t: number, place: Vector3): [number, number, number] {
  const { a, b, c } = triangleAt(positions, t);
  const weights = Triangle.getBarycoord(place, a, b, c, new Vector3());
  return weights ? [weights.x, weights.y, weights.z] : [1 / 3, 1 / 3, 1 / 3];
}

/** The first place of a value in rising values. */
function lowerBound(values: ArrayLike<number>, value: number): number {
  let [low, high] = [0, values.length];
  while (low < high) {
    const mid = (low + high) >> 1;
    if (values[mid]! < value) low = mid + 1;
    else high = mid;
  }
  return low;
}

function insideTriangle(cornerUv: Float32Array, triCorner: Uint32Array, t: number, u: number, v: number): boolean {
  let sign = 0;
  for (let k = 0; k < 3; k++) {
    const a = triCorner[t * 3 + k]! * 2;
    const b = triCorner[t * 3 + ((k + 1) % 3)]! * 2;
    const side = (cornerUv[b]! - cornerUv[a]!) * (v - cornerUv[a + 1]!) - (cornerUv[b + 1]! - cornerUv[a + 1]!) * (u - cornerUv[a]!);
    if (side === 0) continue;
    if (sign !== 0 && Math.sign(side) !== sign) return false;
    sign = Math.sign(side);
  }
  return sign !== 0;
}

function distance(px: number, py: number, ax: number, ay: number, bx: number, by: number): number {
  const ex = bx - ax;
  const ey = by - ay;
  const length = ex * ex + ey * ey;
  const t = length > 0 ? Math.max(0, Math.min(1, ((px - ax) * ex + (py - ay) * ey) / length)) : 0;
  return Math.hypot(ax + t * ex - px, ay + t * ey - py);
}
