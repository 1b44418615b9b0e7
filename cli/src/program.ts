import { Command, CommanderError, Option } from 'commander';
import { SingleBar } from 'cli-progress';
import { availableParallelism } from 'node:os';
import { extname } from 'node:path';
import { bakeThreads } from './bakeThreads.ts';
import { packThreads } from './packThreads.ts';
import {
  activeSet,
  figureWords,
  hasLayers,
  islandsOf,
  JigError,
  judgedSheets,
  limitWords,
  operations,
  parseSize,
  readLimits,
  runOperation,
  withNewerMesh,
  type Context,
  type Job,
  type Limits,
  type NewerMeshReport,
  type Verdict,
} from '@jig-peel/core';
import { putInPlace, readJob, readText, readyJob, runBatch, type BatchOptions, type BatchReport } from '@jig-peel/batch';
import { addOptions } from './options.ts';

interface Common {
  output?: string;
  json?: boolean;
  overwrite?: boolean;
  debug?: boolean;
}

export interface Streams {
  out: (text: string) => void;
  err: (text: string) => void;
  /** A progress bar is drawn only here. */
  terminal: boolean;
}

/** What is done in threads of their own. */
const threads = { ...packThreads, ...bakeThreads };

const standard: Streams = {
  out: (text) => process.stdout.write(text),
  err: (text) => process.stderr.write(text),
  terminal: process.stderr.isTTY === true,
};

interface CommandRow {
  /** As it is called here. */
  name: string;
  /** The operation that is run; none for `convert`. */
  operation: string;
  /** It takes a first file that another one's layout comes from. */
  takesFrom: boolean;
  /** Which islands it is for can be said. */
  takesIslands: boolean;
  output: 'none' | 'model' | 'picture';
  /** Parameters that make no sense without the screen. */
  hidden: readonly string[];
}

/** Every operation that says how it is offered here, and `convert`, which is none. */
const commands: CommandRow[] = [
  ...[...operations.values()].flatMap(({ name, commandLine, needs, params }) =>
    commandLine
      ? [
          {
            name: commandLine.name ?? name,
            operation: name,
            output: commandLine.output,
            hidden: commandLine.hidden ?? [],
            takesFrom: commandLine.takesFrom === true,
            takesIslands: needs !== undefined || 'which' in params.shape || 'into' in params.shape,
          },
        ]
      : [],
  ),
  { name: 'convert', operation: '', output: 'model', hidden: [], takesFrom: false, takesIslands: false },
];

/** What the parameters of a command are beside its schema. */
interface Beside {
  /** A file whose layout is taken. */
  from?: string;
  /** Islands by number, or all of them. */
  islands?: string;
  /** Files with limits to judge by, and where the verdict goes. */
  limits?: string;
  report?: string;
}

/** Runs the command line; returns the exit code: 0 done, 1 the operation failed, 2 the call is wrong. */
export async function run(args: string[], streams: Streams = standard): Promise<number> {
  let code = 0;
  const program = new Command('jig')
    .description('Jig Peel on the command line: the same operations as in the app')
    .exitOverride()
    .configureOutput({ writeOut: streams.out, writeErr: streams.err })
    .showHelpAfterError('(see --help)');
  for (const { name, operation: operationName, output, hidden, takesFrom, takesIslands } of commands) {
    const operation = operations.get(operationName);
    const command = program.command(name);
    if (takesFrom) command.argument('<from>', 'model whose layout is copied');
    command
      .argument('<file>', 'model: .obj .glb .gltf .ply .stl .jigpeel')
      .description(operation?.summary ?? 'Write the model in another format')
      .exitOverride()
      .configureOutput({ writeOut: streams.out, writeErr: streams.err });
    if (output !== 'none')
      command.requiredOption(
        '-o, --output <file>',
        output === 'picture' ? `where to write: ${name === 'guide' ? '.png, .svg or .pdf' : '.png'}` : 'where to write: .obj .glb .ply .jigpeel',
      );
    if (output === 'model') command.option('--overwrite', 'also replace files beside it that the call does not name (materials, images)');
    if (operationName === 'bake') command.option('--from <file>', 'another model, whose picture is taken: the nearest place of its surface');
    if (operationName === 'check')
      command
        .option('--limits <file>', 'limits as kept at Check (.json): exit 1 where one is not met; default: those of the job')
        .option('--report <file>', 'the verdict with charts and pictures: .html, or .json for programs');
    if (operation) addOptions(command, operation.params, hidden);
    if (takesIslands) command.option('--islands <numbers>', 'islands of the first part by number, counted from 0, as 0,3,7; default: all of all parts', 'all');
    command.option('--json', 'one JSON object on standard output').option('--debug', 'show where an error came from');
    command.action(async (...given: unknown[]) => {
      const [from, file] = takesFrom ? (given as [string, string]) : [undefined, given[0] as string];
      const { islands, ...options } = given[takesFrom ? 2 : 1] as Common & Record<string, unknown>;
      // of an operation of its own they are a parameter
      const other = operationName === 'bake' ? (options['from'] as string | undefined) : undefined;
      if (other !== undefined) delete options['from'];
      const { limits, report } = operationName === 'check' ? (options as { limits?: string; report?: string }) : {};
      if (operationName === 'check') {
        delete options['limits'];
        delete options['report'];
      }
      const own = takesIslands ? { islands: islands as string } : {};
      const asked = takesIslands || islands === undefined ? options : { ...options, islands };
      code = await perform(
        name,
        operationName,
        file,
        asked,
        { ...((from ?? other) ? { from: from ?? other! } : {}), ...own, ...(limits ? { limits } : {}), ...(report ? { report } : {}) },
        streams,
      );
    });
  }
  program
    .command('carry')
    .argument('<old>', 'model with the layout')
    .argument('<file>', 'the newer mesh of it')
    .description('Carry a layout over to a newer mesh: as it is where the form is the same, by place elsewhere')
    .exitOverride()
    .configureOutput({ writeOut: streams.out, writeErr: streams.err })
    .requiredOption('-o, --output <file>', 'where to write: .obj .glb .ply .jigpeel')
    .option('--overwrite', 'also replace files beside it that the call does not name (materials, images)')
    .option('--json', 'one JSON object on standard output')
    .action(async (old: string, file: string, options: Common) => {
      code = await performCarry(old, file, options, streams);
    });
  program
    .command('run')
    .argument('<recipe>', 'recipe as kept at Deliver (.json)')
    .argument('<files...>', 'models: .obj .glb .gltf .ply .stl .jigpeel')
    .description('Work many files through a recipe; carries on past a bad file, lists it, goes on where it stopped; exit 1 if one failed')
    .exitOverride()
    .configureOutput({ writeOut: streams.out, writeErr: streams.err })
    .requiredOption('-o, --output <folder>', 'where to write; a report of each file, and jig-run.json, go there, too')
    .addOption(new Option('--parallel <number>', 'files at once; default: one a core').argParser(Number))
    .option('--limits <file>', 'limits to judge by: exit 1 where one is not met; default: those of the job, only told')
    .addOption(new Option('--to <format>', 'default: as it came').choices(['obj', 'glb', 'ply', 'jigpeel']))
    .option('--again', 'also do files that are done')
    .option('--json', 'one JSON object on standard output')
    .action(async (recipe: string, files: string[], options: BatchOptions & { json?: boolean }) => {
      code = await performBatch(recipe, files, options, streams);
    });
  program
    .command('worker')
    .description('Take files of a shared queue (JIG_QUEUE) until ended; on as many machines as wanted')
    .exitOverride()
    .configureOutput({ writeOut: streams.out, writeErr: streams.err })
    .addOption(new Option('--queue <address>', 'the Redis, redis://host:port').env('JIG_QUEUE').makeOptionMandatory())
    .addOption(new Option('--server <address>', 'the server that holds the files').env('JIG_SERVER').default('http://localhost:4870'))
    .addOption(new Option('--token <token>', 'the server’s, where it is on another machine').env('JIG_TOKEN'))
    .addOption(new Option('--shared <folder>', 'the server’s folder of batches as seen here: no file goes over HTTP').env('JIG_SHARED'))
    .addOption(new Option('--parallel <number>', 'files at once; default: one a core').env('JIG_THREADS').argParser(Number))
    .addOption(new Option('--patience <seconds>', 'after how long without a sign of life a worker counts as lost').default(15).argParser(Number))
    .action(async (options: WorkerCall) => {
      code = await performWorker(options, streams);
    });
  try {
    await program.parseAsync(args, { from: 'user' });
  } catch (error) {
    if (error instanceof CommanderError) return error.exitCode === 0 ? 0 : 2;
    throw error;
  }
  return code;
}

interface WorkerCall {
  queue: string;
  server: string;
  token?: string;
  shared?: string;
  parallel?: number;
  patience: number;
}

/** Works until it is told to stop: what it works on then is brought to its end, a second signal ends it at once. */
async function performWorker({ queue, server, token, shared, parallel, patience }: WorkerCall, streams: Streams): Promise<number> {
  if (!/^rediss?:\/\//.test(queue)) {
    streams.err(`--queue is “${queue}”; it should be redis://host:port.\n`);
    return 2;
  }
  if (!(patience >= 1) || (parallel !== undefined && !(parallel >= 1))) {
    streams.err('--parallel and --patience are numbers from 1 on.\n');
    return 2;
  }
  const { lookFor } = await import('@jig-peel/batch/redisQueue');
  const { QueueWorker } = await import('@jig-peel/batch/worker');
  const isThere = await lookFor(queue).then(
    () => true,
    () => false,
  );
  if (!isThere) {
    streams.err(`No Redis answers at ${queue}.\n`);
    return 1;
  }
  const threads = Math.max(1, Math.round(parallel ?? availableParallelism()));
  const worker = new QueueWorker({
    queue,
    server: server.replace(/\/+$/, ''),
    token,
    shared,
    threads,
    patience: patience * 1000,
    say: (words) => streams.out(`${words}\n`),
  });
  await worker.ready();
  streams.out(`Takes files of ${queue}, ${threads} at once.\n`);
  let asked = 0;
  await new Promise<void>((done) => {
    const stop = () => void worker.end(asked++ > 0).then(done);
    for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, stop);
  });
  return 0;
}

async function perform(
  name: string,
  operation: string,
  file: string,
  { output, json, debug, overwrite, ...given }: Common & Record<string, unknown>,
  beside: Beside,
  streams: Streams,
): Promise<number> {
  const timings: Record<string, number> = {};
  const timed = async <T>(label: string, work: () => Promise<T>): Promise<T> => {
    const start = performance.now();
    try {
      return await work();
    } finally {
      timings[label] = Math.round((performance.now() - start) * 10) / 10;
    }
  };
  const bar = streams.terminal && !json ? new SingleBar({ format: '{bar} {percentage}% {text}', stream: process.stderr, clearOnComplete: true }) : null;
  try {
    checkEnding(name, output);
    checkReportEnding(beside.report);
    const asked = beside.limits ? readLimits(await readText(beside.limits)) : null;
    const job = await timed('read', async () => withIslands(await readJob(file), beside.islands));
    const source = beside.from ? await timed('read', () => readJob(beside.from!)) : null;
    bar?.start(100, 0, { text: '' });
    const context: Context = { progress: (share, text) => bar?.update(Math.round(share * 100), { text }), throwIfCancelled: () => {}, pool: threads };
    const ran = await timed(name, () =>
      operation === ''
        ? Promise.resolve({ job, report: {}, sentence: 'Converted', params: {}, warns: false, released: [] })
        : source
          ? runFrom(source, job, operation, given, context)
          : runOperation(job, operation, given, context),
    );
    bar?.stop();
    const verdict = asked || beside.report ? await timed('judge', () => proven(ran.job, asked, given, beside.report, context)) : null;
    const { report, notes } = await timed('write', () => deliver(ran.job, ran.report, output, overwrite === true));
    const written = ran.released.map((jig) => `Jig “${jig.name}” was written to the UVs: this step changed faces that it drove.`);
    for (const note of [...job.intake, ...written, ...notes]) if (!json) streams.err(`${note}\n`);
    const missed = verdict?.verdicts.filter(({ passed }) => !passed) ?? [];
    if (json)
      streams.out(
        JSON.stringify({
          ok: true,
          operation: name,
          report: verdict ? { ...(report as object), passed: missed.length === 0, verdicts: verdict.verdicts } : report,
          timings,
          threads: 1,
          peakMemory: process.resourceUsage().maxRSS * 1024,
        }) + '\n',
      );
    else streams.out(name === 'info' || name === 'check' ? table(report) : `${ran.sentence}.${output ? ` Written to ${output}.` : ''}\n`);
    if (verdict && !json) streams.out(verdictTable(verdict.verdicts));
    // with limits given it is asked whether they are kept
    return asked && missed.length > 0 ? 1 : 0;
  } catch (error) {
    bar?.stop();
    const jig = error instanceof JigError ? error : null;
    const sentence = jig ? jig.sentence : `Something went wrong: ${(error as Error).message}`;
    if (json) streams.out(JSON.stringify({ ok: false, operation: name, error: { code: jig?.code ?? 'internal', message: sentence } }) + '\n');
    streams.err(`${sentence}\n`);
    if (debug) streams.err(`${(error as Error).stack}\n`);
    return jig?.code === 'bad-parameter' ? 2 : 1;
  }
}

/** The parts of a newer file with the layouts of the parts of the same name of an older one; by order where as many have other names. */
async function performCarry(old: string, file: string, { output, overwrite, json }: Common, streams: Streams): Promise<number> {
  try {
    checkEnding('carry', output);
    const [before, after] = [await readJob(old), await readJob(file)];
    const alike = before.parts.length === after.parts.length;
    const reports: (NewerMeshReport & { part: string })[] = [];
    const parts = after.parts.map((part, k) => {
      const from = before.parts.find(({ name }) => name === part.name) ?? (alike ? before.parts[k] : undefined);
      if (!from) {
        streams.err(`“${part.name}” is not in ${old}: it stays as it came.\n`);
        return part;
      }
      const carried = withNewerMesh(from, part.mesh, part.origin, part.up);
      reports.push({ part: part.name, ...carried.report });
      return { ...carried.part, id: part.id, name: part.name };
    });
    if (reports.length === 0) throw new JigError('not-found', 'None of the parts is in the old file.', file, 'Give them the names that they had.');
    const images = [...after.images, ...before.images.filter(({ id }) => !after.images.some((one) => one.id === id))];
    const { files, notes } = await readyJob({ ...after, parts, images }, output!);
    await putInPlace(files, overwrite === true);
    const told = reports.map(({ work, ...rest }) => ({ ...rest, work: work.length }));
    for (const note of notes) if (!json) streams.err(`${note}\n`);
    if (json) streams.out(`${JSON.stringify({ ok: true, operation: 'carry', report: { parts: told, files: files.map(({ path }) => path) } })}\n`);
    else
      for (const one of told)
        streams.out(
          `${one.part}: ${one.onlyMoved ? 'only points moved, no UV changed' : `${one.same} faces as before, ${one.carried} carried over, ${one.fresh} new`}; ${one.work} need a look\n`,
        );
    return 0;
  } catch (error) {
    const jig = error instanceof JigError ? error : null;
    const sentence = jig ? jig.sentence : `Something went wrong: ${(error as Error).message}`;
    if (json) streams.out(`${JSON.stringify({ ok: false, operation: 'carry', error: { code: jig?.code ?? 'internal', message: sentence } })}\n`);
    streams.err(`${sentence}\n`);
    return jig?.code === 'bad-parameter' ? 2 : 1;
  }
}

async function performBatch(
  recipe: string,
  files: readonly string[],
  { json, ...options }: BatchOptions & { json?: boolean },
  streams: Streams,
): Promise<number> {
  try {
    if (options.parallel !== undefined && !(Number.isInteger(options.parallel) && options.parallel > 0))
      throw new JigError('bad-parameter', '--parallel has to be a whole number from 1.');
    const report = await runBatch(recipe, files, options, (done, at) => {
      if (!json) streams.err(`${at + 1} of ${files.length}  ${done.ok ? 'done  ' : 'FAILED'}  ${done.file}: ${done.words}\n`);
    });
    if (json) streams.out(`${JSON.stringify({ ok: report.failed === 0, operation: 'run', report })}\n`);
    else streams.out(batchTable(report));
    return report.failed > 0 || (options.limits !== undefined && report.missed > 0) ? 1 : 0;
  } catch (error) {
    const jig = error instanceof JigError ? error : null;
    const sentence = jig ? jig.sentence : `Something went wrong: ${(error as Error).message}`;
    if (json) streams.out(`${JSON.stringify({ ok: false, operation: 'run', error: { code: jig?.code ?? 'internal', message: sentence } })}\n`);
    streams.err(`${sentence}\n`);
    return jig?.code === 'bad-parameter' ? 2 : 1;
  }
}

function batchTable({ files, done, skipped, failed, missed, seconds }: BatchReport): string {
  const wide = Math.max(...files.map(({ file }) => file.length));
  const rows = files.map(
    (one) =>
      `${one.skipped ? 'was done' : one.ok ? 'done    ' : 'FAILED  '}  ${one.file.padEnd(wide)}  ${one.seconds.toFixed(1).padStart(6)} s  ${one.ok ? (one.missed.length > 0 ? `limits not kept: ${one.missed.join(', ')}` : 'limits kept') : one.words}\n`,
  );
  return `${rows.join('')}${done} done, ${skipped} were done before, ${failed} failed, ${missed} with limits not kept; ${seconds.toFixed(1)} s\n`;
}

/** The job with islands selected, as an operation on what is selected wants it. @param islands numbers in the first part, or `all` */
function withIslands(job: Job, islands: string | undefined): Job {
  if (islands === undefined) return job;
  const ids = job.parts.map((part) => Array.from({ length: islandsOf(part.mesh, activeSet(part)).count }, (_, i) => i));
  if (islands === 'all') {
    const [own, ...others] = job.parts.map((part, k) => ({ part: part.id, ids: Uint32Array.from(ids[k]!) }));
    return { ...job, selection: { part: own!.part, kind: 'islands', ids: own!.ids, ...(others.length > 0 ? { also: others } : {}) } };
  }
  const wanted = [...new Set(islands.split(',').map(Number))].sort((a, b) => a - b);
  const wrong = wanted.find((i) => !ids[0]!.includes(i));
  if (wrong !== undefined) throw new JigError('bad-parameter', `There is no island ${wrong}; there are ${ids[0]!.length}, counted from 0.`);
  return { ...job, selection: { part: job.parts[0]!.id, kind: 'islands', ids: Uint32Array.from(wanted) } };
}

/** Runs an operation that takes a part of one file as the model for those of another, and gives back the parts of that one. */
async function runFrom(source: Job, job: Job, operation: string, given: Record<string, unknown>, context: Context) {
  const active = source.parts.find((part) => part.id === source.activePart)!;
  // layers of its materials go along with it
  const own =
    hasLayers(source, active) && !active.layers ? (await runOperation(source, 'ownLayers', { part: active.id }).catch(() => ({ job: source }))).job : source;
  const first = { ...own.parts.find((part) => part.id === active.id)!, id: 'layout source' };
  const both: Job = {
    ...job,
    parts: [first, ...job.parts],
    images: [...job.images, ...source.images.filter(({ id }) => !job.images.some((one) => one.id === id))],
  };
  const others = operation === 'bake' ? {} : { to: job.parts.map(({ id }) => id) };
  const ran = await runOperation(both, operation, { ...given, from: first.id, ...others }, context);
  return { ...ran, job: { ...ran.job, parts: ran.job.parts.filter(({ id }) => id !== first.id) } };
}

function checkEnding(name: string, output: string | undefined) {
  if (!output) return;
  const ending = extname(output).toLowerCase();
  const allowed = name === 'bake' ? ['.png'] : name === 'guide' ? ['.png', '.svg', '.pdf'] : ['.obj', '.glb', '.ply', '.jigpeel'];
  if (!allowed.includes(ending)) throw new JigError('bad-parameter', `“${output}” cannot be written.`, '', `Use ${allowed.join(', ')}.`);
}

async function deliver(job: Job, given: unknown, output: string | undefined, overwrite: boolean): Promise<{ report: unknown; notes: string[] }> {
  const report = given as Record<string, unknown>;
  const { png, svg, pdf, ...rest } = report as { png?: () => Uint8Array; svg?: () => string; pdf?: () => Promise<Uint8Array> };
  if (!output) return { report: rest, notes: [] };
  if (png) {
    const pictureOf = (ending: string) => (svg && ending === '.svg' ? svg() : pdf && ending === '.pdf' ? pdf() : png());
    await putInPlace([{ path: output, bytes: await pictureOf(extname(output).toLowerCase()), named: true }]);
    return { report: { ...rest, files: [output] }, notes: (report as { notes?: string[] }).notes ?? [] };
  }
  const { files, notes } = await readyJob(job, output);
  await putInPlace(files, overwrite);
  return { report: { ...rest, files: files.map(({ path }) => path) }, notes };
}

function checkReportEnding(file: string | undefined) {
  if (file !== undefined && !['.html', '.json'].includes(extname(file).toLowerCase()))
    throw new JigError('bad-parameter', `“${file}” cannot be written.`, '', 'Use .html or .json for the report.');
}

/** The layout judged by limits, and the report of it. @param asked limits of a file; null: the job's own */
async function proven(job: Job, asked: { name: string; limits: Limits } | null, given: Record<string, unknown>, file: string | undefined, context: Context) {
  const size = typeof given['size'] === 'string' ? parseSize(given['size']) : undefined;
  const set = typeof given['set'] === 'number' ? given['set'] : null;
  const of = set === null ? job : { ...job, parts: job.parts.map((part) => ({ ...part, activeUv: Math.min(set, part.uvSets.length - 1) })) };
  const sheets = judgedSheets(of, asked?.limits ?? job.settings.limits, context, size);
  if (file) {
    const { reportHtml, reportJson } = await import('@jig-peel/core/formats/checkReport');
    const input = { job: job.name, made: new Date().toISOString().slice(0, 10), sheets, limitsName: asked?.name ?? 'the job’s limits' };
    const text = extname(file).toLowerCase() === '.html' ? reportHtml(input) : reportJson(input);
    await putInPlace([{ path: file, bytes: new TextEncoder().encode(text), named: true }]);
  }
  return { verdicts: sheets.flatMap(({ name, verdicts }) => verdicts.map((one) => ({ ...(sheets.length > 1 ? { sheet: name } : {}), ...one }))) };
}

function verdictTable(verdicts: readonly (Verdict & { sheet?: string })[]): string {
  return verdicts
    .map(({ sheet, key, figure, limit, passed }) => {
      const { label, way } = limitWords[key];
      return `${passed ? 'kept    ' : 'NOT KEPT'}  ${sheet ? `${sheet}: ` : ''}${label.padEnd(26)} ${figureWords(key, figure)} (at ${way} ${figureWords(key, limit)})\n`;
    })
    .join('');
}

/** A report as lines of name and value. */
function table(report: unknown, indent = ''): string {
  return Object.entries(report as Record<string, unknown>)
    .map(([key, value]) => {
      if (Array.isArray(value) && value.some((item) => typeof item === 'object'))
        return value.map((item, k) => `${indent}${key} ${k + 1}\n${table(item, indent + '  ')}`).join('');
      if (value && typeof value === 'object' && !Array.isArray(value)) return `${indent}${key}\n${table(value, indent + '  ')}`;
      const text =
        typeof value === 'number' && !Number.isInteger(value)
          ? value.toPrecision(6)
          : Array.isArray(value)
            ? value.map((x) => (typeof x === 'number' ? Number(x.toPrecision(6)) : x)).join(', ')
            : String(value);
      return `${indent}${key.padEnd(26 - indent.length)} ${text}\n`;
    })
    .join('');
}
