import type { Mesh } from '@jig-peel/core';

/** Meshes are immutable, so a number for each object is enough to know what has been told. */
export class MeshIds {
  private readonly ids = new WeakMap<Mesh, number>();
  private counter = 0;

  of(mesh: Mesh): number {
    let id = this.ids.get(mesh);
    if (id === undefined) this.ids.set(mesh, (id = ++this.counter));
    return id;
  }
}
