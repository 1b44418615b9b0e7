import { JigError } from '../jigError.ts';

/** What a solver makes of it, or null where its matrix is singular. */
export function softly<T>(work: () => T): T | null {
  try {
    return work();
  } catch (error) {
    if (error instanceof JigError && error.code === 'singular') return null;
    throw error;
  }
}
