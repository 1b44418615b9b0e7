import { Box, Slider, Typography } from '@mui/material';
import { useId, useState } from 'react';

interface Props {
  label: string;
  value: number;
  min: number;
  max: number;
  step: number;
  words(value: number): string;
  /** While it is dragged. */
  onDrag(value: number): void;
  /** Once it is let go. */
  onChange(value: number): void;
}

/** A slider with its name and its value in words. */
export function Dragged({ label, value, min, max, step, words, onDrag, onChange }: Props) {
  const [now, setNow] = useState<number | null>(null);
  const id = useId();
  return (
    <Box>
      <Box sx={{ display: 'flex', justifyContent: 'space-between' }}>
        <Typography id={id} variant="caption">
          {label}
        </Typography>
        <Typography variant="figure">{words(now ?? value)}</Typography>
      </Box>
      <Box sx={{ px: 1 }}>
        <Slider
          size="small"
          aria-labelledby={id}
          getAriaValueText={words}
          value={now ?? value}
          min={min}
          max={max}
          step={step}
          onChange={(_, next) => {
            setNow(next);
            onDrag(next);
          }}
          onChangeCommitted={(_, next) => {
            setNow(null);
            if (next !== value) onChange(next);
          }}
        />
      </Box>
    </Box>
  );
}
