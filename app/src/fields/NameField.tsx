import { TextField } from '@mui/material';
import { useState } from 'react';

interface Props {
  label: string;
  value: string;
  onChange(value: string): void;
  autoFocus?: boolean;
}

/** A name. What is typed holds on Enter and on leaving the field; Escape brings the old one back; an empty name does, too. */
export function NameField({ label, value, onChange, autoFocus }: Props) {
  const [text, setText] = useState<string | null>(null);
  const commit = () => {
    const name = text?.trim();
    if (name && name !== value) onChange(name);
    setText(null);
  };
  return (
    <TextField
      fullWidth
      label={label}
      value={text ?? value}
      autoFocus={autoFocus}
      slotProps={{ htmlInput: { maxLength: 80 } }}
      onChange={(event) => setText(event.target.value)}
      onBlur={commit}
      onKeyDown={(event) => {
        if (event.key === 'Enter') commit();
        if (event.key === 'Escape') setText(null);
      }}
    />
  );
}
