import { TextField } from '@mui/material';

/** The browser's own colour picker: it takes colours from pictures too. */
export function Colour({ label, value, onDrag, onChange }: { label: string; value: string; onDrag(colour: string): void; onChange(colour: string): void }) {
  return (
    <TextField
      fullWidth
      type="color"
      label={label}
      defaultValue={value}
      onChange={(event) => onDrag(event.target.value)}
      onBlur={(event) => event.target.value !== value && onChange(event.target.value)}
      slotProps={{ htmlInput: { style: { height: 22, cursor: 'pointer' } } }}
    />
  );
}
