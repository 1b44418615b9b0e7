import { Box, Button, FormControlLabel, MenuItem, Switch, TextField, Typography } from '@mui/material';
import type { Field } from 'virtual:operation-facts';
import { Controller, useForm } from 'react-hook-form';
import { evaluate } from '../fields/arithmetic.ts';

type Values = Record<string, string | boolean>;

interface Props {
  fields: readonly Field[];
  /** What stands in the fields at first; default: what the operation begins with. */
  first?: Readonly<Record<string, unknown>>;
  /** Words of the button that sends. */
  label: string;
  send(params: Record<string, unknown>): void;
  cancel(): void;
}

/** Parameters of an operation as a form made from its schema. What is left empty is as the job's settings or the operation have it. */
export function ParamsForm({ fields, first = {}, label, send: sent, cancel }: Props) {
  const { control, handleSubmit } = useForm<Values>({
    defaultValues: Object.fromEntries(fields.map((field) => [field.name, startOf(field, first[field.name])])),
  });
  const send = handleSubmit((values) => sent(paramsFrom(fields, values)));
  return (
    <Box component="form" noValidate onSubmit={(event) => void send(event)} sx={{ display: 'flex', flexDirection: 'column', gap: 1.5, pt: 1 }}>
      {fields.map((field, k) => (
        <Controller
          key={field.name}
          name={field.name}
          control={control}
          rules={{ validate: (value) => problemOf(field, value) ?? true }}
          render={({ field: { ref, ...input }, fieldState: { error } }) =>
            field.kind === 'switch' ? (
              <FormControlLabel
                sx={{ m: 0, alignItems: 'flex-start' }}
                control={<Switch slotProps={{ input: { ref } }} name={input.name} checked={input.value === true} onChange={(_, on) => input.onChange(on)} />}
                label={
                  <Box>
                    <Typography variant="body2">{field.label}</Typography>
                    {field.help && (
                      <Typography variant="caption" color="text.secondary">
                        {field.help}
                      </Typography>
                    )}
                  </Box>
                }
              />
            ) : (
              <TextField
                {...input}
                inputRef={ref}
                autoFocus={k === 0}
                fullWidth
                select={field.kind === 'choice'}
                label={field.label}
                placeholder="as it is set"
                error={error !== undefined}
                helperText={error?.message ?? field.help}
                slotProps={{ inputLabel: { shrink: true }, select: { displayEmpty: true } }}
              >
                {field.kind === 'choice' && field.first === undefined && <MenuItem value="">as it is set</MenuItem>}
                {field.choices?.map((choice) => (
                  <MenuItem key={choice} value={choice}>
                    {choice}
                  </MenuItem>
                ))}
              </TextField>
            )
          }
        />
      ))}
      <Box sx={{ display: 'flex', justifyContent: 'flex-end', gap: 1 }}>
        <Button onClick={cancel}>Cancel</Button>
        <Button type="submit" variant="contained">
          {label}
        </Button>
      </Box>
    </Box>
  );
}

function startOf({ kind, first }: Field, given: unknown): string | boolean {
  const value = typeof given === 'string' || typeof given === 'number' || typeof given === 'boolean' ? given : first;
  return kind === 'switch' ? value === true : value === undefined ? '' : String(value);
}

/** What is wrong with what stands in a field, in words; null where nothing is. */
export function problemOf({ kind, whole, min, max }: Field, value: string | boolean): string | null {
  if (kind !== 'number' || value === '') return null;
  const number = evaluate(String(value));
  if (number === null) return 'This is no number.';
  if (whole && !Number.isInteger(number)) return 'A whole number, please.';
  if (min !== undefined && number < min) return `At least ${min}.`;
  if (max !== undefined && number > max) return `At most ${max}.`;
  return null;
}

/** What a form's values stand for as parameters: fields that are left empty are left out. */
export function paramsFrom(fields: readonly Field[], values: Values): Record<string, unknown> {
  return Object.fromEntries(
    fields
      .filter(({ name }) => values[name] !== '' && values[name] !== undefined)
      .map(({ name, kind }) => [name, kind === 'number' ? evaluate(String(values[name])) : values[name]]),
  );
}
