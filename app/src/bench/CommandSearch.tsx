import { useEffect, useState } from 'react';
import { later } from '../later.tsx';
import { useBench } from '../store/bench.ts';

/** Comes a moment after the bench, or when it is asked for. */
const FindDialog = later(() => import('./FindDialog.tsx'));
export const findLater = FindDialog.load;

/** Find a command: every command with its key; it also answers to other common words. */
export function CommandSearch() {
  const open = useBench((s) => s.dialog === 'find');
  const [text, setText] = useState('');
  useEffect(() => {
    if (!open) return;
    // letters typed before the field has the focus belong to it, too
    const take = (event: KeyboardEvent) => {
      // also before the dialog is there
      if (event.key === 'Escape') {
        useBench.getState().set({ dialog: null });
        setText('');
        return;
      }
      if (event.target instanceof HTMLInputElement || event.key.length !== 1 || event.ctrlKey || event.metaKey || event.altKey) return;
      event.preventDefault();
      event.stopPropagation();
      setText((typed) => typed + event.key);
    };
    window.addEventListener('keydown', take, true);
    return () => window.removeEventListener('keydown', take, true);
  }, [open]);
  const close = () => {
    useBench.getState().set({ dialog: null });
    setText('');
    setTimeout(() => document.getElementById('views')?.focus({ preventScroll: true }), 0);
  };
  if (!open) return null;
  return <FindDialog text={text} onText={setText} onClose={close} />;
}
