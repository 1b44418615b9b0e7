import * as Comlink from 'comlink';
import Flatbush from 'flatbush';
import {
  activeSet,
  edgeLoop,
  History,
  islandsOf,
  JigError,
  openFiles,
  partOf,
  penPath,
  runOperation,
  trianglesOf,
  unplacedCount,
  type Context,
  type InputFile,
  type Job,
  type Mesh,
  type UvSet,
  bounds,
  isPristineForm,
  newJob,
  topologyOf,
  cubeSphere,
  cut,
  emptyUvSet,
  facesBy,
  imageFacts,
  asImageLands,
  atOwnScale,
  leftOut,
  leftOutWords,
  repeatsImage,
  type Part,
  faceDensity,
  layoutAreas,
  materialImages,
  stretchFigures,
  triangleStretch,
  modelRegion,
  openPatch,
  placeJig,
  rising,
  selectionFigures,
  sheetRegion,
  liveTouched,
  project,
  stateInWords,
  keepImageSize,
  type Jig,
  type JigKind,
  type PlacementAxis,
  type JobImage,
  islandsOfPoints,
  withMirroredMoves,
  pieceOf,
  presentOf,
  prepare,
  RigidSolver,
  separateFans,
  type Piece,
  type Region,
  quietContext,
  unwrapIslands,
} from '@jig-peel/core';
import { database, Keeper } from '../keep/db.ts';
import { Keeping } from '../session/keeping.ts';
import { Ownership } from '../session/ownership.ts';
import { wordsOf } from '../session/words.ts';
import { Works } from '../session/work.ts';
import { deliver, missingFrom, type DeliverChoice } from './deliver.ts';
import { holdWhileAlive, whenGone } from './alive.ts';
import { contextGeometry, layoutView, partGeometry, notchMarks } from './geometry.ts';
import { firstShape, touchedFaces, unwrapTouched } from './live.ts';
import type { JobSummary, Outcome, RegionTake, RegionView, UvPreview, WorkerEvent } from './messages.ts';
import { workerEnded, WorkerPool } from './pool.ts';
import type { SolverApi } from './solverWorker.ts';

let tell: (event: WorkerEvent) => void = () => {};
let history: History | null = null;
let keeper: Keeper | null = null;
const pool = new WorkerPool();
const livePool = new WorkerPool(1);
const joinPool = new WorkerPool(1);

/** Meshes are immutable, so a number for each object is enough to know what has been sent. */
const meshIds = new WeakMap<Mesh, number>();
let meshCounter = 0;
const meshIdOf = (mesh: Mesh) => {
  let id = meshIds.get(mesh);
  if (id === undefined) meshIds.set(mesh, (id = ++meshCounter));
  return id;
};
const sent = { mesh: -1, set: null as UvSet | null, size: '' };

const works = new Works((progress) => tell({ kind: 'progress', progress }), pool);
const withProgress = <T>(work: (context: Context) => Promise<T>): Promise<T> => works.run(work);

function activeFacts(job: Job): JobSummary['active'] {
  const { mesh } = partOf(job);
  const { nonManifoldEdges, windingEdges, borderEdges } = topologyOf(mesh);
  const [x0, y0, z0, x1, y1, z1] = bounds(mesh);
  return { size: [x1 - x0, y1 - y0, z1 - z0], nonManifoldEdges, windingEdges, borderEdges };
}

const imageRows = new WeakMap<JobImage, JobSummary['images'][number]>();
function imageRow(image: JobImage): JobSummary['images'][number] {
  let row = imageRows.get(image);
  if (!row) {
    let size = { width: 0, height: 0 };
    try {
      size = imageFacts(image.bytes, image.name);
    } catch {
      // one that cannot be read any more is listed without its size
    }
    row = { id: image.id, name: image.name, type: image.type, width: size.width, height: size.height, bytes: image.bytes.length };
    imageRows.set(image, row);
  }
  return row;
}

const uvScales = new WeakMap<UvSet, number | null>();
/** Root of the area on the sheet over the area in space, of the faces that have a place. */
function uvScale(mesh: Mesh, set: UvSet): number | null {
  let known = uvScales.get(set);
  if (known === undefined) {
    const { uvArea, area } = layoutAreas(mesh, set);
    known = area > 0 && uvArea > 0 ? Math.sqrt(uvArea / area) : null;
    uvScales.set(set, known);
  }
  return known;
}

function summaryOf(job: Job, h: History): JobSummary {
  const active = partOf(job);
  return {
    id: job.id,
    name: job.name,
    activePart: partOf(job).id,
    parts: job.parts.map((part) => ({
      id: part.id,
      name: part.name,
      faces: part.mesh.faceStart.length - 1,
      points: part.mesh.points.length / 3,
      unplaced: unplacedCount(activeSet(part)),
      uvSets: part.uvSets.map((set) => set.name),
      imageId: part.imageId,
      placement: part.placement ?? null,
      uvPerUnit: part.id === active.id && part.imageId !== null ? uvScale(part.mesh, activeSet(part)) : null,
      hidden: part.hidden ?? null,
      done: part.done ?? null,
      seamMarks: part.seamMarks ?? null,
      away: part.away === true,
      fromGltf: part.origin.kind === 'gltf',
      up: part.up ?? 'y',
      activeUv: part.activeUv,
      groups: part.mesh.groups,
      materials: part.mesh.materials,
      form: isPristineForm(part, job.jigs) ? part.form : null,
    })),
    active: activeFacts(job),
    saved: (job.savedSelections ?? []).map((saved) => saved.name),
    images: job.images.map(imageRow),
    missingImages: materialImages(job)
      .filter(({ missing }) => missing.length > 0)
      .map(({ library, missing }) => ({ library, names: missing })),
    jigs: (job.jigs ?? []).map((one) => ({
      id: one.id,
      name: one.name,
      jig: one.jig,
      state: one.state,
      belongs: one.belongs,
      words: stateInWords(job, one),
      drives: one.drives.map(({ part, set, faces }) => ({ part, set, faces: faces.length })),
    })),
    selectedParts: job.selectedParts ?? [],
    settings: job.settings,
    selection: job.selection,
    intake: job.intake,
    history: h.entries.map(({ sentence, operation, time }) => ({ sentence, operation, time })),
    historyIndex: h.index,
  };
}

/** Sends what changed since the last time. */
function show(live = false) {
  if (!history) return;
  const job = history.present;
  const part = partOf(job);
  const meshId = meshIdOf(part.mesh);
  if (sent.mesh !== meshId) {
    const geometry = partGeometry(part, meshId);
    sent.mesh = meshId;
    sent.set = null;
    tell({ kind: 'geometry', geometry });
  }
  const set = activeSet(part);
  const counted = job.settings.countImage ? asImageLands(job, part, set) : null;
  const placement = counted ? JSON.stringify([part.imageId, part.placement]) : '';
  const size = `${job.settings.width}x${job.settings.height}${placement}`;
  const layoutChanged = sent.set !== set || sent.size !== size;
  if (layoutChanged) {
    sent.set = set;
    sent.size = size;
    tell({ kind: 'layout', layout: layoutView(part, set, meshId, job.settings.width, job.settings.height, counted), live });
    indexSoon(part.id, part.mesh, set);
    measureSoon();
  }
  tell({ kind: 'summary', summary: summaryOf(job, history), saved: false });
  contextSoon();
  figuresSoon();
}

/** What has been sent of each part as mere context. */
const sentContext = new Map<string, { mesh: Mesh; hidden: Uint8Array | undefined }>();
let contextTimer: ReturnType<typeof setTimeout> | undefined;
/** Sends the other parts one at a time, so that nothing waits for them. */
function contextSoon() {
  clearTimeout(contextTimer);
  contextTimer = setTimeout(() => {
    if (!history) return;
    const job = history.present;
    const active = partOf(job).id;
    for (const part of job.parts) {
      const known = sentContext.get(part.id);
      if (part.id === active || part.away || (known?.mesh === part.mesh && known.hidden === part.hidden)) continue;
      sentContext.set(part.id, { mesh: part.mesh, hidden: part.hidden });
      tell({ kind: 'context', geometry: contextGeometry(part) });
      contextSoon();
      return;
    }
  }, 20);
}

let figuresTimer: ReturnType<typeof setTimeout> | undefined;
/** Figures of the selection follow a moment after it. */
function figuresSoon() {
  clearTimeout(figuresTimer);
  figuresTimer = setTimeout(() => {
    if (!history) return;
    const job = history.present;
    const { selection, settings } = job;
    const part = partOf(job);
    const figures =
      selection.part === part.id && selection.ids.length > 0
        ? selectionFigures(part.mesh, activeSet(part), selection.kind, selection.ids, settings.width, settings.height)
        : null;
    tell({ kind: 'figures', figures });
  }, 30);
}

let indexTimer: ReturnType<typeof setTimeout> | undefined;
function indexSoon(part: string, mesh: Mesh, set: UvSet, wait = 0) {
  clearTimeout(indexTimer);
  indexTimer = setTimeout(() => (waitsForShape() ? indexSoon(part, mesh, set, 30) : sendIndex(part, mesh, set)), wait);
}

/** A spatial index over the triangles on the sheet, for picking. */
function sendIndex(part: string, mesh: Mesh, set: UvSet) {
  if (sent.set !== set) return;
  const triangles = trianglesOf(mesh);
  if (triangles.count === 0) return;
  const index = new Flatbush(triangles.count, 16, Float32Array);
  for (let t = 0; t < triangles.count; t++) {
    let [a, b, c, d] = [Infinity, Infinity, -Infinity, -Infinity];
    for (let k = 0; k < 3; k++) {
      const id = set.cornerUv[triangles.corners[t * 3 + k]!]! * 2;
      const u = set.uv[id]!;
      const v = set.uv[id + 1]!;
      if (u < a) a = u;
      if (v < b) b = v;
      if (u > c) c = u;
      if (v > d) d = v;
    }
    index.add(a, b, c, d);
  }
  index.finish();
  tell({ kind: 'index', part, data: index.data as ArrayBuffer });
}

/** The worker that measures, with the mesh in it. */
async function measurerWith(mesh: Mesh): Promise<{ api: Comlink.Remote<SolverApi>; id: number }> {
  if (!measuring) {
    const worker = new Worker(new URL('./solverWorker.ts', import.meta.url), { type: 'module', name: 'measure' });
    const mine = { worker, api: Comlink.wrap<SolverApi>(worker), refuse: new Set<(error: Error) => void>() };
    measuring = mine;
    void whenGone(worker, mine.api).then(() => {
      if (measuring === mine) measuring = null;
      for (const refuse of mine.refuse) refuse(workerEnded());
    });
  }
  const id = meshIdOf(mesh);
  if (!(await measuring.api.holdsMesh(id))) await measuring.api.holdMesh(id, mesh);
  return { api: measuring.api, id };
}

let measuring: { worker: Worker; api: Comlink.Remote<SolverApi>; refuse: Set<(error: Error) => void> } | null = null;

/** What the measuring worker answers, or why it cannot: it may end before. */
async function measured<T>(asked: Promise<T>): Promise<T> {
  const seat = measuring;
  let refuse: (error: Error) => void = () => {};
  const ended = new Promise<never>((_, reject) => (refuse = reject));
  seat?.refuse.add(refuse);
  try {
    return await Promise.race([asked, ended]);
  } finally {
    seat?.refuse.delete(refuse);
  }
}
let measureBusy = false;
let measureAgain = false;
let measureTimer: ReturnType<typeof setTimeout> | undefined;
function measureSoon() {
  clearTimeout(measureTimer);
  measureTimer = setTimeout(() => (waitsForShape() ? measureSoon() : void measure()), 60);
}

/** Measures in a worker of its own; a change meanwhile measures once more. */
async function measure() {
  if (!history) return;
  if (measureBusy) {
    measureAgain = true;
    return;
  }
  measureBusy = true;
  try {
    const job = history.present;
    const part = partOf(job);
    const set = activeSet(part);
    const meant = meantFaces(job, part, set);
    const { api: measurer, id } = await measurerWith(part.mesh);
    const { report, faults, state } = await measured(measurer.check(id, set, job.settings.width, job.settings.height, job.settings.margin, meant));
    // each island at its own scale: how their sizes differ is told by density
    const { set: landed, width, height } = job.settings.countImage ? asImageLands(job, part, set) : { set, ...job.settings };
    const stretch = stretchFigures(atOwnScale(part.mesh, landed, triangleStretch(part.mesh, landed, width, height)));
    const notMeant = (faces: Uint8Array) => faces.reduce((sum, x, f) => sum + (x && !meant?.[f] ? 1 : 0), 0);
    const [away] = leftOut([part]);
    if (history.present === job || activeSet(partOf(history.present)) === set)
      tell({
        kind: 'measures',
        measures: {
          part: part.id,
          report: { ...report, ...stretch },
          state,
          ...faults,
          repeats: meant !== null,
          overlapFaults: notMeant(faults.overlapping),
          outsideIslands: away?.outside ?? [],
          waitingIslands: away?.waiting ?? [],
        },
      });
  } catch (error) {
    tell({ kind: 'trouble', sentence: `The measures could not be worked out: ${wordsOf(error)}` });
  } finally {
    measureBusy = false;
    if (measureAgain) {
      measureAgain = false;
      measureSoon();
    }
  }
}

/**
 * 1 for each face that may lie over others or beyond the sheet by design: all where the part's image goes on outside its borders, those that a live
 * jig drives, since it repeats the image. Null if there is none.
 */
function meantFaces(job: Job, part: Part, set: UvSet): Uint8Array | null {
  const faces = part.mesh.faceStart.length - 1;
  if (repeatsImage(part)) return new Uint8Array(faces).fill(1);
  const drives = (job.jigs ?? [])
    .filter(({ state }) => state === 'live')
    .flatMap((jig) => jig.drives.filter((drive) => drive.part === part.id && drive.set === set.name));
  if (drives.length === 0) return null;
  const out = new Uint8Array(faces);
  for (const { faces: driven } of drives) for (const f of driven) out[f] = 1;
  return out;
}

/** Unlike for every session of this browser. */
const sessionToken = crypto.randomUUID();
let keeping: Keeping | null = null;
let ownership: Ownership | null = null;

/** Keeps the history after each step. */
function save() {
  if (history) keeping?.keep(history.entries, history.index);
}

/** Until all that was done so far is kept, or cannot be. */
const settle = async (): Promise<boolean> => (keeping ? keeping.settle() : true);

/** Jobs that were left before all of their steps could be kept: it goes on being tried, and they are gone back to as they are. */
const unfinished = new Map<string, { history: History; keeper: Keeper; keeping: Keeping; ownership: Ownership }>();

/** Lets go of the job at hand. What could not be kept of it stays here and is tried again. */
async function leave(): Promise<void> {
  const left = { history, keeper, keeping, ownership };
  if (!left.keeper || !left.keeping) return;
  const all = await left.keeping.settle();
  if (!all && left.history && left.ownership)
    unfinished.set(left.keeper.jobId, left as typeof left & { history: History; keeper: Keeper; keeping: Keeping; ownership: Ownership });
  else {
    left.keeping.stop();
    left.ownership?.close();
  }
  if (keeper === left.keeper) history = keeper = keeping = ownership = null;
}

/** Makes a job this session's: its keeper, who may write it, and what happens when that changes. */
async function adopt(id: string): Promise<Keeper> {
  await leave();
  const mine = new Keeper(id, database, sessionToken);
  keeper = mine;
  keeping = new Keeping(
    mine,
    (event) => {
      const rest = unfinished.get(id);
      if (keeper !== mine) {
        // left before all was kept
        if (event.kind !== 'saved' || rest?.keeper !== mine) return;
        unfinished.delete(id);
        rest.ownership.close();
        tell({ kind: 'trouble', sentence: `All steps of “${rest.history.present.name}” are kept now.` });
      } else if (event.kind === 'takenOver') tell({ kind: 'owner', owner: 'others', how: 'stolen' });
      else tell(event);
      if (event.kind === 'saved') ownership?.tellKept();
    },
    { estimate: () => navigator.storage.estimate() },
  );
  const owns: Ownership = new Ownership(id, sessionToken, {
    givingUp: async () => {
      livePool.cancel();
      works.cancelAll();
      await settle();
    },
    changed: (owner, how) => {
      if (ownership !== owns) return;
      void inTurn(async () => {
        if (owner === 'mine') await begins(mine);
        tell({ kind: 'owner', owner, how });
      });
    },
    kept: () => void inTurn(() => follow(mine)),
  });
  ownership = owns;
  const owner = await owns.take();
  if (owner === 'mine') await mine.claim();
  if (keeper === mine) tell({ kind: 'owner', owner, how: owner === 'mine' ? 'got' : 'busy' });
  return mine;
}

/** This session writes from now on, from what the other one kept. */
async function begins(mine: Keeper): Promise<void> {
  await mine.claim();
  keeping = new Keeping(mine, keeping!.teller, { estimate: () => navigator.storage.estimate() });
  await follow(mine);
}

/** Shows what another session has kept. */
async function follow(mine: Keeper): Promise<void> {
  if (keeper !== mine) return;
  const kept = await mine.load().catch(() => null);
  if (!kept || keeper !== mine) return;
  history = History.restore(kept.entries, kept.index);
  livePool.cancel();
  show();
}

/** @throws JigError `looks-on` while another session writes the job */
function assertMine() {
  if (ownership && !ownership.isMine)
    throw new JigError('looks-on', 'This job is being worked on in another tab; here it can be looked at.', '', 'Take it over to work on it here.');
}

async function begin(job: Job, sentence: string): Promise<void> {
  works.cancelAll();
  await adopt(job.id);
  history = new History({ job, operation: 'open', params: {}, sentence, time: Date.now() });
  forget();
  save();
  show();
  await settle();
}

function forget() {
  livePool.cancel();
  pool.cancel();
  sent.mesh = -1;
  sent.set = null;
  sentContext.clear();
}

async function attempt(work: () => Promise<Outcome>): Promise<Outcome> {
  try {
    return await work();
  } catch (error) {
    if (!(error instanceof JigError)) console.error(error);
    return { ok: false, sentence: wordsOf(error), report: { code: error instanceof JigError ? error.code : 'internal' } };
  }
}

let last: Promise<unknown> = Promise.resolve();
/** One after the other, in the order asked for: a cut sees the selection that was made just before it. */
function inTurn<T>(work: () => Promise<T>): Promise<T> {
  const turn = last.then(work);
  last = turn.catch(() => {});
  return turn;
}

/** Islands touched while live unwraps are still on their way. */
let pendingFaces = new Set<number>();
let pendingBefore: UvSet | null = null;

/** Changes of seams whose islands are still on their way: measuring and the index for picking wait for them, since the machine is theirs. */
let onTheirWay = 0;
/** The longest that measuring waits, ms. */
const patience = 1500;
let waitsSince = 0;
const waitsForShape = () => onTheirWay > 0 && performance.now() - waitsSince < patience;

/** @param shown a first shape stands already */
async function unwrapLive(partId: string, faces: Set<number>, before: UvSet, shown: boolean) {
  if (onTheirWay++ === 0) waitsSince = performance.now();
  try {
    await layLive(partId, faces, before, shown);
  } finally {
    onTheirWay--;
  }
}

async function layLive(partId: string, faces: Set<number>, before: UvSet, shown: boolean) {
  if (!history) return;
  livePool.cancel();
  for (const f of faces) pendingFaces.add(f);
  pendingBefore ??= before;
  const job = history.present;
  const mark = performance.now();
  const quiet: Context = { progress: () => {}, throwIfCancelled: () => {}, pool: livePool };
  let hasFirst: Job | null = null;
  try {
    const asked = [pendingFaces, pendingBefore] as const;
    // a first shape at once, unless it stands or conformal is as quick anyway
    const quick = shown || job.settings.method === 'conformal' ? null : await unwrapTouched(job, partId, asked[0], asked[1], quiet, { quick: true });
    const first = quick?.job ?? null;
    if (!history || history.present !== job) return;
    // live jigs drive their faces: these are not unwrapped behind their back
    if (first && liveTouched(job, first).length > 0) return;
    if (first) {
      hasFirst = first;
      history.amend(first);
      show(true);
      performance.measure('unwrap touched, first shape', { start: mark });
    }
    const seen = history.present;
    const laid = await unwrapTouched(seen, partId, asked[0], first ? null : asked[1], quiet, { warm: true, timeLimit: 8000 });
    if (!history || history.present !== seen) return;
    pendingFaces = new Set();
    pendingBefore = null;
    if (!laid || liveTouched(seen, laid.job).length > 0) return;
    history.amend(laid.job);
    if (laid.waiting > 0)
      tell({
        kind: 'note',
        sentence: `${laid.waiting === 1 ? 'One new island' : `${laid.waiting} new islands`} found no free room on the sheet and ${laid.waiting === 1 ? 'waits' : 'wait'} in the tray, left of it. Pack makes room.`,
      });
    show(true);
    save();
    performance.measure('unwrap touched', { start: mark });
  } catch (error) {
    const cancelled = error instanceof JigError && error.code === 'cancelled';
    if (!cancelled && hasFirst !== null && history?.present === hasFirst) {
      // a first shape of what cannot lie flat after all is taken back
      history.amend(job);
      show(true);
      save();
    }
    // from a worker comes the sentence alone
    if (cancelled || (error instanceof Error && error.name === 'JigError' && error.message.includes('cannot lie flat'))) return;
    pendingFaces = new Set();
    pendingBefore = null;
    tell({ kind: 'trouble', sentence: `The touched islands could not be unwrapped: ${wordsOf(error)}` });
  }
}

/** Runs what a cut and a drawn selection need on a small form a few times, so that the engine has compiled it before the first real one. Once, some 80 ms. */
function warmUp() {
  const mesh = cubeSphere(1, 16);
  const set = emptyUvSet(mesh);
  const part = { id: 'warm', name: '', mesh, uvSets: [set], activeUv: 0, imageId: null, origin: { kind: 'made' as const } };
  for (let k = 0; k < 12; k++) layoutView(part, cut(mesh, set, edgeLoop(mesh, k * 7)).set, -1, 1024, 1024);
  const ring = cut(mesh, set, edgeLoop(mesh, 40)).set;
  // one by one: what is asked for meanwhile comes in between
  const lay = async () => {
    const { set: laid } = await unwrapIslands(mesh, ring, 'all', 'isometric', quietContext, { quick: true, apart: true });
    for (let k = 0; k < 3; k++) openPatch(mesh, laid, [k * 50], { triangles: 400 });
  };
  for (let k = 0; k < 4; k++) setTimeout(() => void lay().catch(() => {}), 1000 + 100 * k);
  const view = { matrix: [2, 0, 0, 0, 0, 2, 0, 0, 0, 0, -1, -1, 0, 0, 3, 4], width: 300, height: 300 };
  for (const kind of ['faces', 'edges', 'points'] as const)
    for (let k = 0; k < 6; k++) modelRegion({ mesh, set, hidden: null, kind, region: { shape: 'box', points: [0, 0, 300, 300] } }, view, k === 0);
}

/** One operation on the job that is open, kept as a step of its history. @param writeLive live jigs whose faces it edits may be written for it */
async function runStep(name: string, params: Record<string, unknown>, context: Context, writeLive = false): Promise<Outcome> {
  const h = history;
  if (!h) throw new JigError('nothing-to-do', 'No job is open.');
  assertMine();
  // so that whatever ends this page ends at most one step that is not kept; one that cannot be kept holds nobody up
  await Promise.race([settle(), new Promise((late) => setTimeout(late, 250))]);
  const before = h.present;
  const part = partOf(before, typeof params.part === 'string' ? params.part : undefined);
  const start = performance.now();
  const { job, report, params: filled, sentence, released } = await runOperation(before, name, params, context);
  const ran = performance.now();
  if (h !== history || h.present !== before) throw new JigError('cancelled', 'The job changed meanwhile; nothing was done.');
  if (job === before) return { ok: true, sentence, report };
  if (released.length > 0 && !writeLive) {
    const names = released.map((one) => `“${one.name}”`).join(', ');
    const many = released.length > 1;
    return {
      ok: false,
      sentence: `These faces are driven by the live jig${many ? 's' : ''} ${names}. Write ${many ? 'them' : 'it'} to the UVs first, then this edit holds.`,
      report: { code: 'live-jigs', ids: released.map(({ id }) => id) },
    };
  }
  const laysFlat = ['cut', 'uncut', 'seams', 'open', 'join'].includes(name) && job.settings.live;
  const changed = laysFlat ? changedEdges(before, job, part.id) : [];
  // a shape at once where that costs no more than the cut itself; conformal as a whole is as quick
  const shaped = changed.length > 0 && job.settings.method !== 'conformal' ? firstShape(job, part.id, changed, activeSet(part)) : null;
  const shown = shaped && liveTouched(job, shaped).length === 0 ? shaped : null;
  h.push({ job: shown ?? job, operation: name, params: filled, sentence, time: Date.now() });
  show();
  const timings = { run: ran - start, show: performance.now() - ran };
  save();
  if (laysFlat) void unwrapLive(part.id, touchedFaces(part, changed), activeSet(part), shown !== null);
  return { ok: true, sentence, report: plain(report), timings, takesBack: 'undo' };
}

/** UVs that are not the layout's, ready to draw. @param corner 2 numbers a corner */
function previewOf(mesh: Mesh, corner: Float64Array | Float32Array, unplaced: Uint8Array): UvPreview {
  const { corners, count } = trianglesOf(mesh);
  const uvAt = new Float32Array(count * 6);
  for (let k = 0; k < count * 3; k++) {
    uvAt[k * 2] = corner[corners[k]! * 2]!;
    uvAt[k * 2 + 1] = corner[corners[k]! * 2 + 1]!;
  }
  const flat = new Float32Array((corner.length / 2) * 3);
  for (let f = 0; f < unplaced.length; f++) {
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      flat[c * 3] = unplaced[f] ? -1e4 : corner[c * 2]!;
      flat[c * 3 + 1] = unplaced[f] ? -1e4 : corner[c * 2 + 1]!;
    }
  }
  return Comlink.transfer({ meshId: meshIdOf(mesh), uvAt, flat, unplaced }, [uvAt.buffer, flat.buffer, unplaced.buffer]);
}

/** A drag of pins under way: the island's matrix factored once, so that each move costs a few solves. */
interface PinDrag {
  set: UvSet;
  /** The set with the island's fans apart, u scaled so that a unit is square. */
  separate: UvSet;
  points: string;
  piece: Piece;
  solver: RigidSolver;
  uv: Float64Array;
  scale: number;
  mirror: number;
  aspect: number;
}
let pinDrag: PinDrag | null = null;
function endPinDrag(): void {
  pinDrag?.solver.release();
  pinDrag = null;
}
function pinDragOn(part: Job['parts'][number], points: readonly number[], aspect: number): PinDrag | null {
  const set = activeSet(part);
  const key = points.join();
  if (pinDrag && pinDrag.set === set && pinDrag.points === key) return pinDrag;
  endPinDrag();
  const [island] = islandsOfPoints(part, set, points);
  if (island === undefined) return null;
  const square: UvSet = aspect === 1 ? set : { ...set, uv: set.uv.map((x, k) => (k % 2 === 0 ? x * aspect : x)) };
  const islands = islandsOf(part.mesh, set);
  const separate = separateFans(part.mesh, square, islands.faces.subarray(islands.start[island]!, islands.start[island + 1]!));
  const piece = pieceOf(part.mesh, separate, island);
  const { start, scale, mirror } = presentOf(piece, separate);
  const held = [...piece.uvPoint.keys()].filter((v) => separate.pins[piece.uvPoint[v]!]);
  pinDrag = { set, separate, points: key, piece, solver: new RigidSolver(prepare(piece.positions, piece.triangles), held), uv: start, scale, mirror, aspect };
  return pinDrag;
}

/** A selection changed by what was found, rising. */
function combineIds(before: Uint32Array, found: Uint32Array, touched: number[], mode: RegionTake['mode']): Uint32Array {
  const all = touched.length > 0 ? Uint32Array.from([...found, ...touched]) : found;
  if (mode === 'take') {
    const gone = new Set(all);
    return before.filter((id) => !gone.has(id));
  }
  return rising(mode === 'add' ? [...before, ...all] : all);
}

const api = {
  alive: holdWhileAlive,

  listen(callback: (event: WorkerEvent) => void): void {
    tell = callback;
    setTimeout(warmUp, 0);
    setTimeout(() => livePool.warm(), 2000);
  },

  /** Opens files as a new job. The answer's report holds its id. */
  open(files: InputFile[], id: string, name?: string): Promise<Outcome> {
    return attempt(() =>
      withProgress(async (context) => {
        const opened = await openFiles(files, id, context, { up: 'guess' });
        const job = name ? { ...opened, name } : opened;
        await begin(job, `Opened ${files.length === 1 ? files[0]!.name : `${files.length} files`}`);
        const bare = job.parts.every((part) => part.uvSets.every((set) => unplacedCount(set) === set.unplaced.length));
        // files that bring UVs begin where these are looked at; an archive goes on where one worked last
        const first = bare || files.some(({ name: file }) => file.toLowerCase().endsWith('.jigpeel')) ? 'seams' : 'intake';
        return { ok: true, sentence: `Opened ${job.name}`, report: { id: job.id, intake: job.intake, first } };
      }),
    );
  },

  /** A new job that begins with a starter form. */
  begin(id: string, kind: string): Promise<Outcome> {
    return attempt(async () => {
      const blank = newJob(id, kind[0]!.toUpperCase() + kind.slice(1), []);
      const { job, sentence } = await runOperation(blank, 'makeForm', { kind });
      await begin(job, sentence);
      return { ok: true, sentence, report: { id } };
    });
  },

  /** Brings a kept job back with its history. */
  load(id: string): Promise<Outcome> {
    return attempt(async () => {
      if (history?.present.id === id) {
        forget();
        show();
        tell({ kind: 'owner', owner: ownership?.isMine === false ? 'others' : 'mine', how: 'busy' });
        return { ok: true, sentence: 'Here it is', report: { id, missing: 0 } };
      }
      works.cancelAll();
      const rest = unfinished.get(id);
      if (rest) {
        await leave();
        unfinished.delete(id);
        ({ history, keeper, keeping, ownership } = rest);
        forget();
        show();
        keeping.retry();
        return { ok: true, sentence: `Opened ${history.present.name}`, report: { id, missing: 0 } };
      }
      const mine = await adopt(id);
      const kept = await mine.load();
      if (keeper !== mine) throw new JigError('cancelled', 'Another job was opened meanwhile.');
      if (!kept) throw new JigError('not-found', 'This job is not kept in this browser.', '', 'Open its job archive from the jobs page.');
      history = History.restore(kept.entries, kept.index);
      forget();
      show();
      return { ok: true, sentence: `Opened ${history.present.name}`, report: { id, missing: kept.missing, left: kept.entries.length } };
    });
  },

  /** Lets go of a kept job that is no longer looked at, once all of it is kept. */
  letGo(id: string): Promise<void> {
    return inTurn(async () => {
      if (keeper?.jobId === id) await leave();
    });
  },

  /** Makes this session the one that writes the job. */
  takeOver(): Promise<void> {
    return ownership?.takeOver() ?? Promise.resolve();
  },

  /** Tries at once to keep what could not be kept. */
  retrySave(): void {
    keeping?.retry();
  },

  run: (name: string, params: Record<string, unknown>, writeLive = false) =>
    inTurn(() => attempt(() => withProgress((context) => runStep(name, params, context, writeLive)))),

  /** Selects what lies in a drawn region of a view, as one step. */
  takeRegion({ region, kind, through, mode, touched }: RegionTake, view: RegionView): Promise<Outcome> {
    return inTurn(() =>
      attempt(() => {
        if (!history) throw new JigError('nothing-to-do', 'No job is open.');
        const job = history.present;
        const part = partOf(job);
        const start = performance.now();
        const question = { mesh: part.mesh, set: activeSet(part), hidden: part.hidden ?? null, kind, region };
        const found = view.view === 'model' ? modelRegion(question, view, through) : sheetRegion(question, view);
        const { selection } = job;
        const before = selection.part === part.id && selection.kind === kind ? selection.ids : new Uint32Array(0);
        const ids = combineIds(before, found, touched, mode);
        const timings = { run: performance.now() - start, show: 0 };
        if (ids.length === before.length && ids.every((id, k) => id === before[k])) return Promise.resolve({ ok: true, sentence: '', report: {}, timings });
        return runStep('select', { kind, ids }, quietContext).then((outcome) => ({
          ...outcome,
          timings: { run: timings.run, show: performance.now() - start - timings.run },
        }));
      }),
    );
  },

  /** Relaxes the faces in sight under a brush stroke, as one step. */
  relaxRegion(region: Region, view: RegionView, writeLive = false): Promise<Outcome> {
    return inTurn(() =>
      attempt(() =>
        withProgress((context) => {
          if (!history) throw new JigError('nothing-to-do', 'No job is open.');
          const part = partOf(history.present);
          const question = { mesh: part.mesh, set: activeSet(part), hidden: part.hidden ?? null, kind: 'faces' as const, region };
          const faces = view.view === 'model' ? modelRegion(question, view, false) : sheetRegion(question, view);
          if (faces.length === 0) throw new JigError('nothing-to-do', 'The brush passed over no face.', '', 'Brush over the model or an island.');
          return runStep('relax', { faces: [...faces].join(',') }, context, writeLive);
        }),
      ),
    );
  },

  undo: () => inTurn(() => step((h) => h.undo())),
  redo: () => inTurn(() => step((h) => h.redo())),

  cancel(): void {
    works.cancel();
  },

  /** Edges that a stroke over the model would become; nothing is changed. */
  pen(stroke: Float64Array): Uint32Array {
    if (!history) return new Uint32Array(0);
    return Uint32Array.from(penPath(partOf(history.present).mesh, stroke));
  },

  loop(edge: number): Uint32Array {
    if (!history) return new Uint32Array(0);
    return Uint32Array.from(edgeLoop(partOf(history.present).mesh, edge));
  },

  /** Takes images into the job; what was read is in the history by name, the pictures themselves in the job alone. */
  addImages(images: { name: string; bytes: Uint8Array }[], reveal: boolean): Promise<Outcome> {
    return inTurn(() =>
      attempt(async () => {
        const h = history;
        if (!h) throw new JigError('nothing-to-do', 'No job is open.');
        assertMine();
        const before = h.present;
        const { job, report, sentence } = await runOperation(before, 'addImages', { images, show: reveal });
        if (job !== before) {
          h.push({ job, operation: 'addImages', params: { images: images.map(({ name }) => name), show: reveal }, sentence, time: Date.now() });
          show();
          save();
        }
        return { ok: true, sentence, report, ...(job === before ? {} : { takesBack: 'undo' as const }) };
      }),
    );
  },

  /** Projections for the selected faces (all if none is), measured and ranked, best first. */
  advise(): Promise<Outcome> {
    return attempt(async () => {
      if (!history) throw new JigError('nothing-to-do', 'No job is open.');
      const job = history.present;
      const part = partOf(job);
      const faces = facesBy(job, part, 'selected');
      const { api: measurer, id } = await measurerWith(part.mesh);
      const found = await measured(measurer.advise(id, faces));
      if (!found) return { ok: true, sentence: '', report: null };
      const list = found.slice(0, 4);
      const pictures = await measured(measurer.picture(id, list));
      // from here on they are faces of the mesh
      for (const { figures } of list) figures.badly = figures.badly.map((k) => faces[k]!);
      return { ok: true, sentence: `Measured ways to project ${faces.length} faces`, report: { faces: faces.length, list, pictures } };
    });
  },

  /** What the island makes of pins drawn to places: u, v each. Some steps of keep shapes, whatever the method: the drop unwraps it by its own. */
  movePins(own: number[], ownPlaces: number[]): UvPreview | null {
    if (!history) return null;
    const job = history.present;
    const part = partOf(job);
    const { points, places } = withMirroredMoves(job, part, own, ownPlaces);
    const drag = pinDragOn(part, points, job.settings.width / job.settings.height);
    if (!drag) return null;
    const { piece, scale, mirror, aspect } = drag;
    const { set, separate } = drag;
    const moved = new Map(points.map((p, k) => [p, k]));
    const at: number[] = [];
    piece.uvPoint.forEach((p) => {
      if (!separate.pins[p]) return;
      const k = moved.get(p);
      const u = k === undefined ? separate.uv[p * 2]! : places[k * 2]! * aspect;
      const v = k === undefined ? separate.uv[p * 2 + 1]! : places[k * 2 + 1]!;
      at.push(u * scale * mirror, v * scale);
    });
    drag.uv = drag.solver.run(drag.uv, at, 4, 0).uv;
    const corner = cornerPlaces(part.mesh, set).slice();
    const vertex = new Map<number, number>();
    piece.uvPoint.forEach((p, v) => vertex.set(p, v));
    part.mesh.corners.forEach((_, c) => {
      const v = vertex.get(separate.cornerUv[c]!);
      if (v === undefined) return;
      corner[c * 2] = (drag.uv[v * 2]! / scale / aspect) * mirror;
      corner[c * 2 + 1] = drag.uv[v * 2 + 1]! / scale;
    });
    return previewOf(part.mesh, corner, set.unplaced.slice());
  },

  endPins(): void {
    endPinDrag();
  },

  /** Nobody waits for the advice any more. */
  leaveAdvice(): void {
    void measuring?.api.leaveAdvice();
  },

  /** A jig of a kind placed on the selected faces (all if none is), and these faces; the image as large as on a jig that it takes the place of. */
  fitJig(kind: JigKind, axis: PlacementAxis, sizeBy: 'faces' | 'part' = 'faces', before: Jig | null = null): Promise<Outcome> {
    return attempt(() => {
      if (!history) throw new JigError('nothing-to-do', 'No job is open.');
      const job = history.present;
      const part = partOf(job);
      const faces = facesBy(job, part, 'selected');
      const fitted = placeJig(part.mesh, faces, kind, axis, sizeBy === 'part' ? facesBy(job, part, 'all') : faces);
      return Promise.resolve({ ok: true, sentence: '', report: { faces, jig: before ? keepImageSize(before, fitted) : fitted } });
    });
  },

  /** Px per unit of each face of the active part, of the sheet or, where stretch counts it, of the image as it lands. */
  density(): { faces: Float32Array; middle: number; of: 'sheet' | 'image' } | null {
    if (!history) return null;
    const job = history.present;
    const part = partOf(job);
    const landed = job.settings.countImage ? asImageLands(job, part, activeSet(part)) : null;
    const px = landed?.px ?? null;
    const faces = px
      ? faceDensity(part.mesh, landed!.set, px.width, px.height)
      : faceDensity(part.mesh, activeSet(part), job.settings.width, job.settings.height);
    const placed = faces.filter((x) => !Number.isNaN(x)).sort();
    const answer = { faces, middle: placed[placed.length >> 1] ?? NaN, of: px ? ('image' as const) : ('sheet' as const) };
    return Comlink.transfer(answer, [faces.buffer as ArrayBuffer]);
  },

  /** Marks on both sides of the active part's seams, asked for while they are shown. */
  notches(): Float32Array {
    if (!history) return new Float32Array(0);
    const part = partOf(history.present);
    return notchMarks(part.mesh, activeSet(part));
  },

  /** Measured beside the work, so that nobody waits for it; a newer question takes the place of an older one. */
  joinAdvice(island: number): Promise<Outcome> {
    return attempt(async () => {
      if (!history) throw new JigError('nothing-to-do', 'No job is open.');
      const { report } = await runOperation(history.present, 'joinAdvice', { island }, { progress: () => {}, throwIfCancelled: () => {}, pool: joinPool });
      return { ok: true, sentence: '', report };
    });
  },

  /** Faces of the active part that a jig drives. */
  drivenFaces(id: string): Uint32Array | null {
    if (!history) return null;
    const job = history.present;
    const part = partOf(job);
    const drives = job.jigs?.find((one) => one.id === id)?.drives.filter((d) => d.part === part.id) ?? [];
    return (drives.find((d) => d.set === activeSet(part).name) ?? drives[0])?.faces ?? null;
  },

  /** A jig of another kind on given faces, its image as large as on the one before. */
  fitFaces(faces: Uint32Array, kind: JigKind, before: Jig): Promise<Outcome> {
    return attempt(() => {
      if (!history) throw new JigError('nothing-to-do', 'No job is open.');
      return Promise.resolve({ ok: true, sentence: '', report: { jig: keepImageSize(before, placeJig(partOf(history.present).mesh, faces, kind, 'auto')) } });
    });
  },

  /** UVs of the active part as jigs would make them; nothing is changed. Faces: a jig's own by its id, given ones, or the selected. */
  preview(items: { jig: Jig; id?: string; faces?: Uint32Array }[]): UvPreview | null {
    if (!history) return null;
    void measuring?.api.hold(400);
    const job = history.present;
    const part = partOf(job);
    const set = activeSet(part);
    const { mesh } = part;
    const corner = cornerPlaces(mesh, set).slice();
    const unplaced = set.unplaced.slice();
    for (const { jig, id, faces: given } of items) {
      const own = job.jigs?.find((one) => one.id === id)?.drives.find((d) => d.part === part.id && d.set === set.name)?.faces;
      const faces = given ?? own ?? (id === undefined ? facesBy(job, part, 'selected') : null);
      if (!faces || faces.length === 0) continue;
      const done = project(mesh, faces, jig);
      for (let k = 0; k < done.corners.length; k++) {
        const c = done.corners[k]! * 2;
        corner[c] = done.uv[k * 2]!;
        corner[c + 1] = done.uv[k * 2 + 1]!;
      }
      for (let k = 0; k < faces.length; k++) unplaced[faces[k]!] = 0;
    }
    return previewOf(mesh, corner, unplaced);
  },

  image(id: string): { bytes: Uint8Array; type: string } | null {
    const image = history?.present.images.find((i) => i.id === id);
    return image ? { bytes: image.bytes, type: image.type } : null;
  },

  deliver(choice: DeliverChoice): Promise<Outcome> {
    return attempt(() =>
      withProgress(async (context) => {
        if (!history) throw new JigError('nothing-to-do', 'No job is open.');
        const missing = choice.asItIs ? [] : missingFrom(history.present, choice);
        if (missing.length > 0)
          return {
            ok: false,
            sentence: leftOutWords(missing).join(' '),
            report: { code: 'left-out', words: leftOutWords(missing), parts: missing.map(({ part }) => part) },
          };
        const sentences = history.entries.slice(0, history.index + 1).map((entry) => entry.sentence);
        const result = await deliver(history.present, choice, sentences, context.progress);
        return { ok: true, sentence: `Delivered ${result.files.length} ${result.files.length === 1 ? 'file' : 'files'}`, report: result };
      }),
    );
  },

  /** Waits until everything done so far is kept; false if it could not be. */
  settle,
};

const placesOf = new WeakMap<UvSet, Float32Array>();
/** UVs corner by corner, kept while the set lives. */
function cornerPlaces(mesh: Mesh, set: UvSet): Float32Array {
  let places = placesOf.get(set);
  if (!places) {
    places = new Float32Array(mesh.corners.length * 2);
    for (let c = 0; c < mesh.corners.length; c++) {
      places[c * 2] = set.uv[set.cornerUv[c]! * 2]!;
      places[c * 2 + 1] = set.uv[set.cornerUv[c]! * 2 + 1]!;
    }
    placesOf.set(set, places);
  }
  return places;
}

function changedEdges(before: Job, after: Job, partId: string): number[] {
  const a = layoutStates(before, partId);
  const b = layoutStates(after, partId);
  const out: number[] = [];
  for (let e = 0; e < a.length; e++) if (a[e] !== b[e]) out.push(e);
  return out;
}

function layoutStates(job: Job, partId: string): Uint8Array {
  const part = partOf(job, partId);
  return islandsOf(part.mesh, activeSet(part)).states;
}

/** Functions cannot be sent; reports that have some are for the command line. */
function plain(report: unknown): unknown {
  if (!report || typeof report !== 'object') return report;
  return Object.fromEntries(Object.entries(report).filter(([, value]) => typeof value !== 'function'));
}

function step(move: (h: History) => Job): Promise<Outcome> {
  return attempt(async () => {
    if (!history) throw new JigError('nothing-to-do', 'No job is open.');
    assertMine();
    livePool.cancel();
    pendingFaces = new Set();
    pendingBefore = null;
    const before = history.index;
    const left = history.entries[before]!.sentence;
    move(history);
    if (history.index === before) return { ok: true, sentence: '', report: {} };
    show();
    save();
    return history.index < before
      ? { ok: true, sentence: `Undid: ${left}`, report: {}, takesBack: 'redo' }
      : { ok: true, sentence: `Did again: ${history.entries[history.index]!.sentence}`, report: {}, takesBack: 'undo' };
  });
}

export type CoreApi = typeof api;
Comlink.expose(api);
