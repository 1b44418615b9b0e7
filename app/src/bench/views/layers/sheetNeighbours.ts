import { BufferAttribute, BufferGeometry, Color, DoubleSide, Mesh, MeshBasicMaterial, type Scene } from 'three';
import type { AlsoMarks, SheetPart } from '../../../session/messages.ts';
import type { Palette } from '../../../theme/palette.ts';
import { Dots } from './dots.ts';
import { joined, WideLines } from './wideLines.ts';

interface Held {
  view: SheetPart;
  mesh: Mesh<BufferGeometry, MeshBasicMaterial>;
  chosen: ReadonlySet<number>;
  /** What is selected of it, where that is not islands. */
  marks: AlsoMarks | null;
  /** Places as they are drawn: 2 numbers a corner. */
  cornerUv: Float32Array;
}

const none = new Float32Array(0);
const noIslands: ReadonlySet<number> = new Set();

/** Islands of other parts on the sheet of the one at work: plain paper, filled where they are selected. */
export class SheetNeighbours {
  private readonly held = new Map<string, Held>();
  private readonly borders = new WideLines({ width: 1.4, order: 4.2 });
  private readonly chosenBorders = new WideLines({ width: 3.2, casing: 5.6, order: 20 });
  private readonly chosenEdges = new WideLines({ width: 3.2, casing: 5.6, order: 20 });
  private readonly chosenPoints: Dots;
  private readonly hovered = new WideLines({ width: 2, casing: 4, order: 19 });
  private paper = new Color();
  private selected = new Color();

  constructor(private readonly scene: Scene) {
    for (const line of this.lines) line.addTo(scene);
    this.chosenPoints = new Dots(7, 21).addTo(scene);
  }

  get lines(): WideLines[] {
    return [this.borders, this.chosenBorders, this.chosenEdges, this.hovered];
  }

  /** Those that are drawn. */
  get shown(): SheetPart[] {
    return [...this.held.values()].map(({ view }) => view);
  }

  recolor(palette: Palette): void {
    this.paper = new Color(palette.otherPaper);
    this.selected = new Color(palette.selected);
    this.borders.recolor(palette.rim, palette.seamCasing);
    this.chosenBorders.recolor(palette.selected, palette.selectedEdge);
    this.chosenEdges.recolor(palette.selected, palette.selectedEdge);
    this.chosenPoints.recolor(palette.selected, palette.selectedEdge);
    this.hovered.recolor(palette.hover, palette.seamCasing);
    for (const held of this.held.values()) this.paintFaces(held);
  }

  /** @param chosen selected islands of each part @param marks what else is selected of them @returns whether anything looks different now */
  show(views: readonly SheetPart[], chosen: ReadonlyMap<string, ReadonlySet<number>>, marks: readonly AlsoMarks[]): boolean {
    const wanted = new Map(views.map((view) => [view.part, view]));
    let changed = false;
    for (const [id, held] of this.held) {
      if (wanted.get(id) === held.view) continue;
      this.drop(id);
      changed = true;
    }
    for (const view of views) {
      const own = chosen.get(view.part) ?? noIslands;
      const known = this.held.get(view.part);
      const held = known ?? this.add(view);
      const marked = marks.find(({ part }) => part === view.part) ?? null;
      if (known && isSame(held.chosen, own) && held.marks === marked) continue;
      changed = true;
      held.chosen = own;
      held.marks = marked;
      this.paintFaces(held);
    }
    if (changed) this.drawBorders();
    return changed;
  }

  /** The outline of an island under the pointer; null: none. */
  hover(at: { part: string; island: number } | null): void {
    const held = at && this.held.get(at.part);
    this.hovered.set(held ? borderOf(held, (island) => island === at.island) : none);
  }

  /** Where corners of a part are: 3 numbers each; none where it is not shown. */
  placesOf(part: string, corners: Uint32Array): Float32Array {
    const held = this.held.get(part);
    return held ? placesAt(held.cornerUv, corners) : none;
  }

  /** Moves corners of a part. @param places 2 numbers a corner of the mesh @param whole islands that are not selected may move, too */
  move(part: string, places: Float32Array, whole = false): void {
    const held = this.held.get(part);
    if (!held) return;
    held.cornerUv = places;
    this.place(held);
    // what moves in part takes borders of islands along that are not selected
    if (whole || (held.marks && held.marks.kind !== 'islands')) this.drawBorders();
    else this.drawChosen();
  }

  /** Back to where they are. */
  endMove(): void {
    let moved = false;
    for (const held of this.held.values()) {
      if (held.cornerUv === held.view.cornerUv) continue;
      held.cornerUv = held.view.cornerUv;
      this.place(held);
      moved = true;
    }
    if (moved) this.drawBorders();
  }

  dispose(): void {
    for (const id of [...this.held.keys()]) this.drop(id);
  }

  private drawBorders(): void {
    const all = [...this.held.values()];
    this.borders.set(joined(all.map((held) => borderOf(held, (island) => !held.chosen.has(island)))));
    this.drawChosen();
  }

  private drawChosen(): void {
    const all = [...this.held.values()];
    this.chosenBorders.set(joined(all.map((held) => borderOf(held, (island) => held.chosen.has(island)))));
    this.chosenEdges.set(joined(all.map((held) => markPlaces(held, 'edges'))));
    this.chosenPoints.set(joined(all.map((held) => markPlaces(held, 'points'))));
  }

  private add(view: SheetPart): Held {
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(new Float32Array(view.triCorner.length * 3), 3));
    geometry.setAttribute('color', new BufferAttribute(new Float32Array(view.triCorner.length * 3), 3));
    const material = new MeshBasicMaterial({ vertexColors: true, transparent: true, opacity: 0.9, depthTest: false, depthWrite: false, side: DoubleSide });
    const mesh = new Mesh(geometry, material);
    mesh.frustumCulled = false;
    mesh.renderOrder = 4;
    const held: Held = { view, mesh, chosen: noIslands, marks: null, cornerUv: view.cornerUv };
    this.place(held);
    this.held.set(view.part, held);
    this.scene.add(mesh);
    return held;
  }

  private place({ mesh, view, cornerUv }: Held): void {
    const at = mesh.geometry.getAttribute('position') as BufferAttribute;
    for (let k = 0; k < view.triCorner.length; k++) {
      const c = view.triCorner[k]! * 2;
      at.array[k * 3] = cornerUv[c]!;
      at.array[k * 3 + 1] = cornerUv[c + 1]!;
    }
    at.needsUpdate = true;
  }

  private paintFaces({ mesh, view, chosen, marks }: Held): void {
    const faces = new Set(marks?.kind === 'faces' ? marks.corners : []);
    const color = mesh.geometry.getAttribute('color') as BufferAttribute;
    for (let t = 0; t < view.triIsland.length; t++) {
      const { r, g, b } = chosen.has(view.triIsland[t]!) || faces.has(view.triCorner[t * 3]!) ? this.selected : this.paper;
      for (let k = 0; k < 3; k++) {
        const at = (t * 3 + k) * 3;
        color.array[at] = r;
        color.array[at + 1] = g;
        color.array[at + 2] = b;
      }
    }
    color.needsUpdate = true;
  }

  private drop(id: string): void {
    const { mesh } = this.held.get(id)!;
    mesh.geometry.dispose();
    mesh.material.dispose();
    mesh.removeFromParent();
    this.held.delete(id);
  }
}

const isSame = (a: ReadonlySet<number>, b: ReadonlySet<number>) => a === b || (a.size === b.size && [...a].every((one) => b.has(one)));

/** Where marked edges or points are: 3 numbers a corner. */
function markPlaces({ marks, cornerUv }: Pick<Held, 'marks' | 'cornerUv'>, kind: AlsoMarks['kind']): Float32Array {
  return marks?.kind === kind ? placesAt(cornerUv, marks.corners) : none;
}

function placesAt(cornerUv: Float32Array, corners: Uint32Array): Float32Array {
  const out = new Float32Array(corners.length * 3);
  corners.forEach((c, k) => {
    out[k * 3] = cornerUv[c * 2]!;
    out[k * 3 + 1] = cornerUv[c * 2 + 1]!;
  });
  return out;
}

function borderOf({ view, cornerUv }: Pick<Held, 'view' | 'cornerUv'>, wanted: (island: number) => boolean): Float32Array {
  const out = new Float32Array(view.borderIsland.length * 6);
  let at = 0;
  for (let k = 0; k < view.borderIsland.length; k++) {
    if (!wanted(view.borderIsland[k]!)) continue;
    for (let end = 0; end < 2; end++) {
      const c = view.border[k * 2 + end]! * 2;
      out[at++] = cornerUv[c]!;
      out[at++] = cornerUv[c + 1]!;
      at++;
    }
  }
  return out.subarray(0, at);
}
