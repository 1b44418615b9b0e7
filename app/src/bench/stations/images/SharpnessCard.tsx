import { Box, Button, MenuItem, TextField, Typography } from '@mui/material';
import type { ReportOf } from '@jig-peel/core';
import { useEffect, useState } from 'react';
import { create } from 'zustand';
import { NumberField } from '../../../fields/NumberField.tsx';
import { useBench } from '../../../store/bench.ts';
import { useJob } from '../../../store/useJob.ts';
import { coreApi, run } from '../../../worker/client.ts';
import { Card } from '../Card.tsx';
import { partSize, rounded } from './layerWork.ts';

/** Common practice, no source: px that screens have from top to bottom. */
const screens = [720, 1080, 1440, 2160, 4320];

/** From where it is looked at, for all parts of this sitting; null: not stated yet. */
const useViewing = create<{ distance: number | null; screen: number; angle: number }>(() => ({ distance: null, screen: 2160, angle: 40 }));

const figure = (x: number) => (x >= 100 ? Math.round(x).toLocaleString('en') : Number(x.toPrecision(3)).toString());

/** Whether the picture has px enough for the screen that it is seen on. */
export function SharpnessCard() {
  return (
    <Card title="Sharp enough from where it is seen" folds="closed">
      <Asked />
    </Card>
  );
}

function Asked() {
  const { settings, images, parts } = useJob('settings', 'images', 'parts');
  const layout = useBench((s) => s.layout);
  const viewing = useViewing();
  const distance = viewing.distance ?? rounded(partSize() * 1.5);
  const { screen, angle } = viewing;
  const unit = settings.unit === 'unit' ? 'units' : settings.unit;
  const [found, setFound] = useState<ReportOf<'sharpness'> | null>(null);
  const isBare = !layout || layout.allUnplaced;
  useEffect(() => {
    if (isBare) return;
    let current = true;
    void coreApi()
      .sharpness({ distance, screen, angle })
      .then((outcome) => {
        if (current) setFound(outcome.ok ? outcome.report : null);
      })
      .catch(() => {});
    return () => {
      current = false;
    };
  }, [isBare, distance, screen, angle, layout, images, parts]);
  if (isBare) return <Typography variant="caption">The part has no layout yet: unwrap it first.</Typography>;
  return (
    <>
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 1 }}>
        <NumberField bare label="Looked at from" unit={unit} value={distance} min={1e-6} max={1e9} onChange={(to) => useViewing.setState({ distance: to })} />
        <NumberField bare label="View spans" unit="°" value={angle} min={1} max={170} onChange={(to) => useViewing.setState({ angle: to })} />
      </Box>
      <TextField
        select
        fullWidth
        label="Screen, px from top to bottom"
        value={screen}
        onChange={(event) => useViewing.setState({ screen: Number(event.target.value) })}
      >
        {screens.map((px) => (
          <MenuItem key={px} value={px}>
            {px}
          </MenuItem>
        ))}
      </TextField>
      {found && (
        <>
          <Typography variant="body2" role="status" aria-label="Sharpness">
            {found.coarse === 0
              ? `The ${found.of} is sharp enough everywhere.`
              : `The ${found.of} is too coarse on ${(found.coarse * 100).toFixed(found.coarse < 0.1 ? 1 : 0)} % of the surface.`}
          </Typography>
          <Typography variant="caption" color="text.secondary">
            The screen shows {figure(found.needed)} px per {settings.unit} there; the {found.of} has {figure(found.mean)} on the mean, {figure(found.least)}{' '}
            where it is coarsest. From {figure(found.from)} {unit} on it is sharp on the mean.
          </Typography>
          {found.faces > 0 && (
            <Button size="small" variant="outlined" onClick={() => void run('sharpness', { distance, screen, angle, select: true }, true)}>
              Select the {found.faces.toLocaleString('en')} {found.faces === 1 ? 'face' : 'faces'}
            </Button>
          )}
        </>
      )}
    </>
  );
}
