import { Box, Button, LinearProgress, Typography } from '@mui/material';
import { useEffect, useState } from 'react';
import { islandLetter, type GoOnWay } from '@jig-peel/core';
import type { SeamRemedies } from '@jig-peel/core/ops/seamRemediesWork';
import { lengthWords } from '../../../fields/lengthWords.ts';
import type { LayoutView } from '../../../session/messages.ts';
import { useBench } from '../../../store/bench.ts';
import { useJob } from '../../../store/useJob.ts';
import { coreApi, run } from '../../../worker/client.ts';

interface RemediesProps {
  edges: readonly number[];
  islands: readonly [number, number];
  way: GoOnWay;
  layout: LayoutView;
}

interface Remedy {
  label: string;
  /** What it would bring; why it cannot be had. */
  brings: string;
  off: boolean;
  take(): void;
}

const px = (offset: number) => `${offset.toFixed(offset < 10 ? 1 : 0)} px`;
const apart = (colour: number) => colour.toFixed(colour < 10 ? 1 : 0);
const energyWords = (energy: number) => `energy ${energy.toFixed(2)}`;

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
  const list = remediesOf(found, { edges: [...edges], letters, way, length: (x) => lengthWords(x, unit) });
  return (
    <Box component="ul" aria-label="What would help" sx={{ m: 0, p: 0, listStyle: 'none', display: 'flex', flexDirection: 'column', gap: 0.5 }}>
      {list.map(({ label, brings, off, take }) => (
        <li key={label}>
          {off ? (
            <Typography variant="caption" color="text.secondary" component="p" sx={{ m: 0, px: 1 }}>
              <b>{label}</b>: {brings}
            </Typography>
          ) : (
            <Button
              fullWidth
              size="small"
              variant="outlined"
              sx={{ flexDirection: 'column', alignItems: 'flex-start', textAlign: 'left', py: 0.25 }}
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

interface Told {
  edges: number[];
  letters: string;
  way: GoOnWay;
  length(units: number): string;
}

function remediesOf({ jumping, goOn, join, move, cover }: SeamRemedies, { edges, letters, way, length }: Told): Remedy[] {
  const all = (then: number) => `seams that jump: ${length(jumping)} → ${length(then)}`;
  return [
    ...goOn.map(({ island, from, ...one }) => ({
      label: `${islandLetter(island)} goes on from ${islandLetter(from)}`,
      brings: 'why' in one ? one.why : `${px(one.left)} left here; ${all(one.jumping)}`,
      off: 'why' in one,
      take: () => void run('goOn', { island, from, way }),
    })),
    {
      label: goOn.length > 0 ? `Join ${letters}` : 'Make it whole',
      brings: 'why' in join ? join.why : `no seam there; ${energyWords(join.energy)} (4: no stretch)`,
      off: 'why' in join,
      take: () => void run('uncut', { edges }, true),
    },
    {
      label: 'Move it out of sight',
      brings: 'why' in move ? move.why : `seams in plain sight: ${length(move.before)} → ${length(move.after)}; ${energyWords(move.energy)}`,
      off: 'why' in move,
      take: () => void run('moveSeam', { edges }, true),
    },
    ...cover.map(({ how, ...one }) => ({
      label: how === 'along' ? 'Fade over it, from three sides' : `${letters} from three sides`,
      brings:
        'why' in one
          ? one.why
          : `colours here ${apart(one.before)} → ${apart(one.after)} of 255 apart; over all seams ${apart(one.allBefore)} → ${apart(one.allAfter)}`,
      off: 'why' in one,
      take: () => void run('coverSeam', { edges, how }),
    })),
  ];
}
