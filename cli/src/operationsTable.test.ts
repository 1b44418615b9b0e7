import { readFileSync } from 'node:fs';
import { expect, it } from 'vitest';
import { operationsTable, tablePath } from '../../scripts/operationsTable.ts';

it('docs/operations.md says what the operations say of themselves', () => {
  expect(readFileSync(tablePath, 'utf8')).toBe(operationsTable());
});
