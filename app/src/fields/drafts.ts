import type { OperationName } from '@jig-peel/core';
import { run } from '../worker/client.ts';

/** A change that a field makes once what is typed holds: an operation, what it is about, and which parameter is typed. */
export interface TypedChange {
  job: string;
  operation: string;
  params: Record<string, unknown>;
  field: string;
}

const prefix = 'jig-peel draft ';
const keyOf = (change: TypedChange) => prefix + JSON.stringify(change);

/** Keeps what is being typed, so that closing or loading the page in the middle of it loses nothing. */
export function keepDraft(change: TypedChange, text: string | null): void {
  if (text === null) localStorage.removeItem(keyOf(change));
  else localStorage.setItem(keyOf(change), text);
}

/** Makes the change. */
export function hold(change: TypedChange, text: string): void {
  // stored under its name: the session checks what it takes
  void run(change.operation as OperationName, { ...change.params, [change.field]: text } as never);
}

/** Makes the changes that were being typed when the page was left; called once a job is open. */
export function finishDrafts(job: string): number {
  let finished = 0;
  for (const key of Object.keys(localStorage)) {
    if (!key.startsWith(prefix)) continue;
    const text = localStorage.getItem(key)?.trim();
    let change: TypedChange;
    try {
      change = JSON.parse(key.slice(prefix.length)) as TypedChange;
    } catch {
      localStorage.removeItem(key);
      continue;
    }
    if (change.job !== job) continue;
    localStorage.removeItem(key);
    if (!text) continue;
    hold(change, text);
    finished++;
  }
  return finished;
}
