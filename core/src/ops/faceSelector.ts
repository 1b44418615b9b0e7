import { JigError } from '../jigError.ts';
import { activeSet, partOf, type Job, type Part } from '../job/job.ts';
import { selectionByPart, type PartSelection } from '../job/selected.ts';
import { faceCount } from '../mesh/mesh.ts';
import { convertSelection } from '../select/convert.ts';
import { islandsOf } from '../uv/islands.ts';

/** Faces by a selector, part by part: what is selected, of all parts unless one is named; anything else, and nothing selected, of one part. */
export function facesMeant(job: Job, id: string | undefined, selector: string): { part: Part; faces: Uint32Array }[] {
  const part = partOf(job, id);
  const chosen = selector.trim() === 'selected' && id === undefined ? selectionByPart(job) : [];
  if (chosen.length === 0) return [{ part, faces: facesBy(job, part, selector) }];
  return chosen.map((one) => ({ part: one.part, faces: selectedFaces(one) }));
}

function selectedFaces({ part, kind, ids }: PartSelection): Uint32Array {
  return convertSelection(part.mesh, islandsOf(part.mesh, activeSet(part)), kind, ids, 'faces', 'touching');
}

/** Faces by a selector: all, selected, group:NAME, material:NAME, or numbers and ranges as 0,4,7-12. @throws JigError `bad-parameter` */
export function facesBy(job: Job, part: Part, selector: string): Uint32Array {
  const { mesh } = part;
  const faces = faceCount(mesh);
  const all = () => Uint32Array.from({ length: faces }, (_, f) => f).filter((f) => !part.hidden?.[f]);
  const words = selector.trim();
  if (words === 'all') return all();
  if (words === 'selected') {
    const chosen = selectionByPart(job).find((one) => one.part.id === part.id);
    return chosen ? selectedFaces(chosen) : all();
  }
  const named = /^(group|material):(.+)$/.exec(words);
  if (named) {
    const names = named[1] === 'group' ? mesh.groups : mesh.materials;
    const of = named[1] === 'group' ? mesh.faceGroup : mesh.faceMaterial;
    const at = names.indexOf(named[2]!);
    if (at < 0)
      throw new JigError('bad-parameter', `There is no ${named[1]} “${named[2]}”.`, '', names.length > 0 ? `There are: ${names.slice(0, 12).join(', ')}.` : '');
    return all().filter((f) => of[f] === at);
  }
  const out = new Set<number>();
  for (const piece of words.split(',')) {
    const range = /^(\d+)(?:-(\d+))?$/.exec(piece.trim());
    if (!range) throw new JigError('bad-parameter', `“${piece}” is no face.`, '', 'Use all, group:NAME, material:NAME, or numbers like 0,4,7-12.');
    const [from, to] = [Number(range[1]), Number(range[2] ?? range[1])];
    if (to >= faces) throw new JigError('bad-parameter', `There is no face ${to}.`, '', `Faces run from 0 to ${faces - 1}.`);
    for (let f = from; f <= to; f++) out.add(f);
  }
  return Uint32Array.from(out).sort();
}
