import * as z from 'zod/mini';

const states = ['waiting', 'working', 'done', 'failed', 'cancelled'] as const;
export type FileState = (typeof states)[number];

const fileSchema = z.object({
  name: z.string(),
  bytes: z.number(),
  state: z.enum(states),
  words: z.string(),
  outputs: z.array(z.string()),
  missed: z.array(z.string()),
  seconds: z.number(),
  lost: z.number(),
});
const common = { id: z.string(), name: z.string(), made: z.number(), steps: z.number(), isCancelled: z.boolean(), bytes: z.number() };
export const batchSchema = z.object({ ...common, files: z.array(fileSchema) });
const count = z.number();
export const lineSchema = z.object({
  ...common,
  counts: z.object({ waiting: count, working: count, done: count, failed: count, cancelled: count, missed: count }),
});
export const listSchema = z.object({
  batches: z.array(lineSchema),
  room: z.object({ used: z.number(), batches: z.number(), bytes: z.number(), days: z.number() }),
  upload: z.object({ fileBytes: z.number(), batchBytes: z.number(), files: z.number() }),
});
export const filesEvent = z.object({ files: z.array(z.extend(fileSchema, { at: z.number() })), line: lineSchema });

export type Batch = z.infer<typeof batchSchema>;
export type BatchFile = Batch['files'][number];
export type BatchLine = z.infer<typeof lineSchema>;
export type BatchList = z.infer<typeof listSchema>;

/** What the server said instead, in a sentence. */
export class BatchError extends Error {
  readonly status: number;
  constructor(status: number, sentence: string) {
    super(sentence);
    this.status = status;
  }
}

const sentenceOf = (text: string, status: number): string => {
  try {
    const { sentence } = JSON.parse(text) as { sentence?: unknown };
    if (typeof sentence === 'string') return sentence;
  } catch {
    // no words of the server’s own
  }
  return status === 404 ? 'There is no server for batches behind this page: start it with npm start.' : `The server could not answer (${status}).`;
};

async function ask(path: string, method = 'GET'): Promise<string> {
  const response = await fetch(`/api/batches${path}`, { method }).catch(() => {
    throw new BatchError(0, 'The server does not answer. What it has begun goes on when it is there again.');
  });
  const text = await response.text();
  if (!response.ok) throw new BatchError(response.status, sentenceOf(text, response.status));
  return text;
}

function read<T>(schema: z.ZodMiniType<T>, text: string): T {
  const parsed = z.safeParse(schema, parse(text));
  if (!parsed.success) throw new BatchError(0, 'There is no server for batches behind this page: start it with npm start.');
  return parsed.data;
}
function parse(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}

export const listBatches = async (): Promise<BatchList> => read(listSchema, await ask(''));
export const getBatch = async (id: string): Promise<Batch> => read(batchSchema, await ask(`/${id}`));
export const stopBatch = (id: string) => ask(`/${id}/cancel`, 'POST');
export const removeBatch = (id: string) => ask(`/${id}`, 'DELETE');
export const workAgain = (id: string, file: number) => ask(`/${id}/files/${file}/again`, 'POST');
export const resultPath = (id: string, file: number, name: string) => `/api/batches/${id}/files/${file}/${encodeURIComponent(name)}`;
export const zipPath = (id: string) => `/api/batches/${id}/zip`;

export interface NewBatch {
  name: string;
  recipe: string;
  limits: string | null;
  to: string;
  files: File[];
}

/** Sends a batch; `told` hears the share that has gone over. @throws BatchError */
export function sendBatch({ name, recipe, limits, to, files }: NewBatch, told: (share: number) => void, signal: AbortSignal): Promise<Batch> {
  const form = new FormData();
  form.append('name', name);
  form.append('recipe', recipe);
  if (limits !== null) form.append('limits', limits);
  if (to !== '') form.append('to', to);
  for (const file of files) form.append('files', file, file.name);
  // only this tells how much has gone over
  const call = new XMLHttpRequest();
  return new Promise((resolve, reject) => {
    call.upload.addEventListener('progress', ({ loaded, total }) => told(total > 0 ? loaded / total : 0));
    call.addEventListener('load', () => {
      if (call.status !== 201) reject(new BatchError(call.status, sentenceOf(call.responseText, call.status)));
      else
        try {
          resolve(read(batchSchema, call.responseText));
        } catch (error) {
          reject(error as Error);
        }
    });
    call.addEventListener('error', () =>
      reject(new BatchError(0, 'The upload broke off: the server does not answer, or a file was changed meanwhile. Nothing was begun.')),
    );
    call.addEventListener('abort', () => reject(new BatchError(0, 'The upload was stopped. Nothing was begun.')));
    signal.addEventListener('abort', () => call.abort());
    call.open('POST', '/api/batches');
    call.send(form);
  });
}

const recipeFileSchema = z.object({
  jigPeelRecipe: z.literal(1),
  name: z.string(),
  steps: z.array(z.object({ isOff: z.optional(z.boolean()), asks: z.optional(z.string()) })),
});

export interface GivenRecipe {
  text: string;
  name: string;
  steps: number;
}

/** @throws BatchError for what is no recipe, or one that cannot run by itself */
export function readGivenRecipe(text: string): GivenRecipe {
  const parsed = z.safeParse(recipeFileSchema, parse(text));
  if (!parsed.success) throw new BatchError(0, 'This file is no recipe. Keep one as a file at Deliver, under Recipe.');
  const { name, steps } = parsed.data;
  const on = steps.filter(({ isOff }) => !isOff);
  const asks = steps.findIndex(({ isOff, asks: why }) => !isOff && why);
  if (asks >= 0) throw new BatchError(0, `Step ${asks + 1} of this recipe asks for a person. Leave it out at Deliver, and keep it again.`);
  if (on.length === 0) throw new BatchError(0, 'No step of this recipe is on.');
  return { text, name, steps: on.length };
}

const modelEndings = /\.(obj|glb|gltf|ply|stl|jigpeel)$/i;
export const isModel = (name: string) => modelEndings.test(name);
