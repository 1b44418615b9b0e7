import { tileOfName } from './tileImages.ts';

/* Images that belong together: what a surface looks like, how high it is, how rough, and so on. */

export const imageRoles = [
  'colour',
  'relief',
  'normal',
  'normal-green-down',
  'roughness',
  'metalness',
  'occlusion',
  'roughness-metalness',
  'occlusion-roughness-metalness',
  'mask',
] as const;
/** What an image of a set says of the surface. */
export type ImageRole = (typeof imageRoles)[number];

/** Roles that are not shown, but go along: they are placed, baked and delivered with the others. */
export const unseenRoles: readonly ImageRole[] = imageRoles.filter((role) => role !== 'colour' && role !== 'relief' && role !== 'mask');

/** A role in words; images that hold several have them in channels of their own. */
export const roleWords = (role: ImageRole): string => (role === 'normal-green-down' ? 'normal, green down' : role.replaceAll('-', ' + '));

type Channel = 'red' | 'green' | 'blue';
/** Which channel of an image that holds several roles says one, as glTF 2.0 has them (3.9.2 and 3.9.3). */
const channelsOf: Partial<Record<ImageRole, Partial<Record<ImageRole, Channel>>>> = {
  'roughness-metalness': { roughness: 'green', metalness: 'blue' },
  'occlusion-roughness-metalness': { occlusion: 'red', roughness: 'green', metalness: 'blue' },
};

export interface ImageUse {
  /** Name of the set, as it is shown. */
  readonly set: string;
  readonly role: ImageRole;
}

/** An image as far as sets go. */
export interface NamedImage {
  readonly id: string;
  readonly name: string;
  /** What was said of it by hand or by the file it came with; null: that it is in no set. Absent: what its name says. */
  readonly use?: ImageUse | null;
}

export interface ImageSet {
  readonly name: string;
  readonly members: readonly (NamedImage & { readonly role: ImageRole })[];
}

/** Words at the end of names, as the trade has them. Common practice, no source. */
const endings: readonly (readonly [ImageRole, RegExp])[] = [
  ['colour', /^(base ?colou?r|colou?r|col|albedo|diffuse|diff)$/],
  ['relief', /^(height|relief|displacement|displace|disp|bump)$/],
  ['normal', /^(normals?|nor|nrm|norm)( (open)?gl)?$/],
  ['normal-green-down', /^(normals?|nor|nrm|norm) (dx|directx)$/],
  ['roughness', /^(roughness|rough|rgh)$/],
  ['metalness', /^(metalness|metallic|metal)$/],
  ['occlusion', /^(ambient ?occlusion|occlusion|ao)$/],
  ['roughness-metalness', /^(rough(ness)? ?metal(ness|lic)?|metal(ness|lic)? ?rough(ness)?)$/],
  ['occlusion-roughness-metalness', /^(orm|arm|(ambient )?occlusion ?rough(ness)? ?metal(ness|lic)?)$/],
  ['mask', /^(mask|opacity|alpha)$/],
];

const isSizeWord = (word: string) => /^(\d+k?|\d+x\d+|\d+px)$/i.test(word);

/** Set and role that an image's name says: “bark_2k_color.png” is the colour of “bark”. Null where it says neither. */
export function useOfName(name: string): ImageUse | null {
  const tile = tileOfName(name);
  const plain = (tile ? name.replace(/[._]1\d{3}(\.[a-z0-9]+)$/i, '$1') : name).replace(/\.[a-z0-9]+$/i, '');
  const words = plain
    .slice(0, 300)
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .split(/[\s._-]+/)
    .filter((word) => word !== '' && !isSizeWord(word));
  for (const count of [4, 3, 2, 1]) {
    if (words.length <= count) continue;
    const tail = words.slice(-count).join(' ').toLowerCase();
    const found = endings.find(([, pattern]) => pattern.test(tail));
    if (found) return { set: words.slice(0, -count).join(' '), role: found[0] };
  }
  return null;
}

/** What an image is for: as was said of it, else as its name says. */
export const useOf = (image: NamedImage): ImageUse | null => (image.use === undefined ? useOfName(image.name) : image.use);

const key = (set: string) => set.trim().toLowerCase();

/** All sets of at least two images, in the order of their first image; in a set in the order of the roles. O(images) */
export function imageSets(images: readonly NamedImage[]): ImageSet[] {
  const sets = new Map<string, { name: string; members: (NamedImage & { role: ImageRole })[] }>();
  for (const image of images) {
    const use = useOf(image);
    if (!use || key(use.set) === '') continue;
    const set = sets.get(key(use.set)) ?? { name: use.set.trim(), members: [] };
    set.members.push({ ...image, role: use.role });
    sets.set(key(use.set), set);
  }
  const order = (role: ImageRole) => imageRoles.indexOf(role);
  return [...sets.values()]
    .filter(({ members }) => members.length > 1)
    .map((set) => ({ ...set, members: set.members.sort((a, b) => order(a.role) - order(b.role)) }));
}

/** The set that an image is in; null where it is in none. */
export const setOfImage = (images: readonly NamedImage[], id: string | null): ImageSet | null =>
  (id !== null && imageSets(images).find(({ members }) => members.some((member) => member.id === id))) || null;

/** The image of a set in a role: of tiles the one for the same tile as another image's, where there is one; of several the one that came last. */
export function memberOf(set: ImageSet, role: ImageRole, beside?: string): (NamedImage & { role: ImageRole }) | null {
  const all = set.members.filter((member) => member.role === role);
  const tile = (name: string) => tileOfName(name)?.tile;
  const like = set.members.find(({ id }) => id === beside);
  return (like && all.findLast(({ name }) => tile(name) === tile(like.name))) ?? all.at(-1) ?? null;
}

/** The normals of a set, green up before green down. @param beside the image whose tile they are for */
export function normalsOf(set: ImageSet, beside?: string): { member: NamedImage; isGreenDown: boolean } | null {
  const up = memberOf(set, 'normal', beside);
  const member = up ?? memberOf(set, 'normal-green-down', beside);
  return member && { member, isGreenDown: !up };
}

/**
 * The image of a set that says a role, and by which of its channels: one of its own, else one that holds several roles.
 * @param beside the image whose tile it is for
 */
export function sayingOf(set: ImageSet, role: ImageRole, beside?: string): { member: NamedImage & { role: ImageRole }; channel: Channel | 'all' } | null {
  const own = memberOf(set, role, beside);
  if (own) return { member: own, channel: 'all' };
  for (const several of ['roughness-metalness', 'occlusion-roughness-metalness'] as const) {
    const channel = channelsOf[several]![role];
    const member = channel && memberOf(set, several, beside);
    if (member) return { member, channel };
  }
  return null;
}
