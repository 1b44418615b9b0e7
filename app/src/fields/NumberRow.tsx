import { Box } from '@mui/material';
import { NumberField } from './NumberField.tsx';

/** Figures as people read them. */
export const sixFigures = (x: number): number => Number(x.toPrecision(6));

interface Props<T extends readonly [number, ...number[]]> {
  labels: readonly string[];
  values: T;
  /** What each can be put back to. */
  old: NoInfer<T>;
  min?: number;
  max?: number;
  step?: number;
  unit?: string;
  /** One above the other instead of side by side. */
  stacked?: boolean;
  onChange(values: NoInfer<T>): void;
}

/** Numbers that belong together; a change of one gives all of them. */
export function NumberRow<T extends readonly [number, ...number[]]>({
  labels,
  values,
  old,
  min = -1e6,
  max = 1e6,
  step = 0.1,
  unit,
  stacked,
  onChange,
}: Props<T>) {
  // side by side there is no room for figure, unit and buttons; arrow keys step all the same
  const isNarrow = !stacked && (labels.length > 2 || (labels.length === 2 && (unit ?? '').length > 1));
  const fields = labels.map((label, k) => (
    <NumberField
      key={label}
      bare={isNarrow}
      label={label}
      unit={unit}
      value={sixFigures(values[k]!)}
      old={sixFigures(old[k]!)}
      min={min}
      max={max}
      step={step}
      onChange={(x) => onChange(values.map((before, n) => (n === k ? x : before)) as unknown as T)}
    />
  ));
  return stacked ? fields : <Box sx={{ display: 'flex', gap: 1 }}>{fields}</Box>;
}
