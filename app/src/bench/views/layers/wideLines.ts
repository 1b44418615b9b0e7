import { BufferAttribute, BufferGeometry, GreaterDepth, LineBasicMaterial, LineSegments, Mesh, type Scene } from 'three';
import { LineMaterial } from './lineMaterial.ts';
import { segmentBoxes } from './segmentBoxes.ts';

type Boxes = Mesh<BufferGeometry, LineMaterial>;

export interface LineStyle {
  width: number;
  /** Width of the casing below; none if it is left out. */
  casing?: number;
  dashed?: boolean;
  order: number;
  /** Only where something stands before it. */
  behind?: boolean;
}

/** More segments than these stand so close that only thin lines can be told apart; wide ones, each drawn as a box, would hold up every frame. */
const mostWide = 40_000;

/** A set of wide lines over a casing, rebuilt when its segments change. Very many are drawn thin, without the casing. */
export class WideLines {
  readonly top: Boxes;
  readonly casing: Boxes | null;
  /** Made when it is first needed. */
  thin: LineSegments<BufferGeometry, LineBasicMaterial> | null = null;
  private scene: Scene | null = null;

  constructor({ width, casing, dashed = false, order, behind = false }: LineStyle) {
    const material = (px: number, isDashed: boolean) =>
      new LineMaterial(px, isDashed, { transparent: true, depthWrite: false, ...(behind ? { depthFunc: GreaterDepth } : {}) });
    this.casing = casing ? new Mesh(new BufferGeometry(), material(casing, false)) : null;
    this.top = new Mesh(new BufferGeometry(), material(width, dashed));
    for (const [k, line] of [this.casing, this.top].entries()) {
      if (!line) continue;
      line.frustumCulled = false;
      line.renderOrder = order + k * 0.1;
      line.visible = false;
    }
  }

  addTo(scene: Scene): this {
    this.scene = scene;
    if (this.casing) scene.add(this.casing);
    scene.add(this.top);
    return this;
  }

  /** Taken out of a scene, for good. */
  removeFrom(scene: Scene): void {
    for (const line of [this.casing, this.top]) {
      if (!line) continue;
      scene.remove(line);
      line.geometry.dispose();
      line.material.dispose();
    }
    this.dropThin();
    this.scene = null;
  }

  /** @param segments 6 numbers a segment */
  set(segments: Float32Array): void {
    const isThin = segments.length / 6 > mostWide;
    this.dropThin();
    if (isThin) this.drawThin(segments);
    this.top.geometry.dispose();
    const isWide = segments.length > 0 && !isThin;
    // both draw the same boxes
    const geometry = isWide ? segmentBoxes(segments, this.top.material.isDashed) : null;
    for (const line of [this.casing, this.top]) {
      if (!line) continue;
      line.visible = isWide;
      if (geometry) line.geometry = geometry;
    }
  }

  prepare(width: number, height: number, dash: number): void {
    for (const line of [this.casing, this.top]) if (line?.visible) line.material.setView(width, height, dash);
  }

  private drawThin(segments: Float32Array): void {
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(segments, 3));
    const { color, opacity, depthFunc } = this.top.material;
    this.thin = new LineSegments(geometry, new LineBasicMaterial({ color, opacity, depthFunc, transparent: true, depthWrite: false, toneMapped: false }));
    this.thin.frustumCulled = false;
    this.thin.renderOrder = this.top.renderOrder;
    this.scene?.add(this.thin);
  }

  private dropThin(): void {
    this.thin?.removeFromParent();
    this.thin?.geometry.dispose();
    this.thin?.material.dispose();
    this.thin = null;
  }

  /** Steps back (0 … 1 of its full strength) so that what is below can be seen. */
  fade(strength: number): void {
    this.casing?.material.setStrength(strength);
    this.top.material.setStrength(strength);
    if (this.thin) this.thin.material.opacity = strength;
  }

  /** @param casing colour of the casing */
  recolor(color: string, casing: string): void {
    this.top.material.color.set(color);
    this.thin?.material.color.set(color);
    this.casing?.material.color.set(casing);
  }
}

/** Lists of places one after the other. */
export function joined(lists: readonly Float32Array[]): Float32Array {
  const out = new Float32Array(lists.reduce((sum, list) => sum + list.length, 0));
  let at = 0;
  for (const list of lists) {
    out.set(list, at);
    at += list.length;
  }
  return out;
}
