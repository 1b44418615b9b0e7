/** Codes of what can go wrong; the command line and the app both show the sentence, tests look at the code. */
export type JigErrorCode =
  | 'empty-file'
  | 'bad-file'
  | 'bad-number'
  | 'bad-index'
  | 'bad-image'
  | 'no-faces'
  | 'too-large'
  | 'unknown-format'
  | 'not-found'
  | 'bad-parameter'
  | 'cannot-lie-flat'
  | 'does-not-fit'
  | 'singular'
  | 'cancelled'
  | 'read-back'
  | 'nothing-to-do'
  | 'looks-on'
  | 'old-engine'
  | 'ended';

/**
 * The one error type of the core. `message` is a whole sentence for a person; `place` says where (a line, a face);
 * `advice` says what to do next.
 */
export class JigError extends Error {
  constructor(
    readonly code: JigErrorCode,
    message: string,
    readonly place = '',
    readonly advice = '',
  ) {
    super(message);
    this.name = 'JigError';
  }

  /** Sentence, place and advice in one line. */
  get sentence(): string {
    return [this.place ? `${this.place}: ${this.message}` : this.message, this.advice].filter(Boolean).join(' ');
  }
}

/** The words to show for any thrown value. */
export function sentenceOf(error: unknown): string {
  if (error instanceof JigError) return error.sentence;
  return error instanceof Error ? error.message : String(error);
}
