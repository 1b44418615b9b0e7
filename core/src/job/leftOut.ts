import { outsideFaces } from '../measure/check.ts';
import { islandLetter, islandsOf } from '../uv/islands.ts';
import { trayIslands } from '../uv/tray.ts';
import { activeSet, type Part } from './job.ts';
import { repeatsImage } from './repeatsImage.ts';

/** Islands of a part that are not on the sheet, by their letters. */
export interface LeftOut {
  part: string;
  name: string;
  islands: number;
  /** Waiting in the tray. */
  waiting: string[];
  /** Wholly or partly off the sheet. */
  outside: string[];
  /** Faces without any place. */
  unplaced: number;
  /** It shows an image that repeats: islands beyond the sheet are meant so. */
  repeats: boolean;
}

/** What of the parts is not on the sheet; parts that are there as a whole are left out of the list. @param tilesOf tiles of a part's sheet; default 1. O(corners). */
export function leftOut(parts: readonly Part[], tilesOf: (part: Part) => number = () => 1): LeftOut[] {
  const out: LeftOut[] = [];
  for (const part of parts) {
    const { mesh } = part;
    const set = activeSet(part);
    const islands = islandsOf(mesh, set);
    const waits = trayIslands(mesh, set);
    const faces = outsideFaces(mesh, set, tilesOf(part)).faces;
    const off = new Uint8Array(islands.count);
    let unplaced = 0;
    for (let f = 0; f < faces.length; f++) {
      if (set.unplaced[f]) unplaced++;
      else if (faces[f]) off[islands.ofFace[f]!] = 1;
    }
    const letters = (flags: Uint8Array) => [...flags.keys()].filter((i) => flags[i]).map(islandLetter);
    const waiting = letters(waits);
    const outside = letters(off.map((x, i) => (waits[i] ? 0 : x)));
    if (waiting.length + outside.length + unplaced === 0) continue;
    out.push({ part: part.id, name: part.name, islands: islands.count, waiting, outside, unplaced, repeats: repeatsImage(part) });
  }
  return out;
}

/** The same in a sentence a part: “seal: 3 islands wait in the tray (A, B, C); 1 is off the sheet (D).” */
export function leftOutWords(found: readonly LeftOut[]): string[] {
  return found.map(({ name, waiting, outside, unplaced, repeats }) => {
    const some = (letters: string[]) => (letters.length > 8 ? `${letters.slice(0, 8).join(', ')} …` : letters.join(', '));
    const is = (n: number, one: string, more: string) => (n === 1 ? `1 island ${one}` : `${n} islands ${more}`);
    return `${name}: ${[
      waiting.length > 0 && `${is(waiting.length, 'waits', 'wait')} in the tray (${some(waiting)})`,
      outside.length > 0 &&
        `${is(outside.length, repeats ? 'repeats the image beyond the sheet' : 'is off the sheet', repeats ? 'repeat the image beyond the sheet' : 'are off the sheet')} (${some(outside)})`,
      unplaced > 0 && `${unplaced.toLocaleString('en')} ${unplaced === 1 ? 'face has' : 'faces have'} no UVs`,
    ]
      .filter(Boolean)
      .join('; ')}.`;
  });
}
