import { IconButton, InputAdornment, Link, TextField, Tooltip } from '@mui/material';
import AddIcon from '@mui/icons-material/Add';
import RemoveIcon from '@mui/icons-material/Remove';
import { useState } from 'react';
import { monospaced } from '../theme/theme.ts';
import { evaluate } from './arithmetic.ts';

interface Props {
  label: string;
  value: number;
  unit?: string;
  min: number;
  max: number;
  step?: number;
  whole?: boolean;
  help?: string;
  /** Without buttons for less and more, where room is short; the arrow keys step all the same. */
  bare?: boolean;
  /** The value as it was: shown while it is another, and put back by a click. */
  old?: number;
  onChange(value: number): void;
}

/** A number with its unit and steppers; takes arithmetic. What is typed holds on Enter and on leaving the field; Escape brings the old value back. */
export function NumberField({ label, value, unit, min, max, step = 1, whole = false, help, bare = false, old, onChange }: Props) {
  const [text, setText] = useState<string | null>(null);
  const parsed = text === null ? value : evaluate(text);
  const valid = parsed !== null && parsed >= min && parsed <= max && (!whole || Number.isInteger(parsed));
  const commit = () => {
    if (text !== null && valid && parsed !== value) onChange(parsed);
    if (valid || text === '') setText(null);
  };
  const nudge = (by: number) => {
    setText(null);
    onChange(Math.max(min, Math.min(max, Math.round((value + by) * 1e6) / 1e6)));
  };
  const problem = `a ${whole ? 'whole ' : ''}number from ${min} to ${max}`;
  return (
    <TextField
      fullWidth
      label={label}
      value={text ?? String(value)}
      error={!valid}
      helperText={valid ? old !== undefined && old !== value ? <Old label={label} value={old} unit={unit} onClick={() => onChange(old)} /> : help : problem}
      onChange={(event) => setText(event.target.value)}
      onFocus={(event) => event.target.select()}
      onBlur={() => {
        commit();
        if (!valid) setText(null);
      }}
      onKeyDown={(event) => {
        if (event.key === 'Enter') commit();
        if (event.key === 'Escape') {
          setText(null);
          event.stopPropagation();
        }
        if (event.key === 'ArrowUp' || event.key === 'ArrowDown') {
          event.preventDefault();
          nudge(event.key === 'ArrowUp' ? step : -step);
        }
      }}
      slotProps={{
        htmlInput: { inputMode: 'decimal', 'data-settled': text === null ? 'yes' : 'no', style: { fontFamily: monospaced, fontSize: 13 } },
        input: {
          endAdornment: (
            <InputAdornment position="end">
              {unit}
              {!bare && (
                <>
                  <Tooltip title={`Less by ${step}`}>
                    <span>
                      <IconButton aria-label={`${label}: less`} onClick={() => nudge(-step)} disabled={value <= min} sx={{ p: 0.25, ml: 0.5 }}>
                        <RemoveIcon sx={{ fontSize: 15 }} />
                      </IconButton>
                    </span>
                  </Tooltip>
                  <Tooltip title={`More by ${step}`}>
                    <span>
                      <IconButton aria-label={`${label}: more`} onClick={() => nudge(step)} disabled={value >= max} sx={{ p: 0.25 }}>
                        <AddIcon sx={{ fontSize: 15 }} />
                      </IconButton>
                    </span>
                  </Tooltip>
                </>
              )}
            </InputAdornment>
          ),
        },
      }}
    />
  );
}

function Old({ label, value, unit, onClick }: { label: string; value: number; unit: string | undefined; onClick: () => void }) {
  const words = `${Number(value.toPrecision(6))}${unit ? ` ${unit}` : ''}`;
  return (
    <Link component="button" type="button" variant="caption" color="text.secondary" aria-label={`${label}: back to ${words}`} onClick={onClick}>
      was {words}
    </Link>
  );
}
