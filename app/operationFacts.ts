import type { Field } from 'virtual:operation-facts';
import type { Plugin } from 'vite';
import { z } from 'zod';
import type { Operation } from '../core/src/ops/operation.ts';
import { operations } from '../core/src/ops/registry.ts';

const id = 'virtual:operation-facts';

/** What menus and the command search say of each operation, without its algorithms: these run in workers and would double what the page has to load. */
export function operationFacts(): Plugin {
  const facts = Object.fromEntries(
    [...operations.values()].map((operation) => {
      const { name, label, words, changes, needs, offered } = operation;
      return [name, { label, words, changes, needs, offered, fields: fieldsOf(operation) }];
    }),
  );
  return {
    name: 'operation-facts',
    resolveId: (wanted) => (wanted === id ? `\0${id}` : null),
    load: (wanted) => (wanted === `\0${id}` ? `export const operationFacts = ${JSON.stringify(facts)};` : null),
  };
}

interface Described {
  type?: string;
  enum?: string[];
  default?: unknown;
  description?: string;
  minimum?: number;
  exclusiveMinimum?: number;
  maximum?: number;
}

/** The parameters that a form asks for, as their schema has them. @throws Error for one that no field can be made of */
function fieldsOf({ name, params, asked = [], fromSettings = [] }: Operation): Field[] {
  const { properties = {} } = z.toJSONSchema(params, { io: 'input', unrepresentable: 'any' }) as { properties?: Record<string, Described> };
  return asked.map((field) => {
    const { type, enum: choices, default: first, description, minimum, exclusiveMinimum, maximum } = properties[field] ?? {};
    const kind = choices ? 'choice' : type === 'boolean' ? 'switch' : type === 'number' || type === 'integer' ? 'number' : type === 'string' ? 'text' : null;
    if (!kind) throw new Error(`${name}: no field can be made of ${field}`);
    return {
      name: field,
      label: labelOf(field),
      kind,
      ...(description ? { help: description } : {}),
      // what the job's settings say is asked for there
      ...(first !== undefined && !fromSettings.some((one) => one === field) ? { first: first as Field['first'] } : {}),
      ...(choices ? { choices } : {}),
      ...(type === 'integer' ? { whole: true } : {}),
      ...((minimum ?? exclusiveMinimum) !== undefined ? { min: minimum ?? exclusiveMinimum } : {}),
      ...(maximum !== undefined ? { max: maximum } : {}),
    };
  });
}

/** preferHidden → Prefer hidden */
const labelOf = (name: string) => name[0]!.toUpperCase() + name.slice(1).replace(/[A-Z]/g, (letter) => ` ${letter.toLowerCase()}`);
