import { Alert, Box, Button, MenuItem, TextField, ToggleButton, ToggleButtonGroup, Tooltip, Typography } from '@mui/material';
import { useState } from 'react';
import { imageSizeOf, jigKinds, jigSides, jigWords, repeatsOf, unevenness, type Jig, type JigKind, type JigSide, type ParamsOf } from '@jig-peel/core';
import { NameField } from '../../fields/NameField.tsx';
import { NumberField } from '../../fields/NumberField.tsx';
import { useBench } from '../../store/bench.ts';
import { run } from '../../worker/client.ts';
import type { JigRow } from '../../session/messages.ts';
import { change, changeKind, useJigs, type SnapTo } from '../jigs.ts';
import { Card } from './Card.tsx';
import { Toggle } from '../../fields/Toggle.tsx';

const short = (x: number) => Number(x.toPrecision(6));

/** The jig in hand: what its image does, where it stands, whom it matches. Every number takes arithmetic and can be put back. */
export function JigCard({ row }: { row: JigRow }) {
  const unit = useBench((s) => s.summary!.settings.unit);
  const { takes, snap, frame, image, old } = useJigs();
  const { jig } = row;
  const was = old[row.id] ?? jig;
  const units = unit === 'unit' ? 'units' : unit;
  const round = jig.kind === 'cylindrical' || jig.kind === 'spherical';
  const framed = jig.kind !== 'each-face';
  const aspect = usePictureAspect();
  const uneven = framed && jig.kind !== 'flat-regions' && jig.kind !== 'box' ? unevenness(jig, aspect) : 1;
  const [wide, tall] = imageSizeOf(jig);
  return (
    <Card title={`${row.name}: ${jigWords[jig.kind].toLowerCase()}`}>
      <NameField
        label="Name"
        value={row.name}
        change={{ job: useBench.getState().summary!.id, operation: 'changeJig', params: { id: row.id }, field: 'name' }}
      />
      <TextField
        select
        fullWidth
        label="Kind; the image keeps its size"
        value={jig.kind}
        onChange={(event) => void changeKind(row, event.target.value as JigKind)}
      >
        {jigKinds
          .filter((kind) => kind !== 'view' || jig.kind === 'view')
          .map((kind) => (
            <MenuItem key={kind} value={kind}>
              {jigWords[kind]}
            </MenuItem>
          ))}
      </TextField>
      {row.state !== 'live' && (
        <Alert severity="info" sx={{ py: 0 }}>
          It is {row.words}: changes here move no UVs until it is made live.
        </Alert>
      )}
      {framed && (
        <>
          <ToggleButtonGroup
            exclusive
            fullWidth
            size="small"
            aria-label="The pointer takes"
            value={takes}
            onChange={(_, value: 'part' | 'jig' | null) => value && useJigs.setState({ takes: value })}
          >
            <ToggleButton value="part">
              <Tooltip title="A drag over the model selects; only the handles move the jig">
                <span>Take the part</span>
              </Tooltip>
            </ToggleButton>
            <ToggleButton value="jig">
              <Tooltip title="A drag anywhere slides the jig over the surface; nothing is selected by it">
                <span>Take the jig</span>
              </Tooltip>
            </ToggleButton>
          </ToggleButtonGroup>
          <Box sx={{ display: 'flex', gap: 1, alignItems: 'center' }}>
            <TextField select fullWidth label="Snap" value={snap} onChange={(event) => useJigs.setState({ snap: event.target.value as SnapTo })}>
              <MenuItem value="off">off (Ctrl: steps)</MenuItem>
              <MenuItem value="grid">to round steps, 15°</MenuItem>
              <MenuItem value="points">to points, 15°</MenuItem>
            </TextField>
          </Box>
          <Box sx={{ display: 'flex', gap: 1 }}>
            <Toggle label="Frame" checked={frame} onChange={(on) => useJigs.setState({ frame: on })} />
            {frame && <Toggle label="Image on it" checked={image} onChange={(on) => useJigs.setState({ image: on })} />}
          </Box>
        </>
      )}
      {framed && (
        <Section title="Image">
          <Toggle
            label="A real width"
            checked={jig.imageWidth !== null}
            onChange={(on) =>
              change(on ? { imageWidth: short(wide), imageAspect: short(tall / wide) } : { imageWidth: null, repeats: repeatsOf(jig) }, 'changed the image of')
            }
          />
          {jig.imageWidth !== null ? (
            <NumberField
              label="Image width"
              unit={units}
              value={short(jig.imageWidth)}
              old={was.imageWidth === null ? undefined : short(was.imageWidth)}
              min={1e-6}
              max={1e6}
              step={0.1}
              onChange={(imageWidth) => change({ imageWidth }, 'changed the image width of')}
            />
          ) : (
            <Pair
              label="Repeats in"
              values={jig.repeats}
              old={was.repeats}
              min={0.0001}
              max={10_000}
              step={1}
              onChange={(repeats) => change({ repeats }, 'changed the repeats of')}
            />
          )}
          {Math.abs(Math.log(uneven)) > 0.02 && (
            <Alert
              severity="warning"
              sx={{ py: 0, '& .MuiAlert-action': { pt: 0.25 } }}
              action={
                <Button color="inherit" size="small" onClick={() => change(evened(jig, aspect), 'evened out')}>
                  Even size
                </Button>
              }
            >
              The image is {uneven > 1 ? 'widened' : 'made narrow'} {Math.max(uneven, 1 / uneven).toFixed(2)} times.
            </Alert>
          )}
          <Pair
            label="Slide in"
            values={jig.offset}
            old={was.offset}
            min={-1e6}
            max={1e6}
            step={0.05}
            onChange={(offset) => change({ offset }, 'slid the image of')}
          />
          <NumberField
            label="Image turned by"
            unit="°"
            value={short(jig.turn)}
            old={short(was.turn)}
            min={-3600}
            max={3600}
            step={15}
            onChange={(turn) => change({ turn }, 'turned the image of')}
          />
          <Box sx={{ display: 'flex', gap: 0.75 }}>
            <Button
              size="small"
              variant={jig.mirrorU ? 'contained' : 'outlined'}
              aria-pressed={jig.mirrorU}
              fullWidth
              onClick={() => change({ mirrorU: !jig.mirrorU }, 'mirrored')}
            >
              Mirror u
            </Button>
            <Button
              size="small"
              variant={jig.mirrorV ? 'contained' : 'outlined'}
              aria-pressed={jig.mirrorV}
              fullWidth
              onClick={() => change({ mirrorV: !jig.mirrorV }, 'mirrored')}
            >
              Mirror v
            </Button>
            <Button
              size="small"
              variant="outlined"
              fullWidth
              sx={{ whiteSpace: 'nowrap', px: 0.25, fontSize: 12 }}
              onClick={() => change({ quarter: (jig.quarter + 1) % 4 }, 'turned a quarter')}
            >
              Quarter turn
            </Button>
          </Box>
          {(jig.kind === 'box' || (jig.kind === 'cylindrical' && jig.lids)) && <OwnRepeats row={row} />}
        </Section>
      )}
      {round && (
        <NumberField
          label="Start line turned by"
          unit="°"
          value={short(jig.start)}
          old={short(was.start)}
          min={-360}
          max={360}
          step={15}
          onChange={(start) => change({ start }, 'turned the start line of')}
        />
      )}
      {jig.kind === 'cylindrical' && (
        <>
          <Toggle label="Flat lids at the ends" checked={jig.lids} onChange={(lids) => change({ lids }, 'changed the lids of')} />
          {jig.lids && (
            <NumberField
              label="Lids: facing up to"
              unit="°"
              value={jig.lidAngle}
              old={was.lidAngle}
              min={0}
              max={90}
              step={5}
              onChange={(lidAngle) => change({ lidAngle }, 'changed the lids of')}
            />
          )}
        </>
      )}
      {jig.kind === 'flat-regions' && (
        <NumberField
          label="One region: folds up to"
          unit="°"
          value={jig.flatAngle}
          old={was.flatAngle}
          min={0}
          max={90}
          step={1}
          onChange={(flatAngle) => change({ flatAngle }, 'changed the regions of')}
        />
      )}
      {jig.kind === 'box' && (
        <NumberField
          label="Patches below this go with neighbours"
          unit="%"
          value={short(jig.group * 100)}
          old={short(was.group * 100)}
          min={0}
          max={50}
          step={1}
          onChange={(share) => change({ group: share / 100 }, 'grouped the patches of')}
        />
      )}
      {framed && (
        <Section title="Place">
          <Three
            label="Middle"
            names={['x', 'y', 'z']}
            unit={units}
            values={jig.origin}
            old={was.origin}
            min={-1e6}
            max={1e6}
            onChange={(origin) => change({ origin }, 'moved')}
          />
          <Three
            label="Size"
            names={['wide', 'high', 'deep']}
            unit={units}
            values={jig.size}
            old={was.size}
            min={1e-6}
            max={1e6}
            onChange={(size) => change({ size }, 'sized')}
          />
          <Toggle
            label="Moves and grows with its part"
            checked={row.belongs === 'part'}
            onChange={(on) => void run('changeJig', { id: row.id, belongs: on ? 'part' : 'space' })}
          />
        </Section>
      )}
      {framed && row.state === 'live' && <Matching row={row} />}
    </Card>
  );
}

/** Height over width of the picture that the part shows; the test grid is square. */
function usePictureAspect(): number {
  return useBench((s) => {
    const part = s.summary?.parts.find((p) => p.id === s.summary?.activePart);
    const image = s.overlay === 'picture' ? s.summary?.images.find((i) => i.id === part?.imageId) : undefined;
    return image && image.width > 0 ? image.height / image.width : 1;
  });
}

/** The image as wide as before, its height by its own proportions. */
function evened(jig: Jig, aspect: number): Partial<Jig> {
  if (jig.imageWidth !== null) return { imageAspect: aspect };
  const off = unevenness(jig, aspect);
  return { repeats: jig.quarter % 2 === 0 ? [jig.repeats[0], jig.repeats[1] / off] : [jig.repeats[0] / off, jig.repeats[1]] };
}

function Section({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <>
      <Typography variant="caption" color="text.secondary" sx={{ mt: 0.5, fontWeight: 650 }}>
        {title}
      </Typography>
      {children}
    </>
  );
}

interface PairProps {
  label: string;
  values: readonly [number, number];
  old: readonly [number, number];
  min: number;
  max: number;
  step: number;
  onChange(values: [number, number]): void;
}
function Pair({ label, values, old, min, max, step, onChange }: PairProps) {
  return (
    <Box sx={{ display: 'flex', gap: 1 }}>
      {(['u', 'v'] as const).map((name, k) => (
        <NumberField
          key={name}
          label={`${label} ${name}`}
          value={short(values[k]!)}
          old={short(old[k]!)}
          min={min}
          max={max}
          step={step}
          onChange={(x) => onChange(k === 0 ? [x, values[1]] : [values[0], x])}
        />
      ))}
    </Box>
  );
}

interface ThreeProps {
  label: string;
  names: readonly [string, string, string];
  unit: string;
  values: readonly [number, number, number];
  old: readonly [number, number, number];
  min: number;
  max: number;
  onChange(values: [number, number, number]): void;
}
function Three({ label, names, unit, values, old, min, max, onChange }: ThreeProps) {
  const step = Number((Math.max(...values.map(Math.abs), 0.1) / 40).toPrecision(1));
  return (
    <>
      {names.map((name, k) => (
        <NumberField
          key={name}
          label={`${label}, ${name}`}
          unit={unit}
          value={short(values[k]!)}
          old={short(old[k]!)}
          min={min}
          max={max}
          step={step}
          onChange={(x) => onChange(values.map((before, n) => (n === k ? x : before)) as [number, number, number])}
        />
      ))}
    </>
  );
}

/** Repeats of one side or lid, in place of the jig's. */
function OwnRepeats({ row }: { row: JigRow }) {
  const { jig } = row;
  const sides: readonly JigSide[] = jig.kind === 'box' ? jigSides : ['top', 'bottom'];
  const [side, setSide] = useState<JigSide>('top');
  const own = jig.own[side];
  const word = jig.kind === 'box' ? 'side' : 'lid';
  return (
    <>
      <Box sx={{ display: 'flex', gap: 1, alignItems: 'center' }}>
        <TextField select fullWidth label={`One ${word}`} value={side} onChange={(event) => setSide(event.target.value as JigSide)}>
          {sides.map((name) => (
            <MenuItem key={name} value={name}>
              {name}
              {jig.own[name] ? ' (own repeats)' : ''}
            </MenuItem>
          ))}
        </TextField>
        <Button
          size="small"
          variant="outlined"
          sx={{ whiteSpace: 'nowrap', flex: 'none' }}
          onClick={() => {
            const { [side]: _, ...rest } = jig.own;
            change({ own: own ? rest : { ...jig.own, [side]: repeatsOf(jig) } }, 'changed the repeats of');
          }}
        >
          {own ? 'As the others' : 'Own repeats'}
        </Button>
      </Box>
      {own && (
        <Pair
          label={`${side[0]!.toUpperCase() + side.slice(1)}: repeats in`}
          values={own}
          old={own}
          min={0.0001}
          max={10_000}
          step={1}
          onChange={(values) => change({ own: { ...jig.own, [side]: values } }, 'changed the repeats of')}
        />
      )}
    </>
  );
}

/** The image made to go on from neighbours. */
function Matching({ row }: { row: JigRow }) {
  const jigs = useBench((s) => s.summary!.jigs);
  const others = jigs.filter((one) => one.id !== row.id && one.drives.some((d) => row.drives.some((mine) => mine.part === d.part)));
  const [to, setTo] = useState('');
  const target = others.some(({ id }) => id === to) ? to : '';
  const match = (what: ParamsOf<'matchJig'>['what']) => void run('matchJig', { id: row.id, what, ...(target ? { to: target } : {}) }, true);
  return (
    <Section title="Go on from its neighbours">
      {others.length > 0 && (
        <TextField
          select
          fullWidth
          label="Match"
          value={target}
          onChange={(event) => setTo(event.target.value)}
          slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
        >
          <MenuItem value="">all faces beside it</MenuItem>
          {others.map(({ id, name }) => (
            <MenuItem key={id} value={id}>
              {name}
            </MenuItem>
          ))}
        </TextField>
      )}
      <Box sx={{ display: 'flex', gap: 0.5 }}>
        {(['size', 'heading', 'phase'] as const).map((what) => (
          <Button key={what} size="small" variant="outlined" fullWidth onClick={() => match([what])}>
            {what[0]!.toUpperCase() + what.slice(1)}
          </Button>
        ))}
        <Button size="small" variant="outlined" fullWidth onClick={() => match(['size', 'heading', 'phase'])}>
          All
        </Button>
      </Box>
    </Section>
  );
}
