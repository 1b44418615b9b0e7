/* Writes docs/operations.md from the descriptions of the operations: `npx tsx scripts/operationsTable.ts`. A test says when it is out of date. */
import { writeFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { operations } from '@jig-peel/core';

export const tablePath = fileURLToPath(new URL('../docs/operations.md', import.meta.url));

export function operationsTable(): string {
  const rows = [...operations.values()].map(({ name, label, summary, changes, needs, commandLine, params }) => {
    const given = Object.keys(params.shape).join(', ');
    return `| \`${name}\` | ${label} | ${summary} | ${given || '–'} | ${changes.join(', ') || 'nothing'} | ${needs ?? '–'} | ${commandLine ? 'yes' : '–'} |`;
  });
  return [
    '# Operations',
    '',
    'Made from their descriptions by `npx tsx scripts/operationsTable.ts`; do not edit by hand.',
    '',
    '| name | label | what it does | parameters | may change | needs selected | command line |',
    '|---|---|---|---|---|---|---|',
    ...rows.map((row) => row.replaceAll('\n', ' ')),
    '',
  ].join('\n');
}

if (process.argv[1] === fileURLToPath(import.meta.url)) writeFileSync(tablePath, operationsTable());
