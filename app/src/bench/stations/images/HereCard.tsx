import { Box, Typography } from '@mui/material';
import { useEffect, useState } from 'react';
import { LatestOnly } from '../../../session/latestOnly.ts';
import type { SurfaceValue } from '../../../session/surfaceValues.ts';
import { useBench } from '../../../store/bench.ts';
import { coreApi } from '../../../worker/client.ts';
import { Picker } from '../../views/pick.ts';
import { shownStage } from '../../views/shownStage.ts';
import { Card } from '../Card.tsx';

/** A triangle and the shares of its corners. */
type Place = [number, number, number, number];

/** The middle of the one face that is selected: for those who use no pointer. */
function selectedPlace(): Place | null {
  const { summary, kind, geometry } = useBench.getState();
  if (!summary || kind !== 'faces' || summary.selection.ids.length !== 1 || summary.selection.part !== geometry?.part) return null;
  const triangle = geometry.triFace.indexOf(summary.selection.ids[0]!);
  return triangle < 0 ? null : [triangle, 1 / 3, 1 / 3, 1 / 3];
}

/** What the picture and each layer show at the place under the pointer, or in the middle of the selected face; asked for while the card is open. */
export function HereCard() {
  return (
    <Card title="What is here" folds="closed">
      <Values />
    </Card>
  );
}

function Values() {
  const [value, show] = useState<{ of: 'pointer' | 'selection'; at: SurfaceValue } | null>(null);
  const summary = useBench((s) => s.summary);
  useEffect(() => {
    const stage = shownStage.current;
    const view = document.querySelector<HTMLElement>('[data-view="model"]');
    if (!stage || !view) return;
    const picker = new Picker(stage);
    const values = new LatestOnly<{ place: Place; of: 'pointer' | 'selection' }, { of: 'pointer' | 'selection'; at: SurfaceValue | null }>(
      async ({ place, of }) => {
        const outcome = await coreApi().surfaceAt(place);
        return { of, at: outcome.ok ? (outcome.report[0] ?? null) : null };
      },
      ({ of, at }) => show(at && { of, at }),
      () => show(null),
    );
    const rest = () => {
      const place = selectedPlace();
      if (place) values.ask({ place, of: 'selection' });
      else {
        values.drop();
        show(null);
      }
    };
    const move = (event: PointerEvent) => {
      // not beside a drag
      if (event.buttons !== 0) return;
      const { left, top } = view.getBoundingClientRect();
      const place = picker.shares(event.clientX - left, event.clientY - top);
      if (place) values.ask({ place, of: 'pointer' });
      else rest();
    };
    rest();
    view.addEventListener('pointermove', move);
    view.addEventListener('pointerleave', rest);
    return () => {
      values.drop();
      view.removeEventListener('pointermove', move);
      view.removeEventListener('pointerleave', rest);
    };
    // another selection or other layers: asked again
  }, [summary]);
  if (!value)
    return (
      <Typography variant="caption" color="text.secondary">
        Point at the model, or select one face: the colour of each layer there, and how much of it is seen.
      </Typography>
    );
  return (
    <Box role="list" aria-label="What is here" sx={{ display: 'flex', flexDirection: 'column', gap: 0.5 }}>
      <Typography variant="caption" color="text.secondary">
        {value.of === 'pointer' ? 'Under the pointer' : 'In the middle of the selected face'}
      </Typography>
      <Line name="All together" colour={value.at.colour} words={value.at.relief === 0 ? '' : `relief ${Number(value.at.relief.toPrecision(3))}`} />
      {[...value.at.layers].reverse().map(({ id, name, colour, share }) => (
        <Line key={id} name={name} colour={[...colour, share]} words={`${Math.round(share * 100)} %`} />
      ))}
    </Box>
  );
}

const hex = (colour: readonly number[]) =>
  `#${colour
    .slice(0, 3)
    .map((x) =>
      Math.round(Math.max(0, Math.min(1, x)) * 255)
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`;

/** @param colour red, green, blue, and how much of it is seen, 0 to 1 */
function Line({ name, colour, words }: { name: string; colour: readonly number[]; words: string }) {
  const isSeen = colour[3]! > 0.5 / 255;
  return (
    <Box role="listitem" sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
      <Box
        aria-hidden
        sx={{ width: 18, height: 18, flex: 'none', borderRadius: 0.5, border: 1, borderColor: 'text.secondary', bgcolor: isSeen ? hex(colour) : 'transparent' }}
      />
      <Typography variant="body2" noWrap sx={{ flex: 1, minWidth: 0 }}>
        {name}
      </Typography>
      <Typography variant="figure">{isSeen ? `${hex(colour)} ${words}` : 'nothing'}</Typography>
    </Box>
  );
}
