import { Button, Checkbox, Collapse, FormControlLabel, MenuItem, TextField, Tooltip, Typography } from '@mui/material';
import { unitNames, type JobSettings, type UpAxis } from '@jig-peel/core';
import { useRef, useState } from 'react';
import { later } from '../../later.tsx';
import { NumberField } from '../../fields/NumberField.tsx';
import { useBench } from '../../store/bench.ts';
import { useJob } from '../../store/useJob.ts';
import { run } from '../../worker/client.ts';
import { Card } from './Card.tsx';
import { chooseFiles, keepsFiles, watch } from '../watch.ts';
import { leaveNewer, takeNewer, useTaken } from './newerMesh.ts';
import { WatchedLine } from './WatchedLine.tsx';

const unitWords: Record<JobSettings['unit'], string> = { unit: 'not stated', mm: 'millimetres', cm: 'centimetres', m: 'metres', in: 'inches', ft: 'feet' };
const figure = (x: number) => Number(x.toPrecision(4)).toLocaleString('en', { maximumFractionDigits: 6 });

const NewerMeshDialog = later(() => import('./NewerMeshDialog.tsx'));

/** Size and unit of the model, the mesh's own faults, and their repair on request. */
export function MeshCard() {
  const newer = useRef<HTMLInputElement>(null);
  const taken = useTaken((s) => s.taken);
  const { active, activePart, settings, parts } = useJob('active', 'activePart', 'settings', 'parts');
  // one answer for all parts; where they differ, the first press makes them alike
  const up = parts.length === 0 ? null : parts.every((part) => part.up === parts[0]!.up) ? parts[0]!.up : 'y';
  const [open, setOpen] = useState(false);
  const [choice, setChoice] = useState({ merge: true, degenerate: true, winding: true, nonManifold: true });
  const [within, setWithin] = useState(0);
  const { nonManifoldEdges, windingEdges, borderEdges } = active;
  const faults = [
    nonManifoldEdges > 0 && `${nonManifoldEdges.toLocaleString('en')} edges with more than two faces`,
    windingEdges > 0 && `${windingEdges.toLocaleString('en')} edges between faces that are wound against each other`,
  ].filter(Boolean);
  const box = (key: keyof typeof choice, label: string) => (
    <FormControlLabel
      sx={{ m: 0 }}
      control={
        <Checkbox size="small" sx={{ py: 0.25, pl: 0 }} checked={choice[key]} onChange={(event) => setChoice({ ...choice, [key]: event.target.checked })} />
      }
      label={<Typography variant="body2">{label}</Typography>}
    />
  );
  return (
    <Card title="Mesh">
      {taken && (
        <NewerMeshDialog
          {...taken}
          keep={() => useTaken.setState({ taken: null })}
          back={() => {
            useTaken.setState({ taken: null });
            void leaveNewer();
          }}
        />
      )}
      <Typography variant="body2">
        {active.size.map(figure).join(' × ')} {settings.unit === 'unit' ? 'units' : settings.unit};{' '}
        {borderEdges === 0 ? 'closed' : `${borderEdges.toLocaleString('en')} border edges`}.
        {faults.length > 0 && ` ${faults.join('; ')}: islands do not run across them.`}
      </Typography>
      <TextField select fullWidth label="One unit is" value={settings.unit} onChange={(event) => void run('settings', { unit: event.target.value })}>
        {unitNames.map((name) => (
          <MenuItem key={name} value={name}>
            {unitWords[name]}
          </MenuItem>
        ))}
      </TextField>
      <Tooltip title="The layout stays where the form is the same, and is carried over by place elsewhere; faces that need work are selected">
        <Button
          variant="outlined"
          fullWidth
          onClick={() => {
            if (!keepsFiles()) newer.current?.click();
            else
              void chooseFiles({ multiple: true, id: 'jig-peel-mesh' }).then(
                (chosen) => {
                  if (!chosen) return;
                  void watch('mesh', activePart, chosen.handles, chosen.files);
                  void takeNewer(chosen.files);
                },
                () => newer.current?.click(),
              );
          }}
        >
          A newer mesh of this part …
        </Button>
      </Tooltip>
      <input
        ref={newer}
        type="file"
        multiple
        accept=".obj,.mtl,.glb,.gltf,.bin,.ply,.stl"
        hidden
        aria-label="A newer mesh of this part"
        onChange={(event) => {
          const files = [...(event.target.files ?? [])];
          event.target.value = '';
          if (files.length > 0) void takeNewer(files);
        }}
      />
      <WatchedLine kind="mesh" of={activePart} />
      {up !== null && (
        <TextField
          select
          fullWidth
          label="Up in the file"
          value={up}
          helperText={up === 'z' ? 'turned upright here, written back as it came' : undefined}
          onChange={(event) => void run('setUp', { up: event.target.value as UpAxis }, true).then(() => useBench.getState().frame())}
        >
          <MenuItem value="y">y</MenuItem>
          <MenuItem value="z">z</MenuItem>
        </TextField>
      )}
      <Button size="small" variant={faults.length > 0 ? 'contained' : 'outlined'} onClick={() => setOpen(!open)} aria-expanded={open}>
        Repair mesh …
      </Button>
      <Collapse in={open} unmountOnExit>
        {box('merge', 'merge points at the same place')}
        {choice.merge && (
          <NumberField
            label="or nearer than"
            unit={settings.unit === 'unit' ? 'units' : settings.unit}
            value={within}
            min={0}
            max={1e6}
            step={0.001}
            onChange={setWithin}
          />
        )}
        {box('degenerate', 'drop faces without area')}
        {box('winding', 'turn faces so that neighbours agree')}
        {box('nonManifold', 'split edges with more than two faces')}
        <Button
          fullWidth
          variant="contained"
          disabled={!Object.values(choice).some(Boolean)}
          onClick={() => void run('repair', { ...choice, within }, true).then((outcome) => outcome.ok && setOpen(false))}
        >
          Repair
        </Button>
      </Collapse>
    </Card>
  );
}
