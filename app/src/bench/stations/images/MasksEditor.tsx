import { Box, Button, IconButton, Menu, MenuItem, TextField, Tooltip, Typography } from '@mui/material';
import AddIcon from '@mui/icons-material/Add';
import RemoveIcon from '@mui/icons-material/DeleteOutlined';
import { useState } from 'react';
import type { Layer, LayerMask } from '@jig-peel/core';
import { NumberField } from '../../../fields/NumberField.tsx';
import { NumberRow, sixFigures } from '../../../fields/NumberRow.tsx';
import { Toggle } from '../../../fields/Toggle.tsx';
import { useBench } from '../../../store/bench.ts';
import { useJob } from '../../../store/useJob.ts';
import { useImageGrip } from '../../tools/imageTool.ts';
import { AloneButton } from './AloneButton.tsx';
import { BrushTool, useBrush } from './brushTool.ts';
import { Colour } from './Colour.tsx';
import { FadeFields } from './FadeFields.tsx';
import { Swatches } from './Swatches.tsx';
import { Dragged } from '../../../fields/Dragged.tsx';
import { activeOf, facesChosen, partSize, previewLayer, rounded, setLayer } from './layerWork.ts';

const maskWords: Record<LayerMask['kind'], string> = {
  image: 'Picture',
  fade: 'Fade',
  noise: 'Noise',
  faces: 'Chosen faces',
  material: 'Material',
  each: 'By chance for each',
  key: 'Without a colour',
  brush: 'Brushed',
};
const common = { isInverted: false, how: 'and' as const };

/** Where the layer is seen: masks one after the other. */
export function MasksEditor({ layer, unit }: { layer: Layer; unit: string }) {
  const summary = useJob('parts', 'activePart', 'images');
  const part = activeOf({ ...summary, materialLayers: [] });
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const { masks } = layer;
  const put = (next: LayerMask[], what: string) => void setLayer({ ...layer, masks: next }, what);
  const add = (mask: LayerMask) => {
    setAnchor(null);
    put([...masks, mask], 'masked');
  };
  const [x0, y0, z0, x1, y1, z1] = useBench((s) => s.geometry?.bounds) ?? [0, 0, 0, 1, 1, 1];
  const middle: [number, number, number] = [(x0 + x1) / 2, (y0 + y1) / 2, (z0 + z1) / 2];
  const noise = { seed: 1, size: rounded(partSize() / 12), detail: 3 };
  // asked when the menu is opened
  const faces = anchor ? facesChosen() : [];
  return (
    <Box role="group" aria-label="Masks" sx={{ display: 'flex', flexDirection: 'column', gap: 1 }}>
      {masks.map((mask, k) => (
        <MaskFields
          key={k}
          layer={layer.id}
          at={k}
          isOn={layer.isOn}
          mask={mask}
          first={k === 0}
          unit={unit}
          see={(next) => previewLayer({ ...layer, masks: masks.map((one, j) => (j === k ? next : one)) })}
          change={(next, what) =>
            put(
              masks.map((one, j) => (j === k ? next : one)),
              what,
            )
          }
          remove={() =>
            put(
              masks.filter((_, j) => j !== k),
              'unmasked',
            )
          }
          brush={() => new BrushTool(layer.id, k)}
        />
      ))}
      <Button
        size="small"
        variant="outlined"
        startIcon={<AddIcon />}
        disabled={masks.length >= 8}
        title={masks.length >= 8 ? 'Eight masks are as many as a layer has' : undefined}
        onClick={(event) => setAnchor(event.currentTarget)}
      >
        {masks.length === 0 ? 'Mask it' : 'Another mask'}
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        <MenuItem disabled={faces.length === 0} onClick={() => add({ kind: 'faces', faces, soft: 0, ...common })}>
          The selected faces{faces.length === 0 ? ' (none is)' : ` (${faces.length.toLocaleString('en')})`}
        </MenuItem>
        <MenuItem
          onClick={() =>
            add({ kind: 'fade', fade: { shape: 'linear', from: [middle[0], y1, middle[2]], to: [middle[0], y0, middle[2]] }, ragged: 0, noise, ...common })
          }
        >
          A fade from the top down
        </MenuItem>
        <MenuItem
          onClick={() =>
            add({ kind: 'fade', fade: { shape: 'radial', centre: middle, inner: partSize() / 8, outer: partSize() / 3 }, ragged: 0, noise, ...common })
          }
        >
          A round fade
        </MenuItem>
        <MenuItem onClick={() => add({ kind: 'noise', noise, low: 0.4, high: 0.6, ...common })}>Noise</MenuItem>
        <MenuItem onClick={() => add({ kind: 'each', by: 'island', seed: 1, low: 0, high: 1, ...common })}>By chance for each island, piece or part</MenuItem>
        {layer.source.kind === 'image' && (
          <MenuItem onClick={() => add({ kind: 'key', colour: '#ffffff', near: 0.1, soft: 0.1, ...common })}>Its background taken away by colour</MenuItem>
        )}
        <MenuItem onClick={() => add({ kind: 'brush', dabs: [], ...common })}>Brushed on the model</MenuItem>
        {part.materials.map((material) => (
          <MenuItem key={material} onClick={() => add({ kind: 'material', material, soft: 0, ...common })}>
            The material {material}
          </MenuItem>
        ))}
        {summary.images.map((image) => (
          <MenuItem key={image.id} onClick={() => add({ kind: 'image', image: image.id, channel: 'all', placement: null, ...common })}>
            Light and dark of {image.name}
          </MenuItem>
        ))}
      </Menu>
    </Box>
  );
}

interface MaskProps {
  /** The layer by id, and which of its masks this is. */
  layer: string;
  at: number;
  /** Whether the layer is seen at all. */
  isOn: boolean;
  mask: LayerMask;
  first: boolean;
  unit: string;
  see(mask: LayerMask): void;
  change(mask: LayerMask, what: string): void;
  remove(): void;
  brush(): BrushTool;
}

function MaskFields({ layer, at, isOn, mask, first, unit, see, change, remove, brush }: MaskProps) {
  const { images, jigs } = useJob('images', 'jigs');
  const hand = useImageGrip((s) => s.hand);
  const { radius, strength, erases } = useBrush();
  const isBrushing = hand instanceof BrushTool;
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1, border: 1, borderColor: 'divider', borderRadius: 1, p: 1 }}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
        <Typography variant="body2" sx={{ flex: 1 }}>
          {first ? 'Mask: ' : mask.how === 'and' ? 'and: ' : 'or: '}
          {mask.kind === 'image'
            ? (images.find(({ id }) => id === mask.image)?.name ?? 'a picture that is gone')
            : mask.kind === 'material'
              ? mask.material
              : maskWords[mask.kind]}
          {mask.kind === 'faces' ? ` (${mask.faces.length.toLocaleString('en')})` : ''}
        </Typography>
        {isOn && <AloneButton layer={layer} mask={at} />}
        <Tooltip title="Remove this mask">
          <IconButton size="small" aria-label="Remove this mask" onClick={remove} sx={{ p: 0.25 }}>
            <RemoveIcon sx={{ fontSize: 17 }} />
          </IconButton>
        </Tooltip>
      </Box>
      {(mask.kind === 'faces' || mask.kind === 'material') && (
        <NumberField
          label="Soft edge"
          unit={unit}
          value={sixFigures(mask.soft)}
          old={0}
          min={0}
          max={1e6}
          step={rounded(partSize() / 50)}
          onChange={(soft) => change({ ...mask, soft }, 'softened')}
        />
      )}
      {mask.kind === 'fade' && (
        <>
          <FadeFields fade={mask.fade} unit={unit} change={(fade, what) => change({ ...mask, fade }, `${what} the mask of`)} />
          {jigs.length > 0 && (
            <TextField
              select
              fullWidth
              label="Moves with"
              value={jigs.some(({ id }) => id === mask.jig) ? mask.jig : ''}
              onChange={({ target }) => {
                const { jig: _, ...free } = mask;
                change(target.value === '' ? free : { ...free, jig: target.value }, 'bound the mask of');
              }}
              helperText="Moved, turned and sized as the jig is"
            >
              <MenuItem value="">nothing</MenuItem>
              {jigs.map(({ id, name }) => (
                <MenuItem key={id} value={id}>
                  the jig {name}
                </MenuItem>
              ))}
            </TextField>
          )}
          <Dragged
            label="Ragged by noise"
            value={mask.ragged}
            min={0}
            max={1}
            step={0.01}
            words={(x) => `${Math.round(x * 100)} %`}
            onDrag={(ragged) => see({ ...mask, ragged })}
            onChange={(ragged) => change({ ...mask, ragged }, 'changed the mask of')}
          />
        </>
      )}
      {(mask.kind === 'noise' || (mask.kind === 'fade' && mask.ragged > 0)) && (
        <NumberRow
          labels={['Size of the bumps', 'Seed']}
          values={[sixFigures(mask.noise.size), mask.noise.seed]}
          old={[1, 1]}
          min={1e-6}
          onChange={([size, seed]) =>
            change({ ...mask, noise: { ...mask.noise, size, seed: Math.round(Math.max(0, Math.min(0xffffff, seed))) } }, 'changed the mask of')
          }
        />
      )}
      {mask.kind === 'each' && (
        <>
          <TextField
            select
            fullWidth
            label="One value for each"
            value={mask.by}
            onChange={({ target }) => change({ ...mask, by: target.value as typeof mask.by }, 'changed the mask of')}
          >
            <MenuItem value="island">island</MenuItem>
            <MenuItem value="piece">connected piece</MenuItem>
            <MenuItem value="part">part</MenuItem>
          </TextField>
          <NumberRow
            labels={['From', 'To', 'Seed']}
            values={[mask.low, mask.high, mask.seed]}
            old={[0, 1, 1]}
            min={0}
            onChange={([low, high, seed]) =>
              change({ ...mask, low: Math.min(1, low), high: Math.min(1, high), seed: Math.round(Math.min(0xffffff, seed)) }, 'changed the mask of')
            }
          />
        </>
      )}
      {mask.kind === 'noise' && (
        <>
          <Dragged
            label="Nothing below"
            value={mask.low}
            min={0}
            max={1}
            step={0.01}
            words={(x) => x.toFixed(2)}
            onDrag={(low) => see({ ...mask, low })}
            onChange={(low) => change({ ...mask, low }, 'changed the mask of')}
          />
          <Dragged
            label="Full above"
            value={mask.high}
            min={0}
            max={1}
            step={0.01}
            words={(x) => x.toFixed(2)}
            onDrag={(high) => see({ ...mask, high })}
            onChange={(high) => change({ ...mask, high }, 'changed the mask of')}
          />
        </>
      )}
      {mask.kind === 'image' && (
        <TextField
          select
          fullWidth
          label="Channel"
          value={mask.channel}
          onChange={(event) => change({ ...mask, channel: event.target.value as typeof mask.channel }, 'changed the mask of')}
        >
          {(['all', 'red', 'green', 'blue', 'alpha'] as const).map((name) => (
            <MenuItem key={name} value={name}>
              {name === 'all' ? 'light and dark' : name}
            </MenuItem>
          ))}
        </TextField>
      )}
      {mask.kind === 'key' && (
        <>
          <Colour
            key={mask.colour}
            label="Colour taken away"
            value={mask.colour}
            onDrag={(colour) => see({ ...mask, colour })}
            onChange={(colour) => change({ ...mask, colour }, 'changed the mask of')}
          />
          <Swatches value={mask.colour} take={(colour) => change({ ...mask, colour }, 'changed the mask of')} />
          <Dragged
            label="Alike within"
            value={mask.near}
            min={0}
            max={1}
            step={0.01}
            words={(x) => `${Math.round(x * 100)} %`}
            onDrag={(near) => see({ ...mask, near })}
            onChange={(near) => change({ ...mask, near }, 'changed the mask of')}
          />
          <Dragged
            label="Soft over"
            value={mask.soft}
            min={0}
            max={1}
            step={0.01}
            words={(x) => `${Math.round(x * 100)} %`}
            onDrag={(soft) => see({ ...mask, soft })}
            onChange={(soft) => change({ ...mask, soft }, 'changed the mask of')}
          />
        </>
      )}
      {mask.kind === 'brush' && (
        <>
          <Button
            size="small"
            variant={isBrushing ? 'contained' : 'outlined'}
            aria-pressed={isBrushing}
            onClick={() => {
              useImageGrip.setState({ grip: null, hand: isBrushing ? null : brush() });
              useBench.getState().set({ overlay: 'picture' });
            }}
          >
            {isBrushing ? 'A drag over the model brushes' : 'Brush it'}
          </Button>
          <NumberField
            label="Brush radius"
            unit={unit}
            value={sixFigures(radius ?? rounded(partSize() / 15))}
            min={1e-6}
            max={1e6}
            step={rounded(partSize() / 60)}
            onChange={(next) => useBrush.setState({ radius: next })}
          />
          <Dragged
            label="Strength"
            value={strength}
            min={0.05}
            max={1}
            step={0.05}
            words={(x) => `${Math.round(x * 100)} %`}
            onDrag={() => {}}
            onChange={(next) => useBrush.setState({ strength: next })}
          />
          <Toggle label="Take away (or hold Ctrl)" checked={erases} onChange={(on) => useBrush.setState({ erases: on })} />
        </>
      )}
      <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap' }}>
        <Toggle label="Inverted" checked={mask.isInverted} onChange={(isInverted) => change({ ...mask, isInverted }, 'inverted the mask of')} />
        {!first && (
          <Toggle label="Either will do" checked={mask.how === 'or'} onChange={(or) => change({ ...mask, how: or ? 'or' : 'and' }, 'changed the masks of')} />
        )}
      </Box>
    </Box>
  );
}
