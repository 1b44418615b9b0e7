import { Box, Button, MenuItem, TextField, Typography } from '@mui/material';
import { useState } from 'react';
import { bakeKinds, gridSizes, type BakeKind } from '@jig-peel/core';
import { useBench } from '../../../store/bench.ts';
import { useJob } from '../../../store/useJob.ts';
import { coreApi, run } from '../../../worker/client.ts';
import { save } from '../../deliver.ts';
import { Card } from '../Card.tsx';
import { activeOf } from './layerWork.ts';

const kindWords: Record<BakeKind, string> = {
  colour: 'Colour, as it is seen',
  mask: 'What is covered by layers',
  relief: 'Relief (height)',
  position: 'Position in space',
  normal: 'Normals, in space',
  'tangent-normal': 'Normals, for the UVs',
  face: 'Face groups',
  id: 'Islands',
  material: 'Materials',
  occlusion: 'Occlusion (corners dark)',
  thickness: 'Thickness',
  coverage: 'Where islands are',
  roughness: 'Roughness, of images that go along',
  metalness: 'Metalness, of images that go along',
  'images-occlusion': 'Occlusion, of images that go along',
};

/** Makes a picture of what is seen, laid out by a UV set. */
export function BakeCard() {
  const summary = useJob('parts', 'activePart', 'settings');
  const part = activeOf({ ...summary, materialLayers: [] });
  const isBusy = useBench((s) => s.progress !== null);
  const placed = useBench((s) => s.layout !== null && !s.layout.allUnplaced);
  const [what, setWhat] = useState<BakeKind>('colour');
  const [size, setSize] = useState(2048);
  const [samples, setSamples] = useState<1 | 4 | 16>(4);
  const [full, setFull] = useState(true);
  const [depth, setDepth] = useState<8 | 16>(8);
  /** A set of one part by its number; without one each part's own that is at work. */
  const [chosen, setChosen] = useState<{ part: string; set: number } | null>(null);
  const [notes, setNotes] = useState<readonly string[]>([]);
  // what was chosen for another part is not meant here
  const set = chosen?.part === part.id && chosen.set < part.uvSets.length ? chosen.set : part.activeUv;
  const why = !placed ? 'The part has no layout yet' : isBusy ? 'Something is under way' : '';
  const bake = async (how: 'add' | 'show' | 'save') => {
    const outcome = await run('bake', {
      what,
      ...(set === part.activeUv ? {} : { set }),
      size: String(size),
      samples,
      depth,
      ...(full ? { bleed: 'full' as const } : {}),
      add: true,
      show: how === 'show',
    });
    if (!outcome.ok) return;
    setNotes(outcome.report.notes);
    if (how === 'show') useBench.getState().set({ overlay: 'picture' });
    if (how !== 'save' || !outcome.report.image) return;
    const image = await coreApi().image(outcome.report.image);
    if (!image) return;
    const url = URL.createObjectURL(new Blob([image.bytes as Uint8Array<ArrayBuffer>], { type: image.type }));
    save(outcome.report.name, url);
    setTimeout(() => URL.revokeObjectURL(url), 60_000);
  };
  return (
    <Card title="Bake">
      <TextField select fullWidth label="A picture of" value={what} onChange={(event) => setWhat(event.target.value as BakeKind)}>
        {bakeKinds.map((kind) => (
          <MenuItem key={kind} value={kind}>
            {kindWords[kind]}
          </MenuItem>
        ))}
      </TextField>
      {part.uvSets.length > 1 && (
        <TextField select fullWidth label="Laid out by" value={set} onChange={(event) => setChosen({ part: part.id, set: Number(event.target.value) })}>
          {part.uvSets.map((name, k) => (
            <MenuItem key={name} value={k}>
              {name}
            </MenuItem>
          ))}
        </TextField>
      )}
      <Box sx={{ display: 'flex', gap: 1 }}>
        <TextField select fullWidth label="Picture size, px" value={size} onChange={(event) => setSize(Number(event.target.value))}>
          {gridSizes.map((px) => (
            <MenuItem key={px} value={px}>
              {px}
            </MenuItem>
          ))}
        </TextField>
        <TextField select fullWidth label="Samples a px" value={samples} onChange={(event) => setSamples(Number(event.target.value) as 1 | 4 | 16)}>
          {[1, 4, 16].map((n) => (
            <MenuItem key={n} value={n}>
              {n}
            </MenuItem>
          ))}
        </TextField>
      </Box>
      <Box sx={{ display: 'flex', gap: 1 }}>
        <TextField select fullWidth label="Between islands" value={full ? 'full' : 'margin'} onChange={(event) => setFull(event.target.value === 'full')}>
          <MenuItem value="full">filled</MenuItem>
          <MenuItem value="margin">{summary.settings.margin} px (margin)</MenuItem>
        </TextField>
        <TextField select fullWidth label="Bits" value={depth} onChange={(event) => setDepth(Number(event.target.value) as 8 | 16)}>
          <MenuItem value={8}>8</MenuItem>
          <MenuItem value={16}>16</MenuItem>
        </TextField>
      </Box>
      <Box title={why} sx={{ display: 'flex', flexDirection: 'column', gap: 1 }}>
        {' '}
        <Button variant="contained" fullWidth disabled={isBusy || !placed} onClick={() => void bake('add')}>
          Bake to a new image
        </Button>
        <Box sx={{ display: 'flex', gap: 1 }}>
          <Button size="small" variant="outlined" fullWidth disabled={isBusy || !placed} onClick={() => void bake('save')}>
            Bake and save PNG
          </Button>
          {what === 'colour' && (
            <Button size="small" variant="outlined" fullWidth disabled={isBusy || !placed} onClick={() => void bake('show')}>
              Bake and show
            </Button>
          )}
        </Box>
      </Box>
      {!placed && <Typography variant="caption">The part has no layout yet: unwrap it, or place a projection, then bake.</Typography>}
      {placed && (
        <Typography variant="caption" color="text.secondary">
          All parts of the sheet go into the picture. “Bake and show” puts it on them and switches their layers off; undo brings them back.
        </Typography>
      )}
      {notes.map((note) => (
        <Typography key={note} variant="caption">
          {note}
        </Typography>
      ))}
    </Card>
  );
}
