import { useEffect, useState } from 'react';
import { later } from '../later.tsx';
import { useBench } from '../store/bench.ts';
import { commandsFor, runCommand, type Command } from './commands/index.ts';

/** Comes a moment after the bench, or when it is asked for. */
const FindDialog = later(() => import('./FindDialog.tsx'));
export const findLater = FindDialog.load;

/** Find a command: every command with its key; it also answers to other common words. */
export function CommandSearch() {
  const open = useBench((s) => s.dialog === 'find');
  const [text, setText] = useState('');
  const close = () => {
    useBench.getState().set({ dialog: null });
    setText('');
    setTimeout(() => document.getElementById('views')?.focus({ preventScroll: true }), 0);
  };
  const take = (command: Command | undefined) => {
    if (!command) return;
    close();
    runCommand(command.id);
  };
  useEffect(() => {
    if (!open) return;
    // keys pressed before the field is there, or has the focus, belong to it, too
    const press = (event: KeyboardEvent) => {
      if (event.key === 'Escape') return close();
      if (event.target instanceof HTMLInputElement || event.ctrlKey || event.metaKey || event.altKey) return;
      if (event.key === 'Enter') take(commandsFor(text)[0]);
      else if (event.key === 'Backspace') setText((typed) => typed.slice(0, -1));
      else if (event.key.length === 1) setText((typed) => typed + event.key);
      else return;
      event.preventDefault();
      event.stopPropagation();
    };
    window.addEventListener('keydown', press, true);
    return () => window.removeEventListener('keydown', press, true);
  });
  if (!open) return null;
  return <FindDialog text={text} onText={setText} onTake={take} onClose={close} />;
}
