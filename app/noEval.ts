import type { Plugin } from 'vite';

/**
 * Zod looks whether it may compile code, which the page's content security policy forbids and browsers report each time. Its global setting has to be
 * made before its first schema is, in every thread: where that setting begins.
 */
export function noEval(): Plugin {
  const begins = '(_a.__zod_globalConfig = {})';
  return {
    name: 'no-eval',
    apply: 'build',
    transform(code, id) {
      if (!/zod\/v4\/core\/core\.js$/.test(id)) return null;
      if (!code.includes(begins)) this.error('Zod begins its settings elsewhere now: see app/noEval.ts.');
      return { code: code.replace(begins, '(_a.__zod_globalConfig = { jitless: true })'), map: null };
    },
  };
}
