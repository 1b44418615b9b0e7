import {
  activeSet,
  bounds,
  imageFacts,
  isPristineForm,
  layersOf,
  layoutAreas,
  materialImages,
  partOf,
  partsOnSheet,
  sheetOfPart,
  sheetsOf,
  stacksOnSheet,
  stateInWords,
  topologyOf,
  unplacedCount,
  type History,
  type HistoryEntry,
  type Job,
  type JobImage,
  type Mesh,
  type Part,
  type UvSet,
} from '@jig-peel/core';
import { alsoMarks } from './alsoMarks.ts';
import type { HistoryChange, JobSummary, SummaryChange } from './messages.ts';

/** Remembers what was made of an object, for as long as that lives. */
function onceFor<K extends object, V>(make: (key: K) => V): (key: K) => V {
  const made = new WeakMap<K, V>();
  return (key) => {
    let value = made.get(key);
    if (value === undefined) made.set(key, (value = make(key)));
    return value;
  };
}

const factsOf = onceFor((mesh: Mesh): JobSummary['active'] => {
  const { nonManifoldEdges, windingEdges, borderEdges } = topologyOf(mesh);
  const [x0, y0, z0, x1, y1, z1] = bounds(mesh);
  return { size: [x1 - x0, y1 - y0, z1 - z0], nonManifoldEdges, windingEdges, borderEdges };
});

const imageRow = onceFor((image: JobImage): JobSummary['images'][number] => {
  let size = { width: 0, height: 0 };
  try {
    size = imageFacts(image.bytes, image.name);
  } catch {
    // one that cannot be read any more is listed without its size
  }
  const { id, name, type, use } = image;
  return { id, name, type, width: size.width, height: size.height, bytes: image.bytes.length, ...(use === undefined ? {} : { use }) };
});

const scales = new WeakMap<UvSet, number | null>();
/** Root of the area on the sheet over the area in space, of the faces that have a place. O(corners), once a layout. */
function uvScale(mesh: Mesh, set: UvSet): number | null {
  let known = scales.get(set);
  if (known === undefined) {
    const { uvArea, area } = layoutAreas(mesh, set);
    known = area > 0 && uvArea > 0 ? Math.sqrt(uvArea / area) : null;
    scales.set(set, known);
  }
  return known;
}

type PartRow = JobSummary['parts'][number];

/** A number for each grain, so that another one is known as such. */
const grainNumbers = new WeakMap<object, number>();
let lastGrain = 0;
function grainNumber(grain: object): number {
  if (!grainNumbers.has(grain)) grainNumbers.set(grain, ++lastGrain);
  return grainNumbers.get(grain)!;
}

/** A part that has not changed keeps its row, so that it is not sent again. */
const partRows = new WeakMap<Part, { row: PartRow; active: boolean; jigs: Job['jigs']; sheets: Job['sheets'] }>();
function partRow(job: Job, part: Part): PartRow {
  const active = part.id === partOf(job).id;
  const known = partRows.get(part);
  if (known && known.active === active && known.jigs === job.jigs && known.sheets === job.sheets) return known.row;
  const row: PartRow = {
    id: part.id,
    name: part.name,
    faces: part.mesh.faceStart.length - 1,
    points: part.mesh.points.length / 3,
    unplaced: unplacedCount(activeSet(part)),
    uvSets: part.uvSets.map((set) => set.name),
    imageId: part.imageId,
    placement: part.placement ?? null,
    layers: part.layers ?? null,
    uvPerUnit: active && part.imageId !== null ? uvScale(part.mesh, activeSet(part)) : null,
    hidden: part.hidden ?? null,
    done: part.done ?? null,
    seamMarks: part.seamMarks ?? null,
    grain: part.grain ? grainNumber(part.grain) : 0,
    isHidden: part.isHidden === true,
    fromGltf: (part.piece?.origin ?? part.origin).kind === 'gltf',
    piece: part.piece?.name ?? null,
    up: part.up ?? 'y',
    activeUv: part.activeUv,
    sheet: sheetOfPart(job, part)?.id ?? null,
    groups: part.mesh.groups,
    materials: part.mesh.materials,
    form: isPristineForm(part, job.jigs) ? part.form : null,
  };
  partRows.set(part, { row, active, jigs: job.jigs, sheets: job.sheets });
  return row;
}

/** What each field of a summary is made of: while that is the same, so is the field. */
type Field = Exclude<keyof JobSummary, 'history' | 'historyIndex'>;
const fields: { [K in Field]: { of: (job: Job) => readonly unknown[]; make: (job: Job) => JobSummary[K] } } = {
  id: { of: (job) => [job.id], make: (job) => job.id },
  name: { of: (job) => [job.name], make: (job) => job.name },
  activePart: { of: (job) => [partOf(job).id], make: (job) => partOf(job).id },
  parts: { of: (job) => [job.parts, job.jigs, job.activePart, job.sheets], make: (job) => job.parts.map((part) => partRow(job, part)) },
  active: { of: (job) => [partOf(job).mesh], make: (job) => factsOf(partOf(job).mesh) },
  saved: { of: (job) => [job.savedSelections], make: (job) => (job.savedSelections ?? []).map((saved) => saved.name) },
  images: { of: (job) => [job.images], make: (job) => job.images.map(imageRow) },
  showsPicture: {
    of: (job) => [job.parts, job.activePart, job.materialLayers, job.images],
    make: (job) => partOf(job).imageId !== null || layersOf(job, partOf(job)).length > 0,
  },
  materialLayers: { of: (job) => [job.materialLayers], make: (job) => job.materialLayers ?? [] },
  versions: {
    of: (job) => [job.versions],
    make: (job) => (job.versions ?? []).map(({ id, name, note, made, figures, picture }) => ({ id, name, note, made, figures, picture })),
  },
  missingImages: {
    of: (job) => [job.files, job.images],
    make: (job) =>
      materialImages(job)
        .filter(({ missing }) => missing.length > 0)
        .map(({ library, missing }) => ({ library, names: missing })),
  },
  jigs: {
    of: (job) => [job.jigs, job.parts],
    make: (job) =>
      (job.jigs ?? []).map((one) => ({
        id: one.id,
        name: one.name,
        jig: one.jig,
        state: one.state,
        belongs: one.belongs,
        words: stateInWords(job, one),
        drives: one.drives.map(({ part, set, faces }) => ({ part, set, faces: faces.length })),
      })),
  },
  selectedParts: { of: (job) => [job.selectedParts], make: (job) => job.selectedParts ?? [] },
  settings: { of: (job) => [job.settings], make: (job) => job.settings },
  sheets: { of: (job) => [job.sheets ?? job.settings], make: (job) => sheetsOf(job) },
  stacks: {
    of: (job) => [job.parts, job.sheets, job.activePart],
    make: (job) =>
      stacksOnSheet(partsOnSheet(job)).map((stack) => ({
        islands: stack.map(({ part, island }) => ({ part: part.id, island })),
        box: stack[0]!.shape.slice(0, 4) as unknown as [number, number, number, number],
      })),
  },
  selection: { of: (job) => [job.selection], make: (job) => job.selection },
  alsoMarks: { of: (job) => [job.selection.also ?? null, job.selection.also ? job.parts : null], make: alsoMarks },
  intake: { of: (job) => [job.intake], make: (job) => job.intake },
};

const lineOf = onceFor(({ sentence, operation, time, view }: HistoryEntry): JobSummary['history'][number] => ({
  sentence,
  operation,
  time,
  ...(view ? { view } : {}),
}));

/** What was told of a job last, so that only what has changed since is told again. */
export class SummaryTeller {
  private told: { sources: Map<Field, readonly unknown[]>; entries: readonly HistoryEntry[]; index: number } | null = null;

  forget(): void {
    this.told = null;
  }

  /** @returns what is to be told now, and whether it is all there is to tell; O(what changed + steps) */
  changes(history: History): { changed: SummaryChange; whole: boolean } {
    const before = this.told;
    const job = history.present;
    const sources = new Map<Field, readonly unknown[]>();
    const changed: SummaryChange = {};
    const take = <K extends Field>(name: K) => {
      const of = fields[name].of(job);
      sources.set(name, of);
      const old = before?.sources.get(name);
      if (!old || old.some((one, k) => one !== of[k])) Object.assign(changed, { [name]: fields[name].make(job) });
    };
    for (const name of Object.keys(fields) as Field[]) take(name);
    const entries = history.entries;
    if (!before || before.entries !== entries) changed.history = changeOf(before?.entries ?? [], entries);
    if (!before || before.index !== history.index) changed.historyIndex = history.index;
    this.told = { sources, entries, index: history.index };
    return { changed, whole: before === null };
  }
}

function changeOf(before: readonly HistoryEntry[], after: readonly HistoryEntry[]): HistoryChange {
  let kept = 0;
  // an amended step is another object with the same line
  const same = (a: HistoryEntry, b: HistoryEntry) => a === b || (a.time === b.time && a.operation === b.operation && a.sentence === b.sentence);
  while (kept < before.length && kept < after.length && same(before[kept]!, after[kept]!)) kept++;
  return { kept, added: after.slice(kept).map(lineOf) };
}
