import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { activeSet, withSet, type Job, type Part } from '../job/job.ts';
import { placedIslandsOf, selectionByPart, type PartSelection } from '../job/selected.ts';
import { sheetAspect, sheetFor } from '../job/sheets.ts';
import { keptLines, type KeptLine } from '../shape/straighten.ts';
import { layWays, straightenIsland, type StraightenedIsland } from '../shape/straightenIsland.ts';
import { islandLetter, islandsOf } from '../uv/islands.ts';
import { scaleU } from '../uv/scaleU.ts';
import { passRanks } from '../uv/ranks.ts';
import { topologyOf } from '../mesh/topology.ts';
import { defineOperation, plural } from './operation.ts';

const ways = {
  keep: z
    .enum([...keptLines, 'auto'])
    .default('auto')
    .describe(
      'the line that keeps its length: the strip’s middle, its longer or shorter border, the selected edges; auto: these where edges are selected, else the middle',
    ),
  far: z.enum(['straight', 'free']).default('straight').describe('the other lines: straight too, or as the least stretch has them'),
  spacing: z.enum(['lengths', 'equal']).default('lengths').describe('columns and rows of a grid: as their edges are long in the mean, or all alike'),
};
type Ways = { keep: KeptLine | 'auto'; far: 'straight' | 'free'; spacing: 'lengths' | 'equal' };

/** Of several islands those stay as they are that straightening would stretch more than this (symmetric Dirichlet energy, 4 without stretch); chosen by us. */
const mostEnergy = 8;

export interface StraightenReport {
  islands: number;
  /** Islands that are no strips, and why. */
  left: { letter: string; why: string }[];
  flips: number;
  /** Of the first island: px of the kept line, and of both borders on the sheet and by their length in space. */
  first: { keptPx: number; borders: { px: number; laidPx: number }[]; energy: number; opened: number; grid: boolean };
  /** Faces that did not fit the grids of quads that they are in, by part. */
  unfit: { part: string; faces: number[] }[];
  /** Faces of branches, which follow the longest run. */
  follow: number;
}

/** Lays strips straight: kerbs, bands, swept grids. */
export const straighten = defineOperation({
  name: 'straighten',
  headings: 'set',
  label: 'Straighten',
  words: 'unbend rectify rectangle strip grid rectangular follow quads',
  changes: ['uvs', 'seams'],
  needs: 'selection',
  asked: ['keep', 'far', 'spacing', 'lay', 'length'],
  commandLine: { output: 'model', hidden: [] },
  summary: 'Lay strips straight: one line keeps its length, lines along it level, lines across upright',
  params: z.object({
    ...ways,
    lay: z.enum(layWays).default('nearest').describe('along u, along v, whichever is nearer, or as it lies'),
    length: z.number().nonnegative().default(0).describe('px that the kept line is given; 0: its own length on the model'),
  }),
  run(job, { lay, length, ...how }) {
    let next = job;
    const strips = chosenStrips(job);
    const several = strips.reduce((sum, chosen) => sum + placedIslandsOf(chosen).length, 0) > 1;
    const done: { report: StraightenedIsland; part: Part }[] = [];
    const left: StraightenReport['left'] = [];
    for (const chosen of strips) {
      const { part } = chosen;
      const aspect = sheetAspect(job, part.id);
      let set = scaleU(activeSet(part), aspect);
      const before = islandsOf(part.mesh, set);
      for (const face of placedIslandsOf(chosen).map((i) => before.faces[before.start[i]!]!)) {
        const island = islandsOf(part.mesh, set).ofFace[face]!;
        try {
          const way = { ...how, keep: lineFor(how.keep, chosen), ...(length > 0 ? { px: length / sheetFor(job, part.id).height } : {}) };
          const { set: laid, report } = straightenIsland(part.mesh, set, island, way, lay, edgesOf(chosen));
          if (several && !(report.energy < mostEnergy))
            throw new JigError(
              'nothing-to-do',
              'Straight it would be drawn out far: it is hardly a strip.',
              '',
              'Select it alone to straighten it all the same.',
            );
          set = laid;
          done.push({ report, part });
        } catch (error) {
          // the others are straightened all the same
          if (!(error instanceof JigError) || error.code === 'cancelled') throw error;
          left.push({ letter: islandLetter(island), why: error.message });
        }
      }
      if (done.some((one) => one.part === part)) next = withSet(next, part.id, passRanks(activeSet(part), scaleU(set, 1 / aspect)));
    }
    const [first] = done;
    if (!first)
      throw new JigError(
        'nothing-to-do',
        left[0] ? `Piece ${left[0].letter} was left as it is. ${left[0].why}` : 'Nothing that has a place on the sheet is selected.',
        '',
        'Select strips: long pieces with four corners.',
      );
    return {
      job: next,
      report: {
        islands: done.length,
        left,
        flips: done.reduce((sum, one) => sum + one.report.flips, 0),
        first: inPx(job, first.part, first.report),
        unfit: job.parts.flatMap(({ id }) => {
          const faces = done.filter(({ part }) => part.id === id).flatMap(({ report }) => report.unfit);
          return faces.length > 0 ? [{ part: id, faces }] : [];
        }),
        follow: done.reduce((sum, { report }) => sum + report.follow, 0),
      } satisfies StraightenReport,
    };
  },
  sentence({ keep }, { islands, left, first, unfit, follow }) {
    const gains = first.borders.map(({ px, laidPx }) => gainWords(px, laidPx)).join(' and ');
    const loose = unfit.reduce((sum, { faces }) => sum + faces.length, 0);
    return [
      `Straightened ${plural(islands, 'island')}${keep === 'auto' ? '' : `, ${words[keep]} kept`}${gains ? `: ${gains} at the long borders` : ''}`,
      ...(first.opened > 0 ? [`opened along ${plural(first.opened, 'edge')}`] : []),
      ...(loose > 0 ? [`${plural(loose, 'face')} that fit${loose === 1 ? 's' : ''} no row of quads follow${loose === 1 ? 's' : ''}`] : []),
      ...(follow > 0 ? [`the longest run is straight, ${plural(follow, 'face')} of branches follow`] : []),
      ...(left.length > 0 ? [`left as they are: ${left.map(({ letter }) => letter).join(', ')}`] : []),
    ].join('; ');
  },
});

const words: Record<KeptLine, string> = { middle: 'the middle line', longer: 'the longer border', shorter: 'the shorter border', edges: 'the selected edges' };
const gainWords = (px: number, laidPx: number) => {
  const share = px > 0 ? (laidPx / px - 1) * 100 : 0;
  return `${laidPx >= px ? '+' : '−'}${Math.abs(laidPx - px).toFixed(1)} px (${share >= 0 ? '+' : '−'}${Math.abs(share).toFixed(1)} %)`;
};

function inPx(job: Job, part: Part, { keptLength, borders, scale, energy, opened, isGrid }: StraightenedIsland): StraightenReport['first'] {
  const px = scale * sheetFor(job, part.id).height;
  return {
    keptPx: keptLength * px,
    borders: borders.map(({ length, laid }) => ({ px: length * px, laidPx: laid * px })),
    energy,
    opened: opened.length,
    grid: isGrid,
  };
}

/** What is selected; all islands where nothing is, as on the command line. */
const chosenStrips = (job: Job): PartSelection[] => {
  const chosen = selectionByPart(job);
  return chosen.length > 0
    ? chosen
    : job.parts.map((part) => ({ part, kind: 'islands', ids: Uint32Array.from({ length: islandsOf(part.mesh, activeSet(part)).count }, (_, i) => i) }));
};
const lineFor = (keep: Ways['keep'], { kind }: PartSelection): KeptLine => (keep !== 'auto' ? keep : kind === 'edges' ? 'edges' : 'middle');
const edgesOf = ({ part, kind, ids, corners }: PartSelection): ReadonlySet<number> =>
  new Set(kind !== 'edges' ? [] : corners ? Array.from(corners, (c) => topologyOf(part.mesh).cornerEdge[c]!) : ids);

/** Letting lines bend is offered where it takes off more than this of the energy. */
const worthBending = 0.998;

export interface StraightenWay {
  keep: KeptLine;
  far: 'straight' | 'free';
  energy: number;
  flips: number;
  keptPx: number;
  borders: { px: number; laidPx: number }[];
  /** Faces that fit no row of quads, and faces of branches: these follow. */
  unfit: number;
  follow: number;
}

/** The ways to straighten the first selected island, least stretch first, with what each does to its borders; nothing is changed. */
export const straightenWays = defineOperation({
  name: 'straightenWays',
  label: 'Ways to straighten',
  changes: [],
  needs: 'selection',
  summary: 'Measure the ways to straighten the first selected island',
  params: z.object({ spacing: ways.spacing }),
  run(job, { spacing }) {
    const list: StraightenWay[] = [];
    const [chosen] = selectionByPart(job);
    const island = chosen && placedIslandsOf(chosen)[0];
    if (!chosen || island === undefined) throw new JigError('nothing-to-do', 'Nothing that has a place on the sheet is selected.', '', 'Select a strip first.');
    const { part } = chosen;
    const set = scaleU(activeSet(part), sheetAspect(job, part.id));
    const edges = edgesOf(chosen);
    let why = '';
    for (const keep of keptLines) {
      if (keep === 'edges' && edges.size === 0) continue;
      for (const far of ['straight', 'free'] as const) {
        try {
          const { report } = straightenIsland(part.mesh, set, island, { keep, far, spacing }, 'nearest', edges);
          const { keptPx, borders, energy } = inPx(job, part, report);
          // bending that saves nothing is no way of its own
          if (far === 'free' && list.at(-1)?.keep === keep && energy > list.at(-1)!.energy * worthBending) continue;
          list.push({ keep, far, energy, flips: report.flips, keptPx, borders, unfit: report.unfit.length, follow: report.follow });
        } catch (error) {
          if (!(error instanceof JigError) || error.code !== 'nothing-to-do') throw error;
          why ||= error.message;
        }
      }
    }
    if (list.length === 0) throw new JigError('nothing-to-do', why);
    list.sort((a, b) => a.flips - b.flips || Number(a.far === 'free') - Number(b.far === 'free') || a.energy - b.energy);
    return { job, report: { letter: islandLetter(island), list } };
  },
  sentence: () => 'Measured ways to straighten',
});
