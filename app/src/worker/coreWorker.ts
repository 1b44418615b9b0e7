import * as Comlink from 'comlink';
import './draco.ts';
import { database } from '../keep/db.ts';
import { JobSession } from '../session/jobSession.ts';
import type { WorkerEvent } from '../session/messages.ts';
import { CancelBoard } from '../session/pool/cancelBoard.ts';
import { Seats } from '../session/pool/workerPool.ts';
import { holdWhileAlive } from './alive.ts';
import { makeSeat } from './seat.ts';

/* The thread of the session: hands questions and answers over, nothing else. */

let session: JobSession | null = null;
const theSession = (): JobSession => {
  if (!session) throw new Error('nobody listens yet');
  return session;
};

/** Threads that may work side by side, beside the screen. */
const threads = Math.max(1, Math.min(4, (navigator.hardwareConcurrency || 2) - 1));

/** Arrays of an event that this thread does not need any more: they are handed over, not copied. */
function handedOver(event: WorkerEvent): Transferable[] {
  if (event.kind === 'index') return [event.data];
  if (event.kind === 'geometry' || event.kind === 'context') return buffersIn(event.geometry);
  return [];
}

/** The buffers of an object's own arrays, each once. */
function buffersIn(value: unknown, found = new Set<ArrayBuffer>()): ArrayBuffer[] {
  if (ArrayBuffer.isView(value)) {
    if (value.buffer instanceof ArrayBuffer) found.add(value.buffer);
  } else if (value instanceof ArrayBuffer) found.add(value);
  else if (value && typeof value === 'object') for (const one of Object.values(value)) buffersIn(one, found);
  return [...found];
}

const given = <T extends object | null>(answer: T): T => (answer ? Comlink.transfer(answer, buffersIn(answer)) : answer);

const api = {
  alive: holdWhileAlive,

  /** @param warms get ready, beside what is asked, for what is likely to be asked next */
  listen(callback: (event: WorkerEvent) => void, board: SharedArrayBuffer | null, warms: boolean): void {
    session = new JobSession(
      {
        storage: { database, token: crypto.randomUUID(), estimate: () => navigator.storage.estimate(), locks: navigator.locks as never },
        seats: new Seats(makeSeat, warms),
        threads,
        board: new CancelBoard(board),
      },
      (event) => {
        const buffers = handedOver(event);
        callback(buffers.length > 0 ? Comlink.transfer(event, buffers) : event);
      },
    );
    if (!warms) return;
    // not beside an opening or a load: these have the machine for themselves
    const whenIdle = (work: () => void, ms: number) => setTimeout(() => (theSession().isBusy ? whenIdle(work, 300) : work()), ms);
    whenIdle(() => void import('../session/warmUp.ts').then(({ warmUp }) => warmUp()), 300);
    whenIdle(() => theSession().warm(), 2000);
  },

  open: (...asked: Parameters<JobSession['open']>) => theSession().open(...asked),
  begin: (...asked: Parameters<JobSession['begin']>) => theSession().begin(...asked),
  load: (...asked: Parameters<JobSession['load']>) => theSession().load(...asked),
  archiveKept: (...asked: Parameters<JobSession['archiveKept']>) => theSession().archiveKept(...asked),
  letGo: (...asked: Parameters<JobSession['letGo']>) => theSession().letGo(...asked),
  takeOver: () => theSession().takeOver(),
  retrySave: () => theSession().retrySave(),
  settle: () => theSession().settle(),
  idle: () => theSession().idle(),

  run: ((...asked: Parameters<JobSession['run']>) => theSession().run(...asked)) as JobSession['run'],
  takeRegion: (...asked: Parameters<JobSession['takeRegion']>) => theSession().takeRegion(...asked),
  relaxRegion: (...asked: Parameters<JobSession['relaxRegion']>) => theSession().relaxRegion(...asked),
  addImages: (...asked: Parameters<JobSession['addImages']>) => theSession().addImages(...asked),
  undo: () => theSession().undo(),
  redo: () => theSession().redo(),
  takePacking: () => theSession().takePacking(),
  cancel: (slot?: number) => theSession().cancel(slot),

  pen: (...asked: Parameters<JobSession['pen']>) => given(theSession().pen(...asked)),
  under: (...asked: Parameters<JobSession['under']>) => theSession().under(...asked),
  loop: (...asked: Parameters<JobSession['loop']>) => given(theSession().loop(...asked)),
  advise: () => theSession().advise(),
  leaveAdvice: () => theSession().leaveAdvice(),
  joinAdvice: (...asked: Parameters<JobSession['joinAdvice']>) => theSession().joinAdvice(...asked),
  fitJig: (...asked: Parameters<JobSession['fitJig']>) => theSession().fitJig(...asked),
  fitFaces: (...asked: Parameters<JobSession['fitFaces']>) => theSession().fitFaces(...asked),
  drivenFaces: (...asked: Parameters<JobSession['drivenFaces']>) => theSession().drivenFaces(...asked),
  preview: (...asked: Parameters<JobSession['preview']>) => given(theSession().preview(...asked)),
  grip: (...asked: Parameters<JobSession['grip']>) => given(theSession().grip(...asked)),
  previewStep: (async (...asked: Parameters<JobSession['previewStep']>) => given(await theSession().previewStep(...asked))) as JobSession['previewStep'],
  tryStep: (async (...asked: Parameters<JobSession['tryStep']>) => given(await theSession().tryStep(...asked))) as JobSession['tryStep'],
  previewUv: (...asked: Parameters<JobSession['previewUv']>) => given(theSession().previewUv(...asked)),
  previewSet: (...asked: Parameters<JobSession['previewSet']>) => given(theSession().previewSet(...asked)),
  previewVersion: (...asked: Parameters<JobSession['previewVersion']>) => given(theSession().previewVersion(...asked)),
  movePins: (...asked: Parameters<JobSession['movePins']>) => given(theSession().movePins(...asked)),
  endPins: () => theSession().endPins(),
  density: () => given(theSession().density()),
  form: async (...asked: Parameters<JobSession['form']>) => given(await theSession().form(...asked)),
  strokes: () => given(theSession().strokes()),
  continuity: () => theSession().continuity(),
  seamLooks: () => theSession().seamLooks(),
  leaveSeamLooks: () => theSession().leaveSeamLooks(),
  seamRemedies: (...asked: Parameters<JobSession['seamRemedies']>) => theSession().seamRemedies(...asked),
  propose: (...asked: Parameters<JobSession['propose']>) => theSession().propose(...asked),
  pictureHeading: (...asked: Parameters<JobSession['pictureHeading']>) => theSession().pictureHeading(...asked),
  sharpness: (...asked: Parameters<JobSession['sharpness']>) => theSession().sharpness(...asked),
  warmBake: () => theSession().warmBake(),
  roughBake: (...asked: Parameters<JobSession['roughBake']>) => theSession().roughBake(...asked),
  recipeOrder: (...asked: Parameters<JobSession['recipeOrder']>) => theSession().recipeOrder(...asked),
  leaveNewerMesh: () => theSession().leaveNewerMesh(),
  newerMesh: (...asked: Parameters<JobSession['newerMesh']>) => theSession().newerMesh(...asked),
  recipe: (...asked: Parameters<JobSession['recipe']>) => theSession().recipe(...asked),
  selfJoin: (id: string) => theSession().selfJoin(id),
  surfaceAt: (...asked: Parameters<JobSession['surfaceAt']>) => theSession().surfaceAt(...asked),
  surface: (known: number) => given(theSession().surface(known)),
  grain: () => given(theSession().grain()),
  notches: () => given(theSession().notches()),
  image: (...asked: Parameters<JobSession['image']>) => theSession().image(...asked),
  deliver: (...asked: Parameters<JobSession['deliver']>) => theSession().deliver(...asked),
};

export type CoreApi = typeof api;
Comlink.expose(api);
