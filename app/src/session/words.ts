import { JigError } from '@jig-peel/core';

/** The words to show for whatever was thrown: the app's own sentences, the browser's common refusals, and for anything else that it was unexpected. */
export function wordsOf(error: unknown): string {
  if (error instanceof JigError) return error.sentence;
  const { name = '', message = '', inner } = (error ?? {}) as { name?: string; message?: string; inner?: { name?: string } };
  // one that came from another worker is no longer of its class
  if (name === 'JigError' && message) return message;
  const names = `${name} ${inner?.name ?? ''}`;
  if (/Quota/.test(names)) return 'There is no room left for it in this browser.';
  if (/InvalidState|DatabaseClosed|MissingAPI|OpenFailed|UnknownError|Abort/.test(names)) return 'The browser’s storage did not answer.';
  if (/RangeError/.test(name)) return 'There was not enough memory for it.';
  return 'Something unexpected went wrong in the app.';
}
