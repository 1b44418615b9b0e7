import type { Part } from './job.ts';

/**
 * Does the part show an image that goes on outside its borders? Then islands beyond the sheet, or over one another, are a use of it and no fault:
 * nothing is painted or baked onto a sheet of its own.
 */
export function repeatsImage(part: Pick<Part, 'imageId' | 'placement'>): boolean {
  if (part.imageId === null) return false;
  const goesOn = (outside: string) => outside === 'repeat' || outside === 'mirror';
  return goesOn(part.placement?.outsideU ?? 'repeat') && goesOn(part.placement?.outsideV ?? 'repeat');
}
