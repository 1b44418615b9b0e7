import { plainMesh, type Mesh } from '@jig-peel/core';

/** Collects faces by the places of their corners; corners at one place become one point. */
export class FaceCollector {
  private readonly index = new Map<string, number>();
  private readonly points: number[] = [];
  private readonly corners: number[] = [];
  private readonly starts: number[] = [0];
  private readonly groupOf: number[] = [];
  private readonly materialOf: number[] = [];
  readonly groups: string[] = [];
  readonly materials: string[] = [];

  /** @param places corners, counter-clockwise from outside */
  add(places: readonly (readonly [number, number, number])[], group: string, material: string): void {
    const ids = places.map((p) => this.point(p));
    const distinct = ids.filter((id, k) => id !== ids[(k + 1) % ids.length]);
    if (distinct.length < 3) return;
    this.corners.push(...distinct);
    this.starts.push(this.corners.length);
    this.groupOf.push(numberOf(this.groups, group));
    this.materialOf.push(numberOf(this.materials, material));
  }

  private point(p: readonly [number, number, number]): number {
    const key = p.map((x) => Math.round(x * 1e5)).join();
    let id = this.index.get(key);
    if (id === undefined) {
      id = this.points.length / 3;
      this.index.set(key, id);
      this.points.push(...p.map((x) => Math.round(x * 1e6) / 1e6));
    }
    return id;
  }

  mesh(): Mesh {
    const plain = plainMesh(Float64Array.from(this.points), Uint32Array.from(this.starts), Uint32Array.from(this.corners));
    return {
      ...plain,
      faceGroup: Int32Array.from(this.groupOf),
      groups: this.groups,
      faceMaterial: Int32Array.from(this.materialOf),
      materials: this.materials,
    };
  }
}

function numberOf(names: string[], name: string): number {
  const k = names.indexOf(name);
  return k >= 0 ? k : names.push(name) - 1;
}

export type Place = readonly [number, number, number];

/** A band of quads between two rings of as many places each, running round to the right seen from outside. */
export function band(
  to: FaceCollector,
  low: readonly Place[],
  high: readonly Place[],
  group: string,
  material: string | ((k: number) => string),
  skip: (k: number) => boolean = () => false,
): void {
  const n = low.length;
  for (let k = 0; k < n; k++) {
    if (skip(k)) continue;
    const next = (k + 1) % n;
    to.add([low[k]!, low[next]!, high[next]!, high[k]!], group, typeof material === 'string' ? material : material(k));
  }
}
