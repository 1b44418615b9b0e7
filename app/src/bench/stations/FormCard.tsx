import { Box, Button, FormControlLabel, MenuItem, Switch, TextField, Typography } from '@mui/material';
import { formKinds, formSchema, formWords, type FormKind } from '@jig-peel/core';
import { useState } from 'react';
import { NumberField } from '../../fields/NumberField.tsx';
import { useJob } from '../../store/useJob.ts';
import { run } from '../../worker/client.ts';
import { Card } from './Card.tsx';

type Form = ReturnType<typeof formSchema.parse>;
const start = formSchema.parse({});

/** Which numbers each form has, and what they are called there. */
const fields: Record<FormKind, { key: 'width' | 'height' | 'depth' | 'tube' | 'segments' | 'rows'; label: string }[]> = {
  plane: [
    { key: 'width', label: 'Width' },
    { key: 'height', label: 'Height' },
    { key: 'segments', label: 'Columns' },
    { key: 'rows', label: 'Rows' },
  ],
  box: [
    { key: 'width', label: 'Width (x)' },
    { key: 'height', label: 'Height (y)' },
    { key: 'depth', label: 'Depth (z)' },
    { key: 'segments', label: 'Columns' },
    { key: 'rows', label: 'Rows' },
  ],
  cylinder: [
    { key: 'width', label: 'Diameter' },
    { key: 'height', label: 'Height' },
    { key: 'segments', label: 'Faces round' },
    { key: 'rows', label: 'Rows' },
  ],
  cone: [
    { key: 'width', label: 'Diameter' },
    { key: 'height', label: 'Height' },
    { key: 'segments', label: 'Faces round' },
    { key: 'rows', label: 'Rows' },
  ],
  sphere: [
    { key: 'width', label: 'Diameter' },
    { key: 'segments', label: 'Faces round' },
    { key: 'rows', label: 'Rows' },
  ],
  torus: [
    { key: 'width', label: 'Diameter' },
    { key: 'tube', label: 'Tube diameter' },
    { key: 'segments', label: 'Faces round' },
    { key: 'rows', label: 'Faces round the tube' },
  ],
};

/** Adds a starter form; one that nothing was done to yet is made again as its numbers change: the views are the preview. */
export function FormCard() {
  const summary = useJob('parts', 'activePart', 'settings');
  const [draft, setDraft] = useState<Form>(start);
  const unit = summary.settings.unit === 'unit' ? 'units' : summary.settings.unit;
  const active = summary.parts.find((part) => part.id === summary.activePart)!;
  const current = active.form ? active.id : null;
  const form = active.form ?? draft;
  const change = (patch: Partial<Form>) => {
    const next = { ...form, ...patch };
    setDraft(next);
    if (current) void run('makeForm', { ...next, replace: current });
  };
  const words = formWords(form);
  return (
    <Card title={current ? 'Starter form' : 'Add a starter form'}>
      <TextField select fullWidth label="Form" value={form.kind} onChange={(event) => change({ kind: event.target.value as FormKind })}>
        {formKinds.map((kind) => (
          <MenuItem key={kind} value={kind}>
            {kind[0]!.toUpperCase() + kind.slice(1)}
          </MenuItem>
        ))}
      </TextField>
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 1 }}>
        {fields[form.kind].map(({ key, label }) => {
          const whole = key === 'segments' || key === 'rows';
          return (
            <NumberField
              key={key}
              label={label}
              unit={whole ? undefined : unit}
              value={form[key]}
              whole={whole}
              min={whole ? (form.kind === 'plane' || form.kind === 'box' || key === 'rows' ? 1 : 3) : 1e-6}
              max={whole ? 2048 : 1e6}
              step={whole ? 1 : 0.1}
              onChange={(value) => change({ [key]: value })}
            />
          );
        })}
      </Box>
      {(form.kind === 'cylinder' || form.kind === 'cone') && (
        <FormControlLabel
          sx={{ m: 0 }}
          control={<Switch size="small" checked={form.lids} onChange={(event) => change({ lids: event.target.checked })} />}
          label="Lids"
        />
      )}
      <FormControlLabel
        sx={{ m: 0 }}
        control={<Switch size="small" checked={form.uvs} onChange={(event) => change({ uvs: event.target.checked })} />}
        label="With starter UVs"
      />
      <Typography variant="caption" color="text.secondary">
        {words.name}: {words.points.toLocaleString('en')} points, {words.faces.toLocaleString('en')} faces
      </Typography>
      <Button variant={current ? 'outlined' : 'contained'} onClick={() => void run('makeForm', { ...form }, true)}>
        {current ? 'Add another' : 'Add this form'}
      </Button>
    </Card>
  );
}
