import { MenuItem, TextField, Tooltip } from '@mui/material';

interface Props<V extends string | number> {
  label: string;
  choices: readonly { value: V; label: string }[];
  /** Why nothing can be chosen now; empty: something can. */
  off: string;
  onChoose(value: V): void;
}

/** A choice that is done to what is selected at once, and shows no value of its own. */
export function ChooseFor<V extends string | number>({ label, choices, off, onChoose }: Props<V>) {
  return (
    <Tooltip title={off} placement="right">
      <TextField select fullWidth label={label} value="" disabled={off !== ''} onChange={(event) => onChoose(event.target.value as V)}>
        {choices.map(({ value, label: words }) => (
          <MenuItem key={value} value={value}>
            {words}
          </MenuItem>
        ))}
      </TextField>
    </Tooltip>
  );
}
