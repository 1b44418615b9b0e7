import type { Plugin } from 'vite';
import { operations } from '../core/src/ops/registry.ts';

const id = 'virtual:operation-facts';

/** What menus and the command search say of each operation, without its algorithms: these run in workers and would double what the page has to load. */
export function operationFacts(): Plugin {
  const facts = Object.fromEntries(
    [...operations.values()].map(({ name, label, words, changes, needs, offered }) => [name, { label, words, changes, needs, offered }]),
  );
  return {
    name: 'operation-facts',
    resolveId: (wanted) => (wanted === id ? `\0${id}` : null),
    load: (wanted) => (wanted === `\0${id}` ? `export const operationFacts = ${JSON.stringify(facts)};` : null),
  };
}
