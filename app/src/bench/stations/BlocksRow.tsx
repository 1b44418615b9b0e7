import { Box, Button, Tooltip, Typography } from '@mui/material';
import { selectedCount } from '@jig-peel/core';
import { useBench } from '../../store/bench.ts';
import { useJob } from '../../store/useJob.ts';
import { run } from '../../worker/client.ts';

/** Islands that are kept together when they are packed: made into a block, and taken out of it. */
export function BlocksRow() {
  const { selection } = useJob('selection');
  const kind = useBench((s) => s.kind);
  const blocks = useBench(
    (s) => new Set([s.layout, ...s.sheetParts.values()].flatMap((one) => one?.islands.map(({ block }) => block ?? 0) ?? []).filter(Boolean)).size,
  );
  const count = kind === 'parts' ? 0 : selectedCount(selection);
  return (
    <>
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 0.75 }}>
        {(
          [
            ['make', 'Block of selected', 'The selected islands stay side by side, with nothing between them'],
            ['leave', 'Take out', 'The selected islands go by themselves again'],
          ] as const
        ).map(([what, label, help]) => (
          <Tooltip key={what} title={count === 0 ? `${help}. Select islands first.` : help}>
            <span>
              <Button variant="outlined" size="small" fullWidth disabled={count === 0} onClick={() => void run('blockIslands', { do: what }, true)}>
                {label}
              </Button>
            </span>
          </Tooltip>
        ))}
      </Box>
      <Typography variant="caption" color="text.secondary">
        {blocks === 0
          ? 'No block yet: select islands that are to stay side by side.'
          : `${blocks} ${blocks === 1 ? 'block' : 'blocks'}, numbered on the sheet.`}
      </Typography>
    </>
  );
}
