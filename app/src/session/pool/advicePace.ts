import type { Note } from './tasks.ts';

/** Which advice is the newest in this thread, and until when (ms since 1970) it waits. */
export const advicePace = { asked: 0, holdUntil: 0 };

export function take(note: Note): void {
  if (note.kind === 'hold') advicePace.holdUntil = Date.now() + note.ms;
  else advicePace.asked++;
}
