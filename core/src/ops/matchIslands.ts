import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { islandsOfGrips, moveGroups, wholeIslands, type WholeIsland } from '../job/grip.ts';
import { activeSet, partOf, type Job } from '../job/job.ts';
import { partsOnSheet, sheetFor } from '../job/sheets.ts';
import { islandDensities } from '../pack/density.ts';
import { separateFans } from '../seams/cut.ts';
import { affineOf, unmoved } from '../shape/transform.ts';
import { boxOfPoints, middleOf } from '../uv/box.ts';
import { islandFacts, islandLetter, islandsOf } from '../uv/islands.ts';
import { defineOperation, plural } from './operation.ts';
import { turnTo } from './turnIslands.ts';

const whats = ['size', 'density', 'heading'] as const;
const words = {
  size: 'as large: the longer sides of their boxes are equal',
  density: 'as dense: as many px per unit',
  heading: 'turned alike: the model’s up runs the same way',
} as const;

/** What one island has is given to others, each about its own middle. */
export const matchIslands = defineOperation({
  name: 'matchIslands',
  headings: ({ what }) => (what === 'heading' ? 'set' : undefined),
  label: 'Make islands like another one',
  words: 'same size density heading pick copy texel',
  changes: ['uvs'],
  needs: 'selection',
  summary: 'Give the selected islands the size, density or heading of another one',
  params: z.object({
    what: z.enum(whats).describe('the longer side of the box, px per unit, or the way that the model’s up runs'),
    to: z.object({ part: z.string(), island: z.number().int().min(0) }).describe('the island that stays as it is'),
  }),
  run(job, { what, to }) {
    const model = modelOf(job, to);
    const grips = wholeIslands(job);
    const islands = islandsOfGrips(job, grips);
    const isModel = (one: WholeIsland) => one.part.id === to.part && firstFace(one) === firstFace(model);
    if (islands.filter((one) => !isModel(one)).length === 0)
      throw new JigError('nothing-to-do', 'No other island is selected.', '', `Select the islands that are to become like ${islandLetter(to.island)}.`);
    const wanted = figureOf(job, model, what);
    const affines = islands.map((one) => {
      const { width, height } = sheetFor(job, one.part.id);
      const own = figureOf(job, one, what);
      if (isModel(one) || own === null || wanted === null) return [1, 0, 0, 1, 0, 0] as const;
      const by = what === 'heading' ? { ...unmoved, turn: own - wanted } : { ...unmoved, scale: [wanted / own, wanted / own] as const };
      return affineOf(by, middleOf(one.box), width / height);
    });
    const { job: next, moved } = moveGroups(job, grips, (n) => affines[n]!);
    return { job: next, report: { islands: islands.length, moved, letter: islandLetter(to.island) } };
  },
  sentence: ({ what }, { moved, letter }) => `Made ${plural(moved, 'island')} like ${letter}: ${words[what]}`,
});

function modelOf(job: Job, { part: id, island }: { part: string; island: number }): WholeIsland {
  const part = partsOnSheet(job).find((one) => one.id === id) ?? partOf(job, id);
  const facts = islandFacts(part.mesh, activeSet(part))[island];
  if (!facts || facts.unplaced) throw new JigError('not-found', 'The island to go by is there no more.', '', 'Choose one again.');
  const own = islandsOf(part.mesh, activeSet(part));
  const faces = own.faces.subarray(own.start[island]!, own.start[island + 1]!);
  const set = separateFans(part.mesh, activeSet(part), faces);
  const points = [...faces].flatMap((f) => [...set.cornerUv.subarray(part.mesh.faceStart[f]!, part.mesh.faceStart[f + 1]!)]);
  return { part, set, island: islandsOf(part.mesh, set).ofFace[faces[0]!]!, box: boxOfPoints(set.uv, points) };
}

const firstFace = ({ part, set, island }: WholeIsland) => {
  const { start, faces } = islandsOf(part.mesh, set);
  return faces[start[island]!]!;
};

/** Px of the longer side, px per unit, or degrees that turn the model’s up to the top; null for what has none. */
function figureOf(job: Job, one: WholeIsland, what: (typeof whats)[number]): number | null {
  const { width, height } = sheetFor(job, one.part.id);
  if (what === 'heading') return turnTo(one, 'up', width / height);
  const [left, bottom, right, top] = one.box;
  const figure =
    what === 'size' ? Math.max((right - left) * width, (top - bottom) * height) : islandDensities(one.part.mesh, one.set, width, height)[one.island]!.density;
  return figure > 0 ? figure : null;
}
