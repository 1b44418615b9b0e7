import type { Fade, Layer } from '../images/surface/layer.ts';
import { axesOf, type Jig, type Vector } from '../jigs/jig.ts';
import { bounds, type Mesh } from '../mesh/mesh.ts';
import * as portable from '../numeric/portable.ts';
import type { Job } from './job.ts';

/** A place, axes at right angles of length 1, and how far it reaches along each. */
interface Frame {
  origin: Vector;
  axes: readonly [Vector, Vector, Vector];
  size: Vector;
}

const frameOfJig = (jig: Jig): Frame => ({ origin: jig.origin, axes: axesOf(jig), size: jig.size });

/** A part's box as a frame. O(corners) */
export function frameOfBox(mesh: Mesh): Frame {
  const [x0, y0, z0, x1, y1, z1] = bounds(mesh);
  const axes = [
    [1, 0, 0],
    [0, 1, 0],
    [0, 0, 1],
  ] as const;
  return { origin: [(x0 + x1) / 2, (y0 + y1) / 2, (z0 + z1) / 2], axes, size: [x1 - x0, y1 - y0, z1 - z0] };
}

/** How many times larger a side is; flat frames have none to compare. */
const grown = (before: number, after: number) => (before > 1e-12 && after > 1e-12 ? after / before : 1);

/** A fade in another frame at the place that it had in this one. Its radii grow as the frame does on the mean. */
export function refitted(fade: Fade, from: Frame, to: Frame): Fade {
  const scale = from.size.map((side, d) => grown(side, to.size[d]!));
  const moved = (place: readonly number[]): [number, number, number] => {
    const out: [number, number, number] = [...to.origin];
    from.axes.forEach((axis, d) => {
      const along = axis.reduce((sum, x, k) => sum + x * (place[k]! - from.origin[k]!), 0) * scale[d]!;
      for (let k = 0; k < 3; k++) out[k]! += along * to.axes[d]![k]!;
    });
    return out;
  };
  if (fade.shape === 'linear') return { ...fade, from: moved(fade.from), to: moved(fade.to) };
  const mean = portable.exp(scale.reduce((sum, s) => sum + portable.log(s), 0) / 3);
  return { ...fade, centre: moved(fade.centre), inner: fade.inner * mean, outer: fade.outer * mean };
}

/** Layers with their fades refitted; those that none applies to stay the same objects. */
export function withFades(layers: readonly Layer[], change: (fade: Fade, jig: string | undefined) => Fade): readonly Layer[] {
  let isSame = true;
  const next = layers.map((layer) => {
    const masks = layer.masks.map((mask) => {
      if (mask.kind !== 'fade') return mask;
      const fade = change(mask.fade, mask.jig);
      return fade === mask.fade ? mask : { ...mask, fade };
    });
    if (masks.every((mask, k) => mask === layer.masks[k])) return layer;
    isSame = false;
    return { ...layer, masks };
  });
  return isSame ? layers : next;
}

/** After a step that moved, turned or sized jigs: the fades that go with them are where they were in the jigs' frames. O(layers) */
export function fadesFollow(before: Job, after: Job): Job {
  if (!before.jigs || !after.jigs || before.jigs === after.jigs) return after;
  const moved = new Map<string, { from: Frame; to: Frame }>();
  for (const { id, jig } of after.jigs) {
    const was = before.jigs.find((one) => one.id === id)?.jig;
    if (!was || was === jig || (['origin', 'right', 'up', 'size'] as const).every((key) => was[key].every((x, k) => x === jig[key][k]))) continue;
    moved.set(id, { from: frameOfJig(was), to: frameOfJig(jig) });
  }
  if (moved.size === 0) return after;
  const follow = (layers: readonly Layer[]) =>
    withFades(layers, (fade, jig) => {
      const how = jig === undefined ? undefined : moved.get(jig);
      return how ? refitted(fade, how.from, how.to) : fade;
    });
  const parts = after.parts.map((part) => {
    const layers = part.layers && follow(part.layers);
    return layers === part.layers ? part : { ...part, layers: layers! };
  });
  const materialLayers = after.materialLayers?.map((one) => {
    const layers = follow(one.layers);
    return layers === one.layers ? one : { ...one, layers };
  });
  return {
    ...after,
    ...(parts.some((part, k) => part !== after.parts[k]) ? { parts } : {}),
    ...(materialLayers?.some((one, k) => one !== after.materialLayers![k]) ? { materialLayers } : {}),
  };
}

/** Covers of a jig's smears that are to be found again, since the jig is another one or drives other faces. O(layers) */
export function coversToFind(before: Job, after: Job): { part: string; jig: string }[] {
  return after.parts.flatMap((part) =>
    (part.layers ?? []).flatMap(({ covers }) => {
      if (covers === undefined) return [];
      const [was, is] = [before, after].map((job) => job.jigs?.find(({ id }) => id === covers));
      return is && was && (was.jig !== is.jig || was.drives !== is.drives) ? [{ part: part.id, jig: covers }] : [];
    }),
  );
}
