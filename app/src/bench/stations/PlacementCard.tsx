import { Box, Button, Link, MenuItem, TextField, ToggleButton, ToggleButtonGroup, Tooltip, Typography } from '@mui/material';
import { useEffect } from 'react';
import { asItLies, isAsItLies, outsideKinds, type ImagePlacement, type Outside } from '@jig-peel/core';
import { NumberField } from '../../fields/NumberField.tsx';
import { NumberRow, sixFigures } from '../../fields/NumberRow.tsx';
import { useBench } from '../../store/bench.ts';
import { useJob } from '../../store/useJob.ts';
import { run } from '../../worker/client.ts';
import { takeInHand } from '../jigs.ts';
import { useImageGrip, type ImageGrip } from '../tools/imageTool.ts';
import { Card } from './Card.tsx';
import { Toggle } from '../../fields/Toggle.tsx';
import { WriteToUvs } from './images/WriteToUvs.tsx';

const outsideWords: Record<Outside, string> = { repeat: 'repeats', mirror: 'mirrored repeats', edge: 'the edge’s colour', nothing: 'nothing' };

/** How the part's image lies, apart from the UVs: by numbers and by hand on the model; what drives it; every number can be put back. */
export function PlacementCard() {
  const summary = useJob('parts', 'activePart', 'images', 'jigs', 'settings');
  const grip = useImageGrip((s) => s.grip);
  const active = summary.parts.find((part) => part.id === summary.activePart)!;
  const image = summary.images.find(({ id }) => id === active.imageId);
  useEffect(() => () => useImageGrip.setState({ grip: null }), []);
  if (!image) return null;
  const placement = active.placement ?? asItLies;
  const { settings } = summary;
  const unit = settings.unit === 'unit' ? 'units' : settings.unit;
  const lay = (patch: Partial<ImagePlacement>, what: string) => void run('placeImage', { placement: { ...placement, ...patch }, what });
  const set = active.uvSets[active.activeUv]!;
  const drivers = summary.jigs.filter((jig) => jig.state === 'live' && jig.drives.some((drive) => drive.part === active.id && drive.set === set));
  // as the layout is on the mean: one image is so many units wide
  const width = active.uvPerUnit === null ? null : 1 / (placement.repeats[0] * active.uvPerUnit);
  const aspect = image.width > 0 ? image.height / image.width : 1;
  return (
    <Card title="How the image lies">
      <Typography variant="body2" color="text.secondary">
        {image.name} is driven by {set}
        {drivers.map((jig, k) => (
          <span key={jig.id}>
            {k === 0 ? ', of which ' : ', '}
            {jig.drives
              .filter((d) => d.part === active.id && d.set === set)
              .reduce((sum, d) => sum + d.faces, 0)
              .toLocaleString('en')}{' '}
            faces by the live jig{' '}
            <Link
              component="button"
              type="button"
              variant="body2"
              onClick={() => {
                takeInHand(jig.id);
                useBench.getState().set({ station: 'jigs' });
              }}
            >
              {jig.name}
            </Link>
          </span>
        ))}
        .
      </Typography>
      {active.uvSets.length > 1 && (
        <TextField
          select
          fullWidth
          label="Drive it by"
          value={active.activeUv}
          onChange={(event) => void run('uvSets', { what: 'choose', set: Number(event.target.value) })}
        >
          {active.uvSets.map((name, k) => (
            <MenuItem key={name} value={k}>
              {name}
            </MenuItem>
          ))}
        </TextField>
      )}
      <ToggleButtonGroup
        exclusive
        fullWidth
        size="small"
        aria-label="A drag over the model"
        value={grip}
        onChange={(_, value: ImageGrip | null) => {
          useImageGrip.setState({ grip: value });
          if (value) useBench.getState().set({ overlay: 'picture' });
        }}
      >
        {(
          [
            ['slide', 'Slide it', 'Drag over the model: the image slides with the pointer, the UVs stay'],
            ['turn', 'Turn it', 'Drag over the model round the pivot (Ctrl: 15° steps)'],
            ['size', 'Size it', 'Drag away from the pivot: larger; towards it: smaller'],
          ] as const
        ).map(([value, label, title]) => (
          <ToggleButton key={value} value={value}>
            <Tooltip title={title}>
              <span>{label}</span>
            </Tooltip>
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      {width !== null && (
        <NumberField
          label="Image width"
          unit={unit}
          value={sixFigures(width)}
          old={sixFigures(1 / active.uvPerUnit!)}
          min={1e-6}
          max={1e6}
          step={0.1}
          onChange={(wide) => lay({ repeats: placement.repeats.map((x) => (x * width) / wide) as [number, number] }, 'sized')}
        />
      )}
      <NumberRow
        labels={['Repeats across', 'Repeats up']}
        values={placement.repeats}
        old={[1, 1]}
        min={1e-6}
        max={1e5}
        step={1}
        onChange={(repeats) => lay({ repeats }, 'sized')}
      />
      {Math.abs(placement.repeats[1] * aspect - placement.repeats[0]) > 1e-6 * placement.repeats[0] && aspect !== 1 && (
        <Button size="small" variant="outlined" onClick={() => lay({ repeats: [placement.repeats[0], placement.repeats[0] / aspect] }, 'evened out')}>
          Keep its proportions ({image.width} : {image.height})
        </Button>
      )}
      <NumberRow labels={['Slid right', 'Slid up']} values={placement.offset} old={[0, 0]} step={0.05} onChange={(offset) => lay({ offset }, 'slid')} />
      <NumberRow
        labels={['Image turned by']}
        unit="°"
        values={[placement.turn]}
        old={[0]}
        min={-3600}
        max={3600}
        step={15}
        onChange={([turn]) => lay({ turn }, 'turned')}
      />
      <NumberRow labels={['Pivot u', 'Pivot v']} values={placement.pivot} old={[0.5, 0.5]} onChange={(pivot) => lay({ pivot }, 'moved the pivot of')} />
      <Box sx={{ display: 'flex', gap: 1 }}>
        {(['mirrorU', 'mirrorV'] as const).map((key) => (
          <Button
            key={key}
            size="small"
            fullWidth
            variant={placement[key] ? 'contained' : 'outlined'}
            aria-pressed={placement[key]}
            onClick={() => lay({ [key]: !placement[key] }, 'mirrored')}
          >
            {key === 'mirrorU' ? 'Mirror across' : 'Mirror up'}
          </Button>
        ))}
      </Box>
      {(['outsideU', 'outsideV'] as const).map((key) => (
        <TextField
          key={key}
          select
          fullWidth
          label={key === 'outsideU' ? 'Left and right of the image' : 'Above and below it'}
          value={placement[key]}
          onChange={(event) => lay({ [key]: event.target.value as Outside }, 'changed the outside of')}
        >
          {outsideKinds.map((kind) => (
            <MenuItem key={kind} value={kind}>
              {outsideWords[kind]}
            </MenuItem>
          ))}
        </TextField>
      ))}
      <Toggle
        label="Stretch, density and grain count this image"
        checked={settings.countImage}
        onChange={(countImage) => void run('settings', { countImage })}
      />
      <WriteToUvs layer={null} material={null} placement={placement} />
      {!isAsItLies(placement) && (
        <Button size="small" variant="outlined" onClick={() => void run('placeImage', { placement: asItLies })}>
          Back to the whole UV square
        </Button>
      )}
    </Card>
  );
}
