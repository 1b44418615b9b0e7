export interface PackOptions {
  /** Sheet in px. */
  width: number;
  height: number;
  /** Least distance between islands and to the sheet's border, in px; never less. */
  gap: number;
  borderGap: number;
  turn: 'none' | 'quarter';
  /** Leave the size of every island; else the largest common scale that fits is taken. */
  keepScale: boolean;
  /** Islands to place; the others stay where they are and are packed around. Default: all that have a shape. */
  islands?: readonly number[];
  /** Raster cells along the longer side; default 1024. */
  resolution?: number;
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
}
