import type { CheckReport } from './check.ts';
import * as portable from '../numeric/portable.ts';

/* Limits of a layout and whether they are kept. Free of schemas: the screen judges with it, too. */

export const limitKeys = [
  'unplaced',
  'flips',
  'overlap',
  'outside',
  'gap',
  'borderGap',
  'energy',
  'size',
  'shape',
  'density',
  'spread',
  'coverage',
  'grain',
  'inSight',
  'continuity',
  'islands',
] as const;
export type LimitKey = (typeof limitKeys)[number];

/** A limit for each figure; null: not asked for. */
export type Limits = Readonly<Record<LimitKey, number | null>>;

export interface LimitWords {
  label: string;
  /** The figure may be at most, or has to be at least this. */
  way: 'most' | 'least';
  unit: '' | 'px' | '%' | '°' | 'px/unit';
  help: string;
}

/** Shares are given in %, as they are read. */
export const limitWords: Record<LimitKey, LimitWords> = {
  unplaced: { label: 'Faces without UVs', way: 'most', unit: '', help: 'Faces that have no place on any sheet' },
  flips: { label: 'Triangles turned over', way: 'most', unit: '', help: 'Inside their island, by our diagonals or by a fan from the first corner' },
  overlap: { label: 'Overlap', way: 'most', unit: '%', help: 'Share of the sheet covered more than once; stacks are meant' },
  outside: { label: 'Outside', way: 'most', unit: '%', help: 'Area that is in none of the sheet’s tiles, as a share of one' },
  gap: { label: 'Gap between islands', way: 'least', unit: 'px', help: 'The smallest' },
  borderGap: { label: 'Gap to the border', way: 'least', unit: 'px', help: 'The smallest' },
  energy: {
    label: 'Stretch',
    way: 'most',
    unit: '',
    help: 'Symmetric Dirichlet energy, mean over the area, each island at its own scale; 4 is none (Smith, Schaefer 2015)',
  },
  size: {
    label: 'Change of size',
    way: 'most',
    unit: '',
    help: 'How many times too large or small a place is inside its island, on 99 % of the area; 1 is none',
  },
  shape: { label: 'Change of shape', way: 'most', unit: '', help: '(σ₁/σ₂ + σ₂/σ₁) / 2, mean over the area; 1 keeps angles' },
  density: { label: 'Texel density', way: 'least', unit: 'px/unit', help: 'Median of the islands, by area' },
  spread: { label: 'Spread of density', way: 'most', unit: '%', help: 'Standard deviation over mean of the islands’ densities, each over its weight' },
  coverage: { label: 'Coverage', way: 'least', unit: '%', help: 'Share of the sheet that is used' },
  grain: { label: 'Off the grain', way: 'most', unit: '°', help: 'Mean angle between the picture and the grain, where one is given' },
  inSight: { label: 'Seams in plain sight', way: 'most', unit: '%', help: 'Share of the seams’ length' },
  continuity: {
    label: 'Seams where the picture jumps',
    way: 'most',
    unit: '%',
    help: 'Share of the seams’ length at which a part’s picture is off by more than a px, turned by more than a degree, or sized by more than 2 %',
  },
  islands: { label: 'Islands', way: 'most', unit: '', help: 'How many pieces there are' },
};

export const purposes = ['paintedFlat', 'paintedOnModel', 'repeating', 'shared'] as const;
export type Purpose = (typeof purposes)[number];

export const purposeWords: Record<Purpose, string> = {
  paintedFlat: 'painted flat, on the sheet',
  paintedOnModel: 'painted on the model',
  repeating: 'a repeating image',
  shared: 'islands share areas of the sheet',
};

/** What every layout is asked for, and what is not. */
const usual = { unplaced: 0, flips: 0, overlap: 0, outside: 0, density: null, grain: null, continuity: null };

/** In the order of `limitKeys`. */
const ordered = (limits: Limits): Limits => Object.fromEntries(limitKeys.map((key) => [key, limits[key]])) as unknown as Limits;

/** What a layout for each purpose is asked for at first. Common practice, no source; sizes and coverage as first layouts of twelve real meshes have them. */
export const purposeLimits: Record<Purpose, Limits> = {
  // on the sheet a painter sees shapes, and paints across few borders
  paintedFlat: ordered({ ...usual, gap: 8, borderGap: 8, energy: 4.3, size: 2, shape: 1.1, spread: 10, coverage: 40, inSight: 50, islands: 60 }),
  // on the model seams do not matter, even sharpness does
  paintedOnModel: ordered({ ...usual, gap: 8, borderGap: 8, energy: 4.5, size: 2.25, shape: 1.2, spread: 10, coverage: 45, inSight: null, islands: null }),
  // islands of a repeated image overlap and go beyond the sheet on purpose
  repeating: ordered({
    ...usual,
    overlap: null,
    outside: null,
    gap: null,
    borderGap: null,
    energy: 4.2,
    size: 1.5,
    shape: 1.05,
    spread: 5,
    coverage: null,
    grain: 5,
    inSight: 50,
    islands: null,
  }),
  shared: ordered({ ...usual, gap: 8, borderGap: 8, energy: 4.3, size: 2, shape: 1.1, spread: 25, coverage: 40, inSight: 50, islands: null }),
};

/** Lines of a screen, and degrees that it takes of the view upwards: what a texel has to be as fine as. Common practice, no source. */
const screen = { lines: 1080, angle: 50 };

/** Texel density at which one texel is one line of a screen, for something seen from so far away: by a pinhole camera. @param distance units @returns px per unit */
export const densityAt = (distance: number): number => screen.lines / (2 * distance * portable.tan((screen.angle * Math.PI) / 360));

/** The figures that limits are about. */
export type LimitReport = Pick<
  CheckReport,
  | 'facesWithoutUv'
  | 'flippedTriangles'
  | 'fanFlips'
  | 'overlapArea'
  | 'outsideArea'
  | 'smallestGapPx'
  | 'smallestBorderGapPx'
  | 'symmetricDirichlet'
  | 'areaDistortionP99'
  | 'conformalMean'
  | 'densityMedian'
  | 'densityCV'
  | 'coverage'
  | 'seamInSight'
  | 'seamLength'
  | 'islands'
>;

export interface Verdict {
  key: LimitKey;
  /** In the limit's unit; null: there is none to be had. */
  figure: number | null;
  limit: number;
  passed: boolean;
}

/** Figures that are of parts and their pictures, not of the layout alone. */
export interface PartFigures {
  /** Degrees off the grain in the mean; null without any. */
  grain: number | null;
  /** % of the seams’ length at which the picture jumps; null where no part has one. */
  jumps: number | null;
}
const noFigures: PartFigures = { grain: null, jumps: null };

/** Figures in the units of the limits; null where there is none. */
export function limitFigures(report: LimitReport, { grain, jumps }: PartFigures = noFigures): Record<LimitKey, number | null> {
  return {
    unplaced: report.facesWithoutUv,
    flips: Math.max(report.flippedTriangles, report.fanFlips),
    // what is less than a millionth of the sheet is rounding
    overlap: report.overlapArea < 1e-9 ? 0 : report.overlapArea * 100,
    outside: report.outsideArea < 1e-9 ? 0 : report.outsideArea * 100,
    gap: report.smallestGapPx,
    borderGap: report.smallestBorderGapPx,
    energy: report.symmetricDirichlet,
    size: report.areaDistortionP99,
    shape: report.conformalMean,
    density: report.densityMedian,
    spread: report.densityCV === null ? null : report.densityCV * 100,
    coverage: report.coverage * 100,
    grain,
    inSight: report.seamLength > 0 ? (report.seamInSight / report.seamLength) * 100 : 0,
    continuity: jumps,
    islands: report.islands,
  };
}

/** Without these figures there is nothing that breaks the limit: one island has no neighbour, a layout no grain. */
const passesWithout: readonly LimitKey[] = ['gap', 'borderGap', 'grain', 'spread', 'continuity'];

/** Rounding of a figure does not break a limit. */
const tolerance = 1e-6;

/** Each limit that is asked for with its figure. A figure that is not to be had, such as the stretch of a face shrunk to a line, breaks its limit. */
export function judge(report: LimitReport, limits: Limits, parts: PartFigures = noFigures): Verdict[] {
  const figures = limitFigures(report, parts);
  return limitKeys.flatMap((key) => {
    const limit = limits[key];
    if (limit === null) return [];
    const figure = figures[key];
    const slack = tolerance * Math.max(1, Math.abs(limit));
    const passed = figure === null ? passesWithout.includes(key) : limitWords[key].way === 'most' ? figure <= limit + slack : figure >= limit - slack;
    return [{ key, figure, limit, passed }];
  });
}

/** A figure as it is read: "4.21", "12 px", "3.5 %". */
export function figureWords(key: LimitKey, figure: number | null): string {
  if (figure === null) return '–';
  const { unit } = limitWords[key];
  const whole = Number.isInteger(figure);
  const text = whole ? String(figure) : figure.toFixed(Math.abs(figure) < 0.1 ? 3 : Math.abs(figure) < 10 ? 2 : 1);
  return unit === '' ? text : unit === '°' ? `${text}°` : `${text} ${unit}`;
}

/** Limits as the text of a file of their own. */
export const limitsFile = (limits: Limits, name = 'Limits'): string => `${JSON.stringify({ jigPeelLimits: 1, name, limits }, null, 2)}\n`;
