import { activeSet, layerSchema, partOf, planSurface, surfaceInputOf, type Job, type JobImage, type SelfJoin, type SurfacePlan } from '@jig-peel/core';
import { imagesOfLayers } from '@jig-peel/core/images/surface/layer';
import type { Surface } from '@jig-peel/core/images/surface/surface';
import type { SeamLook } from '@jig-peel/core/measure/seamLooks';
import { KeptImages } from './keptImages.ts';
import type { MeshIds } from './meshIds.ts';
import type { CancelFlag } from './pool/cancelBoard.ts';
import type { WorkerPool } from './pool/workerPool.ts';

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

/** Answers what is shown on the active part, by the definition that pictures are baked from. Images are read in the pool. */
export class SurfaceValues {
  private last: { plan: SurfacePlan; surface: Promise<Surface> } | null = null;
  private readonly images: KeptImages;

  constructor(
    private readonly pool: Pick<WorkerPool, 'run'>,
    private readonly meshIds: MeshIds,
  ) {
    this.images = new KeptImages(({ name, bytes }) => pool.run('decode', { name, bytes }));
  }

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

  /** How the surface differs over its seams, worst first. @throws JigError `cancelled` */
  async seams(job: Job, plan: SurfacePlan, cancel: CancelFlag | null): Promise<SeamLook[]> {
    const part = partOf(job);
    const { mesh } = part;
    const asked = { set: activeSet(part), plan: plan.layers.length > 0 ? plan : gridPlan(job), images: imagesOf(job, plan) };
    return this.pool.run('seamLooks', asked, { mesh: { id: this.meshIds.of(mesh), mesh }, cancel });
  }

  async selfJoin({ name, bytes }: JobImage): Promise<SelfJoin | null> {
    const [found, { selfJoin }] = await Promise.all([this.pool.run('decode', { name, bytes }), import('@jig-peel/core/images/joins')]);
    return found ? selfJoin(found) : null;
  }

  private async make(job: Job, plan: SurfacePlan): Promise<Surface> {
    const [{ Surface: Made }, pixels] = await Promise.all([import('@jig-peel/core/images/surface/surface'), this.images.of(imagesOf(job, plan))]);
    return new Made(partOf(job).mesh, plan, (id) => pixels.get(id) ?? null);
  }
}

/** The images that layers ask for. */
function imagesOf(job: Job, plan: SurfacePlan): JobImage[] {
  const wanted = new Set(imagesOfLayers(plan.layers.map(({ layer }) => layer)));
  return job.images.filter(({ id }) => wanted.has(id));
}
