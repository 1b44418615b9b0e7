import { Box, Button, LinearProgress, Typography } from '@mui/material';
import { useEffect, useState } from 'react';
import { islandLetter, type GoOnWay } from '@jig-peel/core';
import type { SeamRemedies } from '@jig-peel/core/ops/seamRemediesWork';
import { lengthWords } from '../../../fields/lengthWords.ts';
import type { LayoutView } from '../../../session/messages.ts';
import { useBench } from '../../../store/bench.ts';
import { useJob } from '../../../store/useJob.ts';
import { coreApi, run } from '../../../worker/client.ts';
import { remediesOf } from './remedyList.ts';

interface RemediesProps {
  edges: readonly number[];
  islands: readonly [number, number];
  way: GoOnWay;
  layout: LayoutView;
}

/** What can be done about one seam at which the picture jumps, each measured before it is taken. */
export function Remedies({ edges, islands, way, layout }: RemediesProps) {
  const unit = useBench((s) => s.summary!.settings.unit);
  const { parts, materialLayers, images } = useJob('parts', 'materialLayers', 'images');
  const [found, setFound] = useState<SeamRemedies | null>(null);
  const [trouble, setTrouble] = useState('');
  useEffect(() => {
    let current = true;
    setFound(null);
    setTrouble('');
    const timer = setTimeout(
      () =>
        void coreApi()
          .seamRemedies({ edges, islands, way })
          .then((outcome) => {
            if (!current) return;
            if (outcome.ok) setFound(outcome.report);
            else setTrouble(outcome.sentence);
          }),
      200,
    );
    return () => {
      current = false;
      clearTimeout(timer);
    };
  }, [edges, islands, way, layout, parts, materialLayers, images]);
  if (trouble) return <Typography variant="body2">{trouble}</Typography>;
  if (!found) return <LinearProgress aria-label="Measuring what would help" />;
  const letters = [...new Set(islands)].map(islandLetter).join(' and ');
  const list = remediesOf(found, { edges: [...edges], letters, way, length: (x) => lengthWords(x, unit), run: (...asked) => void run(...asked) });
  return (
    <Box component="ul" aria-label="What would help" sx={{ m: 0, p: 0, listStyle: 'none', display: 'flex', flexDirection: 'column', gap: 0.5 }}>
      {list.map(({ label, brings, use, take }) => (
        <li key={label}>
          {use === 'none' ? (
            <Typography variant="caption" color="text.secondary" component="p" sx={{ m: 0, px: 1 }}>
              <b>{label}</b>: {brings}
            </Typography>
          ) : (
            <Button
              fullWidth
              size="small"
              variant={use === 'helps' ? 'outlined' : 'text'}
              sx={{ flexDirection: 'column', alignItems: 'flex-start', textAlign: 'left', px: 1, py: 0.25 }}
              onClick={take}
            >
              {label}
              <Typography component="span" variant="caption" color="text.secondary">
                {brings}
              </Typography>
            </Button>
          )}
        </li>
      ))}
    </Box>
  );
}
