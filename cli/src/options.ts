import type { Command } from 'commander';
import { Option } from 'commander';
import type { z } from 'zod';

const flagOf = (name: string) => '--' + name.replace(/[A-Z]/g, (c) => '-' + c.toLowerCase());

/** The schema without defaults and optional wrappers, and the default if there is one. */
function inner(schema: z.ZodType): { type: z.ZodType; fallback: unknown } {
  let type = schema;
  let fallback: unknown;
  for (;;) {
    const def = (type as unknown as { def: { type: string; innerType?: z.ZodType; defaultValue?: unknown } }).def;
    if ((def.type === 'default' || def.type === 'optional') && def.innerType) {
      if (def.type === 'default') fallback = def.defaultValue;
      type = def.innerType;
    } else return { type, fallback };
  }
}

/** Adds one option a parameter of the schema: names, choices, defaults and descriptions come from it. */
export function addOptions(command: Command, schema: z.ZodObject, hidden: readonly string[]): void {
  for (const [name, field] of Object.entries(schema.shape) as [string, z.ZodType][]) {
    if (hidden.includes(name)) continue;
    const { type, fallback } = inner(field);
    const def = (type as unknown as { def: { type: string; entries?: Record<string, string>; element?: unknown } }).def;
    const words = [field.description ?? type.description ?? '', fallback !== undefined && fallback !== false ? `(default: ${JSON.stringify(fallback)})` : '']
      .filter(Boolean)
      .join(' ');
    if (def.type === 'boolean') {
      command.addOption(new Option(flagOf(name), words || undefined));
      if (fallback === true) command.addOption(new Option(flagOf(name).replace('--', '--no-'), `without: ${words.replace(/ \(default.*\)/, '')}`));
    } else {
      const option = new Option(`${flagOf(name)} <${def.type === 'number' ? 'number' : 'value'}>`, words);
      if (def.entries) option.choices(Object.values(def.entries));
      if (def.type === 'number') option.argParser(Number);
      if (def.type === 'union' && name === 'islands') option.argParser((text) => (text === 'all' ? 'all' : text.split(',').map(Number)));
      if (def.type === 'array') option.argParser((text) => text.split(',').map(Number));
      command.addOption(option);
    }
  }
}
