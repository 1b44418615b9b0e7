import { Box, Button, LinearProgress, Typography } from '@mui/material';
import { useEffect, useState } from 'react';
import type { JoinAdvice } from '@jig-peel/core';
import { lengthWords } from '../../fields/lengthWords.ts';
import { useBench } from '../../store/bench.ts';
import { coreApi, run } from '../../worker/client.ts';
import type { LayoutView } from '../../session/messages.ts';
import { Card } from './Card.tsx';

/** Where the selected island could be joined: by shared border, with the stretch it would have then. */
export function JoinCard() {
  const layout = useBench((s) => s.layout);
  const selection = useBench((s) => s.summary!.selection);
  const unit = useBench((s) => s.summary!.settings.unit);
  const [found, setFound] = useState<{ island: number; layout: LayoutView; list: JoinAdvice[] } | null>(null);
  const island = selection.kind === 'islands' && selection.ids.length === 1 ? selection.ids[0]! : -1;
  const wanted = island >= 0 && layout !== null && layout.islands.length > 1 && !layout.islands[island]?.unplaced;
  useEffect(() => {
    if (!wanted) return;
    let current = true;
    const timer = setTimeout(
      () =>
        void coreApi()
          .joinAdvice(island)
          .then((outcome) => {
            if (current && outcome.ok) setFound({ island, layout, list: outcome.report.neighbours });
          }),
      300,
    );
    return () => {
      current = false;
      clearTimeout(timer);
    };
  }, [wanted, island, layout]);
  if (!wanted) return null;
  const list = found && found.island === island && found.layout === layout ? found.list : null;
  return (
    <Card title={`Join ${layout.islands[island]!.letter}`}>
      <Typography variant="caption" color="text.secondary">
        It travels to the neighbour and takes its size. By length of the shared border; the energy is that of the joined island, 4 without stretch.
      </Typography>
      {!list && <LinearProgress aria-label="Measuring neighbours" />}
      {list?.length === 0 && <Typography variant="body2">It meets no other island.</Typography>}
      <Box component="ul" aria-label="Neighbours to join" sx={{ m: 0, p: 0, listStyle: 'none', display: 'flex', flexDirection: 'column', gap: 0.5 }}>
        {list?.map((one) => (
          <li key={one.to}>
            <Button
              fullWidth
              size="small"
              variant="outlined"
              sx={{ justifyContent: 'space-between' }}
              onMouseEnter={() => useBench.getState().set({ hover: { view: 'sheet', face: -1, edge: -1, point: -1, island: one.to } })}
              onMouseLeave={() => useBench.getState().set({ hover: null })}
              onClick={() => void run('join', { island, to: one.to }, true)}
            >
              <span>
                to {one.letter}, {lengthWords(one.length, unit)}
              </span>
              <Typography component="span" variant="figure">
                {Number.isFinite(one.energy) ? `energy ${one.energy.toFixed(2)}` : 'would not lie flat'}
              </Typography>
            </Button>
          </li>
        ))}
      </Box>
    </Card>
  );
}
