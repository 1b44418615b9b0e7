/** Turns that islands may take: by any angle, by eighths … of a whole turn. */
export const packTurns = ['none', 'half', 'quarter', 'eighth', 'free'] as const;
export type PackTurn = (typeof packTurns)[number];

export interface PackOptions {
  /** Sheet in px. */
  width: number;
  height: number;
  /** Least distance between islands and to the sheet's border, in px; never less. */
  gap: number;
  borderGap: number;
  turn: PackTurn;
  /** Turns of single islands, by number; default: `turn`. */
  turnOf?: Readonly<Record<number, PackTurn>>;
  /** Islands that may be mirrored, by number; default: none. Blocks are not. */
  mirror?: readonly number[];
  /** Islands that are laid upright first: their least box along the sheet's sides. */
  upright?: readonly number[];
  /** 1 to 5: rounds of search after the first layout; 0 or left out: none. The same effort and seed give the same layout. */
  effort?: number;
  /** Search for so long instead. */
  seconds?: number;
  seed?: number;
  /** Islands that move as one, each list by numbers: a block, laid out before. */
  together?: readonly (readonly number[])[];
  /** Where the scale is kept: islands that find no room are left where they are and told, instead of an error. */
  leavesRest?: boolean;
  /** Leave the size of every island; else the largest common scale that fits is taken. */
  keepScale: boolean;
  /** Islands to place; the others stay where they are and are packed around. Default: all that have a shape. */
  islands?: readonly number[];
  /** Raster cells along the longer side; default 1024. */
  resolution?: number;
  /** Work of the raster, in vectors of four words, after which it is given up; default: none. */
  mostWork?: number;
}

export interface PackReport {
  packed: number;
  /** Islands without a shape yet, which were left out. */
  skipped: number;
  /** Common factor on all sizes. */
  scale: number;
  /** Share of the sheet that the packed islands cover. */
  coverage: number;
  tries: number;
  /** Islands that were laid upright first. */
  turned?: number;
  /** Islands that were mirrored, by number. */
  mirroredIslands?: readonly number[];
  /** Islands that found no room. */
  left?: readonly number[];
}
