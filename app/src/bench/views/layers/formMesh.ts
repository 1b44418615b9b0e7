import { BufferAttribute, BufferGeometry, Mesh, type InterleavedBufferAttribute, type Scene } from 'three';
import { atSlots } from '../../../session/atSlots.ts';
import type { FormView, PartGeometry } from '../../../session/messages.ts';
import type { FormMarks } from './partTopology.ts';

/** A form that is drawn in place of the cage, in the cage's material. */
export class FormMesh {
  readonly mesh: Mesh;
  readonly marks: FormMarks;

  constructor(
    readonly view: FormView,
    private readonly cage: PartGeometry,
    scene: Scene,
  ) {
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(view.positions, 3));
    geometry.setAttribute('normal', new BufferAttribute(view.normals, 3));
    geometry.setAttribute('uvAt', new BufferAttribute(view.uvAt, 2));
    const ids = new Float32Array(view.triangles * 3);
    for (let k = 0; k < ids.length; k++) ids[k] = view.triFace[(k / 3) | 0]!;
    geometry.setAttribute('faceId', new BufferAttribute(ids, 1));
    if (view.flat) {
      geometry.setAttribute('sunk', new BufferAttribute(view.flat.sunk, 3));
      geometry.setAttribute('flatNormal', new BufferAttribute(view.flat.normals, 3));
    }
    this.mesh = new Mesh(geometry);
    this.mesh.frustumCulled = false;
    this.marks = { edges: view.edges, pieces: 2 ** view.levels, points: view.points };
    scene.add(this.mesh);
  }

  /** Whether its relief is real height, which is not to be shaded a second time. */
  get isRaised(): boolean {
    return this.view.flat !== null;
  }

  /** Takes the cage's material, and what layers have put on its corners beside its UVs. O(corners of the form) for each of these */
  dress(cage: Mesh): void {
    this.mesh.material = cage.material;
    for (const [name, attribute] of Object.entries(cage.geometry.attributes)) if (/^(driver|field)\d/.test(name)) this.carry(name, attribute);
  }

  private carry(name: string, attribute: BufferAttribute | InterleavedBufferAttribute): void {
    const { triCorner, corners, faceStart } = this.cage;
    const size = attribute.itemSize;
    const values = new Float32Array(corners.length * size);
    for (let k = 0; k < triCorner.length; k++) for (let d = 0; d < size; d++) values[triCorner[k]! * size + d] = attribute.array[k * size + d]!;
    this.mesh.geometry.setAttribute(name, new BufferAttribute(atSlots(values, size, { ...this.view, faceStart }), size));
  }

  dispose(): void {
    this.mesh.geometry.dispose();
    this.mesh.removeFromParent();
  }
}
