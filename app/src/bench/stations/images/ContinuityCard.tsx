import { Box, Button, IconButton, List, ListItem, ListItemButton, ListItemText, MenuItem, TextField, Tooltip, Typography } from '@mui/material';
import NextIcon from '@mui/icons-material/NavigateNext';
import BeforeIcon from '@mui/icons-material/NavigateBefore';
import { useEffect, useState } from 'react';
import { goOnWays, islandLetter, type GoOnWay, type ReportOf } from '@jig-peel/core';
import { NumberRow } from '../../../fields/NumberRow.tsx';
import { Toggle } from '../../../fields/Toggle.tsx';
import { useBench } from '../../../store/bench.ts';
import { coreApi, run } from '../../../worker/client.ts';
import { jumpBands, jumpSteps } from '../../views/jumpBand.ts';
import { shownStage } from '../../views/shownStage.ts';
import { Card } from '../Card.tsx';

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

/** Where the picture does not go on over a seam, worst first, and what can be done about it. */
export function ContinuityCard() {
  const layout = useBench((s) => s.layout);
  const part = useBench((s) => s.summary?.activePart);
  const [found, setFound] = useState<{ part: string | undefined; report: Report } | null>(null);
  // edges of another part are none of this one's
  const report = found?.part === part ? found!.report : null;
  const [at, setAt] = useState(-1);
  const [way, setWay] = useState<GoOnWay>('turn');
  const [spread, setSpread] = useState(false);
  const [asked, setAsked] = useState(false);
  useEffect(() => {
    if (!asked || !layout || layout.allUnplaced || layout.part !== part) return;
    let current = true;
    void coreApi()
      .continuity()
      .then((outcome) => {
        if (current && outcome.ok) setFound({ part, report: outcome.report });
      })
      .catch(() => {});
    return () => {
      current = false;
    };
  }, [asked, layout, part]);
  const [banded, setBanded] = useState(true);
  const geometry = useBench((s) => s.geometry);
  useEffect(() => {
    if (!report || !banded || !geometry || geometry.part !== part) return;
    shownStage.current?.setGuests(jumpBands(geometry, report.jumps));
    return () => shownStage.current?.setGuests([]);
  }, [report, banded, geometry, part]);
  const show = (k: number) => {
    const jump = report?.jumps[k];
    if (!jump) return;
    setAt(k);
    void run('select', { kind: 'edges', ids: Uint32Array.from(jump.edges).sort() }).then(() => useBench.getState().frame());
  };
  const jump = report?.jumps[at];
  const none = !layout || layout.allUnplaced;
  return (
    <Card title="Where the picture jumps">
      {!report ? (
        <>
          <Typography variant="caption" color="text.secondary">
            Along each seam: how far the picture is off in px of the image, turned or sized otherwise. Whole repeats are no jump.
          </Typography>
          <Box title={none ? 'The part has no layout yet' : ''}>
            {' '}
            <Button size="small" fullWidth variant="outlined" disabled={none} onClick={() => setAsked(true)}>
              {asked && !none ? 'Measuring …' : 'Measure the seams'}
            </Button>
          </Box>
        </>
      ) : report.seams === 0 ? (
        <Typography variant="body2">The picture goes on over all seams.</Typography>
      ) : (
        <>
          <Box sx={{ display: 'flex', alignItems: 'center' }}>
            <Typography variant="body2" sx={{ flex: 1 }}>
              {report.seams === 1 ? 'One seam' : `${report.seams} seams`}, px of {report.width} × {report.height}
            </Typography>
            <IconButton size="small" aria-label="Seam before" disabled={at <= 0} onClick={() => show(at - 1)}>
              <BeforeIcon />
            </IconButton>
            <IconButton size="small" aria-label="Next seam" disabled={at + 1 >= report.jumps.length} onClick={() => show(at + 1)}>
              <NextIcon />
            </IconButton>
          </Box>
          <Toggle label="As bands on the model" checked={banded} onChange={setBanded} />
          {banded && (
            <Typography variant="caption" color="text.secondary">
              The wider and darker, the farther off: under {jumpSteps[1]} px, from {jumpSteps[1]}, {jumpSteps[2]} and {jumpSteps[3]} px on.
            </Typography>
          )}
          <List dense disablePadding aria-label="Seams where the picture jumps, worst first" sx={{ maxHeight: 180, overflow: 'auto' }}>
            {report.jumps.slice(0, listed).map((one, k) => (
              <ListItem key={one.islands.join()} disablePadding>
                <ListItemButton selected={k === at} sx={{ borderRadius: 1, px: 1, py: 0 }} onClick={() => show(k)}>
                  <ListItemText
                    primary={
                      one.islands[0] === one.islands[1]
                        ? `within ${islandLetter(one.islands[0])}`
                        : `${islandLetter(one.islands[0])} to ${islandLetter(one.islands[1])}`
                    }
                    secondary={jumpWords(one)}
                  />
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
          <Toggle label="Spread what does not close round a ring" checked={spread} onChange={setSpread} />
          <Tooltip title="Locked islands stay, else the largest. Islands leave their places on the sheet: for pictures that repeat. “Bring stray islands back” brings them back by whole repeats">
            <Button size="small" fullWidth variant="outlined" onClick={() => void run('goOnAll', { way, spread }, true)}>
              Let all islands go on
            </Button>
          </Tooltip>
          {jump && jump.islands[0] !== jump.islands[1] && (
            <>
              <Box sx={{ display: 'flex', gap: 1 }}>
                {([jump.islands, [jump.islands[1], jump.islands[0]]] as const).map(([from, island]) => (
                  <Button key={island} size="small" fullWidth variant="outlined" onClick={() => void run('goOn', { island: island!, from: from!, way })}>
                    {islandLetter(island!)} goes on from {islandLetter(from!)}
                  </Button>
                ))}
              </Box>
              <Typography variant="caption" color="text.secondary">
                Or join them under Seams, move the seam, or drive a layer by three sides over it.
              </Typography>
            </>
          )}
        </>
      )}
    </Card>
  );
}

/** Random offsets and turns, so that a repeated picture does not show its repeats. */
export function VaryCard() {
  const none = useBench((s) => !s.layout || s.layout.allUnplaced);
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
