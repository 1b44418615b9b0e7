import type { z } from 'zod';
import { quietContext, type Context } from '../context.ts';
import { JigError } from '../jigError.ts';
import { coversToFind, fadesFollow } from '../job/fadesFollow.ts';
import { liveTouched, settleJigs } from '../job/liveJigs.ts';
import type { Job, JobJig } from '../job/job.ts';
import { settleSheets } from '../job/sheets.ts';
import { markHeadings } from '../job/headings.ts';
import { carryStacks } from '../job/stacks.ts';
import { activatePart, placeImage, renameJob, settings, showImage } from './jobOps.ts';
import { assignMaterial, renamePart, repair, selectNamed, starterForm, uvSets } from './intake.ts';
import { addImages, removeImage } from './images.ts';
import { putImageSet, setImageUse } from './imageSets.ts';
import { bake } from './bake.ts';
import { care } from './care.ts';
import { keepGoing, keepLengths } from './keepLengths.ts';
import { straightEdges } from './straightEdges.ts';
import { pictureHeading } from './pictureHeading.ts';
import { sharpness } from './sharpness.ts';
import { continuity, goOn, goOnAll } from './continuity.ts';
import { vary, writePlacement } from './surfaceUvs.ts';
import { addLayer, copyLayers, driveLayer, orderLayers, ownLayers, removeLayer, setLayer } from './layers.ts';
import { layTouched, openSeams } from './follow.ts';
import { alignIslands, arrange, distributeIslands } from './alignIslands.ts';
import { check, guide, info } from './look.ts';
import { newerMesh } from './newerMesh.ts';
import { compareVersions, editVersion, keepVersion, useVersion } from './versions.ts';
import { limitsFile, offenders, report, setLimits } from './proof.ts';
import { laySeams } from './laySeams.ts';
import { settingValue, type Operation } from './operation.ts';
import { density, pack, packPlan } from './pack.ts';
import { bringBack, fitSheet, moveTile } from './tiles.ts';
import { densityFigures, weigh, weighBySight } from './weigh.ts';
import { rejoinParts, splitParts } from './splitParts.ts';
import { hideNamed, hideParts, markDone, removeParts, renameNamed, selectParts } from './parts.ts';
import { cut, join, joinAdvice, markSeams, open, propose, seams, uncut } from './seams.ts';
import { coverSeam, moveSeam } from './seamRemedies.ts';
import { select } from './select.ts';
import { hide, saveSelection, selectBy, unwind, useSelection } from './selectBy.ts';
import { addJigs, changeJig, copyJig, driveFaces, matchJigs, setJigState } from './jigs.ts';
import { movePins, pin, relax } from './pins.ts';
import { place } from './place.ts';
import { sheets } from './sheets.ts';
import { blockIslands } from './blocks.ts';
import { cutNecks } from './necks.ts';
import { lockIslands, placeOnFields } from './fields.ts';
import { grain } from './grain.ts';
import { matchIslands } from './matchIslands.ts';
import { matchOutline } from './matchOutline.ts';
import { coverSmears } from './coverSmears.ts';
import { fitFrame, standPicture } from './pictureFrame.ts';
import { push } from './push.ts';
import { setUp } from './setUp.ts';
import { setUv } from './setUv.ts';
import { copyLayout } from './copyLayout.ts';
import { findLike, stack, unstack } from './stack.ts';
import { straighten, straightenWays } from './straighten.ts';
import { turnIslands } from './turnIslands.ts';
import { lineUp } from './lineUp.ts';
import { transform } from './transform.ts';
import { firstLayout, unwrap } from './unwrap.ts';

const list = [
  starterForm,
  repair,
  uvSets,
  renamePart,
  removeParts,
  splitParts,
  rejoinParts,
  selectParts,
  hideParts,
  renameNamed,
  hideNamed,
  markDone,
  place,
  addJigs,
  changeJig,
  driveFaces,
  setJigState,
  copyJig,
  matchJigs,
  setUv,
  setUp,
  assignMaterial,
  selectNamed,
  select,
  selectBy,
  saveSelection,
  useSelection,
  hide,
  unwind,
  cut,
  uncut,
  open,
  seams,
  propose,
  laySeams,
  newerMesh,
  keepVersion,
  useVersion,
  editVersion,
  compareVersions,
  setLimits,
  limitsFile,
  offenders,
  report,
  markSeams,
  join,
  joinAdvice,
  moveSeam,
  coverSeam,
  pin,
  movePins,
  relax,
  unwrap,
  firstLayout,
  openSeams,
  layTouched,
  transform,
  straighten,
  straightenWays,
  alignIslands,
  distributeIslands,
  turnIslands,
  arrange,
  matchIslands,
  matchOutline,
  standPicture,
  coverSmears,
  fitFrame,
  grain,
  push,
  placeOnFields,
  lockIslands,
  blockIslands,
  cutNecks,
  lineUp,
  findLike,
  stack,
  unstack,
  copyLayout,
  pack,
  packPlan,
  fitSheet,
  bringBack,
  moveTile,
  weigh,
  weighBySight,
  care,
  straightEdges,
  keepLengths,
  keepGoing,
  densityFigures,
  density,
  settings,
  sheets,
  renameJob,
  activatePart,
  showImage,
  placeImage,
  addImages,
  removeImage,
  setImageUse,
  putImageSet,
  addLayer,
  setLayer,
  driveLayer,
  removeLayer,
  orderLayers,
  copyLayers,
  ownLayers,
  bake,
  writePlacement,
  vary,
  continuity,
  sharpness,
  pictureHeading,
  goOn,
  goOnAll,
  info,
  check,
  guide,
] as const;

type Listed = (typeof list)[number];
export type OperationName = Listed['name'];
type Named<N extends OperationName> = Extract<Listed, { name: N }>;
/** What an operation takes; what is left out has a default or comes from the job's settings. */
export type ParamsOf<N extends OperationName> = z.input<Named<N>['params']>;
/** What an operation tells of what it did. */
export type ReportOf<N extends OperationName> = Awaited<ReturnType<Named<N>['run']>>['report'];

/** Every operation by name. */
export const operations: ReadonlyMap<string, Operation> = new Map(list.map((operation) => [operation.name, operation as unknown as Operation]));

/** Whether an operation changes nothing but what is selected, hidden or worked on. */
export function changesViewOnly(name: string): boolean {
  const changes = operations.get(name)?.changes ?? [];
  return changes.length > 0 && changes.every((kind) => kind === 'view');
}

export interface Ran {
  job: Job;
  report: unknown;
  /** The parameters with all defaults filled in. */
  params: Record<string, unknown>;
  sentence: string;
  /** The sentence is a warning. */
  warns: boolean;
  /** Live jigs whose faces this edited by hand: they count as written from now on. */
  released: JobJig[];
}

/**
 * Runs an operation by name. @throws JigError `bad-parameter` in words if the parameters do not fit the schema, and what the operation throws
 */
export async function runOperation(job: Job, name: string, given: Record<string, unknown> = {}, context: Context = quietContext): Promise<Ran> {
  const operation = operations.get(name);
  if (!operation) throw new JigError('bad-parameter', `There is no operation “${name}”.`);
  const filled = { ...given };
  for (const key of operation.fromSettings ?? []) if (filled[key] === undefined) filled[key] = settingValue(job, key);
  const parsed = operation.params.safeParse(filled);
  if (!parsed.success) throw new JigError('bad-parameter', wordsOf(parsed.error), name);
  const { job: done, report } = await operation.run(job, parsed.data, context);
  const headings = typeof operation.headings === 'function' ? operation.headings(parsed.data) : operation.headings;
  const ran = headings ? markHeadings(job, done, headings) : done;
  const made = operation.stacks === 'apart' || !job.settings.stacksFollow ? ran : carryStacks(job, ran);
  const edited = job.jigs && job.jigs.length > 0 && made.jigs === job.jigs && made.parts !== job.parts;
  const released = edited ? liveTouched(job, made) : [];
  const next = settleSheets(job, edited ? settleJigs(job, made) : made);
  const followed = fadesFollow(job, next);
  const covers = followed.jigs === job.jigs ? [] : coversToFind(job, followed);
  const whole = covers.length > 0 ? (await import('./coverSmearsWork.ts')).foundAgain(followed, covers) : followed;
  return { job: whole, report, params: parsed.data, sentence: operation.sentence(parsed.data, report), warns: operation.warns?.(report) ?? false, released };
}

function wordsOf(error: z.ZodError): string {
  return error.issues.map((issue) => `${issue.path.join('.') || 'parameters'}: ${issue.message}`).join('; ');
}
