import { operationFacts } from 'virtual:operation-facts';
import { selectedCount, whyOff, type ChangeKind, type OperationName, type ParamsOf, type SelectionKind } from '@jig-peel/core';
import { useBench } from '../../store/bench.ts';
import { run } from '../../worker/client.ts';

/** What a command changes: of the job, by its operation; or how the bench shows and takes things; or something outside of the page. */
export type Effect = ChangeKind | 'bench' | 'history' | 'outside';

export interface Command {
  id: string;
  label: string;
  /** Common words of the trade that find it. */
  words?: string;
  /** Works while a field has the focus; `settled`: where nothing in it is being typed. */
  inFields?: boolean | 'settled';
  /** Its key works only while a view has the focus, or nothing has: elsewhere the key has a meaning of its own. */
  inViews?: boolean;
  changes: readonly Effect[];
  run(): void | Promise<unknown>;
  /** Why it has no effect now, or null. */
  blocked?(): string | null;
}

export const bench = () => useBench.getState();
export const noJob = () => (bench().summary ? null : 'no job is open');
export const isParts = () => bench().kind === 'parts';
export const noParts = () => (isParts() ? 'this is for islands, faces, edges and points: choose one of these kinds' : null);
export const activePart = () => bench().summary?.parts.find((part) => part.id === bench().summary!.activePart) ?? null;

/** The kind of elements that a click takes, as a parameter. */
export function elementKind(): { kind?: SelectionKind } {
  const { kind } = bench();
  return kind === 'parts' ? {} : { kind };
}

/** Why what needs a selection has no effect now. */
export function off(need: Parameters<typeof whyOff>[0]): string | null {
  const { summary } = bench();
  if (!summary) return noJob();
  return whyOff(need, { kind: summary.selection.kind, selected: selectedCount(summary.selection) });
}
export const noSelection = () => off('selection');

interface More<N extends OperationName> {
  /** Where the operation has several commands, or one whose name differs. */
  id?: string;
  label?: string;
  words?: string;
  params?: () => ParamsOf<N>;
  /** Whether what was done is said. */
  say?: boolean;
  blocked?: () => string | null;
}

/** A command that runs an operation: its label, words, needs and effects are the operation's, unless it says more. */
export function operate<N extends OperationName>(name: N, { id = name, params, say = true, ...more }: More<N> = {}): Command {
  const operation = operationFacts[name];
  return {
    id,
    label: more.label ?? operation.label,
    words: more.words ?? operation.words,
    changes: operation.changes,
    run: () => run(name, params ? params() : ({} as ParamsOf<N>), say),
    blocked: more.blocked ?? (() => off(operation.needs)),
  };
}
