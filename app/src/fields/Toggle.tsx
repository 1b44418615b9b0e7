import { FormControlLabel, Switch, Typography } from '@mui/material';

/** A small switch with its name beside it. */
export function Toggle({ label, checked, onChange }: { label: string; checked: boolean; onChange: (on: boolean) => void }) {
  return (
    <FormControlLabel
      sx={{ m: 0 }}
      control={<Switch size="small" checked={checked} onChange={(event) => onChange(event.target.checked)} />}
      label={<Typography variant="body2">{label}</Typography>}
    />
  );
}
