import {
  BufferAttribute,
  BufferGeometry,
  Color,
  DoubleSide,
  GreaterDepth,
  LineBasicMaterial,
  LineSegments,
  Matrix3,
  Mesh,
  MeshBasicMaterial,
  PlaneGeometry,
  Points,
  PointsMaterial,
  Scene,
  ShaderMaterial,
  Texture,
  Vector3,
  type WebGLRenderer,
} from 'three';
import { LineMaterial } from 'three/addons/lines/LineMaterial.js';
import { LineSegments2 } from 'three/addons/lines/LineSegments2.js';
import { LineSegmentsGeometry } from 'three/addons/lines/LineSegmentsGeometry.js';
import { palettes, rgb, type Mode } from '../../theme/palette.ts';
import { fillsSelection, type BenchState } from '../../store/bench.ts';
import { asItLies, outsideKinds, placementMatrix, type ImagePlacement, type Jig } from '@jig-peel/core';
import type { ContextGeometry, LayoutView, PartGeometry, UvPreview } from '../../session/messages.ts';
import { ModelCamera, SheetCamera } from './cameras.ts';
import { FaceTexture } from './faceTexture.ts';
import { jigShape } from './jigShape.ts';
import {
  contextFragmentShader,
  contextVertexShader,
  fragmentShader,
  jigFragmentShader,
  jigVertexShader,
  underFragmentShader,
  underVertexShader,
  vertexShader,
} from './shaders.ts';
import { blankTexture } from './pictures.ts';

export type ViewName = 'model' | 'sheet';
export interface Rect {
  left: number;
  top: number;
  width: number;
  height: number;
}

/** A set of wide lines over a casing, rebuilt when its segments change. */
class WideLines {
  readonly top: LineSegments2;
  readonly casing: LineSegments2 | null;

  /** @param options.behind only where something stands before it */
  constructor(options: {
    color: string;
    width: number;
    casing?: string;
    casingWidth?: number;
    dashed?: boolean;
    order: number;
    opacity?: number;
    behind?: boolean;
  }) {
    const material = (color: string, width: number, dashed: boolean) =>
      new LineMaterial({
        color: new Color(color),
        linewidth: width,
        dashed,
        dashSize: 1,
        gapSize: 0.7,
        transparent: true,
        opacity: options.opacity ?? 1,
        depthWrite: false,
        ...(options.behind ? { depthFunc: GreaterDepth } : {}),
      });
    this.casing = options.casing
      ? new LineSegments2(new LineSegmentsGeometry(), material(options.casing, options.casingWidth ?? options.width + 2, false))
      : null;
    this.top = new LineSegments2(new LineSegmentsGeometry(), material(options.color, options.width, options.dashed ?? false));
    for (const [k, line] of [this.casing, this.top].entries()) {
      if (!line) continue;
      line.frustumCulled = false;
      line.renderOrder = options.order + k * 0.1;
      line.visible = false;
    }
  }

  addTo(scene: Scene): this {
    if (this.casing) scene.add(this.casing);
    scene.add(this.top);
    return this;
  }

  /** @param segments 6 numbers a segment */
  set(segments: Float32Array): void {
    for (const line of [this.casing, this.top]) {
      if (!line) continue;
      line.geometry.dispose();
      line.visible = segments.length > 0;
      if (segments.length === 0) continue;
      line.geometry = new LineSegmentsGeometry();
      line.geometry.setPositions(segments);
      if (line.material.dashed) line.computeLineDistances();
    }
  }

  prepare(width: number, height: number, dash: number): void {
    for (const line of [this.casing, this.top]) {
      if (!line?.visible) continue;
      line.material.resolution.set(width, height);
      if (line.material.dashed) {
        line.material.dashSize = dash * 1.0;
        line.material.gapSize = dash * 0.55;
      }
    }
  }

  /** Steps back (0 … 1 of its full strength) so that what is below can be seen. */
  fade(strength: number): void {
    for (const line of [this.casing, this.top]) if (line) line.material.opacity = strength;
  }

  recolor(color: string, casing?: string): void {
    this.top.material.color.set(color);
    if (casing && this.casing) this.casing.material.color.set(casing);
  }
}

/** Round marks of a fixed size in px, ink-rimmed. */
class Dots {
  private readonly layers: Points[];

  constructor(color: string, rim: string, size: number, order: number) {
    this.layers = [
      [rim, size + 4],
      [color, size],
    ].map(([tone, px], k) => {
      const points = new Points(
        new BufferGeometry(),
        new PointsMaterial({ color: tone as string, size: px as number, sizeAttenuation: false, depthTest: false, transparent: true }),
      );
      points.frustumCulled = false;
      points.renderOrder = order + k * 0.1;
      points.visible = false;
      return points;
    });
  }

  addTo(scene: Scene): this {
    for (const layer of this.layers) scene.add(layer);
    return this;
  }

  /** @param places 3 numbers a mark */
  set(places: Float32Array): void {
    for (const layer of this.layers) {
      layer.geometry.dispose();
      layer.visible = places.length > 0;
      layer.geometry = new BufferGeometry();
      layer.geometry.setAttribute('position', new BufferAttribute(places, 3));
    }
  }
}

/** Everything that is drawn: two scenes of the same part, two eyes, one renderer. Holds no state of the job beyond what it draws. */
export class Stage {
  readonly eye = new ModelCamera();
  readonly sheetEye = new SheetCamera();
  /** A hand has moved the view: it stays where it was put. Others keep the whole in sight. */
  moved = { model: false, sheet: false };
  readonly rects: Record<ViewName, Rect> = { model: { left: 0, top: 0, width: 0, height: 0 }, sheet: { left: 0, top: 0, width: 0, height: 0 } };
  /** Asks for a call of `render`. */
  schedule: () => void = () => {};
  /** Called when their view is drawn: what is drawn over a view follows its eye. */
  readonly overlays: Record<ViewName, Set<() => void>> = { model: new Set(), sheet: new Set() };
  geometry: PartGeometry | null = null;
  layout: LayoutView | null = null;

  private readonly modelScene = new Scene();
  private readonly sheetScene = new Scene();
  private readonly mat: Mesh;
  private readonly ruling: LineSegments;
  private readonly sheetPicture: Mesh;
  private mode: Mode = 'light';
  private readonly textures: { grid: Texture; image: Texture | null; repeats: number } = { grid: blankTexture(), image: null, repeats: 1 };
  private readonly contexts = new Map<string, { geometry: ContextGeometry; mesh: Mesh; material: ShaderMaterial }>();
  private readonly farEye = new ModelCamera();
  private farSide = false;
  private faceTexture: FaceTexture | null = null;
  private modelMesh: Mesh | null = null;
  private sheetMesh: Mesh | null = null;
  private modelWire: LineSegments | null = null;
  private sheetWire: LineSegments | null = null;
  private readonly lines = {
    modelSeam: new WideLines({ color: '#85285f', width: 2.6, casing: '#fbf8f1', casingWidth: 4.6, dashed: true, order: 10 }).addTo(this.modelScene),
    modelSelected: new WideLines({ color: '#b6d936', width: 3.4, casing: '#23201e', casingWidth: 6, order: 20 }).addTo(this.modelScene),
    modelPen: new WideLines({ color: '#c2458f', width: 3, casing: '#fbf8f1', casingWidth: 6, order: 30 }).addTo(this.modelScene),
    // below what is selected: that it is selected says more
    modelHover: new WideLines({ color: '#0d4a52', width: 2, casing: '#fbf8f1', casingWidth: 4, order: 19 }).addTo(this.modelScene),
    // a jig's frame: solid before the model, dashed behind it; its start line is twice as strong
    jigBehind: new WideLines({ color: '#2f4fb0', width: 2, casing: '#fbf8f1', casingWidth: 3.6, dashed: true, order: 43, behind: true }).addTo(this.modelScene),
    jig: new WideLines({ color: '#2f4fb0', width: 2.4, casing: '#fbf8f1', casingWidth: 5, order: 45 }).addTo(this.modelScene),
    jigStart: new WideLines({ color: '#2f4fb0', width: 5, casing: '#fbf8f1', casingWidth: 8, order: 46 }).addTo(this.modelScene),
    jigStartBehind: new WideLines({ color: '#2f4fb0', width: 4, casing: '#fbf8f1', casingWidth: 6, dashed: true, order: 43, behind: true }).addTo(
      this.modelScene,
    ),
    sheetBorder: new WideLines({ color: '#85285f', width: 2, casing: '#fbf8f1', casingWidth: 4, order: 10 }).addTo(this.sheetScene),
    sheetEdge: new WideLines({ color: '#e9e2d2', width: 1.6, order: 2 }).addTo(this.sheetScene),
    sheetSelected: new WideLines({ color: '#b6d936', width: 3.2, casing: '#23201e', casingWidth: 5.6, order: 20 }).addTo(this.sheetScene),
    sheetHover: new WideLines({ color: '#0d4a52', width: 2, casing: '#fbf8f1', casingWidth: 4, order: 19 }).addTo(this.sheetScene),
    // from a seam edge to its partner on the sheet
    sheetPartner: new WideLines({ color: '#0d4a52', width: 1.6, casing: '#fbf8f1', casingWidth: 3.4, dashed: true, order: 39 }).addTo(this.sheetScene),
  };
  private readonly dots = {
    modelSelected: new Dots('#b6d936', '#23201e', 7, 21).addTo(this.modelScene),
    sheetSelected: new Dots('#b6d936', '#23201e', 7, 21).addTo(this.sheetScene),
    modelHover: new Dots('#0d4a52', '#fbf8f1', 6, 41).addTo(this.modelScene),
    sheetHover: new Dots('#0d4a52', '#fbf8f1', 6, 41).addTo(this.sheetScene),
  };
  /** 1 for each face that is hidden. */
  hidden: Uint8Array | null = null;
  private readonly uniforms = {
    picture: { value: this.textures.grid },
    faces: { value: null as Texture | null },
    overlay: { value: 0 },
    repeats: { value: 1 },
    placement: { value: new Matrix3() },
    outside: { value: [0, 0] },
    clay: { value: new Vector3() },
    selectedColor: { value: new Vector3() },
    inkColor: { value: new Vector3() },
    fillSelected: { value: true },
    keepSign: { value: false },
    sheetOpacity: { value: 1 },
    channel: { value: 0 },
    light: { value: 0 },
    lamp: { value: new Vector3(0, 0, 1) },
    mark: { value: 0.62 },
  };
  private readonly jigImage: Mesh;
  private readonly modelMaterial: ShaderMaterial;
  private readonly sheetMaterial: ShaderMaterial;

  constructor() {
    const material = (onSheet: boolean) =>
      new ShaderMaterial({
        vertexShader,
        fragmentShader,
        uniforms: { ...this.uniforms, onSheet: { value: onSheet } },
        side: DoubleSide,
        transparent: onSheet,
        depthTest: !onSheet,
        depthWrite: !onSheet,
        polygonOffset: !onSheet,
        polygonOffsetFactor: 1.5,
        polygonOffsetUnits: 2,
      });
    this.jigImage = new Mesh(
      new BufferGeometry(),
      new ShaderMaterial({
        vertexShader: jigVertexShader,
        fragmentShader: jigFragmentShader,
        uniforms: { picture: this.uniforms.picture, repeats: this.uniforms.repeats, strength: { value: 0.27 } },
        side: DoubleSide,
        transparent: true,
        depthWrite: false,
      }),
    );
    this.jigImage.frustumCulled = false;
    this.jigImage.renderOrder = 42;
    this.jigImage.visible = false;
    this.modelScene.add(this.jigImage);
    this.modelMaterial = material(false);
    this.sheetMaterial = material(true);
    this.mat = new Mesh(new PlaneGeometry(1, 1), new MeshBasicMaterial({ color: '#2d3b42', depthTest: false, depthWrite: false }));
    this.mat.position.set(0.5, 0.5, -1);
    this.mat.renderOrder = 0;
    this.sheetPicture = new Mesh(
      new PlaneGeometry(1, 1),
      new ShaderMaterial({
        vertexShader: underVertexShader,
        fragmentShader: underFragmentShader,
        uniforms: { picture: { value: this.textures.grid }, repeats: { value: 1 }, channel: { value: 0 }, opacity: { value: 0.4 } },
        transparent: true,
        depthTest: false,
        depthWrite: false,
      }),
    );
    this.sheetPicture.position.set(0.5, 0.5, -1);
    this.sheetPicture.renderOrder = 1;
    this.sheetPicture.visible = false;
    this.ruling = new LineSegments(new BufferGeometry(), new LineBasicMaterial({ color: '#3a4d56', depthTest: false, transparent: true }));
    this.ruling.renderOrder = 1.5;
    this.sheetScene.add(this.mat, this.sheetPicture, this.ruling);
    this.rule();
    this.lines.sheetEdge.set(Float32Array.from([0, 0, 0, 1, 0, 0, 1, 0, 0, 1, 1, 0, 1, 1, 0, 0, 1, 0, 0, 1, 0, 0, 0, 0]));
    this.setMode('light');
  }

  private rule() {
    const at: number[] = [];
    for (let k = 1; k < 16; k++) at.push(k / 16, 0, 0, k / 16, 1, 0, 0, k / 16, 0, 1, k / 16, 0);
    this.ruling.geometry.setAttribute('position', new BufferAttribute(Float32Array.from(at), 3));
  }

  setMode(mode: Mode): void {
    this.mode = mode;
    const p = palettes[mode];
    const raw = (hex: string) => new Vector3(...rgb(hex).map((x) => x / 255));
    this.uniforms.clay.value = raw(p.clay);
    this.uniforms.selectedColor.value = raw(p.selected);
    this.uniforms.inkColor.value = raw(p.selectedEdge);
    (this.ruling.material as LineBasicMaterial).color.set(p.matLineStrong);
    (this.mat.material as MeshBasicMaterial).color.set(mode === 'light' ? '#2e3d44' : '#202b30');
    this.lines.modelSeam.recolor(p.seam, p.seamCasing);
    this.lines.sheetBorder.recolor(p.seam, p.seamCasing);
    this.invalidate();
  }

  setGeometry(geometry: PartGeometry): void {
    this.geometry = geometry;
    this.layout = null;
    for (const old of [this.modelMesh, this.sheetMesh, this.modelWire, this.sheetWire]) {
      old?.geometry.dispose();
      old?.removeFromParent();
    }
    this.faceTexture?.dispose();
    this.faceTexture = new FaceTexture(geometry.faces);
    this.uniforms.faces.value = this.faceTexture.texture;
    const shared = new BufferGeometry();
    shared.setAttribute('position', new BufferAttribute(geometry.positions, 3));
    shared.setAttribute('normal', new BufferAttribute(geometry.normals, 3));
    const ids = new Float32Array(geometry.triangles * 3);
    for (let k = 0; k < ids.length; k++) ids[k] = geometry.triFace[(k / 3) | 0]!;
    shared.setAttribute('faceId', new BufferAttribute(ids, 1));
    shared.setAttribute('uvAt', new BufferAttribute(new Float32Array(geometry.triangles * 6), 2));
    this.modelMesh = new Mesh(shared, this.modelMaterial);
    this.sheetMesh = new Mesh(shared, this.sheetMaterial);
    this.modelMesh.frustumCulled = this.sheetMesh.frustumCulled = false;
    this.sheetMesh.renderOrder = 5;
    this.modelScene.add(this.modelMesh);
    this.sheetScene.add(this.sheetMesh);

    const wire = new BufferGeometry();
    wire.setAttribute('position', new BufferAttribute(geometry.points, 3));
    this.modelWire = new LineSegments(wire, new LineBasicMaterial({ color: '#2a2623', transparent: true, opacity: 0.16, depthWrite: false }));
    this.modelWire.frustumCulled = false;
    this.modelWire.renderOrder = 5;
    this.modelScene.add(this.modelWire);
    const flat = new BufferGeometry();
    flat.setAttribute('position', new BufferAttribute(new Float32Array(geometry.corners.length * 3), 3));
    this.sheetWire = new LineSegments(flat, new LineBasicMaterial({ color: '#2a2623', transparent: true, opacity: 0.22, depthTest: false, depthWrite: false }));
    this.sheetWire.frustumCulled = false;
    this.sheetWire.renderOrder = 6;
    this.sheetScene.add(this.sheetWire);
    for (const [name, line] of Object.entries(this.lines)) if (name !== 'sheetEdge' && !name.startsWith('jig')) line.set(new Float32Array(0));
    for (const dots of Object.values(this.dots)) dots.set(new Float32Array(0));
    this.hidden = null;
    this.reachScene();
    this.indexWires();
    this.invalidate();
  }

  /** Hides faces in both views, with the edges that only they have. */
  setHidden(hidden: Uint8Array | null): void {
    if (hidden === this.hidden || (hidden && hidden.length !== this.geometry?.faces)) return;
    this.hidden = hidden;
    this.indexWires();
    if (this.layout) this.setLayout(this.layout);
    this.invalidate();
  }

  isHidden(face: number): boolean {
    return this.hidden?.[face] === 1;
  }

  private edgeShown(e: number): boolean {
    if (!this.hidden) return true;
    const { edgeStart, edgeCorners } = this.geometry!;
    for (let i = edgeStart[e]!; i < edgeStart[e + 1]!; i++) if (!this.hidden[this.faceOfCorner(edgeCorners[i]!)]) return true;
    return false;
  }

  private indexWires(): void {
    const { geometry, hidden } = this;
    if (!geometry || !this.modelWire || !this.sheetWire) return;
    let edges = geometry.edgePoints;
    if (hidden) {
      const kept: number[] = [];
      for (let e = 0; e * 2 < geometry.edgePoints.length; e++) if (this.edgeShown(e)) kept.push(geometry.edgePoints[e * 2]!, geometry.edgePoints[e * 2 + 1]!);
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

  /** Draws a jig's frame, with the image on it where asked for. */
  setJig(jig: Jig | null, image: boolean): void {
    const shape = jig ? jigShape(jig) : { lines: [], start: [], places: [], uvs: [] };
    this.lines.jig.set(Float32Array.from(shape.lines));
    this.lines.jigBehind.set(Float32Array.from(shape.lines));
    this.lines.jigStart.set(Float32Array.from(shape.start));
    this.lines.jigStartBehind.set(Float32Array.from(shape.start));
    this.jigImage.visible = image && shape.places.length > 0;
    if (this.jigImage.visible) {
      // round the model it must not veil it
      (this.jigImage.material as ShaderMaterial).uniforms.strength!.value = jig!.kind === 'planar' || jig!.kind === 'view' ? 0.27 : 0.12;
      const geometry = this.jigImage.geometry;
      geometry.setAttribute('position', new BufferAttribute(Float32Array.from(shape.places), 3));
      geometry.setAttribute('uvAt', new BufferAttribute(Float32Array.from(shape.uvs), 2));
    }
    this.invalidate('model');
  }

  private previewing = false;
  private marksBad = false;
  /** Shows UVs that are not the layout's: what a jig under the pointer, or one asked about, would make of them. The arrays are taken over. */
  showPreview({ meshId, uvAt, flat, unplaced }: UvPreview, badly: ArrayLike<number> | null = null): void {
    const { geometry, layout } = this;
    if (!geometry || !layout || meshId !== geometry.meshId || !this.modelMesh || !this.sheetWire) return;
    const swap = (attribute: BufferAttribute, array: Float32Array) => {
      attribute.array = array;
      attribute.needsUpdate = true;
    };
    swap(this.modelMesh.geometry.getAttribute('uvAt') as BufferAttribute, uvAt);
    swap(this.sheetWire.geometry.getAttribute('position') as BufferAttribute, flat);
    this.lines.modelSeam.fade(0.35);
    this.lines.sheetBorder.set(new Float32Array(0));
    if (badly || this.marksBad || (!this.previewing && layout.anyUnplaced)) this.fillFaces({ ...layout, unplaced }, badly);
    this.marksBad = badly !== null;
    this.previewing = true;
    this.invalidate();
  }

  /** UVs as they are drawn now. */
  shownUvs(): number[] {
    return this.modelMesh ? Array.from(this.modelMesh.geometry.getAttribute('uvAt').array) : [];
  }

  /** Back to the layout. */
  endPreview(): void {
    if (!this.previewing) return;
    this.lines.modelSeam.fade(1);
    this.marksBad = false;
    if (this.layout) {
      this.setLayout(this.layout);
      this.fillFaces(this.layout);
    }
  }

  private fillFaces: (layout: LayoutView, badly?: ArrayLike<number> | null) => void = () => {};

  setLayout(layout: LayoutView): void {
    this.previewing = false;
    this.lines.modelSeam.fade(1);
    const { geometry } = this;
    if (!geometry || layout.meshId !== geometry.meshId || !this.modelMesh || !this.sheetWire) return;
    this.layout = layout;
    const uvAt = this.modelMesh.geometry.getAttribute('uvAt') as BufferAttribute;
    const to = uvAt.array as Float32Array;
    for (let k = 0; k < geometry.triCorner.length; k++) {
      const c = geometry.triCorner[k]!;
      to[k * 2] = layout.cornerUv[c * 2]!;
      to[k * 2 + 1] = layout.cornerUv[c * 2 + 1]!;
    }
    uvAt.needsUpdate = true;
    const flat = this.sheetWire.geometry.getAttribute('position') as BufferAttribute;
    const at = flat.array as Float32Array;
    for (let f = 0; f < geometry.faces; f++) {
      for (let c = geometry.faceStart[f]!; c < geometry.faceStart[f + 1]!; c++) {
        // a face without a place shrinks to a dot far off the sheet
        at[c * 3] = layout.unplaced[f] ? -1e4 : layout.cornerUv[c * 2]!;
        at[c * 3 + 1] = layout.unplaced[f] ? -1e4 : layout.cornerUv[c * 2 + 1]!;
      }
    }
    flat.needsUpdate = true;
    const seams: number[] = [];
    for (let e = 0; e < layout.edgeStates.length; e++) if (layout.edgeStates[e] === 1 && this.edgeShown(e)) seams.push(e);
    this.lines.modelSeam.set(this.modelSegments(seams));
    const border: number[] = [];
    for (let c = 0; c < geometry.corners.length; c++)
      if (layout.edgeStates[geometry.cornerEdge[c]!] !== 0 && !(this.hidden && this.isHidden(this.faceOfCorner(c)))) border.push(c);
    this.lines.sheetBorder.set(this.sheetSegments(border));
    this.invalidate();
  }

  /** Places of mesh points in space, 3 numbers each. */
  private modelPlaces(ids: ArrayLike<number>): Float32Array {
    const out = new Float32Array(ids.length * 3);
    for (let k = 0; k < ids.length; k++) for (let d = 0; d < 3; d++) out[k * 3 + d] = this.geometry!.points[ids[k]! * 3 + d]!;
    return out;
  }

  /** Places of mesh points on the sheet, one for each different one, 3 numbers each. */
  private sheetPlaces(ids: ArrayLike<number>): Float32Array {
    const { geometry, layout } = this;
    if (!geometry || !layout || ids.length === 0) return new Float32Array(0);
    const wanted = new Uint8Array(geometry.points.length / 3);
    for (let k = 0; k < ids.length; k++) wanted[ids[k]!] = 1;
    const out: number[] = [];
    const seen = new Set<string>();
    for (let c = 0; c < geometry.corners.length; c++) {
      if (!wanted[geometry.corners[c]!] || layout.unplaced[this.faceOfCorner(c)]) continue;
      const [u, v] = [layout.cornerUv[c * 2]!, layout.cornerUv[c * 2 + 1]!];
      const key = `${u},${v}`;
      if (seen.has(key)) continue;
      seen.add(key);
      out.push(u, v, 0);
    }
    return Float32Array.from(out);
  }

  /** Ends of edges in space, 6 numbers each. */
  modelSegments(edges: ArrayLike<number>): Float32Array {
    const { points, edgePoints } = this.geometry!;
    const out = new Float32Array(edges.length * 6);
    for (let k = 0; k < edges.length; k++) {
      for (let end = 0; end < 2; end++) {
        const p = edgePoints[edges[k]! * 2 + end]! * 3;
        for (let d = 0; d < 3; d++) out[k * 6 + end * 3 + d] = points[p + d]!;
      }
    }
    return out;
  }

  /** Ends of half edges on the sheet, 6 numbers each; corners of faces without a place are left out. */
  sheetSegments(corners: ArrayLike<number>): Float32Array {
    const { layout } = this;
    if (!layout) return new Float32Array(0);
    const out: number[] = [];
    for (let k = 0; k < corners.length; k++) {
      const c = corners[k]!;
      const f = this.faceOfCorner(c);
      if (layout.unplaced[f]) continue;
      const n = this.nextCorner(c, f);
      out.push(layout.cornerUv[c * 2]!, layout.cornerUv[c * 2 + 1]!, 0, layout.cornerUv[n * 2]!, layout.cornerUv[n * 2 + 1]!, 0);
    }
    return Float32Array.from(out);
  }

  faceOfCorner(c: number): number {
    const { faceStart } = this.geometry!;
    let low = 0;
    let high = faceStart.length - 2;
    while (low < high) {
      const mid = (low + high + 1) >> 1;
      if (faceStart[mid]! <= c) low = mid;
      else high = mid - 1;
    }
    return low;
  }

  nextCorner(c: number, f: number): number {
    const { faceStart } = this.geometry!;
    return c + 1 === faceStart[f + 1]! ? faceStart[f]! : c + 1;
  }

  cornersOfEdges(edges: ArrayLike<number>): number[] {
    const { edgeStart, edgeCorners } = this.geometry!;
    const out: number[] = [];
    for (let k = 0; k < edges.length; k++) for (let i = edgeStart[edges[k]!]!; i < edgeStart[edges[k]! + 1]!; i++) out.push(edgeCorners[i]!);
    return out;
  }

  /** The test grid with its repeats, and the part's image if it has one. */
  setPictures(pictures: Partial<{ grid: Texture; image: Texture | null; repeats: number }>): void {
    Object.assign(this.textures, pictures);
    this.invalidate();
  }

  private placement: ImagePlacement = asItLies;
  /** How the part's image lies in the UVs. */
  setPlacement(placement: ImagePlacement | null, state: Pick<BenchState, 'look' | 'overlay'>): void {
    this.placement = placement ?? asItLies;
    this.setLook(state);
  }

  /** How things are shown; what the model and sheet show of pictures follows from it, too. */
  setLook({ look, overlay }: Pick<BenchState, 'look' | 'overlay'>): void {
    const { grid, image, repeats } = this.textures;
    const u = this.uniforms;
    const shown = overlay === 'picture' ? (image ?? grid) : grid;
    u.picture.value = shown;
    u.repeats.value = shown === grid ? repeats : 1;
    const placement = shown === grid ? asItLies : this.placement;
    const [a, b, c, d, e, f] = placementMatrix(placement);
    u.placement.value.set(a, b, c, d, e, f, 0, 0, 1);
    u.outside.value = [placement.outsideU, placement.outsideV].map((kind) => outsideKinds.indexOf(kind));
    u.channel.value = shown === grid ? 0 : ['all', 'red', 'green', 'blue', 'alpha'].indexOf(look.channel);
    u.light.value = ['room', 'even', 'lamp'].indexOf(look.light);
    const [side, height] = [look.lampSide, look.lampHeight].map((degrees) => (degrees * Math.PI) / 180) as [number, number];
    u.lamp.value.set(Math.sin(side) * Math.cos(height), Math.sin(height), Math.cos(side) * Math.cos(height));
    u.fillSelected.value = fillsSelection({ look, overlay });
    this.farSide = look.farSide;
    const under = look.under === 'picture' ? image : look.under === 'grid' ? grid : null;
    this.sheetPicture.visible = under !== null;
    if (under) {
      const ground = (this.sheetPicture.material as ShaderMaterial).uniforms;
      ground.picture!.value = under;
      ground.repeats!.value = under === grid ? repeats : 1;
      ground.channel!.value = under === grid ? 0 : ['all', 'red', 'green', 'blue', 'alpha'].indexOf(look.channel);
      ground.opacity!.value = look.underOpacity;
    }
    this.invalidate();
  }

  /** While the pointer drags, marks step back so that what is below can be seen. */
  setDragging(dragging: boolean): void {
    const strength = dragging ? 0.3 : 1;
    this.lines.modelSelected.fade(strength);
    this.lines.sheetSelected.fade(strength);
    this.uniforms.mark.value = dragging ? 0.2 : 0.62;
    this.invalidate();
  }

  /** Draws other parts as mere context. @param shown parts to draw, by id; the one at work is never among them */
  setContexts(
    all: ReadonlyMap<string, ContextGeometry>,
    shown: ReadonlySet<string>,
    marked: ReadonlySet<string>,
    pointed: string | null,
    picking: boolean,
  ): void {
    for (const [id, held] of this.contexts) {
      if (all.get(id) === held.geometry) continue;
      held.mesh.geometry.dispose();
      held.material.dispose();
      held.mesh.removeFromParent();
      this.contexts.delete(id);
    }
    for (const [id, geometry] of all) {
      let held = this.contexts.get(id);
      if (!held) {
        const buffers = new BufferGeometry();
        buffers.setAttribute('position', new BufferAttribute(geometry.positions, 3));
        buffers.setAttribute('normal', new BufferAttribute(geometry.normals, 3));
        const material = new ShaderMaterial({
          vertexShader: contextVertexShader,
          fragmentShader: contextFragmentShader,
          uniforms: {
            clay: this.uniforms.clay,
            light: this.uniforms.light,
            lamp: this.uniforms.lamp,
            solid: { value: 0.3 },
            tint: this.uniforms.selectedColor,
            tinted: { value: 0 },
          },
          // see-through, so that nothing ever stands before the part at work
          side: DoubleSide,
          transparent: true,
          depthWrite: false,
        });
        held = { geometry, mesh: new Mesh(buffers, material), material };
        held.mesh.frustumCulled = false;
        held.mesh.renderOrder = 3;
        this.contexts.set(id, held);
        this.modelScene.add(held.mesh);
      }
      held.mesh.visible = shown.has(id) && id !== this.geometry?.part;
      held.material.uniforms.solid!.value = pointed === id ? 0.85 : picking ? 0.55 : 0.24;
      held.material.uniforms.tinted!.value = marked.has(id) ? 0.45 : 0;
    }
    this.reachScene();
    this.invalidate('model');
  }

  /** The eye's depth range takes in all that is drawn. */
  private reachScene(): void {
    const boxes = [...this.contexts.values()].filter(({ mesh }) => mesh.visible).map(({ geometry }) => geometry.bounds);
    if (this.geometry) boxes.push(this.geometry.bounds);
    this.eye.scene = [0, 1, 2, 3, 4, 5].map((k) => (k < 3 ? Math.min : Math.max)(...boxes.map((box) => box[k]!)));
  }

  /** Other parts in sight, for picking. */
  shownContexts(): ContextGeometry[] {
    return [...this.contexts.values()].filter(({ mesh }) => mesh.visible).map(({ geometry }) => geometry);
  }

  /** Colours, flags and lines that follow from how the job is looked at. */
  paint(state: BenchState): void {
    const { geometry, layout } = this;
    if (!geometry || !layout || !this.faceTexture || state.layout !== layout) return;
    const selection = state.summary?.selection;
    const mine = selection && selection.part === geometry.part ? selection : null;
    let faces: Uint8Array | null = null;
    let edges: Uint32Array | null = null;
    let points: Uint32Array | null = null;
    if (state.kind === 'parts') {
      if (state.summary?.selectedParts.includes(geometry.part)) faces = new Uint8Array(geometry.faces).fill(1);
    } else if (mine && mine.ids.length > 0) {
      if (mine.kind === 'edges') edges = mine.ids;
      else if (mine.kind === 'points') points = mine.ids;
      else {
        faces = new Uint8Array(geometry.faces);
        if (mine.kind === 'faces') for (const f of mine.ids) faces[f] = 1;
        else {
          const chosen = new Uint8Array(layout.islands.length);
          for (const i of mine.ids) chosen[i] = 1;
          for (let f = 0; f < geometry.faces; f++) faces[f] = chosen[layout.faceIsland[f]!]!;
        }
      }
    }
    this.uniforms.overlay.value = state.overlay === 'grid' || state.overlay === 'picture' ? 0 : state.overlay === 'plain' ? 2 : 1;
    this.setLook(state);
    this.fillFaces = (shown, badly = null) =>
      this.faceTexture!.fill(
        shown,
        state.measures?.part === geometry.part ? state.measures : null,
        state.overlay,
        state.fault,
        faces,
        this.hidden,
        palettes[this.mode].clay,
        state.density?.layout.meshId === geometry.meshId ? state.density : null,
        badly,
        state.station === 'seams' ? (state.summary?.parts.find((part) => part.id === geometry.part)?.seamMarks ?? null) : null,
      );
    this.uniforms.keepSign.value = state.station === 'seams';
    if (!this.previewing) this.fillFaces(layout);
    this.dots.modelSelected.set(this.modelPlaces(points ?? []));
    this.dots.sheetSelected.set(this.sheetPlaces(points ?? []));
    if (faces) {
      const outline = this.outlineOf(faces);
      this.lines.modelSelected.set(this.modelSegments(outline.edges));
      this.lines.sheetSelected.set(this.sheetSegments(outline.corners));
    } else {
      this.lines.modelSelected.set(edges ? this.modelSegments(edges) : new Float32Array(0));
      this.lines.sheetSelected.set(edges ? this.sheetSegments(this.cornersOfEdges(edges)) : new Float32Array(0));
    }
    this.invalidate();
  }

  /** Edges and half edges between chosen faces and the rest (and where the layout is split on the sheet). */
  private outlineOf(faces: Uint8Array): { edges: number[]; corners: number[] } {
    const { edgeStart, edgeCorners, faceStart, cornerEdge } = this.geometry!;
    const faceOf = new Int32Array(this.geometry!.corners.length);
    for (let f = 0; f + 1 < faceStart.length; f++) faceOf.fill(f, faceStart[f]!, faceStart[f + 1]!);
    const edges: number[] = [];
    const corners: number[] = [];
    const rim = new Uint8Array(edgeStart.length - 1);
    for (let e = 0; e + 1 < edgeStart.length; e++) {
      let chosen = 0;
      const count = edgeStart[e + 1]! - edgeStart[e]!;
      for (let i = edgeStart[e]!; i < edgeStart[e + 1]!; i++) chosen += faces[faceOf[edgeCorners[i]!]!]!;
      if (chosen > 0 && (chosen < count || count === 1)) {
        rim[e] = 1;
        edges.push(e);
      }
    }
    for (let c = 0; c < faceOf.length; c++) if (faces[faceOf[c]!] && (rim[cornerEdge[c]!] || this.layout!.edgeStates[cornerEdge[c]!] !== 0)) corners.push(c);
    return { edges, corners };
  }

  hover(state: Pick<BenchState, 'hover' | 'kind' | 'penEdges' | 'tool'>): void {
    const { geometry, layout } = this;
    if (!geometry || !layout) return;
    const { hover, kind } = state;
    let edges: number[] = [];
    let corners: number[] = [];
    let points: number[] = [];
    if (hover) {
      if (kind === 'points') {
        points = hover.point >= 0 ? [hover.point] : [];
      } else if (kind === 'edges') {
        if (hover.edge >= 0) {
          edges = [hover.edge];
          corners = this.cornersOfEdges(edges);
        }
      } else if (kind === 'faces') {
        if (hover.face >= 0 && hover.face < geometry.faces) {
          for (let c = geometry.faceStart[hover.face]!; c < geometry.faceStart[hover.face + 1]!; c++) {
            corners.push(c);
            edges.push(geometry.cornerEdge[c]!);
          }
        }
      } else if (hover.island >= 0) {
        for (let f = 0; f < geometry.faces; f++) {
          if (layout.faceIsland[f] !== hover.island) continue;
          for (let c = geometry.faceStart[f]!; c < geometry.faceStart[f + 1]!; c++) {
            if (layout.edgeStates[geometry.cornerEdge[c]!] === 0) continue;
            corners.push(c);
            edges.push(geometry.cornerEdge[c]!);
          }
        }
      }
    }
    this.partner = this.partnerLines(edges.length === 1 ? edges[0]! : -1);
    this.lines.sheetPartner.set(this.partner);
    this.dots.modelHover.set(this.modelPlaces(points));
    this.dots.sheetHover.set(this.sheetPlaces(points));
    this.lines.modelHover.set(this.modelSegments(edges));
    this.lines.sheetHover.set(this.sheetSegments(corners));
    this.lines.modelPen.set(this.modelSegments(state.penEdges));
    this.invalidate();
  }

  private partner: Float32Array = new Float32Array(0);
  /** The line from the seam edge under the pointer to its partner: 6 numbers, or none. */
  partnerShown(): number[] {
    return [...this.partner];
  }

  /** Between the middles of a seam edge's two sides on the sheet. */
  private partnerLines(edge: number): Float32Array {
    const { layout } = this;
    if (edge < 0 || !layout || layout.edgeStates[edge] !== 1) return new Float32Array(0);
    const middles = this.cornersOfEdges([edge])
      .filter((c) => !layout.unplaced[this.faceOfCorner(c)] && !this.isHidden(this.faceOfCorner(c)))
      .map((c) => {
        const n = this.nextCorner(c, this.faceOfCorner(c));
        return [0, 1].map((d) => (layout.cornerUv[c * 2 + d]! + layout.cornerUv[n * 2 + d]!) / 2) as [number, number];
      });
    if (middles.length < 2) return new Float32Array(0);
    return Float32Array.from(middles.slice(1).flatMap((to) => [...middles[0]!, 0, ...to, 0]));
  }

  setPenColor(uncuts: boolean): void {
    this.lines.modelPen.recolor(uncuts ? '#4a6d73' : '#c2458f');
  }

  private readonly due = new Set<ViewName>();
  private readonly overDue = new Set<ViewName>();
  private canvasSize = '';

  /** A view, or both, will be drawn anew. */
  invalidate(view?: ViewName): void {
    for (const name of view ? [view] : (['model', 'sheet'] as const)) this.due.add(name);
    this.schedule();
  }

  /** What lies over a view will be drawn anew, the view itself stays as it is. */
  invalidateOver(view: ViewName): void {
    if (this.overDue.size === 0)
      requestAnimationFrame(() => {
        const due = [...this.overDue];
        this.overDue.clear();
        for (const name of due) for (const draw of this.overlays[name]) draw();
      });
    this.overDue.add(view);
  }

  /** Draws the views that are due into their rectangles of the canvas; the other one stays. */
  render(gl: WebGLRenderer, canvasHeight: number): void {
    const { width: across, height: down } = gl.domElement;
    // a canvas of a new size is empty
    if (this.canvasSize !== `${across} ${down}`) this.due.add('model').add('sheet');
    this.canvasSize = `${across} ${down}`;
    const p = palettes[this.mode];
    gl.setScissorTest(true);
    gl.autoClear = false;
    for (const name of ['model', 'sheet'] as const) {
      const { left, top, width, height } = this.rects[name];
      if (!this.due.has(name) || width < 2 || height < 2) continue;
      const bottom = canvasHeight - top - height;
      gl.setViewport(left, bottom, width, height);
      gl.setScissor(left, bottom, width, height);
      gl.setClearColor(new Color(name === 'sheet' ? p.mat : p.stageTop), 1);
      gl.clear();
      if (name === 'model') {
        this.eye.update(width, height);
        const dash = (this.eye.distance * 2 * Math.tan((35 * Math.PI) / 360) * 7) / height;
        for (const line of Object.values(this.lines)) line.prepare(width, height, dash);
        this.fadeModelWire(height);
        gl.render(this.modelScene, this.eye.camera);
        if (this.farSide) this.renderFarSide(gl, canvasHeight);
      } else {
        this.sheetEye.update(width, height);
        for (const line of Object.values(this.lines)) line.prepare(width, height, 8 / this.sheetEye.scale);
        this.fadeSheetWire();
        gl.render(this.sheetScene, this.sheetEye.camera);
      }
    }
    gl.setScissorTest(false);
    for (const name of this.due) for (const draw of this.overlays[name]) draw();
    this.due.clear();
  }

  /** Right, up and towards the eye as the model view has them. */
  eyeAxes(): { right: number[]; up: number[]; out: number[]; distance: number; target: number[]; tan: number } {
    const { matrixWorld } = this.eye.camera;
    const column = (k: number) => new Vector3().setFromMatrixColumn(matrixWorld, k).toArray();
    return {
      right: column(0),
      up: column(1),
      out: column(2),
      distance: this.eye.distance,
      target: this.eye.target.toArray(),
      tan: Math.tan((this.eye.camera.fov * Math.PI) / 360),
    };
  }

  /** Where the far side is shown, in px of the model view from its top left. */
  farRect(): Rect {
    const { width, height } = this.rects.model;
    const side = Math.round(Math.min(width * 0.34, height * 0.3));
    return { left: width - side - 8, top: height - side - 84, width: side, height: side };
  }

  private renderFarSide(gl: WebGLRenderer, canvasHeight: number): void {
    const far = this.farRect();
    const { left, top } = this.rects.model;
    const bottom = canvasHeight - top - far.top - far.height;
    gl.setViewport(left + far.left, bottom, far.width, far.height);
    gl.setScissor(left + far.left, bottom, far.width, far.height);
    gl.setClearColor(new Color(palettes[this.mode].stageTop), 1);
    gl.clear();
    this.farEye.follow(this.eye, this.eye.azimuth + Math.PI, -this.eye.elevation);
    this.farEye.update(far.width, far.height);
    for (const line of Object.values(this.lines)) line.prepare(far.width, far.height, (this.eye.distance * 0.6) / far.height);
    gl.render(this.modelScene, this.farEye.camera);
  }

  /** Edges closer than a few px apart would make the model grey: they fade out. */
  private fadeModelWire(height: number): void {
    const { geometry } = this;
    if (!geometry || !this.modelWire) return;
    const [x0, y0, z0, x1, y1, z1] = geometry.bounds;
    const size = Math.hypot(x1 - x0, y1 - y0, z1 - z0);
    const edge = (size * 1.4) / Math.sqrt(Math.max(1, geometry.faces));
    const px = (edge / (2 * this.eye.distance * Math.tan((35 * Math.PI) / 360))) * height;
    const opacity = Math.max(0, Math.min(0.3, (px - 3) * 0.022));
    (this.modelWire.material as LineBasicMaterial).opacity = opacity;
    this.modelWire.visible = opacity > 0.01;
  }

  private fadeSheetWire(): void {
    if (!this.geometry || !this.sheetWire) return;
    const px = (0.7 / Math.sqrt(Math.max(1, this.geometry.faces))) * this.sheetEye.scale;
    const opacity = Math.max(0, Math.min(0.35, (px - 2.5) * 0.03));
    (this.sheetWire.material as LineBasicMaterial).opacity = opacity;
    this.sheetWire.visible = opacity > 0.01;
  }

  dispose(): void {
    for (const old of [this.modelMesh, this.sheetMesh, this.modelWire, this.sheetWire]) old?.geometry.dispose();
    for (const { mesh, material } of this.contexts.values()) {
      mesh.geometry.dispose();
      material.dispose();
    }
    this.faceTexture?.dispose();
  }
}
