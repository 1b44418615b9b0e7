import { Box, Button, IconButton, LinearProgress, MenuItem, TextField, Tooltip, Typography, useTheme } from '@mui/material';
import DeleteIcon from '@mui/icons-material/DeleteOutlined';
import { zip } from 'fflate';
import { useRef, useState } from 'react';
import { mostViews, type SavedView } from '@jig-peel/core/job/savedViews';
import { useBench } from '../../../store/bench.ts';
import { useJob } from '../../../store/useJob.ts';
import { run } from '../../../worker/client.ts';
import { save } from '../../deliver.ts';
import { shownStage } from '../../views/shownStage.ts';
import { takePicture } from '../../views/takePicture.ts';
import { Card } from '../Card.tsx';

const sizes = [512, 1024, 2048, 4096, 8192];
const frames = [12, 24, 36, 72];

/** Looks from where a view was kept. */
function lookFrom({ target, distance, azimuth, elevation }: SavedView): void {
  const stage = shownStage.current;
  if (!stage) return;
  stage.eye.target.fromArray(target);
  Object.assign(stage.eye, { distance, azimuth, elevation });
  stage.moved.model = true;
  stage.invalidate('model');
}

function viewNow(name: string): SavedView {
  const { target, distance, azimuth, elevation } = shownStage.current!.eye;
  return { name, target: [target.x, target.y, target.z], distance, azimuth, elevation: Math.max(-1.5707, Math.min(1.5707, elevation)) };
}

/** Own views of the model, and pictures of what the view shows. */
export function PicturesCard() {
  const views = useJob('settings').settings.views;
  const title = useBench((s) => s.summary!.name);
  const theme = useTheme();
  const [name, setName] = useState('');
  const [size, setSize] = useState(2048);
  const [shape, setShape] = useState<'view' | 'square'>('view');
  const [ground, setGround] = useState<'none' | 'paper'>('none');
  const [turns, setTurns] = useState(24);
  const [progress, setProgress] = useState<number | null>(null);
  const stop = useRef<AbortController | null>(null);
  const { notice } = useBench.getState();

  const keep = async () => {
    if (!shownStage.current) return;
    let own = name.trim() || `View ${views.length + 1}`;
    for (let k = 2; views.some((view) => view.name === own); k++) own = `${name.trim() || 'View'} ${k}`;
    const outcome = await run('settings', { views: [...views, viewNow(own.slice(0, 80))] });
    if (outcome.ok) setName('');
  };
  /** The longer side is as asked for. */
  const options = (turned = 0) => {
    const { width, height } = shownStage.current!.rects.model;
    const aspect = shape === 'square' ? 1 : width / Math.max(1, height);
    return {
      width: Math.max(1, Math.round(aspect >= 1 ? size : size * aspect)),
      height: Math.max(1, Math.round(aspect >= 1 ? size / aspect : size)),
      ground: ground === 'none' ? null : theme.palette.background.paper,
      turned,
    };
  };
  const work = async (make: (signal: AbortSignal) => Promise<{ name: string; blob: Blob }>) => {
    stop.current = new AbortController();
    setProgress(0);
    try {
      const { name: file, blob } = await make(stop.current.signal);
      const url = URL.createObjectURL(blob);
      save(file, url);
      setTimeout(() => URL.revokeObjectURL(url), 60_000);
    } catch (error) {
      notice((error as Error).message, stop.current.signal.aborted ? 'info' : 'error');
    }
    setProgress(null);
  };
  const picture = () => work(async (signal) => ({ name: `${title}-view.png`, blob: await takePicture(options(), setProgress, signal) }));
  const turntable = () =>
    work(async (signal) => {
      const files: Record<string, Uint8Array> = {};
      for (let k = 0; k < turns; k++) {
        const blob = await takePicture(options((2 * Math.PI * k) / turns), (share) => setProgress((k + share) / turns), signal);
        files[`${title}-${String(k + 1).padStart(3, '0')}.png`] = new Uint8Array(await blob.arrayBuffer());
      }
      const bytes = await new Promise<Uint8Array>((done, fail) => zip(files, { level: 0 }, (error, data) => (error ? fail(error) : done(data))));
      return { name: `${title}-turntable.zip`, blob: new Blob([bytes as Uint8Array<ArrayBuffer>], { type: 'application/zip' }) };
    });

  return (
    <Card title="Views and pictures" folds="closed">
      <Box sx={{ display: 'flex', gap: 1 }}>
        <TextField
          fullWidth
          label="Name of the view"
          placeholder={`View ${views.length + 1}`}
          value={name}
          slotProps={{ htmlInput: { maxLength: 80 } }}
          onChange={(event) => setName(event.target.value)}
          onKeyDown={(event) => event.key === 'Enter' && void keep()}
        />
        <Tooltip title={views.length < mostViews ? 'Keep where the model is looked at from' : `A job keeps up to ${mostViews} views`}>
          <span>
            <Button variant="outlined" sx={{ height: '100%' }} disabled={views.length >= mostViews} onClick={() => void keep()}>
              Keep
            </Button>
          </span>
        </Tooltip>
      </Box>
      {views.length > 0 && (
        <Box component="ul" aria-label="Own views" sx={{ m: 0, p: 0, listStyle: 'none' }}>
          {views.map((view) => (
            <Box component="li" key={view.name} sx={{ display: 'flex', alignItems: 'center' }}>
              <Button size="small" color="inherit" sx={{ flex: 1, justifyContent: 'flex-start', minWidth: 0 }} onClick={() => lookFrom(view)}>
                <Typography variant="body2" noWrap>
                  {view.name}
                </Typography>
              </Button>
              <Tooltip title="Remove this view">
                <IconButton
                  size="small"
                  aria-label={`Remove the view ${view.name}`}
                  onClick={() => void run('settings', { views: views.filter((one) => one !== view) })}
                >
                  <DeleteIcon fontSize="small" />
                </IconButton>
              </Tooltip>
            </Box>
          ))}
        </Box>
      )}
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 1, mt: 0.5 }}>
        <TextField select label="Longer side" value={size} onChange={(event) => setSize(Number(event.target.value))}>
          {sizes.map((one) => (
            <MenuItem key={one} value={one}>
              {one} px
            </MenuItem>
          ))}
        </TextField>
        <TextField select label="Shape" value={shape} onChange={(event) => setShape(event.target.value as typeof shape)}>
          <MenuItem value="view">as the view</MenuItem>
          <MenuItem value="square">square</MenuItem>
        </TextField>
        <TextField select label="Ground" value={ground} onChange={(event) => setGround(event.target.value as typeof ground)}>
          <MenuItem value="none">transparent</MenuItem>
          <MenuItem value="paper">paper</MenuItem>
        </TextField>
        <TextField select label="Turntable" value={turns} onChange={(event) => setTurns(Number(event.target.value))}>
          {frames.map((one) => (
            <MenuItem key={one} value={one}>
              {one} pictures
            </MenuItem>
          ))}
        </TextField>
        <Button size="small" variant="outlined" disabled={progress !== null} onClick={() => void picture()}>
          Picture, PNG
        </Button>
        <Button size="small" variant="outlined" disabled={progress !== null} onClick={() => void turntable()}>
          All round, zip
        </Button>
      </Box>
      {progress !== null && (
        <Box role="status" sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
          <LinearProgress variant="determinate" value={100 * progress} aria-label="Drawing" sx={{ flex: 1 }} />
          <Button size="small" onClick={() => stop.current?.abort()}>
            Stop
          </Button>
        </Box>
      )}
      <Typography variant="caption" color="text.secondary">
        What the model view shows, with its overlay, seams and selection.
      </Typography>
    </Card>
  );
}
