import { hasLayers, partOf, pictureLayer, surfacePlanOf, trianglesOf, type Job, type Part, type PlannedLayer, type SurfacePlan } from '@jig-peel/core';

/** What the active part shows, ready to draw: numbers of layers, and arrays over the corners of its triangles. */
export interface SurfaceView {
  part: string;
  meshId: number;
  layers: readonly PlannedLayer[];
  /** The id of the layer that is the part's own picture. */
  picture: string;
  /** Equal while the arrays are; they are left out where the one who asks has them. */
  key: number;
  /** 2 numbers a corner of each triangle. */
  drivers: readonly Float32Array[] | null;
  /** 1 number a corner of each triangle. */
  fields: readonly Float32Array[] | null;
}

/** Plans of parts: the same part of the same job is worked out once. */
export class SurfaceViews {
  private last: { part: Part; parts: Job['parts']; jigs: Job['jigs']; materialLayers: Job['materialLayers']; images: Job['images']; plan: SurfacePlan } | null =
    null;
  private key = 0;
  private arrays = '';
  private sources: readonly unknown[] = [];

  planOf(job: Job): SurfacePlan {
    const part = partOf(job);
    const known = this.last;
    if (
      known &&
      known.part === part &&
      known.parts === job.parts &&
      known.jigs === job.jigs &&
      known.materialLayers === job.materialLayers &&
      known.images === job.images
    )
      return known.plan;
    const plan = surfacePlanOf(job, part);
    this.last = { part, parts: job.parts, jigs: job.jigs, materialLayers: job.materialLayers, images: job.images, plan };
    return plan;
  }

  /** Null where the part has no layers: its picture alone is drawn as ever. @param known the key of the arrays that the one who asks has */
  view(job: Job, meshId: number, known: number): SurfaceView | null {
    const part = partOf(job);
    if (!hasLayers(job, part)) return null;
    const plan = this.planOf(job);
    // what the arrays are made of: UV sets, jigs, faces
    const sources = [part.mesh, ...part.uvSets, ...(job.jigs ?? [])];
    const arrays = JSON.stringify([
      part.activeUv,
      plan.layers.map(({ layer: { driver, masks }, reach }) => [
        driver.kind === 'set' || driver.kind === 'jig' ? driver : '',
        reach,
        masks.map((mask) => (mask.kind === 'faces' || mask.kind === 'material' || mask.kind === 'each' ? mask : '')),
      ]),
    ]);
    if (arrays !== this.arrays || sources.length !== this.sources.length || sources.some((one, k) => one !== this.sources[k])) {
      this.key++;
      this.arrays = arrays;
      this.sources = sources;
    }
    const view = { part: part.id, meshId, layers: plan.layers, picture: pictureLayer, key: this.key };
    if (known === this.key) return { ...view, drivers: null, fields: null };
    const { corners, count } = trianglesOf(part.mesh);
    const spread = (array: Float64Array, each: number) => {
      const out = new Float32Array(count * 3 * each);
      for (let k = 0; k < count * 3; k++) for (let d = 0; d < each; d++) out[k * each + d] = array[corners[k]! * each + d]!;
      return out;
    };
    return { ...view, drivers: plan.drivers.map((one) => spread(one, 2)), fields: plan.fields.map((one) => spread(one, 1)) };
  }
}
