import { useShallow } from 'zustand/react/shallow';
import type { JobSummary } from '../session/messages.ts';
import { useBench } from './bench.ts';

/**
 * Fields of the job on the bench: who uses them is rendered when one of these changes, and not when another does, such as the selection.
 * To be used where a job is there.
 */
export function useJob<K extends keyof JobSummary>(...fields: K[]): Pick<JobSummary, K> {
  return useBench(useShallow((s) => Object.fromEntries(fields.map((field) => [field, s.summary?.[field]])) as unknown as Pick<JobSummary, K>));
}

/** The part at work. */
export function useActivePart(): JobSummary['parts'][number] {
  return useBench((s) => s.summary?.parts.find((part) => part.id === s.summary?.activePart))!;
}
