import { BufferAttribute, BufferGeometry, DoubleSide, Mesh, ShaderMaterial, type IUniform, type Scene } from 'three';
import type { ContextGeometry } from '../../../session/messages.ts';
import { contextFragmentShader, contextVertexShader } from '../shaders.ts';

/** How other parts are drawn now. */
export interface ContextLook {
  /** Parts to draw, by id; the one at work is never among them. */
  shown: ReadonlySet<string>;
  selected: ReadonlySet<string>;
  /** The part under the pointer. */
  pointed: string | null;
  /** Parts are what a click takes. */
  picking: boolean;
}

/** Other parts, drawn faintly and see-through, so that nothing ever stands before the part at work. */
export class ContextLayer {
  private readonly held = new Map<string, { geometry: ContextGeometry; mesh: Mesh<BufferGeometry, ShaderMaterial> }>();

  constructor(
    private readonly scene: Scene,
    private readonly uniforms: { clay: IUniform; light: IUniform; lamp: IUniform; tint: IUniform },
  ) {}

  /** @returns whether anything looks different now */
  show(all: ReadonlyMap<string, ContextGeometry>, { shown, selected, pointed, picking }: ContextLook, atWork: string | undefined): boolean {
    let changes = false;
    for (const [id, held] of this.held) {
      if (all.get(id) === held.geometry) continue;
      changes ||= held.mesh.visible;
      this.drop(id);
    }
    for (const [id, geometry] of all) {
      const known = this.held.get(id)?.mesh;
      const mesh = known ?? this.add(id, geometry);
      const { uniforms } = mesh.material;
      const before = known?.visible ? `${uniforms.solid!.value} ${uniforms.tinted!.value}` : '';
      mesh.visible = shown.has(id) && id !== atWork;
      uniforms.solid!.value = pointed === id ? 0.85 : picking ? 0.55 : 0.24;
      uniforms.tinted!.value = selected.has(id) ? 0.45 : 0;
      changes ||= before !== (mesh.visible ? `${uniforms.solid!.value} ${uniforms.tinted!.value}` : '');
    }
    return changes;
  }

  /** Those in sight. */
  get shown(): ContextGeometry[] {
    return [...this.held.values()].filter(({ mesh }) => mesh.visible).map(({ geometry }) => geometry);
  }

  dispose(): void {
    for (const id of [...this.held.keys()]) this.drop(id);
  }

  private add(id: string, geometry: ContextGeometry): Mesh<BufferGeometry, ShaderMaterial> {
    const buffers = new BufferGeometry();
    buffers.setAttribute('position', new BufferAttribute(geometry.positions, 3));
    buffers.setAttribute('normal', new BufferAttribute(geometry.normals, 3));
    const material = new ShaderMaterial({
      vertexShader: contextVertexShader,
      fragmentShader: contextFragmentShader,
      uniforms: { ...this.uniforms, solid: { value: 0.3 }, tinted: { value: 0 } },
      side: DoubleSide,
      transparent: true,
      depthWrite: false,
    });
    const mesh = new Mesh(buffers, material);
    mesh.frustumCulled = false;
    mesh.renderOrder = 3;
    this.held.set(id, { geometry, mesh });
    this.scene.add(mesh);
    return mesh;
  }

  private drop(id: string): void {
    const { mesh } = this.held.get(id)!;
    mesh.geometry.dispose();
    mesh.material.dispose();
    mesh.removeFromParent();
    this.held.delete(id);
  }
}
