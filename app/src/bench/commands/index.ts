import { notify } from '../../worker/client.ts';
import { operationFacts } from 'virtual:operation-facts';
import type { OperationName } from '@jig-peel/core';
import { useHands } from '../hands/handsState.ts';
import { bench, off, operate, type Command } from './command.ts';
import { arranging } from './arranging.ts';
import { editing } from './editing.ts';
import { jigCommands } from './jigCommands.ts';
import { selecting } from './selecting.ts';
import { showing, taking } from './showing.ts';

export type { Command } from './command.ts';
export { unwrapNow } from './editing.ts';
export { overlaysNow } from './showing.ts';

/** What operations offer by themselves. */
const offered: Command[] = (Object.keys(operationFacts) as OperationName[]).flatMap((name) =>
  (operationFacts[name].offered ?? []).map(({ id, label, words, params }) =>
    operate(name, { id, label, words, params: () => ({ ...(params as object), ...(name === 'alignIslands' ? alignTo() : {}) }) }),
  ),
);

/** What islands are aligned to, as chosen at Shape. */
function alignTo(): object {
  const { alignTo: to, first } = useHands.getState();
  return to === 'first' ? (first ? { one: first } : {}) : { to };
}

/** Operations with numbers of one's own, asked for in a form. */
const asked: Command[] = (Object.keys(operationFacts) as OperationName[])
  .filter((name) => operationFacts[name].fields.length > 0)
  .map((name) => ({
    id: `${name}-form`,
    label: `${operationFacts[name].label}, with numbers …`,
    words: [operationFacts[name].words, 'parameters options'].join(' '),
    changes: ['bench'],
    run: () => bench().set({ dialog: 'form', form: name }),
    blocked: () => off(operationFacts[name].needs),
  }));

/** Every command of the bench. The command search, the keys and the buttons all read this list. */
export const commands: readonly Command[] = [...editing, ...arranging, ...taking, ...selecting, ...showing, ...jigCommands, ...offered, ...asked];

/** Commands whose name or other words hold every word of a text; the search itself is not among them. */
export function commandsFor(text: string): Command[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  return commands.filter((command) => command.id !== 'find' && words.every((word) => `${command.label} ${command.words ?? ''}`.toLowerCase().includes(word)));
}

const byId = new Map(commands.map((command) => [command.id, command]));

/** @throws Error for an id that no command has */
export function commandOf(id: string): Command {
  const command = byId.get(id);
  if (!command) throw new Error(`no command ${id}`);
  return command;
}

/** Runs a command by its id; one that has no effect now says why. */
export function runCommand(id: string): void {
  const command = commandOf(id);
  const why = command.blocked?.() ?? null;
  if (why) notify({ ok: false, sentence: `${command.label}: ${why}.`, code: 'nothing-to-do' }, true);
  else void command.run();
}
