/** A length to three digits with its unit, large ones written out. */
export const lengthWords = (length: number, unit: string): string =>
  `${length >= 100 ? length.toFixed(0) : length.toPrecision(3)} ${unit === 'unit' ? 'units' : unit}`;
