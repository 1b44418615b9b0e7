/** A number to three digits, large ones written out. */
export const figureWords = (x: number): string => (Math.abs(x) >= 100 ? x.toFixed(0) : String(Number(x.toPrecision(3))));

/** A length with its unit. */
export const lengthWords = (length: number, unit: string): string => `${figureWords(length)} ${unit === 'unit' ? 'units' : unit}`;
