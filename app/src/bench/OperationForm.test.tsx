// @vitest-environment jsdom
import { cleanup, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { operationFacts, type Field } from 'virtual:operation-facts';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { operations } from '@jig-peel/core';
import { useBench } from '../store/bench.ts';
import OperationForm from './OperationForm.tsx';
import { paramsFrom, problemOf } from './ParamsForm.tsx';

const ran: [string, unknown][] = [];
vi.mock('../worker/client.ts', () => ({ run: (name: string, params: unknown) => (ran.push([name, params]), Promise.resolve({ ok: true })) }));

beforeEach(() => void (ran.length = 0));
afterEach(cleanup);

const asked = Object.entries(operationFacts).filter(([, { fields }]) => fields.length > 0);

it.each(asked)('what the form of %s has at first is what the operation does by itself', (name, { fields }) => {
  const { params } = operations.get(name)!;
  const first = Object.fromEntries(fields.filter((field) => field.first !== undefined).map((field) => [field.name, String(field.first)]));
  const values = { ...Object.fromEntries(fields.map((field) => [field.name, field.kind === 'switch' ? field.first === true : ''])), ...first };
  for (const field of fields) if (field.kind === 'switch') (values as Record<string, unknown>)[field.name] = field.first === true;
  const given = paramsFrom(fields, values);
  for (const field of fields) if (field.kind === 'number' && field.first !== undefined) expect(problemOf(field, String(field.first))).toBeNull();
  expect(params.parse(given)).toEqual(
    params.parse({ ...Object.fromEntries(fields.filter((f) => f.kind === 'switch').map((f) => [f.name, f.first === true])) }),
  );
});

it('numbers take arithmetic and say what is wrong with them', () => {
  const field: Field = { name: 'steps', label: 'Steps', kind: 'number', whole: true, min: 1, max: 200 };
  expect(['40', '4*10', '', '0', '201', '1.5', 'many'].map((text) => problemOf(field, text))).toEqual([
    null,
    null,
    null,
    'At least 1.',
    'At most 200.',
    'A whole number, please.',
    'This is no number.',
  ]);
  expect(paramsFrom([field], { steps: '4*10' })).toEqual({ steps: 40 });
});

it('runs with what was typed; a wrong number is said beside its field and nothing runs; it closes before it runs, so that the bench can be cancelled on', async () => {
  const user = userEvent.setup();
  useBench.getState().set({ dialog: 'form', form: 'relax' });
  render(<OperationForm />);
  const steps = screen.getByLabelText('Steps');
  await user.clear(steps);
  await user.type(steps, '900');
  await user.click(screen.getByRole('button', { name: 'Relax' }));
  expect(await screen.findByText('At most 200.')).toBeTruthy();
  expect(ran).toEqual([]);
  await user.clear(steps);
  await user.type(steps, '6*2');
  await user.click(screen.getByRole('button', { name: 'Relax' }));
  expect(ran).toEqual([['relax', { border: 'free', steps: 12 }]]);
  expect([useBench.getState().dialog, useBench.getState().form]).toEqual([null, null]);
});
