import { activeSet, layerSchema, partOf, planSurface, surfaceInputOf, type Job, type SelfJoin, type SurfacePlan } from '@jig-peel/core';
import type { SeamLook } from '@jig-peel/core/measure/seamLooks';
import type { Surface } from '@jig-peel/core/images/surface/surface';

/** What a surface shows at one place: all layers together, its relief, and each layer by itself. */
export interface SurfaceValue {
  /** Red, green, blue, alpha; 0 to 1. */
  colour: [number, number, number, number];
  /** Units over the mesh. */
  relief: number;
  layers: { id: string; name: string; colour: [number, number, number]; share: number }[];
}

/** A part that shows nothing of its own shows the test grid by its UVs. */
function gridPlan(job: Job): SurfacePlan {
  const part = partOf(job);
  const layer = layerSchema.parse({ id: 'grid', name: 'Test grid', source: { kind: 'grid', grid: job.settings.gridKind } });
  return planSurface({ ...surfaceInputOf(job, part), layers: [{ layer, material: null }] });
}

/** Answers what is shown at places of the active part, by the definition that pictures are baked from. */
export class SurfaceValues {
  private last: { plan: SurfacePlan; surface: Promise<Surface> } | null = null;

  private surfaceOf(job: Job, plan: SurfacePlan): Promise<Surface> {
    if (this.last?.plan !== plan) this.last = { plan, surface: this.make(job, plan) };
    return this.last.surface;
  }

  /** @param places a triangle and the shares of its three corners each: 4 numbers */
  async at(job: Job, plan: SurfacePlan, places: ArrayLike<number>): Promise<SurfaceValue[]> {
    const surface = await this.surfaceOf(job, plan);
    const [all, own] = [new Float64Array(4), new Float64Array(4)];
    return Array.from({ length: Math.floor(places.length / 4) }, (_, k) => {
      surface.at(places[k * 4]!, places[k * 4 + 1]!, places[k * 4 + 2]!, places[k * 4 + 3]!);
      surface.colour(all);
      const relief = surface.relief();
      const layers = surface.names.map(({ id, name }, l) => {
        surface.layerAt(l, own);
        return { id, name, colour: [own[0]!, own[1]!, own[2]!] as [number, number, number], share: own[3]! };
      });
      return { colour: [...all] as SurfaceValue['colour'], relief, layers };
    });
  }

  /** How the surface differs over its seams, worst first. */
  async seams(job: Job, plan: SurfacePlan): Promise<SeamLook[]> {
    const { seamLooks } = await import('@jig-peel/core/measure/seamLooks');
    const part = partOf(job);
    return seamLooks(part.mesh, activeSet(part), await (plan.layers.length > 0 ? this.surfaceOf(job, plan) : this.make(job, gridPlan(job))));
  }

  async selfJoin(image: { id: string; name: string; bytes: Uint8Array }): Promise<SelfJoin | null> {
    const [{ decodedImages }, { selfJoin }, { decodeByBrowser }] = await Promise.all([
      import('@jig-peel/core/images/bakeBands'),
      import('@jig-peel/core/images/joins'),
      import('./pool/baking.ts'),
    ]);
    const { pixels } = await decodedImages([image], new Set([image.id]), decodeByBrowser);
    const found = pixels.get(image.id);
    return found ? selfJoin(found) : null;
  }

  private async make(job: Job, plan: SurfacePlan): Promise<Surface> {
    const [{ Surface: Made }, { decodedImages }, { decodeByBrowser }, { imagesOfLayers }] = await Promise.all([
      import('@jig-peel/core/images/surface/surface'),
      import('@jig-peel/core/images/bakeBands'),
      import('./pool/baking.ts'),
      import('@jig-peel/core/images/surface/layer'),
    ]);
    const wanted = new Set(imagesOfLayers(plan.layers.map(({ layer }) => layer)));
    const { pixels } = await decodedImages(job.images, wanted, decodeByBrowser);
    return new Made(partOf(job).mesh, plan, (id) => pixels.get(id) ?? null);
  }
}
