import { Box, Button, FormControlLabel, MenuItem, Switch, TextField, Tooltip, Typography } from '@mui/material';
import { useState } from 'react';
import type { ParamsOf, ProposalReport } from '@jig-peel/core';
import { NumberField } from '../../fields/NumberField.tsx';
import { lengthWords } from '../../fields/lengthWords.ts';
import { useBench } from '../../store/bench.ts';
import { cancel, run } from '../../worker/client.ts';
import { runCommand } from '../commands/index.ts';
import { Card } from './Card.tsx';

const names = { crease: 'Creases', flat: 'Near-flat groups', stretch: 'Few, by stretch' } as const;
const none = new Uint32Array(0);

/** Seams worked out and measured before any is cut; pointing at one shows it on the model, a click takes it. */
export function Proposals() {
  const { list, layout: of } = useBench((s) => s.proposals);
  const layout = useBench((s) => s.layout);
  const progress = useBench((s) => s.progress);
  const unit = useBench((s) => s.summary!.settings.unit);
  const selected = useBench((s) => (s.summary!.selection.kind === 'faces' ? s.summary!.selection.ids.length : 0));
  const marks = useBench((s) => s.summary!.parts.find((part) => part.id === s.summary!.activePart)!.seamMarks);
  const [angle, setAngle] = useState(40);
  const [limit, setLimit] = useState(4.2);
  const [preferHidden, setPreferHidden] = useState(true);
  const [symmetric, setSymmetric] = useState(true);
  const [seenFrom, setSeenFrom] = useState<ParamsOf<'propose'>['seenFrom']>('around');
  const [busy, setBusy] = useState(false);
  const valid = list.length > 0 && of === layout;

  const work = async () => {
    setBusy(true);
    useBench.getState().set({ proposals: { list: [], layout: null } });
    const done: ProposalReport[] = [];
    let all = true;
    for (const by of ['stretch', 'crease', 'flat'] as const) {
      const outcome = await run('propose', {
        by,
        limit,
        preferHidden,
        seenFrom,
        symmetry: symmetric ? 'auto' : 'none',
        ...(by === 'crease' ? { angle } : {}),
      });
      // that it was cancelled, or why it could not be, was said
      if (!outcome.ok) {
        all = false;
        break;
      }
      const { report } = outcome;
      if (report.cuts.length > 0) done.push(report);
      // those that keep the limit first, the shortest of them on top
      const rank = (one: ProposalReport) => (one.energy <= limit * 1.02 && one.flips === 0 ? one.seamLength : 1e9 + one.energy);
      done.sort((a, b) => rank(a) - rank(b));
      useBench.getState().set({ proposals: { list: [...done], layout: useBench.getState().layout } });
    }
    if (all && done.length === 0) useBench.getState().notice('No further seam is needed.', 'info');
    setBusy(false);
  };
  const take = async ({ by, cuts }: ProposalReport) => {
    useBench.getState().set({ penEdges: none, penUncuts: false });
    await run('seams', { by, edges: cuts }, true);
  };
  const length = (x: number) => lengthWords(x, unit);
  const kept = marks?.reduce((sum, mark) => sum + (mark === 1 ? 1 : 0), 0) ?? 0;
  const may = marks?.reduce((sum, mark) => sum + (mark === 2 ? 1 : 0), 0) ?? 0;

  return (
    <Card title="Proposed seams">
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Box sx={{ flex: 1 }}>
          <NumberField label="Crease angle" unit="°" value={angle} min={1} max={180} step={5} onChange={setAngle} />
        </Box>
        <Box sx={{ flex: 1 }}>
          <NumberField label="Stretch limit" value={limit} min={4.01} max={20} step={0.1} onChange={setLimit} />
        </Box>
      </Box>
      <Typography variant="caption" color="text.secondary">
        The limit is the energy of the whole part: 4 is no stretch, 4.2 hardly to be seen.
      </Typography>
      <TextField select fullWidth size="small" label="Seen from" value={seenFrom} onChange={(event) => setSeenFrom(event.target.value as typeof seenFrom)}>
        {['around', 'front', 'back', 'left', 'right', 'above', 'below'].map((one) => (
          <MenuItem key={one} value={one}>
            {one === 'around' ? 'all around' : one}
          </MenuItem>
        ))}
      </TextField>
      <Box>
        <FormControlLabel
          control={<Switch size="small" checked={preferHidden} onChange={(event) => setPreferHidden(event.target.checked)} />}
          label="Prefer hidden places"
          slotProps={{ typography: { variant: 'body2' } }}
        />
        <FormControlLabel
          control={<Switch size="small" checked={symmetric} onChange={(event) => setSymmetric(event.target.checked)} />}
          label="Alike left and right"
          slotProps={{ typography: { variant: 'body2' } }}
        />
      </Box>
      <Box sx={{ display: 'flex', gap: 0.5 }}>
        {(
          [
            ['keep-whole', 'Keep whole', 'No proposed seam may run across the selected faces'],
            ['may-go', 'May go here', 'Proposed seams may well run on the selected faces'],
            ['clear-marks', 'Clear', 'Take the marks off the selected faces'],
          ] as const
        ).map(([id, label, title]) => (
          <Tooltip key={id} title={selected > 0 ? title : 'Select faces first'}>
            <Box component="span" sx={{ flex: 1 }}>
              <Button fullWidth size="small" variant="outlined" disabled={selected === 0} sx={{ px: 0.5, whiteSpace: 'nowrap' }} onClick={() => runCommand(id)}>
                {label}
              </Button>
            </Box>
          </Tooltip>
        ))}
      </Box>
      {(kept > 0 || may > 0) && (
        <Typography variant="caption" component="div">
          {[kept > 0 && `${kept} faces are kept whole`, may > 0 && `seams may go on ${may} faces`].filter(Boolean).join('; ')}.
        </Typography>
      )}
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Button variant="outlined" sx={{ flex: 1, whiteSpace: 'nowrap' }} disabled={progress !== null || busy} onClick={() => void work()}>
          Work out seams
        </Button>
        <Tooltip title={`Cut every edge that folds by ${angle}° and more, at once`}>
          <Button variant="outlined" sx={{ flex: 1, whiteSpace: 'nowrap' }} onClick={() => void run('seams', { by: 'crease', angle }, true)}>
            Cut creases
          </Button>
        </Tooltip>
      </Box>
      {busy && (
        <Button size="small" onClick={cancel}>
          Cancel
        </Button>
      )}
      {valid && (
        <Box component="ul" aria-label="Proposed seams" sx={{ m: 0, p: 0, listStyle: 'none', display: 'flex', flexDirection: 'column', gap: 0.5 }}>
          {list.map((one, k) => (
            <li key={one.by}>
              <Button
                fullWidth
                size="small"
                variant={k === 0 ? 'contained' : 'outlined'}
                disabled={busy}
                onClick={() => void take(one)}
                onMouseEnter={() => useBench.getState().set({ penEdges: Uint32Array.from(one.cuts), penUncuts: false })}
                onFocus={() => useBench.getState().set({ penEdges: Uint32Array.from(one.cuts), penUncuts: false })}
                onMouseLeave={() => useBench.getState().set({ penEdges: none })}
                onBlur={() => useBench.getState().set({ penEdges: none })}
                sx={{ display: 'block', textAlign: 'left', py: 0.5, px: 0.75 }}
              >
                <Box component="span" sx={{ display: 'flex', justifyContent: 'space-between', gap: 1 }}>
                  <span>{names[one.by]}</span>
                  <Typography component="span" variant="figure" sx={{ whiteSpace: 'nowrap' }}>
                    energy {Number.isFinite(one.energy) ? one.energy.toFixed(2) : '–'}
                  </Typography>
                </Box>
                <Typography component="span" variant="caption" sx={{ display: 'block', fontWeight: 400, lineHeight: 1.3 }}>
                  {one.islands} {one.islands === 1 ? 'island' : 'islands'}, {length(one.seamLength)} of seams, {Math.round(one.hiddenHalf * 100)} % of it in the
                  half least seen
                  {one.flips > 0 ? `, ${one.flips} turned over` : ''}
                  {one.by === 'stretch' && !one.met ? '; the limit was not reached' : ''}
                  {one.symmetry ? `; in pairs across ${one.symmetry}` : ''}
                </Typography>
              </Button>
            </li>
          ))}
        </Box>
      )}
    </Card>
  );
}
