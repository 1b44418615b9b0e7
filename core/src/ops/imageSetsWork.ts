import { imageSets, memberOf, unseenRoles, type ImageSet } from '../images/imageSets.ts';
import { asItLies } from '../images/placement.ts';
import { layerSchema, type Layer } from '../images/surface/layer.ts';
import { JigError } from '../jigError.ts';
import { partOf, withPart, type Job, type Part } from '../job/job.ts';
import { freshLayer, pictureAsLayer, withLayers } from '../job/layers.ts';
import { layersWithPicture } from '../job/setMates.ts';
import { bounds } from '../mesh/mesh.ts';

/** Height of white over black that a relief begins with, as a share of the part's diagonal. Our own. */
const reliefShare = 0.005;

function layersOfSet(job: Job, part: Part, set: ImageSet, as: 'picture' | 'layers'): Layer[] {
  const colour = memberOf(set, 'colour');
  const relief = memberOf(set, 'relief', colour?.id);
  const mask = as === 'layers' ? memberOf(set, 'mask', colour?.id) : null;
  // over another picture what has no UVs yet is shown from three sides; with its own picture it goes along with that
  const bare = pictureAsLayer(job, { ...part, imageId: set.members[0]!.id })!.driver;
  const driver = as === 'layers' ? bare : { kind: 'set' as const, set: '' };
  const [x0, y0, z0, x1, y1, z1] = bounds(part.mesh);
  const strength = Number((Math.hypot(x1 - x0, y1 - y0, z1 - z0) * reliefShare || 0.01).toPrecision(2));
  const common = {
    driver,
    placement: part.placement ?? asItLies,
    masks: mask ? [{ kind: 'image' as const, image: mask.id }] : [],
  };
  const made = (id: string, name: string, more: object) => layerSchema.parse({ ...common, id, name, ...more });
  return [
    ...(colour && as === 'layers' ? [made('colour', set.name, { source: { kind: 'image', image: colour.id } })] : []),
    ...(relief ? [made('relief', `${set.name} relief`, { source: { kind: 'image', image: relief.id }, to: 'relief', strength })] : []),
  ];
}

const isThere = (layers: readonly Layer[], { source, to }: Layer) =>
  layers.some((one) => one.to === to && one.source.kind === 'image' && source.kind === 'image' && one.source.image === source.image);

/** @throws JigError `not-found` without such a set, `nothing-to-do` where it has nothing to show */
export function withSetOn(job: Job, { part: id, set: name, as }: { part?: string | undefined; set: string; as: 'picture' | 'layers' }) {
  const set = imageSets(job.images).find((one) => one.name.toLowerCase() === name.toLowerCase());
  if (!set)
    throw new JigError('not-found', `There is no set of images “${name}”.`, '', 'Add its images, named alike but for their endings, or say what they are of.');
  const part = partOf(job, id);
  const colour = memberOf(set, 'colour');
  const relief = memberOf(set, 'relief', colour?.id);
  if (!colour && !relief)
    throw new JigError('nothing-to-do', `The set “${set.name}” has neither colour nor relief to show.`, '', 'Say which of its images is the colour.');
  const shown = as === 'picture' && colour ? withPart(job, part.id, (one) => ({ ...one, imageId: colour.id })) : job;
  // the relief that went with the picture of before goes with it
  const { imageId, placement = null, uvSets, activeUv } = part;
  const own = part.layers ?? [];
  const along =
    as === 'picture' && colour ? layersWithPicture(job.images, { imageId, placement, layers: own, uvSets: uvSets.map((one) => one.name), activeUv }) : [];
  const isOfSet = ({ source }: Layer) => source.kind === 'image' && set.members.some((member) => member.id === source.image);
  let layers = own.filter((layer) => layer.to !== 'relief' || !along.includes(layer.id) || isOfSet(layer));
  for (const layer of layersOfSet(job, part, set, as)) if (!isThere(layers, layer)) layers = [...layers, { ...layer, ...freshLayer(layers, layer.name) }];
  const roles = set.members.map(({ role }) => role);
  const unseen = unseenRoles.filter((role) => roles.includes(role));
  return {
    job: layers.length === own.length && layers.every((layer, k) => layer === own[k]) ? shown : withLayers(shown, { part: part.id }, layers),
    report: { set: set.name, name: part.name, unseen },
  };
}
