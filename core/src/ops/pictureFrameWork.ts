import type { Context } from '../context.ts';
import { alphaOutline } from '../images/alphaOutline.ts';
import { JigError } from '../jigError.ts';
import { axesOf, jigSchema, type Jig } from '../jigs/jig.ts';
import { driveJigs, jigName, releaseFaces } from '../job/liveJigs.ts';
import { activeSet, partOf, type Job, type JobJig, type Part } from '../job/job.ts';
import { partsOnSheet } from '../job/sheets.ts';
import { selectionByPart } from '../job/selected.ts';
import { faceCount } from '../mesh/mesh.ts';
import { convertSelection } from '../select/convert.ts';
import { islandsOf } from '../uv/islands.ts';
import { similarityOf, sizeOf, type Similarity } from '../shape/outlineFit.ts';
import { fitTogether } from '../shape/outlineMatch.ts';
import { silhouette } from '../shape/silhouette.ts';
import { freshJigId, jigOf } from './jigs.ts';
import { pictureOf } from './pictureOf.ts';

/** How far the outline of each part is from the picture's, px of the picture. */
export interface FrameError {
  part: string;
  name: string;
  error: number;
}

interface StandParams {
  right: [number, number, number];
  up: [number, number, number];
  /** Units; 0: as wide as the parts. */
  width: number;
  fit: boolean;
  threshold: number;
}

/** Stands the part's picture in space as a jig that drives all chosen parts. */
export async function standInSpace(job: Job, { right, up, width, fit, threshold }: StandParams, context: Context) {
  const picture = await pictureOf(job, context, 'stand in space');
  const chosen = chosenFaces(job);
  const [x, y, z] = axesOf({ right, up });
  const box = boxAlong(chosen, [x, y, z]);
  const middle = [0, 1, 2].map((d) => [x, y, z].reduce((sum, axis, k) => sum + axis[d]! * ((box[k]![0] + box[k]![1]) / 2), 0)) as [number, number, number];
  const wide = width > 0 ? width : Math.max(box[0]![1] - box[0]![0], (box[1]![1] - box[1]![0]) * (picture.width / picture.height)) || 1;
  let jig = jigSchema.parse({
    kind: 'planar',
    origin: middle,
    right: [...x],
    up: [...y],
    size: [wide, (wide * picture.height) / picture.width, Math.max(box[2]![1] - box[2]![0], wide / 100)],
    imageAspect: picture.height / picture.width,
  });
  let errors: FrameError[] = [];
  if (fit) ({ jig, errors } = byOutlines(jig, chosen, picture, threshold, context));
  const drives = chosen.map(({ part, faces }) => ({ part: part.id, set: activeSet(part).name, faces }));
  const made: JobJig = { id: freshJigId(job), name: jigName(job, 'planar', 'Picture'), jig, state: 'live', drives, belongs: 'space' };
  const jigs = drives.reduce<readonly JobJig[]>((list, drive) => releaseFaces(list, drive, made.id), job.jigs ?? []);
  const imageId = partOf(job).imageId;
  const shown: Job = { ...job, parts: job.parts.map((part) => (chosen.some((one) => one.part.id === part.id) ? { ...part, imageId } : part)) };
  return {
    job: driveJigs({ ...shown, jigs: [...jigs, made] }, new Set([made.id])),
    report: { jig: made.id, parts: chosen.length, width: jig.size[0], errors },
  };
}

interface FitParams {
  id: string;
  points?: readonly (readonly number[])[];
  places?: readonly (readonly [number, number])[];
  threshold: number;
}

/** Moves, turns and sizes a picture in space to where it was traced. */
export async function fitInSpace(job: Job, { id, points, places, threshold }: FitParams, context: Context) {
  const before = jigOf(job, id);
  if (before.jig.kind !== 'planar') throw new JigError('bad-parameter', `${before.name} is no flat jig: only a flat one is a picture in space.`);
  if ((points === undefined) !== (places === undefined)) throw new JigError('bad-parameter', 'Two points need two places of the picture.');
  const picture = await pictureOf(job, context, 'fit');
  const chosen = before.drives.flatMap(({ part, faces }) => {
    const found = job.parts.find((one) => one.id === part);
    return found ? [{ part: found, faces }] : [];
  });
  let jig: Jig;
  let errors: FrameError[] = [];
  if (points && places) {
    const flat = points.flatMap((point) => onPlane(before.jig, point));
    const px = places.flatMap(([u, v]) => [u * picture.width, v * picture.height]);
    if (Math.hypot(px[2]! - px[0]!, px[3]! - px[1]!) < 1e-6 || Math.hypot(flat[2]! - flat[0]!, flat[3]! - flat[1]!) < 1e-12)
      throw new JigError('bad-parameter', 'The two points, or the two places, are one as the picture sees them.', '', 'Take two that are well apart.');
    jig = framed(before.jig, similarityOf(flat, px), picture);
  } else {
    if (chosen.length === 0) throw new JigError('nothing-to-do', `${before.name} drives no faces.`, '', 'Give it faces first.');
    ({ jig, errors } = byOutlines(before.jig, chosen, picture, threshold, context));
  }
  const jigs = (job.jigs ?? []).map((one) => (one.id === id ? { ...one, jig } : one));
  return { job: driveJigs({ ...job, jigs }, new Set([id])), report: { name: before.name, width: jig.size[0], errors } };
}

interface Chosen {
  part: Part;
  faces: Uint32Array;
}

/** The selected faces, or all of the parts that something is selected of; else several selected parts, else the parts in view that show the same picture. */
function chosenFaces(job: Job): Chosen[] {
  const all = (part: Part) => Uint32Array.from({ length: faceCount(part.mesh) }, (_, f) => f);
  const selected = selectionByPart(job);
  if (selected.length > 0)
    return selected.map(({ part, kind, ids }) => ({
      part,
      faces:
        kind === 'faces' || kind === 'islands' ? convertSelection(part.mesh, islandsOf(part.mesh, activeSet(part)), kind, ids, 'faces', 'touching') : all(part),
    }));
  const { selectedParts = [] } = job;
  if (selectedParts.length > 1) return job.parts.filter(({ id }) => selectedParts.includes(id)).map((part) => ({ part, faces: all(part) }));
  const { imageId } = partOf(job);
  return partsOnSheet(job)
    .filter((part) => !part.isHidden && part.imageId === imageId)
    .map((part) => ({ part, faces: all(part) }));
}

function byOutlines(
  jig: Jig,
  chosen: readonly Chosen[],
  picture: { width: number; height: number; data: Uint8Array | Uint8ClampedArray },
  threshold: number,
  context: Context,
) {
  const { pieces } = alphaOutline(picture, threshold);
  if (pieces.length === 0) throw new JigError('nothing-to-do', 'Nothing in the picture is opaque.', '', 'Use a picture with alpha, or a lower threshold.');
  const [right, up] = axesOf(jig);
  const shapes = chosen.map(({ part, faces }, k) => {
    context.throwIfCancelled();
    context.progress((k / chosen.length) * 0.4, 'Outlining the parts');
    return silhouette(part.mesh, faces, { origin: jig.origin, right, up });
  });
  // as the frame stands now, in px: a start among others, and units that are not tiny
  const now: Similarity = [picture.width / jig.size[0], 0, picture.width / 2, picture.height / 2];
  const inPx = shapes.map((loops) => loops.map((loop) => loop.map((x, k) => x * now[0] + now[2 + (k % 2)]!)));
  const fits = fitTogether(inPx, pieces, (share) => {
    context.throwIfCancelled();
    context.progress(0.4 + 0.6 * share, 'Comparing outlines');
  });
  const found = fits.find((fit) => fit !== null);
  if (!found) throw new JigError('nothing-to-do', 'Seen from there the parts have no area.', '', 'Stand the picture the way it was traced.');
  const [a, b, e, f] = found.how;
  // first into px, then the fit
  const how: Similarity = [a * now[0], b * now[0], a * now[2] - b * now[3] + e, b * now[2] + a * now[3] + f];
  const errors = chosen.flatMap(({ part }, k): FrameError[] => (fits[k] ? [{ part: part.id, name: part.name, error: fits[k].error }] : []));
  return { jig: framed(jig, how, picture), errors };
}

/** A point of the model in the jig's plane, units from its middle. */
function onPlane(jig: Jig, point: readonly number[]): [number, number] {
  const [right, up] = axesOf(jig);
  const from = point.map((x, d) => x - jig.origin[d]!);
  const along = (axis: readonly number[]) => from[0]! * axis[0]! + from[1]! * axis[1]! + from[2]! * axis[2]!;
  return [along(right), along(up)];
}

/** The jig whose frame is the picture's, where a similarity takes its plane to the picture's px. */
function framed(jig: Jig, [a, b, e, f]: Similarity, { width, height }: { width: number; height: number }): Jig {
  const size = sizeOf([a, b, e, f]);
  const [right, up] = axesOf(jig);
  const mixed = (x: number, y: number) => [0, 1, 2].map((d) => right[d]! * x + up[d]! * y) as [number, number, number];
  // where in the plane the picture's middle is
  const [px, py] = [width / 2 - e, height / 2 - f];
  const [mx, my] = [(a * px + b * py) / (size * size), (a * py - b * px) / (size * size)];
  const middle = mixed(mx, my);
  return {
    ...jig,
    origin: jig.origin.map((x, d) => x + middle[d]!) as [number, number, number],
    right: mixed(a / size, -b / size),
    up: mixed(b / size, a / size),
    size: [width / size, height / size, jig.size[2]],
    repeats: [1, 1],
    imageWidth: null,
    imageAspect: height / width,
    mirrorU: false,
    mirrorV: false,
    quarter: 0,
    turn: 0,
    offset: [0, 0],
  };
}

/** How far faces reach along three axes. */
function boxAlong(chosen: readonly Chosen[], axes: readonly (readonly number[])[]): [number, number][] {
  return axes.map((axis) => {
    let [least, most] = [Infinity, -Infinity];
    for (const { part, faces } of chosen) {
      const { points, corners, faceStart } = part.mesh;
      for (let k = 0; k < faces.length; k++)
        for (let c = faceStart[faces[k]!]!; c < faceStart[faces[k]! + 1]!; c++) {
          const p = corners[c]! * 3;
          const at = points[p]! * axis[0]! + points[p + 1]! * axis[1]! + points[p + 2]! * axis[2]!;
          least = Math.min(least, at);
          most = Math.max(most, at);
        }
    }
    return [least, most];
  });
}
