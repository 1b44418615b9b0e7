import type { Job } from './job.ts';

export interface MaterialImages {
  /** Name of the material file. */
  library: string;
  /** The colour image of each material that names one, as its file names it. */
  images: ReadonlyMap<string, string>;
  /** What each of these statements says of how the image lies. */
  statements: ReadonlyMap<string, string>;
  /** Images of any kind that the file names and the job has not, each once. */
  missing: readonly string[];
}

/** What follows the last slash of either kind. */
export const baseName = (name: string) => name.slice(Math.max(name.lastIndexOf('/'), name.lastIndexOf('\\')) + 1);
const base = (name: string) => baseName(name).toLowerCase();
/** The same file, whatever folder and case it is written with. */
export const sameName = (a: string, b: string) => base(a) === base(b);

/** Options of a map statement and how many values each takes (MTL, Wavefront; “-mm base gain”, “-o u v w” and so on). */
const optionValues = new Map(
  Object.entries({
    '-blendu': 1,
    '-blendv': 1,
    '-bm': 1,
    '-boost': 1,
    '-cc': 1,
    '-clamp': 1,
    '-imfchan': 1,
    '-mm': 2,
    '-texres': 1,
    '-type': 1,
  }),
);

/**
 * Keyword and rest of a line of a material or OBJ file; null for an empty one. Linear in its length, whatever it holds.
 * @example statementOf('  newmtl  old wood ') // ['newmtl', 'old wood']
 */
export function statementOf(line: string): readonly [string, string] | null {
  const text = line.trim();
  const end = text.search(/\s/);
  if (end < 0) return text ? [text, ''] : null;
  return [text.slice(0, end), text.slice(end).trimStart()];
}

/** The file name of a map statement: what follows its options, spaces and all. */
export function mapFileName(rest: string): string {
  const words = rest.trim().split(/\s+/);
  let k = 0;
  while (k < words.length && words[k]!.startsWith('-')) {
    const option = words[k]!.toLowerCase();
    k++;
    if (option === '-o' || option === '-s' || option === '-t') {
      // one to three numbers, the later ones optional
      for (let n = 0; n < 3 && k < words.length - 1 && Number.isFinite(Number(words[k])); n++) k++;
    } else k += optionValues.get(option) ?? 0;
  }
  return words.slice(k).join(' ');
}

/** What the job's material files say of images. O(length of the files). */
export function materialImages(job: Pick<Job, 'files' | 'images'>): MaterialImages[] {
  const have = new Set(job.images.map((image) => base(image.name)));
  return job.files
    .filter((file) => /\.mtl$/i.test(file.name))
    .map(({ name, bytes }) => {
      const images = new Map<string, string>();
      const missing = new Map<string, string>();
      const statements = new Map<string, string>();
      let material = '';
      for (const line of new TextDecoder().decode(bytes).split(/\r\n|\r|\n/)) {
        const [keyword, rest] = statementOf(line) ?? ['', ''];
        if (rest === '' || !/^(newmtl|map_\w+|bump|disp|decal|refl|norm)$/i.test(keyword)) continue;
        if (keyword.toLowerCase() === 'newmtl') {
          material = rest;
          continue;
        }
        const file = mapFileName(rest);
        if (!file) continue;
        if (keyword.toLowerCase() === 'map_kd' && !images.has(material)) {
          images.set(material, file);
          statements.set(material, rest);
        }
        if (!have.has(base(file))) missing.set(base(file), file);
      }
      return { library: name, images, statements, missing: [...missing.values()] };
    });
}
