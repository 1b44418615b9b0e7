import { BufferAttribute, BufferGeometry, DoubleSide, Mesh, ShaderMaterial, type IUniform, type Scene } from 'three';
import type { Jig } from '@jig-peel/core';
import { jigShape } from '../jigShape.ts';
import { jigFragmentShader, jigVertexShader } from '../shaders.ts';
import { WideLines } from './wideLines.ts';

/** A jig in the model view: its frame, solid before the model and dashed behind it, its start line twice as strong, and the image on it. */
export class JigFrame {
  readonly lines: WideLines[];
  private readonly frame: WideLines[];
  private readonly start: WideLines[];
  private readonly image: Mesh<BufferGeometry, ShaderMaterial>;

  constructor(scene: Scene, uniforms: { picture: IUniform; repeats: IUniform }) {
    this.frame = [
      new WideLines({ width: 2, casing: 3.6, dashed: true, order: 43, behind: true }).addTo(scene),
      new WideLines({ width: 2.4, casing: 5, order: 45 }).addTo(scene),
    ];
    this.start = [
      new WideLines({ width: 4, casing: 6, dashed: true, order: 43, behind: true }).addTo(scene),
      new WideLines({ width: 5, casing: 8, order: 46 }).addTo(scene),
    ];
    this.lines = [...this.frame, ...this.start];
    this.image = new Mesh(
      new BufferGeometry(),
      new ShaderMaterial({
        vertexShader: jigVertexShader,
        fragmentShader: jigFragmentShader,
        uniforms: { ...uniforms, strength: { value: 0.27 } },
        side: DoubleSide,
        transparent: true,
        depthWrite: false,
      }),
    );
    this.image.frustumCulled = false;
    this.image.renderOrder = 42;
    this.image.visible = false;
    scene.add(this.image);
  }

  get showsImage(): boolean {
    return this.image.visible;
  }

  show(jig: Jig | null, withImage: boolean): void {
    const shape = jig ? jigShape(jig) : { lines: [], start: [], places: [], uvs: [] };
    for (const line of this.frame) line.set(Float32Array.from(shape.lines));
    for (const line of this.start) line.set(Float32Array.from(shape.start));
    this.image.visible = withImage && shape.places.length > 0;
    if (!this.image.visible) return;
    // round the model it must not veil it
    this.image.material.uniforms.strength!.value = jig!.kind === 'planar' || jig!.kind === 'view' ? 0.27 : 0.12;
    this.image.geometry.setAttribute('position', new BufferAttribute(Float32Array.from(shape.places), 3));
    this.image.geometry.setAttribute('uvAt', new BufferAttribute(Float32Array.from(shape.uvs), 2));
  }
}
