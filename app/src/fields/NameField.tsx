import { TextField } from '@mui/material';
import { useState } from 'react';
import { hold, keepDraft, type TypedChange } from './drafts.ts';

interface Props {
  label: string;
  value: string;
  change: TypedChange;
  autoFocus?: boolean;
  /** In a list, where the label would take room: it is spoken only. */
  bare?: boolean;
  onDone?: () => void;
}

/**
 * A name. What is typed holds on Enter, on Escape, on leaving the field, and when the page is left in the middle of it (undo brings the old one
 * back); only an empty name does not.
 */
export function NameField({ label, value, change, autoFocus, bare = false, onDone }: Props) {
  const [text, setText] = useState<string | null>(null);
  const keep = (words: string | null) => {
    setText(words);
    keepDraft(change, words);
  };
  const commit = () => {
    const name = text?.trim();
    keep(null);
    if (name && name !== value) hold(change, name);
    onDone?.();
  };
  return (
    <TextField
      fullWidth
      label={bare ? undefined : label}
      hiddenLabel={bare}
      value={text ?? value}
      autoFocus={autoFocus}
      slotProps={{ htmlInput: { maxLength: 80, ...(bare ? { 'aria-label': label, style: { padding: '3px 8px' } } : {}) } }}
      onChange={(event) => keep(event.target.value)}
      onFocus={(event) => event.target.select()}
      onBlur={commit}
      onKeyDown={(event) => {
        // leaving the field makes the change
        if (event.key === 'Enter' || event.key === 'Escape') {
          event.stopPropagation();
          (event.target as HTMLElement).blur();
        }
      }}
    />
  );
}
