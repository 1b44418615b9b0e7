import {
  activeSet,
  asImageLands,
  faceMaps,
  facesBy,
  islandsOf,
  islandsOfPoints,
  layoutIn,
  partOf,
  partsOnSheet,
  pieceOf,
  prepare,
  presentOf,
  project,
  RigidSolver,
  scaleU,
  separateFans,
  trianglesOf,
  uvSetFrom,
  withMirroredMoves,
  type Jig,
  sheetAspect,
  sheetFor,
  type Job,
  type Mesh,
  type Part,
  type Piece,
  type UvSet,
} from '@jig-peel/core';
import type { UvPreview } from './messages.ts';
import type { MeshIds } from './meshIds.ts';

/** A drag of pins under way: the island's matrix factored once, so that each move costs a few solves. */
interface PinDrag {
  set: UvSet;
  /** The set with the island's fans apart, u scaled so that a unit is square. */
  separate: UvSet;
  points: string;
  piece: Piece;
  solver: RigidSolver;
  uv: Float64Array;
  scale: number;
  mirror: number;
  aspect: number;
}

/** Layouts as a hand that moves pins or jigs would make them; nothing is changed. */
export class Previews {
  private pins: PinDrag | null = null;
  private readonly places = new WeakMap<UvSet, Float32Array>();

  constructor(private readonly meshIds: MeshIds) {}

  /** What the island makes of pins drawn to places: u, v each. Some steps of keep shapes, whatever the method: the drop unwraps it by its own. */
  movePins(job: Job, own: number[], ownPlaces: number[]): UvPreview | null {
    const part = partOf(job);
    const { points, places } = withMirroredMoves(job, part, own, ownPlaces);
    const drag = this.pinDragOn(part, points, sheetAspect(job));
    if (!drag) return null;
    const { piece, scale, mirror, aspect, set, separate } = drag;
    const moved = new Map(points.map((p, k) => [p, k]));
    const at: number[] = [];
    piece.uvPoint.forEach((p) => {
      if (!separate.pins[p]) return;
      const k = moved.get(p);
      const u = k === undefined ? separate.uv[p * 2]! : places[k * 2]! * aspect;
      const v = k === undefined ? separate.uv[p * 2 + 1]! : places[k * 2 + 1]!;
      at.push(u * scale * mirror, v * scale);
    });
    drag.uv = drag.solver.run(drag.uv, at, 4, 0).uv;
    const corner = this.cornerPlaces(part.mesh, set).slice();
    const vertex = new Map<number, number>();
    piece.uvPoint.forEach((p, v) => vertex.set(p, v));
    part.mesh.corners.forEach((_, c) => {
      const v = vertex.get(separate.cornerUv[c]!);
      if (v === undefined) return;
      corner[c * 2] = (drag.uv[v * 2]! / scale / aspect) * mirror;
      corner[c * 2 + 1] = drag.uv[v * 2 + 1]! / scale;
    });
    return this.previewOf(part.mesh, corner, set.unplaced.slice());
  }

  endPins(): void {
    this.pins?.solver.release();
    this.pins = null;
  }

  /** UVs of the active part as jigs would make them. Faces: a jig's own by its id, given ones, or the selected. */
  jigs(job: Job, items: readonly { jig: Jig; id?: string; faces?: Uint32Array }[]): UvPreview {
    const part = partOf(job);
    const set = activeSet(part);
    const { mesh } = part;
    const corner = this.cornerPlaces(mesh, set).slice();
    const unplaced = set.unplaced.slice();
    for (const { jig, id, faces: given } of items) {
      const own = job.jigs?.find((one) => one.id === id)?.drives.find((d) => d.part === part.id && d.set === set.name)?.faces;
      const faces = given ?? own ?? (id === undefined ? facesBy(job, part, 'selected') : null);
      if (!faces || faces.length === 0) continue;
      const done = project(mesh, faces, jig);
      for (let k = 0; k < done.corners.length; k++) {
        const c = done.corners[k]! * 2;
        corner[c] = done.uv[k * 2]!;
        corner[c + 1] = done.uv[k * 2 + 1]!;
      }
      for (let k = 0; k < faces.length; k++) unplaced[faces[k]!] = 0;
    }
    return this.previewOf(mesh, corner, unplaced);
  }

  /**
   * UVs of the active part as a job has them, and of those beside it on the sheet that have others than in the present job. @param moves a hand that moves is
   * followed: faces keep their colours, which take longer than their places
   */
  of(job: Job, present: Job, moves = false): UvPreview {
    const part = partOf(present);
    const after = (one: Part) => {
      const then = job.parts.find(({ id, mesh }) => id === one.id && mesh === one.mesh);
      return then ? activeSet(then) : null;
    };
    const set = after(part) ?? activeSet(part);
    const own = moves ? this.previewOf(part.mesh, this.cornerPlaces(part.mesh, set).slice(), set.unplaced.slice()) : this.layoutOf(present, part, set);
    return { ...own, ...this.beside(present, after) };
  }

  /** Other parts on the sheet as they would be. @param setOf what their layout would be; null: none that fits */
  private beside(job: Job, setOf: (part: Part) => UvSet | null): Pick<UvPreview, 'beside'> {
    const active = partOf(job);
    const beside = partsOnSheet(job, active.id).flatMap((part) => {
      const set = part === active || part.isHidden ? null : setOf(part);
      return set && set !== activeSet(part) ? [{ part: part.id, places: this.cornerPlaces(part.mesh, set).slice() }] : [];
    });
    return beside.length > 0 ? { beside } : {};
  }

  /** Given UVs of the active part, 2 numbers a corner; null where they are not of its mesh. */
  given(job: Job, corner: Float32Array): UvPreview | null {
    const part = partOf(job);
    return corner.length === part.mesh.corners.length * 2 ? this.layoutOf(job, part, setOfPlaces(part.mesh, corner)) : null;
  }

  /** The active part with another of its UV sets. */
  set(job: Job, index: number): UvPreview | null {
    const part = partOf(job);
    const set = part.uvSets[index];
    return set ? this.layoutOf(job, part, set) : null;
  }

  /** UVs of the active part as a version has them; null where it has none that fit. */
  version(job: Job, id: string): UvPreview | null {
    const version = job.versions?.find((one) => one.id === id);
    const setOf = (part: Part) => {
      const layout = version && layoutIn(version, part);
      return layout ? (layout.uvSets.find(({ name }) => name === activeSet(part).name) ?? layout.uvSets[layout.activeUv]!) : null;
    };
    const part = partOf(job);
    const set = setOf(part);
    if (!set) return null;
    return { ...this.layoutOf(job, part, set), ...this.beside(job, setOf) };
  }

  private pinDragOn(part: Part, points: readonly number[], aspect: number): PinDrag | null {
    const set = activeSet(part);
    const key = points.join();
    if (this.pins && this.pins.set === set && this.pins.points === key) return this.pins;
    this.endPins();
    const [island] = islandsOfPoints(part, set, points);
    if (island === undefined) return null;
    const islands = islandsOf(part.mesh, set);
    const separate = separateFans(part.mesh, scaleU(set, aspect), islands.faces.subarray(islands.start[island]!, islands.start[island + 1]!));
    const piece = pieceOf(part.mesh, separate, island);
    const { start, scale, mirror } = presentOf(piece, separate);
    const held = [...piece.uvPoint.keys()].filter((v) => separate.pins[piece.uvPoint[v]!]);
    const solver = new RigidSolver(prepare(piece.positions, piece.triangles), held);
    this.pins = { set, separate, points: key, piece, solver, uv: start, scale, mirror, aspect };
    return this.pins;
  }

  /** A whole layout of a part, with what its faces are coloured by. O(corners) */
  private layoutOf(job: Job, part: Part, set: UvSet): UvPreview {
    const { mesh } = part;
    // stretch as the layout itself would show it
    const counted = job.settings.countImage ? asImageLands(job, part, set) : { set, ...sheetFor(job, part.id) };
    const { size, shape } = faceMaps(mesh, counted.set, counted.width, counted.height);
    return {
      ...this.previewOf(mesh, this.cornerPlaces(mesh, set).slice(), set.unplaced.slice()),
      faces: { faceIsland: islandsOf(mesh, set).ofFace.slice(), faceSize: size.slice(), faceShape: shape.slice() },
    };
  }

  /** UVs corner by corner, kept while the set lives. */
  private cornerPlaces(mesh: Mesh, set: UvSet): Float32Array {
    let places = this.places.get(set);
    if (!places) {
      places = new Float32Array(mesh.corners.length * 2);
      for (let c = 0; c < mesh.corners.length; c++) {
        places[c * 2] = set.uv[set.cornerUv[c]! * 2]!;
        places[c * 2 + 1] = set.uv[set.cornerUv[c]! * 2 + 1]!;
      }
      this.places.set(set, places);
    }
    return places;
  }

  /** UVs that are not the layout's, ready to draw. @param corner 2 numbers a corner */
  private previewOf(mesh: Mesh, corner: Float32Array, unplaced: Uint8Array): UvPreview {
    const { corners, count } = trianglesOf(mesh);
    const uvAt = new Float32Array(count * 6);
    for (let k = 0; k < count * 3; k++) {
      uvAt[k * 2] = corner[corners[k]! * 2]!;
      uvAt[k * 2 + 1] = corner[corners[k]! * 2 + 1]!;
    }
    const flat = new Float32Array((corner.length / 2) * 3);
    for (let f = 0; f < unplaced.length; f++) {
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
        flat[c * 3] = unplaced[f] ? -1e4 : corner[c * 2]!;
        flat[c * 3 + 1] = unplaced[f] ? -1e4 : corner[c * 2 + 1]!;
      }
    }
    return { meshId: this.meshIds.of(mesh), uvAt, flat, unplaced };
  }
}

/** A set of corners' places, 2 numbers each: corners of a point at the same place share it, so that faces side by side hang together. O(corners) */
function setOfPlaces(mesh: Mesh, places: Float32Array): UvSet {
  const { corners } = mesh;
  const first = new Int32Array(mesh.points.length / 3).fill(-1);
  const next = new Int32Array(corners.length).fill(-1);
  const cornerUv = new Uint32Array(corners.length);
  const uv: number[] = [];
  for (let c = 0; c < corners.length; c++) {
    const p = corners[c]!;
    const [u, v] = [places[c * 2]!, places[c * 2 + 1]!];
    let same = first[p]!;
    while (same >= 0 && (places[same * 2] !== u || places[same * 2 + 1] !== v)) same = next[same]!;
    cornerUv[c] = same >= 0 ? cornerUv[same]! : uv.push(u, v) / 2 - 1;
    if (same >= 0) continue;
    next[c] = first[p]!;
    first[p] = c;
  }
  return uvSetFrom(mesh, 'shown', cornerUv, Float64Array.from(uv));
}
