import { Box, Button, IconButton, Paper, Tooltip, Typography } from '@mui/material';
import CloseIcon from '@mui/icons-material/Close';
import DoneIcon from '@mui/icons-material/CheckCircleOutlined';
import { useEffect, useState } from 'react';
import { useKeyOf } from '../keys/keyTable.ts';
import { useBench } from '../store/bench.ts';
import { useDeliver } from './deliver.ts';

interface Step {
  title: string;
  words: string;
  /** Operations that do what the step asks for; none: it is read. */
  by: readonly string[];
  station: 'seams' | 'pack' | 'deliver';
  label: string;
}

const stepsWith = (cutKey: string): Step[] => [
  {
    title: 'Cut',
    words: `On the model, click an edge anywhere on the seal; a double click takes the whole loop. Then press ${cutKey || 'Cut'}.`,
    by: ['cut'],
    station: 'seams',
    label: 'Seams',
  },
  {
    title: 'See it flat',
    words:
      'The cutting mat on the right has opened along your cut and is flat again. Points share their place in both views: select something on either side. The colours on Stretch say where the picture would be pulled.',
    by: [],
    station: 'seams',
    label: 'Seams',
  },
  {
    title: 'Pack',
    words: 'Now the pieces go onto the sheet: press Pack below, and look at the coverage below.',
    by: ['pack'],
    station: 'pack',
    label: 'Pack',
  },
  {
    title: 'Deliver',
    words: 'Hand it over: press Deliver below. Each model is read back and compared before you get it.',
    by: [],
    station: 'deliver',
    label: 'Deliver',
  },
];

/** A short walk over the demo job, beside the work and never in its way. */
export default function Walk() {
  const step = useBench((s) => s.walk);
  const set = (walk: number | null) => useBench.getState().set({ walk });
  const cutKey = useKeyOf('cut');
  const station = useBench((s) => s.station);
  const history = useBench((s) => s.summary?.history);
  const delivered = useDeliver((s) => s.delivered.length > 0);
  const [from, setFrom] = useState<number | null>(null);
  const steps = stepsWith(cutKey ?? '');
  const now = step === null ? undefined : steps[step];
  const isLast = step === steps.length - 1;
  const length = history?.length ?? 0;
  // what was done before the step does not count
  useEffect(() => setFrom(null), [step]);
  useEffect(() => {
    if (from === null && history) setFrom(length);
  }, [from, history, length]);
  useEffect(
    () => () => {
      // it ends with the job
      useBench.getState().set({ walk: null });
    },
    [],
  );
  if (!now || !history) return null;
  const isDone = isLast ? delivered : now.by.length > 0 && from !== null && history.slice(from).some(({ operation }) => now.by.includes(operation));
  const isThere = station === now.station;
  return (
    <Paper elevation={0} component="aside" aria-label="First walk" sx={{ p: 1.5, mb: 1.25, border: 2, borderColor: 'primary.main' }}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
        <Typography variant="caption" color="text.secondary" sx={{ flex: 1 }}>
          First walk, {step! + 1} of {steps.length}
        </Typography>
        <Tooltip title="Leave the walk; it does not come back by itself">
          <IconButton size="small" aria-label="Leave the walk" onClick={() => set(null)}>
            <CloseIcon fontSize="small" />
          </IconButton>
        </Tooltip>
      </Box>
      <Typography variant="h2">{now.title}</Typography>
      <Box aria-live="polite">
        {isDone ? (
          <Typography variant="body2" sx={{ display: 'flex', gap: 0.75, alignItems: 'center', color: 'success.main', my: 0.5 }}>
            <DoneIcon fontSize="small" />
            {isLast ? 'Delivered. That is the whole job.' : 'Done.'}
          </Typography>
        ) : (
          <Typography variant="body2" sx={{ my: 0.5 }}>
            {now.words}
          </Typography>
        )}
      </Box>
      <Box sx={{ display: 'flex', gap: 1 }}>
        {!isThere && !isDone && (
          <Button variant="contained" onClick={() => useBench.getState().goTo(now.station)}>
            Go to {now.label}
          </Button>
        )}
        {isLast ? (
          <Button variant={isDone ? 'contained' : 'text'} onClick={() => set(null)}>
            {isDone ? 'End of the walk' : 'End it here'}
          </Button>
        ) : (
          <Button variant={isDone || (isThere && now.by.length === 0) ? 'contained' : 'text'} onClick={() => set(step! + 1)}>
            {isDone || now.by.length === 0 ? 'Next' : 'Skip'}
          </Button>
        )}
      </Box>
    </Paper>
  );
}
