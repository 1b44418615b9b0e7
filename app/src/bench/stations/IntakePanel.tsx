import { Box, Button, Typography } from '@mui/material';
import FineIcon from '@mui/icons-material/CheckCircleOutlined';
import NoteIcon from '@mui/icons-material/InfoOutlined';
import type { SelectWay, StateLine } from '@jig-peel/core';
import { useBench } from '../../store/bench.ts';
import { useActivePart, useJob } from '../../store/useJob.ts';
import { run } from '../../worker/client.ts';
import { runCommand } from '../commands/index.ts';
import { Card } from './Card.tsx';
import { FormCard } from './FormCard.tsx';
import { MaterialSheets } from './MaterialSheets.tsx';
import { MeshCard } from './MeshCard.tsx';
import { PartsCard } from './PartsCard.tsx';
import { UvSetsCard } from './UvSetsCard.tsx';

const stepLabels: Record<NonNullable<StateLine['step']>, string> = {
  firstLayout: 'Make a first layout',
  unwindStrips: 'Put the strip right',
  open: 'Open it along a short, hidden cut',
  pack: 'Go to Pack',
  seams: 'Go to the seams',
  unwrap: 'Unwrap these islands',
};

/** Takes the next sensible step for a line of the state. */
async function takeStep(line: StateLine): Promise<void> {
  const { settings } = useBench.getState().summary!;
  if (line.step === 'firstLayout') runCommand('first');
  else if (line.step === 'open') runCommand('open');
  else if (line.step === 'unwindStrips') await run('unwindStrips', {}, true);
  else if (line.step === 'pack' || line.step === 'seams') useBench.getState().goTo(line.step);
  else if (line.step === 'unwrap') {
    const outcome = await run('selectBy', { way: line.kind as SelectWay, kind: 'islands', angle: 45 });
    const { summary } = useBench.getState();
    if (outcome.ok && summary) await run('unwrap', { islands: [...summary.selection.ids], method: settings.method }, true);
  }
}

/** The state of the UVs in plain words; each line shows its faces and offers the next step. */
function UvStateList() {
  const state = useBench((s) => (s.measures && s.measures.part === s.summary?.activePart ? s.measures.state : null));
  const measuring = useBench((s) => s.measuring);
  const active = useActivePart();
  if (!state)
    return (
      <Typography variant="body2" color="text.secondary">
        {measuring ? 'Looking at the UVs …' : ''}
      </Typography>
    );
  return (
    <Box component="ul" aria-label="State of the UVs" sx={{ m: 0, p: 0, listStyle: 'none', display: 'flex', flexDirection: 'column', gap: 1 }}>
      {state.map((line, k) => (
        <Box component="li" key={line.kind} sx={{ display: 'flex', gap: 1, alignItems: 'flex-start' }}>
          {line.kind === 'fine' ? (
            <FineIcon sx={{ fontSize: 18, color: 'success.main', mt: '1px' }} />
          ) : (
            <NoteIcon sx={{ fontSize: 18, color: line.kind === 'noUv' || line.kind === 'closed' ? 'text.secondary' : 'warning.main', mt: '1px' }} />
          )}
          <Box sx={{ flex: 1, minWidth: 0 }}>
            <Typography variant="body2">{line.sentence}</Typography>
            <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.5, mt: 0.5 }}>
              {line.kind !== 'fine' && line.kind !== 'closed' && (
                <Button
                  size="small"
                  onClick={() =>
                    void run('selectBy', { way: line.kind as SelectWay, kind: 'faces', angle: 45 }).then(() => useBench.getState().set({ kind: 'faces' }))
                  }
                >
                  Select them
                </Button>
              )}
              {(line.kind === 'overlapping' || line.kind === 'copies') && <MaterialSheets parts={[active]} />}
              {line.step && (
                <Button size="small" variant={k === 0 ? 'contained' : 'outlined'} onClick={() => void takeStep(line)}>
                  {stepLabels[line.step]}
                </Button>
              )}
            </Box>
          </Box>
        </Box>
      ))}
    </Box>
  );
}

/** What came in: parts, the state of their UVs, the image shown on each, what was read and passed over. */
export default function IntakePanel() {
  const { intake } = useJob('intake');
  const layout = useBench((s) => s.layout);
  const active = useActivePart();
  return (
    <>
      <Card title={active.name}>
        <Typography variant="body2">
          {active.faces.toLocaleString('en')} faces, {active.points.toLocaleString('en')} points
          {layout && active.unplaced < active.faces ? `, in ${layout.islands.length} ${layout.islands.length === 1 ? 'island' : 'islands'}` : ''}.
        </Typography>
        <UvStateList />
      </Card>
      <PartsCard />
      <UvSetsCard />
      <MeshCard />
      <FormCard />
      <Card title="What was read">
        <Box component="ul" sx={{ m: 0, pl: 2, maxHeight: 260, overflow: 'auto' }}>
          {intake.map((line, k) => (
            <Typography key={k} component="li" variant="caption" sx={{ display: 'list-item' }}>
              {line}
            </Typography>
          ))}
        </Box>
      </Card>
    </>
  );
}
