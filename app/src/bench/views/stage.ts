import { Color, DoubleSide, Matrix3, Scene, ShaderMaterial, Vector3, type BufferGeometry, type IUniform, type Texture, type WebGLRenderer } from 'three';
import { asItLies, outsideKinds, placementMatrix, type ImagePlacement, type Jig } from '@jig-peel/core';
import type { FormView, AlsoMarks, ContextGeometry, LayoutView, PartGeometry, SheetPart, UvPreview } from '../../session/messages.ts';
import { fillsSelection, type BenchState } from '../../store/bench.ts';
import { palettes, rgb, type Mode } from '../../theme/palette.ts';
import { ModelCamera, SheetCamera } from './cameras.ts';
import { ContextLayer, type ContextLook } from './layers/contextLayer.ts';
import type { FormMesh } from './layers/formMesh.ts';
import { JigFrame } from './layers/jigFrame.ts';
import { Marks } from './layers/marks.ts';
import { PartLayer } from './layers/partLayer.ts';
import type { PartTopology } from './layers/partTopology.ts';
import { SheetGround } from './layers/sheetGround.ts';
import { SheetNeighbours } from './layers/sheetNeighbours.ts';
import type { WideLines } from './layers/wideLines.ts';
import { blankTexture } from './pictures.ts';
import { fragmentShader, vertexShader } from './shaders.ts';

export type ViewName = 'model' | 'sheet';
export interface Rect {
  left: number;
  top: number;
  width: number;
  height: number;
}

/** What the part at work is drawn with in place of its own picture: layers. */
export interface Skin {
  readonly model: ShaderMaterial;
  readonly sheet: ShaderMaterial;
  /** Puts what the shaders need on the geometry. */
  dress(geometry: BufferGeometry): void;
}

const one = { columns: 1, rows: 1 };
const none = new Float32Array(0);
/** Lines along u and v that the model shows, each way. */
const linesPerSheet = 16;
const channels: readonly string[] = ['all', 'red', 'green', 'blue', 'alpha'];
const lights: readonly string[] = ['room', 'even', 'lamp'];

/** Everything that is drawn: two scenes of the same part in layers, two eyes, one renderer. Holds no state of the job beyond what it draws. */
export class Stage {
  readonly eye: ModelCamera;
  readonly sheetEye = new SheetCamera();
  /** A hand has moved the view: it stays where it was put. Others keep the whole in sight. */
  moved = { model: false, sheet: false };
  readonly rects: Record<ViewName, Rect> = { model: { left: 0, top: 0, width: 0, height: 0 }, sheet: { left: 0, top: 0, width: 0, height: 0 } };
  /** Asks for a call of `render`. */
  schedule: () => void = () => {};
  /** Called when their view is drawn: what is drawn over a view follows its eye. */
  readonly overlays: Record<ViewName, Set<() => void>> = { model: new Set(), sheet: new Set() };
  layout: LayoutView | null = null;
  /** 1 for each face that is hidden. */
  hidden: Uint8Array | null = null;

  private readonly scenes = { model: new Scene(), sheet: new Scene() };
  private readonly textures: { grid: Texture; image: Texture | null; repeats: number; tiles: { columns: number; rows: number } | null } = {
    grid: blankTexture(),
    image: null,
    repeats: 1,
    tiles: null,
  };
  private readonly uniforms = {
    picture: { value: this.textures.grid },
    faces: { value: null as Texture | null },
    overlay: { value: 0 },
    layered: { value: false },
    raised: { value: false },
    repeats: { value: 1 },
    placement: { value: new Matrix3() },
    outside: { value: [0, 0] },
    clay: { value: new Vector3() },
    selectedColor: { value: new Vector3() },
    inkColor: { value: new Vector3() },
    fillSelected: { value: true },
    keepSign: { value: false },
    uvLines: { value: 0 },
    sheetOpacity: { value: 1 },
    channel: { value: 0 },
    light: { value: 0 },
    lamp: { value: new Vector3(0, 0, 1) },
    mark: { value: 0.62 },
  };
  private readonly materials = { model: this.faceMaterial(false), sheet: this.faceMaterial(true) };
  private readonly ground = new SheetGround(this.scenes.sheet, this.textures.grid);
  private readonly marks = new Marks(this.scenes);
  private readonly neighbours = new SheetNeighbours(this.scenes.sheet);
  private readonly jig = new JigFrame(this.scenes.model, this.uniforms);
  private readonly contexts: ContextLayer;
  private part: PartLayer | null = null;
  private mode: Mode = 'light';
  private placement: ImagePlacement = asItLies;
  private readonly farEye = new ModelCamera();
  private farSide = false;
  private previewing = false;
  private moving = false;
  /** What is drawn of borders and of the selection on the sheet. */
  private border: ArrayLike<number> = [];
  private selectedCorners: ArrayLike<number> = [];
  private selectedPoints: { points: ArrayLike<number>; corners: ArrayLike<number> | null } = { points: [], corners: null };
  /** Faces are coloured and marked by what a preview says. */
  private fillsPreview = false;
  /** What `setLook` has shown last. */
  private seen: unknown[] = [];
  private partner: Float32Array = none;
  private fillFaces: (layout: LayoutView, badly?: ArrayLike<number> | null) => void = () => {};

  /** @param eye of the model view */
  constructor(eye = new ModelCamera()) {
    this.eye = eye;
    const { clay, light, lamp, selectedColor } = this.uniforms;
    this.contexts = new ContextLayer(this.scenes.model, { clay, light, lamp, tint: selectedColor });
    this.setMode('light');
  }

  private faceMaterial(onSheet: boolean, shaders = { vertexShader, fragmentShader }, more: Record<string, IUniform> = {}): ShaderMaterial {
    return new ShaderMaterial({
      ...shaders,
      uniforms: { ...this.uniforms, ...more, onSheet: { value: onSheet } },
      side: DoubleSide,
      transparent: onSheet,
      depthTest: !onSheet,
      depthWrite: !onSheet,
      polygonOffset: !onSheet,
      polygonOffsetFactor: 1.5,
      polygonOffsetUnits: 2,
    });
  }

  /** Both materials of the part at work with other shaders. */
  materialsWith(shaders: { vertexShader: string; fragmentShader: string }, more: Record<string, IUniform>): { model: ShaderMaterial; sheet: ShaderMaterial } {
    return { model: this.faceMaterial(false, shaders, more), sheet: this.faceMaterial(true, shaders, more) };
  }

  /** Looks at a form in place of the cage, as `make` draws it into the model's scene; null: the cage. Marks follow with the next `paint`. */
  setForm(meshId: number, make: ((cage: PartGeometry, scene: Scene) => FormMesh) | null): void {
    const { part, layout } = this;
    if (!part || part.geometry.meshId !== meshId) return;
    const form = make ? make(part.geometry, this.scenes.model) : null;
    part.setForm(form);
    this.uniforms.raised.value = form?.isRaised ?? false;
    if (layout && !this.previewing) this.setLayout(layout);
    this.invalidate();
  }

  /** The form that is drawn in place of the cage, if any is. */
  get formShown(): FormView | null {
    return this.part?.formShown ?? null;
  }

  /** Layers on the part at work; null: its own picture alone. */
  setSkin(skin: Skin | null): void {
    if (skin) this.part?.dress(skin, (geometry) => skin.dress(geometry));
    else this.part?.dress(this.materials);
    this.invalidate();
  }

  /** Until the graphics have made the shaders of a skin: one that is still being made holds up the frame in which it is drawn first. */
  async madeReady(skin: Skin): Promise<void> {
    const { drawnWith: gl, part } = this;
    if (gl && part) await gl.compileAsync(part.dressedIn(skin), this.eye.camera);
  }

  /** Tiles that the part's own picture consists of. */
  get pictureTiles(): { columns: number; rows: number } | null {
    return this.textures.tiles;
  }

  /** For a picture that cannot be read. */
  readonly blank = blankTexture();

  private get lines(): WideLines[] {
    return [...Object.values(this.marks.lines), ...this.jig.lines, this.ground.edge, ...this.neighbours.lines, ...this.guests];
  }

  private guests: readonly WideLines[] = [];

  /** Lines over the model that a card shows while it is open, in place of those before. */
  setGuests(lines: readonly WideLines[]): void {
    for (const line of this.guests) line.removeFrom(this.scenes.model);
    this.guests = lines;
    for (const line of lines) line.addTo(this.scenes.model);
    this.invalidate('model');
  }

  get geometry(): PartGeometry | null {
    return this.part?.geometry ?? null;
  }

  /** Of the part at work. @throws Error without one */
  get topology(): PartTopology {
    if (!this.part) throw new Error('no part is at work');
    return this.part.topology;
  }

  /** Every colour that is drawn follows the theme. */
  setMode(mode: Mode): void {
    this.mode = mode;
    const palette = palettes[mode];
    const raw = (hex: string) => new Vector3(...rgb(hex).map((x) => x / 255));
    this.uniforms.clay.value = raw(palette.clay);
    this.uniforms.selectedColor.value = raw(palette.selected);
    this.uniforms.inkColor.value = raw(palette.selectedEdge);
    this.ground.recolor(palette);
    this.marks.recolor(palette);
    this.neighbours.recolor(palette);
    for (const line of this.jig.lines) line.recolor(palette.jig, palette.seamCasing);
    this.part?.recolor(palette.wire);
    this.invalidate();
  }

  /** Shown once its layout is there. */
  setGeometry(geometry: PartGeometry): void {
    this.part?.dispose();
    this.layout = null;
    this.hidden = null;
    this.part = new PartLayer(geometry, this.scenes, this.materials, palettes[this.mode].wire);
    this.uniforms.faces.value = this.part.faceTexture.texture;
    this.marks.clear();
    this.reachScene();
  }

  /** Hides faces in both views, with the edges that only they have. */
  setHidden(hidden: Uint8Array | null): void {
    if (hidden === this.hidden || (hidden && hidden.length !== this.geometry?.faces)) return;
    this.hidden = hidden;
    this.part?.hide(hidden);
    if (this.layout) this.setLayout(this.layout);
    this.invalidate();
  }

  isHidden(face: number): boolean {
    return this.hidden?.[face] === 1;
  }

  /** Draws a jig's frame, with the image on it where asked for. */
  setJig(jig: Jig | null, image: boolean): void {
    this.jig.show(jig, image);
    this.invalidate('model');
  }

  /** Shows UVs that are not the layout's: what a jig under the pointer, or one asked about, would make of them. The arrays are taken over. */
  showPreview(preview: UvPreview, badly: ArrayLike<number> | null = null): void {
    const { part, layout } = this;
    if (!part || !layout || preview.meshId !== part.geometry.meshId) return;
    part.showPreview(preview);
    this.neighbours.endMove();
    for (const { part: id, places } of preview.beside ?? []) this.neighbours.move(id, places, true);
    this.marks.lines.modelSeam.fade(0.35);
    this.marks.lines.sheetBorder.set(none);
    this.marks.lines.sheetSelected.set(none);
    const { faces } = preview;
    if (badly || faces || this.fillsPreview || (!this.previewing && layout.anyUnplaced))
      this.fillFaces({ ...layout, ...faces, unplaced: preview.unplaced }, badly);
    this.fillsPreview = badly !== null || faces !== undefined;
    this.previewing = true;
    this.invalidate();
  }

  /** UVs as they are drawn now. */
  shownUvs(): number[] {
    return this.part ? Array.from(this.part.shownUvs) : [];
  }

  /** Back to the layout. */
  endPreview(): void {
    this.neighbours.endMove();
    if (!this.previewing) return;
    this.marks.lines.modelSeam.fade(1);
    this.fillsPreview = false;
    if (this.layout) {
      this.setLayout(this.layout);
      if (this.part) this.marks.lines.sheetSelected.set(this.part.topology.cornerSegments(this.selectedCorners, this.layout));
      this.fillFaces(this.layout);
    }
  }

  /** O(corners) */
  setLayout(layout: LayoutView): void {
    const { part, hidden } = this;
    this.previewing = false;
    this.marks.lines.modelSeam.fade(1);
    if (!part || layout.meshId !== part.geometry.meshId) return;
    const { geometry, topology } = part;
    this.layout = layout;
    part.showLayout(layout);
    const seams: number[] = [];
    for (let e = 0; e < layout.edgeStates.length; e++) if (layout.edgeStates[e] === 1 && topology.isEdgeShown(e, hidden)) seams.push(e);
    this.marks.lines.modelSeam.set(topology.edgeSegments(seams));
    const border: number[] = [];
    for (let c = 0; c < geometry.corners.length; c++)
      if (layout.edgeStates[geometry.cornerEdge[c]!] !== 0 && !(hidden && this.isHidden(topology.faceOfCorner(c)))) border.push(c);
    this.border = border;
    this.marks.lines.sheetBorder.set(topology.cornerSegments(border, layout));
    this.invalidate();
  }

  /** The test grid with its repeats, and the part's image if it has one; shown by the next `setLook`. */
  setPictures(pictures: Partial<Stage['textures']>): void {
    Object.assign(this.textures, pictures);
  }

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
    const channelOf = (texture: Texture) => (texture === grid ? 0 : channels.indexOf(look.channel));
    u.picture.value = shown;
    u.layered.value = overlay === 'picture';
    u.repeats.value = shown === grid ? repeats : 1;
    const placement = shown === grid ? asItLies : this.placement;
    const [a, b, c, d, e, f] = placementMatrix(placement);
    // images of tiles are side by side in one texture, nothing beyond them
    const tiles = shown === grid ? null : this.textures.tiles;
    const [across, up] = tiles ? [1 / tiles.columns, 1 / tiles.rows] : [1, 1];
    u.placement.value.set(a * across, b * across, c * across, d * up, e * up, f * up, 0, 0, 1);
    u.outside.value = tiles ? [3, 3] : [placement.outsideU, placement.outsideV].map((kind) => outsideKinds.indexOf(kind));
    u.channel.value = channelOf(shown);
    u.light.value = lights.indexOf(look.light);
    const [side, height] = [look.lampSide, look.lampHeight].map((degrees) => (degrees * Math.PI) / 180) as [number, number];
    u.lamp.value.set(Math.sin(side) * Math.cos(height), Math.sin(height), Math.cos(side) * Math.cos(height));
    u.fillSelected.value = fillsSelection({ look, overlay });
    this.farSide = look.farSide;
    this.uniforms.uvLines.value = look.uvLines ? linesPerSheet : 0;
    const under = look.under === 'picture' ? image : look.under === 'grid' ? grid : null;
    this.ground.show(
      under && {
        texture: under,
        repeats: under === grid ? repeats : 1,
        channel: channelOf(under),
        opacity: look.underOpacity,
        ...(under === grid || !this.textures.tiles ? one : this.textures.tiles),
      },
    );
    // a picture that is not shown draws nothing
    const seen = [
      JSON.stringify(look),
      overlay,
      ...(overlay === 'plain' && !this.jig.showsImage ? [] : [shown.uuid, u.repeats.value, placement]),
      under?.uuid,
      under && repeats,
    ];
    if (seen.length !== this.seen.length || seen.some((one, k) => one !== this.seen[k])) this.invalidate();
    this.seen = seen;
  }

  /** While the pointer drags, marks step back so that what is below can be seen. */
  setDragging(dragging: boolean): void {
    const strength = dragging ? 0.3 : 1;
    this.marks.lines.modelSelected.fade(strength);
    this.marks.lines.sheetSelected.fade(strength);
    this.uniforms.mark.value = dragging ? 0.2 : 0.62;
    this.invalidate();
  }

  /** Draws other parts as mere context. */
  setContexts(all: ReadonlyMap<string, ContextGeometry>, look: ContextLook): void {
    const changes = this.contexts.show(all, look, this.geometry?.part);
    this.reachScene();
    if (changes) this.invalidate('model');
  }

  /** How many tiles the sheet at work has. */
  tiles = 1;
  setTiles(tiles: number): void {
    if (tiles === this.tiles) return;
    this.tiles = tiles;
    this.ground.setTiles(tiles);
    this.invalidate('sheet');
  }

  /** Islands of other parts on the sheet. @param chosen selected ones of each part @param marks what else is selected of them */
  setSheetParts(views: readonly SheetPart[], chosen: ReadonlyMap<string, ReadonlySet<number>>, marks: readonly AlsoMarks[]): void {
    if (this.neighbours.show(views, chosen, marks)) this.invalidate('sheet');
  }

  /** What is selected of other parts, on the model. */
  setAlsoOnModel(marks: readonly AlsoMarks[]): void {
    this.marks.showAlso(marks);
    this.invalidate('model');
  }

  /** Other parts on the sheet, for picking. */
  shownSheetParts(): SheetPart[] {
    return this.neighbours.shown;
  }

  /** Shows corners where a hand has them now. @param moved parts with all their corners: 2 numbers each, and which of them move */
  showMove(moved: readonly { part: string; corners: Uint32Array; places: Float32Array }[]): void {
    const { part, layout } = this;
    for (const { part: id, corners, places } of moved) {
      if (!part || !layout || id !== part.geometry.part) {
        this.neighbours.move(id, places);
        continue;
      }
      part.moveCorners(corners, places);
      const shown = { ...layout, cornerUv: places };
      const { lines, dots } = this.marks;
      lines.sheetBorder.set(part.topology.cornerSegments(this.border, shown));
      lines.sheetSelected.set(part.topology.cornerSegments(this.selectedCorners, shown));
      dots.sheetSelected.set(part.topology.pointPlacesOnSheet(this.selectedPoints.points, shown, this.selectedPoints.corners));
      lines.sheetHover.set(none);
    }
    this.moving = true;
    this.invalidate();
  }

  /** Back to the layout; a step that follows at once shows its own. */
  endMove(): void {
    if (!this.moving) return;
    this.moving = false;
    this.neighbours.endMove();
    if (this.layout) this.setLayout(this.layout);
    this.invalidate();
  }

  /** The eye's depth range takes in all that is drawn. */
  private reachScene(): void {
    const boxes = this.contexts.shown.map(({ bounds }) => bounds);
    if (this.geometry) boxes.push(this.geometry.bounds);
    this.eye.scene = [0, 1, 2, 3, 4, 5].map((k) => (k < 3 ? Math.min : Math.max)(...boxes.map((box) => box[k]!)));
  }

  /** Other parts in sight, for picking. */
  shownContexts(): ContextGeometry[] {
    return this.contexts.shown;
  }

  /** Arrows of the grain; null: none are shown. */
  setGrain(grain: BenchState['grain']): void {
    this.marks.lines.modelGrain.set(grain?.model ?? none);
    this.marks.lines.sheetGrain.set(grain?.sheet ?? none);
    this.invalidate();
  }

  /** Colours, flags and lines that follow from how the job is looked at. */
  paint(state: BenchState): void {
    const { part, layout } = this;
    if (!part || !layout || state.layout !== layout) return;
    const { geometry, topology } = part;
    const { faces, edges, points, corners } = selectionOn(geometry, layout, state);
    this.uniforms.overlay.value = state.overlay === 'grid' || state.overlay === 'picture' ? 0 : state.overlay === 'plain' ? 2 : 1;
    this.setLook(state);
    this.fillFaces = (shown, badly = null) =>
      part.faceTexture.fill(
        shown,
        state.measures?.part === geometry.part ? state.measures : null,
        state.overlay,
        state.stretchMap,
        state.fault,
        faces,
        this.hidden,
        palettes[this.mode].clay,
        state.density?.layout.meshId === geometry.meshId ? state.density : null,
        badly ?? (state.fault === 'close' && state.closeFaces?.layout === shown ? state.closeFaces.faces : null),
        state.station === 'seams' ? (state.summary?.parts.find((one) => one.id === geometry.part)?.seamMarks ?? null) : null,
        state.grain?.layout.meshId === geometry.meshId ? state.grain.angles : null,
      );
    this.uniforms.keepSign.value = state.station === 'seams';
    if (!this.previewing) this.fillFaces(layout);
    const { lines, dots } = this.marks;
    dots.modelSelected.set(topology.pointPlaces(points));
    this.selectedPoints = { points, corners };
    dots.sheetSelected.set(topology.pointPlacesOnSheet(points, layout, corners));
    const outline = faces ? topology.outlineOf(faces, layout) : { edges, corners: corners ?? topology.cornersOfEdges(edges) };
    this.selectedCorners = edges.length > 0 || faces ? outline.corners : [];
    lines.modelSelected.set(topology.edgeSegments(outline.edges));
    lines.sheetSelected.set(topology.cornerSegments(this.selectedCorners, layout));
    this.invalidate();
  }

  hover(state: Pick<BenchState, 'hover' | 'kind' | 'penEdges' | 'hoverMarks' | 'hoverOther'>): void {
    const { part, layout } = this;
    if (!part || !layout) return;
    const { topology } = part;
    const { edges, corners, points } = hovered(part, layout, state);
    const { lines, dots } = this.marks;
    this.partner = this.partnerLine(edges.length === 1 ? edges[0]! : -1);
    lines.sheetPartner.set(this.partner);
    dots.modelHover.set(topology.pointPlaces(points));
    dots.sheetHover.set(topology.pointPlacesOnSheet(points, layout));
    lines.modelHover.set(topology.edgeSegments(edges));
    lines.sheetHover.set(topology.cornerSegments(corners, layout));
    lines.modelPen.set(topology.edgeSegments(state.penEdges));
    this.hoverBeside(state);
    this.invalidate();
  }

  /** What is pointed at of another part: that, or the outline of the island there while nothing of the kind at hand is near. */
  private hoverBeside({ hoverMarks: under, hoverOther }: Pick<BenchState, 'hoverMarks' | 'hoverOther'>): void {
    const { lines, dots } = this.marks;
    const isMarked = under !== null && under.sheet.length > 0;
    this.neighbours.hover(isMarked ? null : hoverOther);
    if (!under) return;
    const isPoint = under.model.length === 3;
    const flat = this.neighbours.placesOf(under.part, under.sheet);
    (isPoint ? dots.modelHover : lines.modelHover).set(under.model);
    (isPoint ? dots.sheetHover : lines.sheetHover).set(flat);
  }

  /** The line from the seam edge under the pointer to its partner: 6 numbers, or none. */
  partnerShown(): number[] {
    return [...this.partner];
  }

  /** Between the middles of a seam edge's two sides on the sheet. */
  private partnerLine(edge: number): Float32Array {
    const { layout, topology } = this;
    if (edge < 0 || !layout || layout.edgeStates[edge] !== 1) return none;
    const middles = topology
      .cornersOfEdges([edge])
      .filter((c) => !layout.unplaced[topology.faceOfCorner(c)] && !this.isHidden(topology.faceOfCorner(c)))
      .map((c) => {
        const n = topology.nextCorner(c, topology.faceOfCorner(c));
        return [0, 1].map((d) => (layout.cornerUv[c * 2 + d]! + layout.cornerUv[n * 2 + d]!) / 2) as [number, number];
      });
    if (middles.length < 2) return none;
    return Float32Array.from(middles.slice(1).flatMap((to) => [...middles[0]!, 0, ...to, 0]));
  }

  setPenColor(uncuts: boolean): void {
    this.marks.setPen(uncuts);
  }

  private readonly due = new Set<ViewName>();
  private readonly overDue = new Set<ViewName>();
  private canvasSize = '';
  /** What it was drawn with last. */
  drawnWith: WebGLRenderer | null = null;

  /** A view, or both, will be drawn again. */
  invalidate(view?: ViewName): void {
    for (const name of view ? [view] : (['model', 'sheet'] as const)) this.due.add(name);
    this.schedule();
  }

  /** What lies over a view will be drawn again, the view itself stays as it is. */
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
    this.drawnWith = gl;
    const { width: across, height: down } = gl.domElement;
    // a canvas of a new size is empty
    if (this.canvasSize !== `${across} ${down}`) this.due.add('model').add('sheet');
    this.canvasSize = `${across} ${down}`;
    const palette = palettes[this.mode];
    gl.setScissorTest(true);
    gl.autoClear = false;
    for (const name of ['model', 'sheet'] as const) {
      const rect = this.rects[name];
      if (!this.due.has(name) || rect.width < 2 || rect.height < 2) continue;
      this.clear(gl, { ...rect, top: canvasHeight - rect.top - rect.height }, name === 'sheet' ? palette.mat : palette.stageTop);
      if (name === 'model') this.renderModel(gl, canvasHeight);
      else this.renderSheet(gl);
    }
    gl.setScissorTest(false);
    for (const name of this.due) for (const draw of this.overlays[name]) draw();
    this.due.clear();
  }

  /** @param rect its top counted from below */
  private clear(gl: WebGLRenderer, { left, top, width, height }: Rect, color: string): void {
    gl.setViewport(left, top, width, height);
    gl.setScissor(left, top, width, height);
    gl.setClearColor(new Color(color), 1);
    gl.clear();
  }

  private renderModel(gl: WebGLRenderer, canvasHeight: number): void {
    const { width, height } = this.rects.model;
    this.eye.update(width, height);
    const unitsPerPx = (2 * this.eye.distance * this.eye.tan) / height;
    for (const line of this.lines) line.prepare(width, height, unitsPerPx * 7);
    this.part?.fadeModelWire(1 / unitsPerPx);
    gl.render(this.scenes.model, this.eye.camera);
    if (this.farSide) this.renderFarSide(gl, canvasHeight);
  }

  /**
   * Draws a piece of a larger picture of the model into the lower left of the canvas, to be read there at once; the views are due again.
   * @param ground a colour; null: transparent
   */
  drawPiece(gl: WebGLRenderer, eye: ModelCamera, full: { width: number; height: number }, piece: Rect, ground: string | null): void {
    const larger = full.height / Math.max(1, this.rects.model.height);
    eye.update(full.width, full.height);
    eye.camera.setViewOffset(full.width, full.height, piece.left, piece.top, piece.width, piece.height);
    const unitsPerPx = (2 * eye.distance * eye.tan) / full.height;
    for (const line of this.lines) line.prepare(piece.width / larger, piece.height / larger, unitsPerPx * larger * 7);
    gl.setScissorTest(true);
    this.clear(gl, { left: 0, top: 0, width: piece.width, height: piece.height }, ground ?? '#000000');
    if (ground === null) {
      gl.setClearColor(0, 0);
      gl.clear();
    }
    gl.render(this.scenes.model, eye.camera);
    gl.setScissorTest(false);
    this.invalidate();
  }

  private renderSheet(gl: WebGLRenderer): void {
    const { width, height } = this.rects.sheet;
    this.sheetEye.update(width, height);
    for (const line of this.lines) line.prepare(width, height, 8 / this.sheetEye.scale);
    this.part?.fadeSheetWire(this.sheetEye.scale);
    gl.render(this.scenes.sheet, this.sheetEye.camera);
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
    this.clear(gl, { ...far, left: left + far.left, top: canvasHeight - top - far.top - far.height }, palettes[this.mode].stageTop);
    this.farEye.follow(this.eye, this.eye.azimuth + Math.PI, -this.eye.elevation);
    this.farEye.update(far.width, far.height);
    for (const line of this.lines) line.prepare(far.width, far.height, (this.eye.distance * 0.6) / far.height);
    gl.render(this.scenes.model, this.farEye.camera);
  }

  dispose(): void {
    this.part?.dispose();
    this.contexts.dispose();
    this.neighbours.dispose();
  }
}

/** What is selected on the part at work: faces by a mark each, or edges and points by their numbers. */
function selectionOn(
  geometry: PartGeometry,
  layout: LayoutView,
  state: BenchState,
): { faces: Uint8Array | null; edges: ArrayLike<number>; points: ArrayLike<number>; corners: Uint32Array | null } {
  const nothing = { faces: null, edges: [], points: [], corners: null };
  if (state.kind === 'parts')
    return state.summary?.selectedParts.includes(geometry.part) ? { ...nothing, faces: new Uint8Array(geometry.faces).fill(1) } : nothing;
  const selection = state.summary?.selection;
  if (!selection || selection.part !== geometry.part || selection.ids.length === 0) return nothing;
  const { kind, ids, corners = null } = selection;
  if (kind === 'edges') return { ...nothing, edges: ids, corners };
  if (kind === 'points') return { ...nothing, points: ids, corners };
  const faces = new Uint8Array(geometry.faces);
  if (kind === 'faces') for (const f of ids) faces[f] = 1;
  else {
    const chosen = new Uint8Array(layout.islands.length);
    for (const i of ids) chosen[i] = 1;
    for (let f = 0; f < geometry.faces; f++) faces[f] = chosen[layout.faceIsland[f]!]!;
  }
  return { ...nothing, faces };
}

/** What the pointer points at: edges, half edges on the sheet, points. */
function hovered(
  { geometry, topology }: PartLayer,
  layout: LayoutView,
  { hover, kind }: Pick<BenchState, 'hover' | 'kind'>,
): { edges: number[]; corners: number[]; points: number[] } {
  const nothing = { edges: [], corners: [], points: [] };
  if (!hover) return nothing;
  if (kind === 'points') return { ...nothing, points: hover.point >= 0 ? [hover.point] : [] };
  if (kind === 'edges') return hover.edge >= 0 ? { ...nothing, edges: [hover.edge], corners: topology.cornersOfEdges([hover.edge]) } : nothing;
  if (kind !== 'faces') return hover.island >= 0 ? { ...nothing, ...topology.borderOfIsland(hover.island, layout) } : nothing;
  if (hover.face < 0 || hover.face >= geometry.faces) return nothing;
  const corners: number[] = [];
  for (let c = geometry.faceStart[hover.face]!; c < geometry.faceStart[hover.face + 1]!; c++) corners.push(c);
  return { ...nothing, corners, edges: corners.map((c) => geometry.cornerEdge[c]!) };
}
