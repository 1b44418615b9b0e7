import { BufferAttribute, BufferGeometry, Group, LineBasicMaterial, LineSegments, Mesh, type Material, type Scene } from 'three';
import type { FormView, LayoutView, PartGeometry, UvPreview } from '../../../session/messages.ts';
import { FaceTexture } from '../faceTexture.ts';
import type { FormMesh } from './formMesh.ts';
import { PartTopology } from './partTopology.ts';

/** The part at work in both views: its faces, which share one geometry, and its edges. */
export class PartLayer {
  readonly topology: PartTopology;
  readonly faceTexture: FaceTexture;
  private readonly onModel: Mesh;
  private readonly onSheet: Mesh;
  private readonly modelWire: LineSegments<BufferGeometry, LineBasicMaterial>;
  private readonly sheetWire: LineSegments<BufferGeometry, LineBasicMaterial>;
  /** Some face of it is on the sheet. */
  private hasPlace = false;
  private hasLayout = false;
  private previewing = false;
  private form: FormMesh | null = null;

  constructor(
    readonly geometry: PartGeometry,
    scenes: { model: Scene; sheet: Scene },
    materials: { model: Material; sheet: Material },
    wireColor: string,
  ) {
    this.topology = new PartTopology(geometry);
    this.faceTexture = new FaceTexture(geometry.faces);
    const shared = new BufferGeometry();
    shared.setAttribute('position', new BufferAttribute(geometry.positions, 3));
    shared.setAttribute('normal', new BufferAttribute(geometry.normals, 3));
    const ids = new Float32Array(geometry.triangles * 3);
    for (let k = 0; k < ids.length; k++) ids[k] = geometry.triFace[(k / 3) | 0]!;
    shared.setAttribute('faceId', new BufferAttribute(ids, 1));
    shared.setAttribute('uvAt', new BufferAttribute(new Float32Array(geometry.triangles * 6), 2));
    this.onModel = new Mesh(shared, materials.model);
    this.onSheet = new Mesh(shared, materials.sheet);
    this.onModel.frustumCulled = this.onSheet.frustumCulled = false;
    this.onSheet.renderOrder = 5;
    // until its layout is there, which follows at once: drawn before, it would be drawn twice
    this.onModel.visible = this.onSheet.visible = false;
    const wire = (positions: Float32Array, order: number, depthTest: boolean) => {
      const lines = new LineSegments(new BufferGeometry(), new LineBasicMaterial({ color: wireColor, transparent: true, depthTest, depthWrite: false }));
      lines.geometry.setAttribute('position', new BufferAttribute(positions, 3));
      lines.frustumCulled = false;
      lines.renderOrder = order;
      return lines;
    };
    this.modelWire = wire(geometry.points, 5, true);
    this.sheetWire = wire(new Float32Array(geometry.corners.length * 3), 6, false);
    scenes.model.add(this.onModel, this.modelWire);
    scenes.sheet.add(this.onSheet, this.sheetWire);
    this.hide(null);
  }

  /** The faces with other materials, in neither view. */
  dressedIn({ model, sheet }: { model: Material; sheet: Material }): Group {
    const { geometry } = this.onModel;
    return new Group().add(new Mesh(geometry, model), new Mesh(geometry, sheet));
  }

  /** Draws the faces with other materials. */
  dress(materials: { model: Material; sheet: Material }, put?: (geometry: BufferGeometry) => void): void {
    put?.(this.onModel.geometry);
    this.onModel.material = materials.model;
    this.onSheet.material = materials.sheet;
    this.form?.dress(this.onModel);
  }

  /** Looks at a form in place of the cage; null: the cage. */
  setForm(form: FormMesh | null): void {
    this.form?.dispose();
    this.form = form;
    this.topology.onForm = form?.marks ?? null;
    form?.dress(this.onModel);
    this.chooseForm();
  }

  /** The form that is drawn in place of the cage, if any is. */
  get formShown(): FormView | null {
    return this.form?.mesh.visible ? this.form.view : null;
  }

  /** While other UVs than the layout's are shown the cage has them, and the form not. */
  private chooseForm(): void {
    const shows = this.form !== null && this.hasLayout && !this.previewing;
    if (this.form) this.form.mesh.visible = shows;
    this.onModel.visible = this.hasLayout && !shows;
  }

  recolor(wireColor: string): void {
    for (const wire of [this.modelWire, this.sheetWire]) wire.material.color.set(wireColor);
  }

  /** Edges that only hidden faces have are not drawn. O(corners) */
  hide(hidden: Uint8Array | null): void {
    const { geometry, topology } = this;
    let edges = geometry.edgePoints;
    if (hidden) {
      const kept: number[] = [];
      for (let e = 0; e * 2 < edges.length; e++) if (topology.isEdgeShown(e, hidden)) kept.push(edges[e * 2]!, edges[e * 2 + 1]!);
      edges = Uint32Array.from(kept);
    }
    this.modelWire.geometry.setIndex(new BufferAttribute(edges, 1));
    const pairs = new Uint32Array(geometry.corners.length * 2);
    let at = 0;
    for (let f = 0; f < geometry.faces; f++) {
      if (hidden?.[f]) continue;
      const from = geometry.faceStart[f]!;
      const to = geometry.faceStart[f + 1]!;
      for (let c = from; c < to; c++) {
        pairs[at++] = c;
        pairs[at++] = c + 1 === to ? from : c + 1;
      }
    }
    this.sheetWire.geometry.setIndex(new BufferAttribute(pairs.subarray(0, at), 1));
  }

  private get uvs(): BufferAttribute {
    return this.onModel.geometry.getAttribute('uvAt') as BufferAttribute;
  }

  private get flat(): BufferAttribute {
    return this.sheetWire.geometry.getAttribute('position') as BufferAttribute;
  }

  /** UVs as they are drawn now: 2 numbers a corner of each triangle. */
  get shownUvs(): ArrayLike<number> {
    return this.uvs.array;
  }

  /** Takes the arrays over. */
  showPreview({ uvAt, flat }: UvPreview): void {
    this.onSheet.visible = this.hasPlace = this.previewing = true;
    this.chooseForm();
    for (const [attribute, array] of [
      [this.uvs, uvAt],
      [this.flat, flat],
    ] as const) {
      attribute.array = array;
      attribute.needsUpdate = true;
    }
  }

  private slots: { start: Uint32Array; at: Uint32Array } | null = null;

  /** Where corners are in the arrays that are drawn: at[start[c]] … O(triangles), once. */
  private get slotsOfCorners() {
    if (this.slots) return this.slots;
    const { triCorner, corners } = this.geometry;
    const start = new Uint32Array(corners.length + 1);
    for (const c of triCorner) start[c + 1]!++;
    for (let c = 0; c < corners.length; c++) start[c + 1]! += start[c]!;
    const fill = start.slice(0, -1);
    const at = new Uint32Array(triCorner.length);
    triCorner.forEach((c, k) => (at[fill[c]!++] = k));
    return (this.slots = { start, at });
  }

  /** Draws some corners elsewhere. @param places 2 numbers for every corner. O(the moved corners), and the upload of all */
  moveCorners(moved: Uint32Array, places: Float32Array): void {
    const { start, at } = this.slotsOfCorners;
    const { uvs, flat } = this;
    const to = uvs.array as Float32Array;
    const onSheet = flat.array as Float32Array;
    for (let k = 0; k < moved.length; k++) {
      const c = moved[k]!;
      const [u, v] = [places[c * 2]!, places[c * 2 + 1]!];
      onSheet[c * 3] = u;
      onSheet[c * 3 + 1] = v;
      for (let i = start[c]!; i < start[c + 1]!; i++) {
        to[at[i]! * 2] = u;
        to[at[i]! * 2 + 1] = v;
      }
    }
    uvs.needsUpdate = true;
    flat.needsUpdate = true;
  }

  /** O(corners) */
  showLayout(layout: LayoutView): void {
    const { geometry, uvs, flat } = this;
    // nothing of it is on the sheet: it need not be drawn there
    this.hasLayout = true;
    this.previewing = false;
    this.chooseForm();
    this.onSheet.visible = !layout.allUnplaced;
    this.hasPlace = !layout.allUnplaced;
    const to = uvs.array as Float32Array;
    for (let k = 0; k < geometry.triCorner.length; k++) {
      const c = geometry.triCorner[k]!;
      to[k * 2] = layout.cornerUv[c * 2]!;
      to[k * 2 + 1] = layout.cornerUv[c * 2 + 1]!;
    }
    uvs.needsUpdate = true;
    const at = flat.array as Float32Array;
    for (let f = 0; f < geometry.faces; f++) {
      for (let c = geometry.faceStart[f]!; c < geometry.faceStart[f + 1]!; c++) {
        // a face without a place shrinks to a dot far off the sheet
        at[c * 3] = layout.unplaced[f] ? -1e4 : layout.cornerUv[c * 2]!;
        at[c * 3 + 1] = layout.unplaced[f] ? -1e4 : layout.cornerUv[c * 2 + 1]!;
      }
    }
    flat.needsUpdate = true;
  }

  /** Edges closer than a few px apart would make the model grey: they fade out. @param pxPerUnit at the distance of the eye's target */
  fadeModelWire(pxPerUnit: number): void {
    const [x0, y0, z0, x1, y1, z1] = this.geometry.bounds;
    const size = Math.hypot(x1 - x0, y1 - y0, z1 - z0);
    const edge = (size * 1.4) / Math.sqrt(Math.max(1, this.geometry.faces));
    // on a form the cage's edges would hover
    fade(this.modelWire, this.form ? 0 : Math.max(0, Math.min(0.3, (edge * pxPerUnit - 3) * 0.022)));
  }

  fadeSheetWire(pxPerUnit: number): void {
    const px = (0.7 / Math.sqrt(Math.max(1, this.geometry.faces))) * pxPerUnit;
    fade(this.sheetWire, this.hasPlace ? Math.max(0, Math.min(0.35, (px - 2.5) * 0.03)) : 0);
  }

  dispose(): void {
    this.setForm(null);
    for (const one of [this.onModel, this.onSheet, this.modelWire, this.sheetWire]) {
      one.geometry.dispose();
      one.removeFromParent();
    }
    this.faceTexture.dispose();
  }
}

function fade(wire: LineSegments<BufferGeometry, LineBasicMaterial>, opacity: number): void {
  wire.material.opacity = opacity;
  wire.visible = opacity > 0.01;
}
