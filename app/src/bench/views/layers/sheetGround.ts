import {
  BufferAttribute,
  BufferGeometry,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  MeshBasicMaterial,
  PlaneGeometry,
  ShaderMaterial,
  type Scene,
  type Texture,
} from 'three';
import { tilePlace } from '@jig-peel/core';
import type { Palette } from '../../../theme/palette.ts';
import { underFragmentShader, underVertexShader } from '../shaders.ts';
import { WideLines } from './wideLines.ts';

/** Lines of the ruling along each side of the sheet. */
const rulings = 16;

/** What lies under the islands: the sheet with its ruling and border, and a picture if one is shown. */
export class SheetGround {
  readonly edge: WideLines;
  private readonly plane = new Mesh(new PlaneGeometry(1, 1), new MeshBasicMaterial({ depthTest: false, depthWrite: false }));
  private readonly ruling = new LineSegments(new BufferGeometry(), new LineBasicMaterial({ depthTest: false, transparent: true }));
  private readonly picture: Mesh<PlaneGeometry, ShaderMaterial>;

  constructor(
    private readonly scene: Scene,
    blank: Texture,
  ) {
    this.plane.position.set(0.5, 0.5, -1);
    this.plane.renderOrder = 0;
    this.picture = new Mesh(
      new PlaneGeometry(1, 1),
      new ShaderMaterial({
        vertexShader: underVertexShader,
        fragmentShader: underFragmentShader,
        uniforms: { picture: { value: blank }, repeats: { value: 1 }, channel: { value: 0 }, opacity: { value: 0.4 } },
        transparent: true,
        depthTest: false,
        depthWrite: false,
      }),
    );
    this.picture.position.set(0.5, 0.5, -1);
    this.picture.renderOrder = 1;
    this.picture.visible = false;
    const at: number[] = [];
    for (let k = 1; k < rulings; k++) at.push(k / rulings, 0, 0, k / rulings, 1, 0, 0, k / rulings, 0, 1, k / rulings, 0);
    this.ruling.geometry.setAttribute('position', new BufferAttribute(Float32Array.from(at), 3));
    this.ruling.renderOrder = 1.5;
    this.edge = new WideLines({ width: 1.6, order: 2 }).addTo(scene);
    this.edge.set(Float32Array.from([0, 0, 0, 1, 0, 0, 1, 0, 0, 1, 1, 0, 1, 1, 0, 0, 1, 0, 0, 1, 0, 0, 0, 0]));
    scene.add(this.plane, this.picture, this.ruling);
  }

  /** The sheet as so many tiles: ten a row, then the row above. */
  setTiles(tiles: number): void {
    const lines: number[] = [];
    const ruled: number[] = [];
    for (let k = 0; k < tiles; k++) {
      const [x, y] = tilePlace(k);
      lines.push(x, y, 0, x + 1, y, 0, x + 1, y, 0, x + 1, y + 1, 0, x + 1, y + 1, 0, x, y + 1, 0, x, y + 1, 0, x, y, 0);
      for (let n = 1; n < rulings; n++) ruled.push(x + n / rulings, y, 0, x + n / rulings, y + 1, 0, x, y + n / rulings, 0, x + 1, y + n / rulings, 0);
    }
    this.edge.set(Float32Array.from(lines));
    this.ruling.geometry.dispose();
    this.ruling.geometry = new BufferGeometry();
    this.ruling.geometry.setAttribute('position', new BufferAttribute(Float32Array.from(ruled), 3));
    while (this.more.length > tiles - 1) this.more.pop()!.removeFromParent();
    for (let k = this.more.length + 1; k < tiles; k++) {
      const [x, y] = tilePlace(k);
      const plane = new Mesh(this.plane.geometry, this.plane.material);
      plane.position.set(x + 0.5, y + 0.5, -1);
      plane.renderOrder = 0;
      this.scene.add(plane);
      this.more.push(plane);
    }
  }

  /** Planes of the tiles after the first. */
  private readonly more: Mesh[] = [];

  recolor(palette: Palette): void {
    this.ruling.material.color.set(palette.matLineStrong);
    this.plane.material.color.set(palette.sheet);
    this.edge.recolor(palette.sheetEdge, palette.seamCasing);
  }

  /** @param picture over so many columns and rows of tiles */
  show(picture: { texture: Texture; repeats: number; channel: number; opacity: number; columns: number; rows: number } | null): void {
    this.picture.visible = picture !== null;
    if (!picture) return;
    this.picture.scale.set(picture.columns, picture.rows, 1);
    this.picture.position.set(picture.columns / 2, picture.rows / 2, -1);
    const { uniforms } = this.picture.material;
    uniforms.picture!.value = picture.texture;
    uniforms.repeats!.value = picture.repeats;
    uniforms.channel!.value = picture.channel;
    uniforms.opacity!.value = picture.opacity;
  }
}
