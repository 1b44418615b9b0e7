import {
  Box,
  Button,
  FormControlLabel,
  LinearProgress,
  MenuItem,
  Switch,
  TextField,
  ToggleButton,
  ToggleButtonGroup,
  Tooltip,
  Typography,
} from '@mui/material';
import { useEffect } from 'react';
import type { Advice, JigKind } from '@jig-peel/core';
import { NumberField } from '../../fields/NumberField.tsx';
import { useBench } from '../../store/bench.ts';
import { advise, changeJig, placeNow, takeAdvice, useJigs } from '../jigs.ts';
import { Card } from './Card.tsx';

const words: Record<JigKind, { form: string; help: string }> = {
  planar: { form: 'Flat', help: 'Straight through, like a slide projector far away (planar)' },
  cylindrical: { form: 'Tube', help: 'Rolled round an axis, ends flat (cylindrical)' },
  spherical: { form: 'Ball', help: 'Wrapped round from the middle (spherical)' },
  box: { form: 'Box', help: 'From six sides, each face from the one it looks to' },
  'flat-regions': { form: 'Regions', help: 'Each flat region by its own plane, all at one true size' },
  'each-face': { form: 'Faces', help: 'The whole image on each face' },
  view: { form: 'View', help: 'As it is seen now' },
};
const main: JigKind[] = ['planar', 'cylindrical', 'spherical', 'box'];
const more: JigKind[] = ['flat-regions', 'each-face'];

const axes: { value: 'auto' | 'facing' | 'x' | 'y' | 'z' | 'view'; label: string }[] = [
  { value: 'auto', label: 'on the selection, as it lies' },
  { value: 'facing', label: 'along its average facing' },
  { value: 'x', label: 'along x' },
  { value: 'y', label: 'along y' },
  { value: 'z', label: 'along z' },
  { value: 'view', label: 'from this view' },
];

/** Placed projections: what the form is like, with measured advice on top; where to place it; what the image does on it. */
export function JigsPanel() {
  const summary = useBench((s) => s.summary)!;
  const { kind, axis, items, part, advice, advised, measuring } = useJigs();
  const { selection, settings } = summary;
  const active = summary.parts.find((p) => p.id === summary.activePart)!;
  const onFaces = selection.part === active.id && selection.ids.length > 0;
  const unit = settings.unit === 'unit' ? 'units' : settings.unit;
  useEffect(() => {
    const timer = setTimeout(() => void advise(), 250);
    return () => clearTimeout(timer);
  }, [selection, active.id]);
  const mine = part === active.id ? items : [];
  const jig = mine[0]?.jig;
  const flat = kind === 'planar' || kind === 'view';
  const axisMatters = flat || kind === 'cylindrical' || kind === 'spherical';
  return (
    <>
      <Card title="What is the form like?">
        <Typography variant="body2" color="text.secondary">
          {onFaces ? 'Measured on what is selected.' : `Nothing is selected: measured on the whole of ${active.name}.`}
        </Typography>
        {measuring && <LinearProgress aria-label="Measuring projections" />}
        {advice && advised === selection && (
          <Box component="ul" aria-label="Advice" sx={{ m: 0, p: 0, listStyle: 'none', display: 'flex', flexDirection: 'column', gap: 0.5 }}>
            {advice.slice(0, 4).map((entry, k) => (
              <Box component="li" key={k}>
                <AdviceRow advice={entry} best={k === 0} />
              </Box>
            ))}
          </Box>
        )}
      </Card>
      <Card title="Place it">
        <ToggleButtonGroup
          exclusive
          fullWidth
          size="small"
          value={kind}
          aria-label="Form"
          onChange={(_, value: JigKind | null) => value && useJigs.setState({ kind: value })}
        >
          {main.map((k) => (
            <ToggleButton key={k} value={k}>
              <Tooltip title={words[k].help}>
                <span>{words[k].form}</span>
              </Tooltip>
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
        <ToggleButtonGroup
          exclusive
          fullWidth
          size="small"
          value={kind}
          aria-label="Other ways"
          onChange={(_, value: JigKind | null) => value && useJigs.setState({ kind: value })}
        >
          {more.map((k) => (
            <ToggleButton key={k} value={k}>
              <Tooltip title={words[k].help}>
                <span>{k === 'each-face' ? 'Each face' : 'Flat regions'}</span>
              </Tooltip>
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
        {axisMatters && (
          <TextField
            select
            fullWidth
            label={flat ? 'Direction' : 'Axis'}
            value={axis}
            onChange={(event) => useJigs.setState({ axis: event.target.value as typeof axis })}
          >
            {axes
              .filter(({ value }) => flat || (value !== 'view' && value !== 'facing'))
              .map(({ value, label }) => (
                <MenuItem key={value} value={value}>
                  {label}
                </MenuItem>
              ))}
          </TextField>
        )}
        <Button variant="contained" fullWidth onClick={() => void placeNow()}>
          Place on {onFaces ? 'the selected faces' : 'the whole part'}
        </Button>
      </Card>
      {jig && (
        <Card title={mine.length === 1 ? `${words[jig.kind].form}, on ${mine[0]!.faces.length.toLocaleString('en')} faces` : `${mine.length} projections`}>
          <Typography variant="caption" color="text.secondary">
            Written to {active.uvSets[active.activeUv]}. Each change writes it anew; undo takes it back.
          </Typography>
          <FormControlLabel
            sx={{ m: 0 }}
            control={
              <Switch
                size="small"
                checked={jig.imageWidth !== null}
                onChange={(event) => changeJig({ imageWidth: event.target.checked ? Number((jig.size[0] / jig.repeats[0]).toPrecision(3)) : null })}
              />
            }
            label={<Typography variant="body2">The image has a real width</Typography>}
          />
          {jig.imageWidth !== null ? (
            <NumberField
              label="Image width"
              unit={unit}
              value={jig.imageWidth}
              min={1e-6}
              max={1e6}
              step={0.1}
              onChange={(imageWidth) => changeJig({ imageWidth })}
            />
          ) : (
            mine.length === 1 &&
            jig.kind !== 'each-face' && (
              <Box sx={{ display: 'flex', gap: 1 }}>
                <NumberField
                  label="Repeats in u"
                  value={Number(jig.repeats[0].toPrecision(6))}
                  min={0.001}
                  max={1000}
                  onChange={(u) => changeJig({ repeats: [u, jig.repeats[1]] })}
                />
                <NumberField
                  label="Repeats in v"
                  value={Number(jig.repeats[1].toPrecision(6))}
                  min={0.001}
                  max={1000}
                  onChange={(v) => changeJig({ repeats: [jig.repeats[0], v] })}
                />
              </Box>
            )
          )}
          {(jig.kind === 'cylindrical' || jig.kind === 'spherical') && (
            <NumberField label="Start line turned by" unit="°" value={jig.start} min={-360} max={360} step={15} onChange={(start) => changeJig({ start })} />
          )}
          {mine.some((item) => item.jig.kind === 'cylindrical') && (
            <FormControlLabel
              sx={{ m: 0 }}
              control={<Switch size="small" checked={jig.lids} onChange={(event) => changeJig({ lids: event.target.checked })} />}
              label={<Typography variant="body2">Flat lids at the ends</Typography>}
            />
          )}
          <Box sx={{ display: 'flex', gap: 0.75 }}>
            <Button size="small" variant="outlined" fullWidth onClick={() => changeJig({ mirrorU: !jig.mirrorU })}>
              Mirror u
            </Button>
            <Button size="small" variant="outlined" fullWidth onClick={() => changeJig({ mirrorV: !jig.mirrorV })}>
              Mirror v
            </Button>
            <Button size="small" variant="outlined" fullWidth onClick={() => changeJig({ quarter: (jig.quarter + 1) % 4 })}>
              Quarter turn
            </Button>
          </Box>
        </Card>
      )}
    </>
  );
}

function AdviceRow({ advice, best }: { advice: Advice; best: boolean }) {
  const { parts, figures } = advice;
  const faces = parts.reduce((sum, p) => sum + p.faces.length, 0);
  const name = parts.map((p) => `${words[p.jig.kind].form}${p.jig.kind === 'cylindrical' && p.jig.lids ? ' with lids' : ''}`).join(' + ');
  const well = faces > 0 ? Math.round((figures.well.length / faces) * 100) : 0;
  const bad = faces > 0 ? Math.round((figures.badly.length / faces) * 100) : 0;
  const percent = (x: number) => `${(x * 100).toFixed(x > 0 && x < 0.1 ? 1 : 0)} %`;
  return (
    <Button
      fullWidth
      size="small"
      variant={best ? 'contained' : 'outlined'}
      onClick={() => void takeAdvice(advice)}
      sx={{ justifyContent: 'flex-start', textAlign: 'left', display: 'block', py: 0.5 }}
    >
      <Box component="span" sx={{ display: 'flex', justifyContent: 'space-between', gap: 1 }}>
        <span>{name}</span>
        <Typography component="span" variant="figure">
          energy {figures.energy.toFixed(2)}
        </Typography>
      </Box>
      <Typography component="span" variant="caption" sx={{ display: 'block', fontWeight: 400 }}>
        {well} % of the faces well, {bad} % badly
        {figures.flipped > 0.0005 ? `, ${percent(figures.flipped)} turned over` : ''}
        {figures.overlap > 0.0005 ? `, ${percent(figures.overlap)} overlap` : ''}
      </Typography>
    </Button>
  );
}
