import {
  Box,
  Button,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  MenuItem,
  Slider,
  TextField,
  ToggleButton,
  ToggleButtonGroup,
  Typography,
} from '@mui/material';
import { useEffect, useState } from 'react';
import type { ReportOf } from '@jig-peel/core';
import { useBench } from '../../../store/bench.ts';
import { show } from '../../../store/shown.ts';
import { useJob } from '../../../store/useJob.ts';
import { coreApi, run } from '../../../worker/client.ts';
import { fromThere, useSeen, type Seen } from './seen.ts';
import { Still, Wipe } from './Wipe.tsx';

type Figures = ReportOf<'compareVersions'>['now'];
const now = 'now';

/** What begins the id of another UV set of the part; its number follows. */
const setPrefix = 'set-';

/** Both views as something was seen, or with a version's or another set's layout. @param eyes where they are drawn from; null: as the person has set them up */
async function picturesOf(id: string, eyes: Seen['eyes'] | null): Promise<readonly ImageBitmap[]> {
  const seen = useSeen.getState().list.find((one) => one.id === id);
  if (seen) return seen.pictures;
  const preview =
    id === now ? null : id.startsWith(setPrefix) ? await coreApi().previewSet(Number(id.slice(setPrefix.length))) : await coreApi().previewVersion(id);
  if (id !== now && !preview) throw new Error('This version has no layout that fits the part.');
  if (preview) show({ uvs: { preview, badly: null } });
  try {
    return await fromThere(eyes);
  } finally {
    if (preview) show({ uvs: null });
  }
}

const percent = (x: number) => `${(x * 100).toFixed(1)} %`;
const rows: [string, (f: Figures[number]) => string][] = [
  ['Islands', (f) => String(f.islands)],
  ['Stretch (energy, 4 is none)', (f) => (f.energy === null ? '–' : f.energy.toFixed(3))],
  ['Coverage', (f) => percent(f.coverage)],
  ['Overlap', (f) => percent(f.overlap)],
  ['Turned over', (f) => String(f.flips)],
];

/** Two of what was seen, versions and UV sets under one wipe or side by side, up to three versions by their figures. */
export default function CompareDialog({ close }: { close(): void }) {
  const { id: jobId, versions } = useJob('id', 'versions');
  const all = useSeen((s) => s.list);
  const seen = all.filter((one) => one.jobId === jobId);
  const part = useBench((s) => s.summary!.parts.find((row) => row.id === s.summary!.activePart)!);
  const sets = part.uvSets.map((name, k) => ({ id: `${setPrefix}${k}`, name: `UV set “${name}”` })).filter((_, k) => k !== part.activeUv);
  const others = [...[...seen].reverse(), ...[...versions].reverse(), ...sets];
  const [left, setLeft] = useState(others[0]?.id ?? now);
  const [right, setRight] = useState(now);
  const [third, setThird] = useState('');
  const [wipe, setWipe] = useState(50);
  const [how, setHow] = useState<'wipe' | 'beside'>('wipe');
  const [of, setOf] = useState<'both' | 'model' | 'sheet'>('both');
  const shownViews = [0, 1].filter((view) => of === 'both' || (of === 'model') === (view === 0));
  const [nowFigures, setNowFigures] = useState<Figures>([]);
  const [trouble, setTrouble] = useState('');
  const sheet = useBench((s) => {
    const part = s.summary!.parts.find((row) => row.id === s.summary!.activePart)!;
    return s.summary!.sheets.find((row) => row.id === part.sheet)?.name ?? s.summary!.sheets[0]?.name ?? '';
  });
  const [pictures, setPictures] = useState<readonly [readonly ImageBitmap[], readonly ImageBitmap[]]>([[], []]);

  useEffect(() => {
    if (versions.length > 0) void run('compareVersions', { version: versions[0]!.id }).then((outcome) => outcome.ok && setNowFigures(outcome.report.now));
  }, [versions]);
  useEffect(() => {
    let isOpen = true;
    void (async () => {
      setTrouble('');
      const found: (readonly ImageBitmap[])[] = [];
      const list = useSeen.getState().list;
      // the eyes are tied: beside something that was seen the other is drawn from there
      const eyes = [left, right].map((id) => list.find((one) => one.id === id)?.eyes).find(Boolean) ?? null;
      for (const id of [left, right])
        found.push(
          await picturesOf(id, eyes).catch((error: Error) => {
            if (isOpen) setTrouble(error.message);
            return [];
          }),
        );
      if (isOpen) setPictures([found[0]!, found[1]!]);
    })();
    return () => {
      isOpen = false;
    };
  }, [left, right]);

  const nameOf = (id: string) => (id === now ? 'as it is now' : (others.find((one) => one.id === id)?.name ?? ''));
  const figuresOf = (id: string) => {
    const list = id === now ? nowFigures : (versions.find((one) => one.id === id)?.figures ?? []);
    return list.find((row) => row.sheet === sheet) ?? list[0];
  };
  const hasFigures = (id: string) => id === now || versions.some((one) => one.id === id);
  const shown = [...new Set([left, right, ...(third ? [third] : [])])].filter(hasFigures);
  const choice = (label: string, value: string, set: (id: string) => void, empty = false) => (
    <TextField
      select
      fullWidth
      label={label}
      value={value}
      onChange={(event) => set(event.target.value)}
      slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
    >
      {empty && <MenuItem value="">none</MenuItem>}
      <MenuItem value={now}>as it is now</MenuItem>
      {(empty ? versions : others).map(({ id, name }) => (
        <MenuItem key={id} value={id}>
          {name}
        </MenuItem>
      ))}
    </TextField>
  );
  return (
    <Dialog open onClose={close} maxWidth="lg" fullWidth>
      <DialogTitle>Compare</DialogTitle>
      <DialogContent>
        <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr 1fr', gap: 2, pt: 1, mb: 1.5 }}>
          {choice('Left', left, setLeft)}
          {choice('Right', right, setRight)}
          {choice('Figures of', third, setThird, true)}
        </Box>
        <Box sx={{ display: 'flex', gap: 2, justifyContent: 'center', mb: 1 }}>
          <ToggleButtonGroup
            exclusive
            size="small"
            value={how}
            aria-label="How they are compared"
            onChange={(_, next: typeof how | null) => next && setHow(next)}
          >
            <ToggleButton value="wipe">Under a wipe</ToggleButton>
            <ToggleButton value="beside">Side by side</ToggleButton>
          </ToggleButtonGroup>
          <ToggleButtonGroup
            exclusive
            size="small"
            value={of}
            aria-label="Which views are compared"
            onChange={(_, next: typeof of | null) => next && setOf(next)}
          >
            <ToggleButton value="both">Both views</ToggleButton>
            <ToggleButton value="model">Model</ToggleButton>
            <ToggleButton value="sheet">Sheet</ToggleButton>
          </ToggleButtonGroup>
        </Box>
        <Box sx={{ display: 'flex', gap: 1, height: '42vh', justifyContent: 'center', alignItems: 'center' }}>
          {shownViews.map((view) => {
            const what = view === 0 ? 'Model' : 'Sheet';
            if (how === 'wipe')
              return <Wipe key={view} left={pictures[0][view]} right={pictures[1][view]} at={wipe} names={[nameOf(left), nameOf(right)]} what={what} />;
            return [left, right].map((id, side) => <Still key={`${view} ${side}`} picture={pictures[side]?.[view]} name={nameOf(id)} what={what} />);
          })}
        </Box>
        {how === 'wipe' && <Slider size="small" value={wipe} onChange={(_, value) => setWipe(value)} aria-label="Wipe" step={1} />}
        {trouble && (
          <Typography variant="body2" color="error" role="alert">
            {trouble}
          </Typography>
        )}
        {shown.length > 0 && (
          <Box
            component="table"
            sx={{ borderCollapse: 'collapse', width: '100%', '& td, & th': { borderBottom: 1, borderColor: 'divider', py: 0.5, px: 1, textAlign: 'left' } }}
          >
            <thead>
              <tr>
                <th>
                  <Typography variant="caption">{sheet}</Typography>
                </th>
                {shown.map((id) => (
                  <th key={id}>
                    <Typography variant="h3">{nameOf(id)}</Typography>
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {rows.map(([label, words]) => (
                <tr key={label}>
                  <td>
                    <Typography variant="body2">{label}</Typography>
                  </td>
                  {shown.map((id) => {
                    const own = figuresOf(id);
                    return (
                      <td key={id}>
                        <Typography variant="figure">{own ? words(own) : '–'}</Typography>
                      </td>
                    );
                  })}
                </tr>
              ))}
            </tbody>
          </Box>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}
