import { z } from 'zod';

/** Most tiles of a sheet: ten rows of the open numbering. */
export const mostTiles = 100;

/** One image, or one row of tile images, that islands of one or several parts share. */
export const sheetSchema = z.object({
  id: z.string(),
  name: z.string().min(1).max(80),
  /** Px of each tile. */
  width: z.number().int().min(16).max(16384),
  height: z.number().int().min(16).max(16384),
  /** Gap between islands, px, and to the border where that has none of its own. */
  margin: z.number().min(0).max(512),
  /** Gap to the border, px; null: as the margin. */
  borderGap: z.number().min(0).max(512).nullable().default(null),
  /** How many tiles it has: 1001, 1002, … ten a row, then the row above. */
  tiles: z.number().int().min(1).max(mostTiles),
  /** Texel density meant for it, px per unit of the model; null: none is stated. */
  density: z.number().positive().nullable(),
});
export type Sheet = Readonly<z.infer<typeof sheetSchema>>;
