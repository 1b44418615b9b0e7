import { DndContext, KeyboardSensor, PointerSensor, closestCenter, useSensor, useSensors, type DragEndEvent } from '@dnd-kit/core';
import { SortableContext, sortableKeyboardCoordinates, useSortable, verticalListSortingStrategy, arrayMove } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { Alert, Box, Button, ButtonBase, IconButton, Menu, MenuItem, Switch, TextField, Tooltip, Typography } from '@mui/material';
import AddIcon from '@mui/icons-material/Add';
import GripIcon from '@mui/icons-material/DragIndicator';
import RemoveIcon from '@mui/icons-material/DeleteOutlined';
import { useEffect, useState } from 'react';
import { driverInWords, isBakedOn, layersWithPicture, mostLayers, reachingOnto, type Layer } from '@jig-peel/core';
import { useBench } from '../../../store/bench.ts';
import { show, useShown } from '../../../store/shown.ts';
import { useJob } from '../../../store/useJob.ts';
import { run } from '../../../worker/client.ts';
import { useImageGrip } from '../../tools/imageTool.ts';
import { Card } from '../Card.tsx';
import { DecalTool } from './decalTool.ts';
import { LayerEditor } from './LayerEditor.tsx';
import { addLayer, activeOf, firstDriver, layersIn, orderLayers, partSize, removeLayer, rounded, setLayer, useLayerChoice } from './layerWork.ts';

/** Layers over the picture of the part at work, or of a material: their order, which are on, and the open one in full. */
export function LayersCard() {
  const summary = useJob('parts', 'activePart', 'materialLayers', 'jigs', 'images');
  const { material, layer: open } = useLayerChoice();
  const grip = useImageGrip((s) => s.hand);
  const part = activeOf(summary);
  const owner = material !== null && part.materials.includes(material) ? material : null;
  const layers = layersIn(summary, owner);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [decals, setDecals] = useState<HTMLElement | null>(null);
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  useEffect(() => {
    if (owner !== material) useLayerChoice.setState({ material: owner, layer: null });
  }, [owner, material]);
  // what is in hand is put down with the panel
  useEffect(
    () => () => {
      useImageGrip.setState({ hand: null });
      show({ alone: null });
    },
    [],
  );
  // of another part, or once it is gone, nothing is shown alone
  const alone = useShown((s) => s.alone);
  const seenAlone = alone && layers.find(({ id, isOn, masks }) => id === alone.layer && isOn && (alone.mask === null || alone.mask < masks.length));
  useEffect(() => {
    if (alone && !seenAlone) show({ alone: null });
  }, [alone, seenAlone]);
  const followed = part.layers === null ? summary.materialLayers.filter((one) => part.materials.includes(one.material)) : [];
  const following = owner === null ? 0 : summary.parts.filter((one) => one.layers === null && one.materials.includes(owner)).length;
  // the topmost first, as one looks at it
  const shown = layers.toReversed();
  const ended = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return;
    const ids = shown.map(({ id }) => id);
    const next = arrayMove(ids, ids.indexOf(String(active.id)), ids.indexOf(String(over.id)));
    orderLayers(next.toReversed());
  };
  const chosen = layers.find(({ id }) => id === open);
  const along = new Set(owner === null ? layersWithPicture(summary.images, part) : []);
  const goesAlong = ({ id }: Layer) => along.has(id);
  const box = useBench((s) => s.geometry?.bounds);
  const reaching = reachingOnto(summary.parts, part.id, () => box ?? [])
    .filter(({ layer }) => layer.isOn)
    .map(({ part: other, layer }) => `“${layer.name}” of ${other.name}`);
  const add = (what: Parameters<typeof addLayer>[0]) => {
    setAnchor(null);
    void addLayer(what);
  };
  return (
    <Card title={`Layers${layers.length > 0 ? ` (${layers.length})` : ''}`}>
      {part.materials.length > 0 && (
        <TextField
          select
          fullWidth
          label="Layers of"
          slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
          value={owner ?? ''}
          onChange={(event) => useLayerChoice.setState({ material: event.target.value || null, layer: null })}
        >
          <MenuItem value="">this part alone: {part.name}</MenuItem>
          {part.materials.map((name) => (
            <MenuItem key={name} value={name}>
              the material {name}, in all parts
            </MenuItem>
          ))}
        </TextField>
      )}
      {owner !== null && (
        <Typography variant="caption">
          {following === 1 ? 'One part follows' : `${following} parts follow`} these layers{part.layers === null ? '' : '; this one has layers of its own'}.
        </Typography>
      )}
      {owner === null && followed.length > 0 && (
        <Box sx={{ display: 'flex', gap: 1, alignItems: 'center' }}>
          <Typography variant="caption" sx={{ flex: 1 }}>
            This part follows the layers of {followed.map((one) => one.material).join(', ')}.
          </Typography>
          <Button size="small" variant="outlined" onClick={() => void run('ownLayers', {})}>
            Make them its own
          </Button>
        </Box>
      )}
      {seenAlone && (
        <Alert
          severity="info"
          variant="outlined"
          sx={{ py: 0, px: 1, alignItems: 'center' }}
          action={
            <Button size="small" onClick={() => show({ alone: null })}>
              Show all
            </Button>
          }
        >
          Only {alone.mask === null ? '' : 'a mask of '}“{seenAlone.name}” is shown.
        </Alert>
      )}
      {shown.length > 0 && (
        <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={ended}>
          <SortableContext items={shown.map(({ id }) => id)} strategy={verticalListSortingStrategy}>
            <Box role="list" aria-label="Layers, the topmost first">
              {shown.map((layer) => (
                <LayerRow
                  key={layer.id}
                  layer={layer}
                  words={`${layer.to === 'relief' ? 'relief, ' : ''}${isBakedOn(layer, part.id) ? 'on other parts; baked here' : driverInWords(summary, layer)}${goesAlong(layer) ? ', moves with the picture' : ''}`}
                  isOpen={layer.id === open}
                />
              ))}
            </Box>
          </SortableContext>
        </DndContext>
      )}
      {reaching.length > 0 && (
        <Typography variant="caption">
          Over them, from other parts, where {reaching.length === 1 ? 'it is' : 'they are'} changed: {reaching.join(', ')}.
        </Typography>
      )}
      {part.imageId !== null && part.unplaced === part.faces && (
        <Typography variant="caption">No UVs yet: the part’s picture is shown from three sides. Unwrap it, or place a jig, to lay it by UVs.</Typography>
      )}
      <Typography variant="caption" color="text.secondary">
        {layers.length === 0
          ? 'Colours, pictures, noise or relief over the part’s own picture; each with what drives it, a blend mode and masks.'
          : `Under them: ${summary.images.find(({ id }) => id === part.imageId)?.name ?? 'no picture of its own'}.`}
      </Typography>
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Box title={layers.length >= mostLayers ? `There are ${mostLayers} layers, as many as can be: bake or remove one first` : ''} sx={{ flex: 1 }}>
          {' '}
          <Button
            size="small"
            fullWidth
            variant={layers.length === 0 ? 'contained' : 'outlined'}
            startIcon={<AddIcon />}
            disabled={layers.length >= mostLayers}
            onClick={(event) => setAnchor(event.currentTarget)}
          >
            Add a layer
          </Button>
        </Box>
        <Box title={summary.images.length === 0 ? 'There is no image yet: add one first' : ''} sx={{ flex: 1 }}>
          {' '}
          <Button
            size="small"
            fullWidth
            variant={grip ? 'contained' : 'outlined'}
            aria-pressed={grip !== null}
            disabled={summary.images.length === 0}
            onClick={(event) => (grip ? useImageGrip.setState({ hand: null }) : setDecals(event.currentTarget))}
          >
            Put a decal
          </Button>
        </Box>
      </Box>
      {grip && <Typography variant="caption">Press on the model: the decal is put there. Drag it to move it over the surface.</Typography>}
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        <MenuItem onClick={() => add({ name: 'Colour', source: { kind: 'colour', colour: '#a8743c' }, opacity: 0.5, blend: 'multiply' })}>A colour</MenuItem>
        <MenuItem
          onClick={() =>
            add({
              name: 'Noise',
              source: { kind: 'noise', noise: { seed: 1, size: rounded(partSize() / 12), detail: 4 }, colours: ['#4a4038', '#ffffff'] },
              blend: 'multiply',
              opacity: 0.6,
            })
          }
        >
          Noise, by the place in space
        </MenuItem>
        <MenuItem
          onClick={() => add({ name: 'Fade', source: { kind: 'fade', fade: upwards(), colours: ['#2b3a42', '#ffffff'] }, blend: 'multiply', opacity: 0.7 })}
        >
          A fade from the bottom up
        </MenuItem>
        <MenuItem
          onClick={() =>
            add({
              name: 'Brightness by chance',
              source: { kind: 'colour', colour: '#000000' },
              opacity: 0.35,
              masks: [{ kind: 'each', by: 'island', seed: 1, low: 0, high: 1, isInverted: false, how: 'and' }],
            })
          }
        >
          Brightness by chance, for each island
        </MenuItem>
        <MenuItem onClick={() => add({ name: 'Test grid', source: { kind: 'grid', grid: 'letters' }, driver: firstDriver() })}>The test grid</MenuItem>
        {summary.images.map((image) => (
          <MenuItem
            key={image.id}
            onClick={() => add({ name: image.name.replace(/\.[^.]*$/, ''), source: { kind: 'image', image: image.id, channel: 'all' }, driver: firstDriver() })}
          >
            {image.name}
          </MenuItem>
        ))}
      </Menu>
      <Menu anchorEl={decals} open={decals !== null} onClose={() => setDecals(null)}>
        {summary.images.map((image) => (
          <MenuItem
            key={image.id}
            onClick={() => {
              setDecals(null);
              const aspect = image.width > 0 ? image.height / image.width : 1;
              useImageGrip.setState({ grip: null, hand: new DecalTool({ ...image, aspect }) });
              useBench.getState().set({ overlay: 'picture' });
            }}
          >
            {image.name}
          </MenuItem>
        ))}
      </Menu>
      {chosen && <LayerEditor key={chosen.id} layer={chosen} material={owner} />}
    </Card>
  );
}

/** Over the lower half of the part at work. */
function upwards() {
  const [x0, y0, z0, x1, y1, z1] = useBench.getState().geometry?.bounds ?? [0, 0, 0, 1, 1, 1];
  const [x, z] = [(x0 + x1) / 2, (z0 + z1) / 2];
  return { shape: 'linear' as const, from: [x, y0, z] as [number, number, number], to: [x, (y0 + y1) / 2, z] as [number, number, number] };
}

function LayerRow({ layer, words, isOpen }: { layer: Layer; words: string; isOpen: boolean }) {
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({ id: layer.id });
  return (
    <Box
      ref={setNodeRef}
      role="listitem"
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 0.5,
        borderRadius: 1,
        bgcolor: isOpen ? 'action.selected' : 'transparent',
        opacity: isDragging ? 0.6 : 1,
        transform: CSS.Translate.toString(transform),
        transition,
      }}
    >
      <IconButton size="small" aria-label={`Move ${layer.name}`} sx={{ cursor: 'grab', p: 0.25 }} {...attributes} {...listeners}>
        <GripIcon sx={{ fontSize: 17 }} />
      </IconButton>
      <ButtonBase
        aria-expanded={isOpen}
        onClick={() => useLayerChoice.setState({ layer: isOpen ? null : layer.id })}
        sx={{ flex: 1, minWidth: 0, textAlign: 'left', flexDirection: 'column', alignItems: 'flex-start', py: 0.5 }}
      >
        <Typography variant="body2" noWrap sx={{ maxWidth: '100%', fontWeight: isOpen ? 600 : 400 }}>
          {layer.name}
        </Typography>
        <Typography variant="caption" color="text.secondary" noWrap sx={{ maxWidth: '100%' }}>
          {[
            layer.to === 'colour' && layer.blend !== 'normal' && layer.blend,
            layer.opacity < 1 && `${Math.round(layer.opacity * 100)} %`,
            words,
            layer.masks.length > 0 && (layer.masks.length === 1 ? 'one mask' : `${layer.masks.length} masks`),
          ]
            .filter(Boolean)
            .join(' · ')}
        </Typography>
      </ButtonBase>
      <Tooltip title={layer.isOn ? 'Switch it off' : 'Switch it on'}>
        <Switch
          size="small"
          checked={layer.isOn}
          slotProps={{ input: { 'aria-label': `${layer.name} is on` } }}
          onChange={({ target: { checked } }) =>
            void setLayer({ ...(checked ? everywhere(layer) : layer), isOn: checked }, checked ? 'switched on' : 'switched off')
          }
        />
      </Tooltip>
      <Tooltip title="Remove it (undo brings it back)">
        <IconButton size="small" aria-label={`Remove ${layer.name}`} sx={{ p: 0.25 }} onClick={() => removeLayer(layer.id)}>
          <RemoveIcon sx={{ fontSize: 17 }} />
        </IconButton>
      </Tooltip>
    </Box>
  );
}

/** A decal that was baked on some parts, on all that it reaches again. */
const everywhere = (layer: Layer): Layer => (layer.driver.kind === 'decal' ? { ...layer, driver: { ...layer.driver, notOn: undefined } } : layer);
