// the small build: this is on the jobs page, before anything else is loaded
import * as z from 'zod/mini';

/** A kept job, as the jobs page lists it. */
const jobRowSchema = z.object({
  id: z.string().check(z.minLength(1)),
  name: z.string(),
  updated: z.number(),
  parts: z.array(z.string()),
  faces: z.number(),
  /** Keys of the steps in order, and where in them one stands. */
  steps: z.array(z.string()).check(z.minLength(1)),
  index: z.int(),
  /** Content hashes of the images that its steps use. */
  images: z.optional(z.array(z.string())),
  /** Bytes of its arrays and images; absent in jobs that an earlier version kept. */
  bytes: z.optional(z.number()),
  /** When it was put into the bin, ms since 1970. */
  removed: z.optional(z.number()),
  /** Each island of its steps has UV points of its own; absent in jobs that an earlier version kept. */
  own: z.optional(z.boolean()),
  /** Who may write it: the session that took it last. */
  writer: z.optional(z.string()),
});
export type JobRow = z.infer<typeof jobRowSchema>;

/** A row as it is read: sound, or damaged with what can still be said of it. */
export type ReadRow = { kind: 'sound'; row: JobRow } | { kind: 'damaged'; id: string; name: string; removed: number | null };

/** Reads each row by itself, so that one that is damaged costs no other. What has not even an id cannot be named and is left out. */
export function readRow(raw: unknown): ReadRow | null {
  const parsed = jobRowSchema.safeParse(raw);
  if (parsed.success) return { kind: 'sound', row: parsed.data };
  const { id, name, removed } = (raw ?? {}) as Partial<Record<'id' | 'name' | 'removed', unknown>>;
  if (typeof id !== 'string' || id === '') return null;
  return { kind: 'damaged', id, name: typeof name === 'string' ? name : '', removed: typeof removed === 'number' ? removed : null };
}
