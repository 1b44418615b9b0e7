import { selectedCount } from '@jig-peel/core';
import { Box, Button, Tooltip, Typography } from '@mui/material';
import { useBench } from '../../store/bench.ts';
import { run } from '../../worker/client.ts';
import { runCommand } from '../commands/index.ts';
import { Card } from './Card.tsx';

/** Pins that stay when their island is unwrapped, and relaxing from the layout as it lies. */
export function PinsCard() {
  const pins = useBench((s) => s.layout?.pins.length ?? 0);
  const selected = useBench((s) => selectedCount(s.summary!.selection));
  const tool = useBench((s) => s.tool);
  const kind = useBench((s) => s.summary!.selection.kind);
  const bare = useBench((s) => s.layout?.allUnplaced ?? true);
  if (bare) return null;
  return (
    <Card title="Pins and relaxing">
      <Typography variant="caption" color="text.secondary">
        {pins === 0
          ? 'Select points and pin them: they stay when their island is unwrapped. Drag a pin on the sheet and the island follows.'
          : `${pins} ${pins === 1 ? 'point is' : 'points are'} pinned. Drag a pin on the sheet: the island follows.`}
      </Typography>
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Tooltip title={selected > 0 ? 'Pin what is selected, or take its pins off (K)' : 'Select points first'}>
          <Box component="span" sx={{ flex: 1 }}>
            <Button fullWidth size="small" variant="outlined" disabled={selected === 0} onClick={() => runCommand('pin')}>
              Pin
            </Button>
          </Box>
        </Tooltip>
        <Tooltip title={pins > 0 ? 'Take every pin of this part off' : 'Nothing is pinned'}>
          <Box component="span" sx={{ flex: 1 }}>
            <Button fullWidth size="small" variant="outlined" disabled={pins === 0} onClick={() => runCommand('unpin')}>
              Take all off
            </Button>
          </Box>
        </Tooltip>
      </Box>
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Tooltip title="Less stretch from the layout as it lies; place, heading and size stay">
          <Button sx={{ flex: 1 }} size="small" variant="outlined" onClick={() => runCommand('relax')}>
            Relax
          </Button>
        </Tooltip>
        <Tooltip title="The same, the borders of the islands held">
          <Button sx={{ flex: 1 }} size="small" variant="outlined" onClick={() => void run('relax', { border: 'held' }, true)}>
            Border held
          </Button>
        </Tooltip>
      </Box>
      <Button size="small" variant={tool === 'relax' ? 'contained' : 'outlined'} aria-pressed={tool === 'relax'} onClick={() => runCommand('relax-brush')}>
        Relaxing brush
      </Button>
      {kind === 'faces' && selected > 0 && (
        <Button size="small" variant="outlined" onClick={() => runCommand('relax-faces')}>
          Relax only the selected faces
        </Button>
      )}
    </Card>
  );
}
