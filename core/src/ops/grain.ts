import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { activeSet, partOf, withPart } from '../job/job.ts';
import { selectionByPart } from '../job/selected.ts';
import { faceCount } from '../mesh/mesh.ts';
import { convertSelection } from '../select/convert.ts';
import { runGrain } from '../shape/grain.ts';
import { islandsOf } from '../uv/islands.ts';
import { defineOperation, partSchema, plural } from './operation.ts';

const three = z.tuple([z.number(), z.number(), z.number()]);

/** Arrows that say which way the picture is to run. */
export const grain = defineOperation({
  name: 'grain',
  label: 'Grain: which way the picture runs',
  words: 'direction flow arrow wood fabric anisotropy',
  changes: ['marks'],
  summary: 'Say which way the picture is to run over faces, or forget it',
  params: z.object({
    part: partSchema,
    do: z.enum(['run', 'clear']).default('run'),
    face: z.number().int().min(0).optional().describe('the face that the direction was drawn on'),
    direction: three.optional().describe('x, y, z of the model'),
    faces: z.enum(['selected', 'island', 'part']).default('selected').describe('what it is carried over; selected: where nothing is selected, the island'),
  }),
  run(job, { part: id, do: what, face, direction, faces: over }) {
    const part = partOf(job, id);
    const { mesh } = part;
    const set = activeSet(part);
    const islands = islandsOf(mesh, set);
    const chosen = selectionByPart(job).find((one) => one.part === part);
    const selected = chosen && over === 'selected' ? convertSelection(mesh, islands, chosen.kind, chosen.ids, 'faces', 'touching') : null;
    if (what === 'clear') {
      if (!part.grain) throw new JigError('nothing-to-do', 'No face has a grain.');
      const left = part.grain.slice();
      for (const f of selected ?? Array.from({ length: faceCount(mesh) }, (_, k) => k)) left.fill(0, f * 3, f * 3 + 3);
      const next = withPart(job, part.id, ({ grain: _, ...rest }) => (left.some((x) => x !== 0) ? { ...rest, grain: left } : rest));
      return { job: next, report: { faces: selected?.length ?? faceCount(mesh) } };
    }
    if (face === undefined || !direction) throw new JigError('bad-parameter', 'Say on which face and in which direction.');
    if (face >= faceCount(mesh)) throw new JigError('bad-parameter', `There is no face ${face}.`);
    const island = islands.ofFace[face]!;
    const inIsland = islands.faces.subarray(islands.start[island]!, islands.start[island + 1]!);
    const wanted = over === 'part' ? Uint32Array.from({ length: faceCount(mesh) }, (_, k) => k) : (selected ?? inIsland);
    // drawn beside what is selected: there it is meant
    const meant = selected && !selected.includes(face) ? inIsland : wanted;
    const made = runGrain(mesh, face, direction, meant, part.grain);
    if (made.faces === 0) throw new JigError('nothing-to-do', 'The direction stands upright on the face.', '', 'Draw along the surface.');
    return { job: withPart(job, part.id, (p) => ({ ...p, grain: made.grain })), report: { faces: made.faces } };
  },
  sentence: ({ do: what }, { faces }) => (what === 'clear' ? 'Forgot the grain' : `The picture is to run this way over ${plural(faces, 'face')}`),
});
