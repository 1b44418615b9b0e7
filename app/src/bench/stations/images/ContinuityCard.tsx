import {
  Box,
  Button,
  IconButton,
  List,
  ListItem,
  ListItemButton,
  ListItemText,
  MenuItem,
  TextField,
  ToggleButton,
  ToggleButtonGroup,
  Tooltip,
  Typography,
} from '@mui/material';
import NextIcon from '@mui/icons-material/NavigateNext';
import BeforeIcon from '@mui/icons-material/NavigateBefore';
import { useEffect, useState } from 'react';
import { goOnWays, islandLetter, type GoOnWay, type ReportOf } from '@jig-peel/core';
import { NumberRow } from '../../../fields/NumberRow.tsx';
import { Toggle } from '../../../fields/Toggle.tsx';
import type { SeamLook } from '@jig-peel/core/measure/seamLooks';
import { useBench } from '../../../store/bench.ts';
import { useJob } from '../../../store/useJob.ts';
import { coreApi, run } from '../../../worker/client.ts';
import { bandOf, bandOfLook, jumpBands, jumpSteps, lookSteps } from '../../views/jumpBand.ts';
import { shownStage } from '../../views/shownStage.ts';
import { Card } from '../Card.tsx';
import { Remedies } from './Remedies.tsx';

type Report = ReportOf<'continuity'>;
type Jump = Report['jumps'][number];

/** Seams that are listed at once. */
const listed = 40;

const wayWords: Record<GoOnWay, string> = { move: 'moved alone', turn: 'moved and turned', size: 'moved, turned and sized' };

const jumpWords = ({ offset, turn, scale, isMirrored }: Jump) =>
  [
    offset > 0.05 && `${offset.toFixed(offset < 10 ? 1 : 0)} px off`,
    turn > 0.05 && `turned ${turn.toFixed(turn < 10 ? 1 : 0)}°`,
    scale > 1.0005 && `${((scale - 1) * 100).toFixed(scale < 1.1 ? 1 : 0)} % larger`,
    isMirrored && 'mirrored',
  ]
    .filter(Boolean)
    .join(', ');

/** A seam of either list: by where the picture lies, or by what is seen. */
interface Row {
  edges: readonly number[];
  islands: readonly [number, number];
  words: string;
  band: number;
}

const seamName = ({ islands: [a, b] }: Row) => (a === b ? `within ${islandLetter(a)}` : `${islandLetter(a)} to ${islandLetter(b)}`);

/** Tells a seam from the others of a layout. */
const keyOf = ({ islands, edges }: Row) => `${islands.join()} ${edges[0]}`;

type Found =
  | { by: 'place'; part: string | undefined; seams: number; width: number; height: number; rows: Row[] }
  | { by: 'look'; part: string | undefined; seams: number; rows: Row[] };

const lookWords = ({ colour, relief }: SeamLook, unit: string) =>
  [colour > 0.5 && `colours ${colour.toFixed(colour < 10 ? 1 : 0)} of 255 apart`, relief > 0 && `relief ${Number(relief.toPrecision(2))} ${unit} apart`]
    .filter(Boolean)
    .join(', ');

async function seamsBy(by: Found['by'], part: string | undefined, unit: string): Promise<Found | null> {
  if (by === 'place') {
    const outcome = await coreApi().continuity();
    if (!outcome.ok) return null;
    const { seams, width, height, jumps } = outcome.report;
    return { by, part, seams, width, height, rows: jumps.map((jump) => ({ ...jump, words: jumpWords(jump), band: bandOf(jump) })) };
  }
  const outcome = await coreApi().seamLooks();
  if (!outcome.ok) return null;
  return { by, part, seams: outcome.report.length, rows: outcome.report.map((one) => ({ ...one, words: lookWords(one, unit), band: bandOfLook(one) })) };
}

/** Where the picture does not go on over a seam, worst first, and what can be done about it. */
export function ContinuityCard() {
  const layout = useBench((s) => s.layout);
  const part = useBench((s) => s.summary?.activePart);
  const { parts, materialLayers, images, settings } = useJob('parts', 'materialLayers', 'images', 'settings');
  const unit = settings.unit === 'unit' ? 'units' : settings.unit;
  const [by, setBy] = useState<Found['by']>('place');
  const [found, setFound] = useState<Found | null>(null);
  // edges of another part are none of this one's
  const report = found?.part === part && found?.by === by ? found : null;
  const [shown, setShown] = useState('');
  const [way, setWay] = useState<GoOnWay>('turn');
  const [spread, setSpread] = useState(false);
  const [asked, setAsked] = useState(false);
  useEffect(() => {
    if (!asked || !layout || layout.allUnplaced || layout.part !== part) return;
    let current = true;
    void seamsBy(by, part, unit)
      .then((next) => current && next && setFound(next))
      .catch(() => {});
    return () => {
      current = false;
      if (by === 'look') void coreApi().leaveSeamLooks();
    };
    // what is seen changes with layers and pictures, too
  }, [asked, by, layout, part, unit, parts, materialLayers, images]);
  const [banded, setBanded] = useState(true);
  const geometry = useBench((s) => s.geometry);
  useEffect(() => {
    if (!report || !banded || !geometry || geometry.part !== part) return;
    shownStage.current?.setGuests(jumpBands(geometry, report.rows));
    return () => shownStage.current?.setGuests([]);
  }, [report, banded, geometry, part]);
  // the seam that was shown stays shown where it comes in a new list
  const at = report ? report.rows.findIndex((row) => keyOf(row) === shown) : -1;
  const show = (k: number) => {
    const row = report?.rows[k];
    if (!row) return;
    setShown(keyOf(row));
    void run('select', { kind: 'edges', ids: Uint32Array.from(row.edges).sort() }).then(() => useBench.getState().frame());
  };
  const chosen = report?.rows[at];
  const none = !layout || layout.allUnplaced;
  const steps = by === 'place' ? jumpSteps : lookSteps;
  return (
    <Card title="Where the picture jumps">
      <ToggleButtonGroup
        exclusive
        fullWidth
        size="small"
        value={by}
        aria-label="What is compared over a seam"
        onChange={(_, next: Found['by'] | null) => {
          if (!next) return;
          setBy(next);
          setShown('');
        }}
      >
        <ToggleButton value="place">By its place</ToggleButton>
        <ToggleButton value="look">By what is seen</ToggleButton>
      </ToggleButtonGroup>
      {!report ? (
        <>
          <Typography variant="caption" color="text.secondary">
            {by === 'place'
              ? 'Along each seam: how far the picture is off in px of the image, turned or sized otherwise. Whole repeats are no jump.'
              : 'Along each seam: how far the colours on its two sides are apart, and the relief, all layers counted; wherever they lie on the sheet.'}
          </Typography>
          <Box title={none ? 'The part has no layout yet' : ''}>
            {' '}
            <Button size="small" fullWidth variant="outlined" disabled={none} onClick={() => setAsked(true)}>
              {asked && !none ? 'Measuring …' : 'Measure the seams'}
            </Button>
          </Box>
        </>
      ) : report.seams === 0 ? (
        <Typography variant="body2">{by === 'place' ? 'The picture goes on over all seams.' : 'Both sides of all seams look the same.'}</Typography>
      ) : (
        <>
          <Box sx={{ display: 'flex', alignItems: 'center' }}>
            <Typography variant="body2" sx={{ flex: 1 }}>
              {report.seams === 1 ? 'One seam' : `${report.seams} seams`}
              {report.by === 'place' ? `, px of ${report.width} × ${report.height}` : ''}
            </Typography>
            <IconButton size="small" aria-label="Seam before" disabled={at <= 0} onClick={() => show(at - 1)}>
              <BeforeIcon />
            </IconButton>
            <IconButton size="small" aria-label="Next seam" disabled={at + 1 >= report.rows.length} onClick={() => show(at + 1)}>
              <NextIcon />
            </IconButton>
          </Box>
          <Toggle label="As bands on the model" checked={banded} onChange={setBanded} />
          {banded && (
            <Typography variant="caption" color="text.secondary">
              {by === 'place' ? 'The wider and darker, the farther off' : 'The wider and darker, the more colours differ'}: under {steps[1]}
              {by === 'place' ? ' px' : ''}, from {steps[1]}, {steps[2]} and {steps[3]} {by === 'place' ? 'px on' : 'of 255 on'}.
            </Typography>
          )}
          <List dense disablePadding aria-label="Seams where the picture jumps, worst first" sx={{ maxHeight: 180, overflow: 'auto' }}>
            {report.rows.slice(0, listed).map((one, k) => (
              <ListItem key={one.islands.join()} disablePadding>
                <ListItemButton selected={k === at} sx={{ borderRadius: 1, px: 1, py: 0 }} onClick={() => show(k)}>
                  <ListItemText primary={seamName(one)} secondary={one.words} />
                </ListItemButton>
              </ListItem>
            ))}
          </List>
          {report.seams > listed && <Typography variant="caption">The {listed} worst are listed.</Typography>}
          <TextField select fullWidth label="An island that goes on is" value={way} onChange={(event) => setWay(event.target.value as GoOnWay)}>
            {goOnWays.map((one) => (
              <MenuItem key={one} value={one}>
                {wayWords[one]}
              </MenuItem>
            ))}
          </TextField>
          {chosen && layout && (
            <>
              <Typography variant="caption" color="text.secondary">
                What would help, {seamName(chosen)}: measured before you take it.
              </Typography>
              <Remedies edges={chosen.edges} islands={chosen.islands} way={way} layout={layout} />
            </>
          )}
          <Toggle label="Spread what does not close round a ring" checked={spread} onChange={setSpread} />
          <Tooltip title="Locked islands stay, else the largest. Islands leave their places on the sheet: for pictures that repeat. “Bring stray islands back” brings them back by whole repeats">
            <Button size="small" fullWidth variant="outlined" onClick={() => void run('goOnAll', { way, spread }, true)}>
              Let all islands go on
            </Button>
          </Tooltip>
        </>
      )}
    </Card>
  );
}

/** Random offsets and turns, so that a repeated picture does not show its repeats. */
export function VaryCard() {
  const none = useBench((s) => !s.layout || s.layout.allUnplaced);
  const seamsChosen = useBench((s) => s.summary!.selection.kind === 'edges' && s.summary!.selection.ids.length > 0);
  const [offset, setOffset] = useState(true);
  const [turn, setTurn] = useState<'none' | 'half' | 'quarter' | 'free'>('none');
  const [mirror, setMirror] = useState(false);
  const [seed, setSeed] = useState(1);
  const [by, setBy] = useState<'island' | 'part'>('island');
  return (
    <Card title="Vary a repeated picture">
      <Box sx={{ display: 'flex', gap: 1 }}>
        <TextField select fullWidth label="Each" value={by} onChange={(event) => setBy(event.target.value as 'island' | 'part')}>
          <MenuItem value="island">island</MenuItem>
          <MenuItem value="part">part as one</MenuItem>
        </TextField>
        <TextField select fullWidth label="Turned by" value={turn} onChange={(event) => setTurn(event.target.value as typeof turn)}>
          <MenuItem value="none">nothing</MenuItem>
          <MenuItem value="half">half turns</MenuItem>
          <MenuItem value="quarter">quarters</MenuItem>
          <MenuItem value="free">any angle</MenuItem>
        </TextField>
      </Box>
      <Toggle label="Slid by whole texels" checked={offset} onChange={setOffset} />
      <Toggle label="Half of them mirrored" checked={mirror} onChange={setMirror} />
      <Box
        title={seamsChosen ? '' : 'Select the seams first: a seam of the list above is selected by a click'}
        sx={{ display: 'grid', gridTemplateColumns: '2fr 1fr', gap: 1 }}
      >
        {' '}
        <Button size="small" variant="outlined" disabled={!seamsChosen} onClick={() => void run('keepGoing', {}, true)}>
          Keep it going on here
        </Button>
        <Button size="small" variant="outlined" disabled={!seamsChosen} onClick={() => void run('keepGoing', { keep: false }, true)}>
          Let go
        </Button>
      </Box>
      <Typography variant="caption" color="text.secondary">
        Islands on both sides of seams that are kept so are varied as one.
      </Typography>
      <NumberRow labels={['Seed']} values={[seed]} old={[1]} min={1} max={1e9} step={1} onChange={([next]) => setSeed(Math.round(next))} />
      <Box title={none ? 'The part has no layout yet' : !offset && turn === 'none' && !mirror ? 'Choose what is to vary' : ''}>
        {' '}
        <Button
          size="small"
          fullWidth
          variant="outlined"
          disabled={none || (!offset && turn === 'none' && !mirror)}
          onClick={() => void run('vary', { by, offset, turn, mirror, seed, which: 'selected' })}
        >
          Vary
        </Button>
      </Box>
      <Typography variant="caption" color="text.secondary">
        The selected islands, or all where none is. Islands leave their places on the sheet: for pictures that repeat.
      </Typography>
    </Card>
  );
}
