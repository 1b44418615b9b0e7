import { Accordion, AccordionDetails, AccordionSummary, Box, Button, MenuItem, TextField, ToggleButton, ToggleButtonGroup, Typography } from '@mui/material';
import ExpandIcon from '@mui/icons-material/ExpandMore';
import { useEffect } from 'react';
import { asItLies, blendModes, gridKinds, unadjusted, type Layer, type LayerDriver, type LayerSource } from '@jig-peel/core';
import { NumberField } from '../../../fields/NumberField.tsx';
import { NumberRow, sixFigures } from '../../../fields/NumberRow.tsx';
import { Toggle } from '../../../fields/Toggle.tsx';
import { useBench } from '../../../store/bench.ts';
import { show } from '../../../store/shown.ts';
import { useJob } from '../../../store/useJob.ts';
import { run } from '../../../worker/client.ts';
import { useImageGrip } from '../../tools/imageTool.ts';
import { DecalTool, frameOn, turnOf } from './decalTool.ts';
import { Dragged } from '../../../fields/Dragged.tsx';
import { activeOf, partSize, previewLayer, rounded, setLayer, useLayerChoice } from './layerWork.ts';
import { Swatches } from './Swatches.tsx';
import { AloneButton } from './AloneButton.tsx';
import { Colour } from './Colour.tsx';
import { FadeFields } from './FadeFields.tsx';
import { MasksEditor } from './MasksEditor.tsx';
import { WriteToUvs } from './WriteToUvs.tsx';

const capital = (word: string) => word.charAt(0).toUpperCase() + word.slice(1).replaceAll('-', ' ');

/** The open layer in full. A number that is dragged is seen at once and kept on release. */
export function LayerEditor({ layer, material }: { layer: Layer; material: string | null }) {
  const summary = useJob('parts', 'activePart', 'images', 'jigs', 'settings');
  const part = activeOf({ ...summary, materialLayers: [] });
  const unit = summary.settings.unit === 'unit' ? 'units' : summary.settings.unit;
  useEffect(() => () => show({ layer: null }), []);
  const lay = (patch: Partial<Layer>, what: string) => void setLayer({ ...layer, ...patch }, what);
  const see = (patch: Partial<Layer>) => previewLayer({ ...layer, ...patch });
  const { source, driver, placement, adjust } = layer;
  const isPicture = source.kind === 'image' || source.kind === 'grid';
  const goesBySpace = source.kind === 'noise' || source.kind === 'fade';
  const others = summary.parts.filter(({ id }) => id !== part.id);
  return (
    <Box
      role="group"
      aria-label={`Layer ${layer.name}`}
      sx={{ display: 'flex', flexDirection: 'column', gap: 1.25, borderTop: 1, borderColor: 'divider', pt: 1.25 }}
    >
      <Box sx={{ display: 'flex', gap: 1, alignItems: 'center' }}>
        <TextField
          key={layer.name}
          fullWidth
          label="Name"
          defaultValue={layer.name}
          slotProps={{ htmlInput: { maxLength: 80 } }}
          onBlur={(event) => event.target.value.trim() && event.target.value !== layer.name && lay({ name: event.target.value.trim() }, 'renamed')}
          onKeyDown={(event) => event.key === 'Enter' && (event.target as HTMLElement).blur()}
        />
        {layer.isOn && <AloneButton layer={layer.id} mask={null} />}
      </Box>
      <ToggleButtonGroup
        exclusive
        fullWidth
        size="small"
        aria-label="What it changes"
        value={layer.to}
        onChange={(_, to: Layer['to'] | null) => to && lay({ to }, 'changed')}
      >
        <ToggleButton value="colour">Colour</ToggleButton>
        <ToggleButton value="relief">Relief</ToggleButton>
      </ToggleButtonGroup>
      <Dragged
        label="Opacity"
        value={layer.opacity}
        min={0}
        max={1}
        step={0.01}
        words={(x) => `${Math.round(x * 100)} %`}
        onDrag={(opacity) => see({ opacity })}
        onChange={(opacity) => lay({ opacity }, 'changed the opacity of')}
      />
      {layer.to === 'colour' ? (
        <TextField
          select
          fullWidth
          label="Blend mode"
          value={layer.blend}
          onChange={(event) => lay({ blend: event.target.value as Layer['blend'] }, 'changed the blend mode of')}
        >
          {blendModes.map((mode) => (
            <MenuItem key={mode} value={mode}>
              {capital(mode)}
            </MenuItem>
          ))}
        </TextField>
      ) : (
        <>
          <NumberField
            label="Height of white"
            unit={unit}
            value={sixFigures(layer.strength)}
            old={0.01}
            min={-1e6}
            max={1e6}
            step={0.01}
            onChange={(strength) => lay({ strength }, 'changed the height of')}
          />
          <Toggle label="Added to the relief below it" checked={layer.isAdded} onChange={(isAdded) => lay({ isAdded }, 'changed')} />
          <Typography variant="caption" color="text.secondary">
            Seen under the lamp: choose it in the Look menu of the model view.
          </Typography>
        </>
      )}
      <SourceFields source={source} unit={unit} change={(next, what) => lay({ source: next }, what)} see={(next) => see({ source: next })} />
      {!goesBySpace && source.kind !== 'colour' && (
        <TextField
          select
          fullWidth
          label="Driven by"
          value={driver.kind === 'set' ? `set ${driver.set}` : driver.kind === 'jig' ? `jig ${driver.jig}` : driver.kind}
          onChange={(event) =>
            void run('driveLayer', { ...(material === null ? {} : { material }), layer: layer.id, by: driverNamed(event.target.value, driver) })
          }
        >
          <MenuItem value="set ">the UV set at work</MenuItem>
          {part.uvSets.map((name) => (
            <MenuItem key={name} value={`set ${name}`}>
              {name}
            </MenuItem>
          ))}
          {summary.jigs.map((jig) => (
            <MenuItem key={jig.id} value={`jig ${jig.id}`}>
              the jig {jig.name}
            </MenuItem>
          ))}
          <MenuItem value="triplanar">three sides, without UVs</MenuItem>
          {driver.kind === 'decal' && <MenuItem value="decal">a decal’s frame</MenuItem>}
        </TextField>
      )}
      {driver.kind === 'triplanar' && isPicture && (
        <>
          <NumberField
            label="Picture width"
            unit={unit}
            value={sixFigures(driver.size)}
            min={1e-6}
            max={1e6}
            step={rounded(driver.size / 10)}
            onChange={(size) => lay({ driver: { ...driver, size } }, 'sized')}
          />
          <Dragged
            label="Sides go over into one another"
            value={driver.blend}
            min={0}
            max={1}
            step={0.01}
            words={(x) => `${Math.round(x * 100)} %`}
            onDrag={(blend) => see({ driver: { ...driver, blend } })}
            onChange={(blend) => lay({ driver: { ...driver, blend } }, 'changed')}
          />
          <NumberRow
            labels={['From x', 'y', 'z']}
            unit={unit}
            values={driver.offset.map(sixFigures) as typeof driver.offset}
            old={[0, 0, 0]}
            step={rounded(driver.size / 10)}
            onChange={(offset) => lay({ driver: { ...driver, offset } }, 'slid')}
          />
          <Toggle
            label="Belongs to the part: counted from its middle"
            checked={driver.belongs === 'part'}
            onChange={(own) =>
              void run('driveLayer', {
                ...(material === null ? {} : { material }),
                layer: layer.id,
                by: { ...driver, belongs: own ? 'part' : 'space' },
              })
            }
          />
          <NumberRow
            labels={['Turned, x', 'y', 'z']}
            unit="°"
            values={driver.turn}
            old={[0, 0, 0]}
            step={15}
            onChange={(turn) => lay({ driver: { ...driver, turn } }, 'turned')}
          />
        </>
      )}
      {driver.kind === 'decal' && <DecalFields layer={layer} unit={unit} />}
      {isPicture && driver.kind !== 'decal' && (
        <>
          <NumberRow
            labels={['Repeats across', 'Repeats up']}
            values={placement.repeats}
            old={[1, 1]}
            min={1e-6}
            max={1e5}
            step={1}
            onChange={(repeats) => lay({ placement: { ...placement, repeats } }, 'sized')}
          />
          <NumberRow
            labels={['Slid right', 'Slid up']}
            values={placement.offset}
            old={[0, 0]}
            step={0.05}
            onChange={(offset) => lay({ placement: { ...placement, offset } }, 'slid')}
          />
          <NumberRow
            labels={['Picture turned by']}
            unit="°"
            values={[placement.turn]}
            old={[0]}
            min={-3600}
            max={3600}
            step={15}
            onChange={([turn]) => lay({ placement: { ...placement, turn } }, 'turned')}
          />
          {JSON.stringify(placement) !== JSON.stringify(asItLies) && (
            <Button size="small" variant="outlined" onClick={() => lay({ placement: asItLies }, 'put back')}>
              Back to the whole square
            </Button>
          )}
        </>
      )}
      {isPicture && driver.kind === 'set' && <WriteToUvs layer={layer.id} material={material} placement={placement} />}
      <MasksEditor layer={layer} unit={unit} />
      {isPicture || goesBySpace ? (
        <Accordion disableGutters elevation={0} sx={{ '&::before': { display: 'none' }, bgcolor: 'transparent' }}>
          <AccordionSummary expandIcon={<ExpandIcon />} sx={{ px: 0, minHeight: 0 }}>
            <Typography variant="body2">Adjust{JSON.stringify(adjust) === JSON.stringify(unadjusted) ? '' : ' (changed)'}</Typography>
          </AccordionSummary>
          <AccordionDetails sx={{ px: 0, display: 'flex', flexDirection: 'column', gap: 1 }}>
            {(
              [
                ['brightness', 'Brightness', 0, 3],
                ['contrast', 'Contrast', 0, 3],
                ['saturation', 'Saturation', 0, 3],
                ['hue', 'Hue', -180, 180],
                ['gamma', 'Gamma', 0.1, 4],
                ['black', 'Black from', 0, 1],
                ['white', 'White from', 0, 1],
              ] as const
            ).map(([key, label, min, max]) => (
              <Dragged
                key={key}
                label={label}
                value={adjust[key]}
                min={min}
                max={max}
                step={key === 'hue' ? 1 : 0.01}
                words={(x) => (key === 'hue' ? `${x}°` : x.toFixed(2))}
                onDrag={(x) => see({ adjust: { ...adjust, [key]: x } })}
                onChange={(x) => lay({ adjust: { ...adjust, [key]: x } }, 'adjusted')}
              />
            ))}
            <Button
              size="small"
              variant="outlined"
              title="Nothing is adjusted, or all of it is put back"
              disabled={JSON.stringify(adjust) === JSON.stringify(unadjusted)}
              onClick={() => lay({ adjust: unadjusted }, 'put back the adjustments of')}
            >
              As it was
            </Button>
          </AccordionDetails>
        </Accordion>
      ) : null}
      {others.length > 0 && (
        <TextField
          select
          fullWidth
          label="Copy this layer to"
          slotProps={{ select: { displayEmpty: true, renderValue: () => 'choose' }, inputLabel: { shrink: true } }}
          value=""
          onChange={(event) =>
            void run('copyLayers', {
              ...(material === null ? {} : { material }),
              layers: [layer.id],
              to: event.target.value === 'all' ? others.map(({ id }) => id) : [event.target.value],
            })
          }
        >
          {others.length > 1 && <MenuItem value="all">all other parts</MenuItem>}
          {others.map((one) => (
            <MenuItem key={one.id} value={one.id}>
              {one.name}
            </MenuItem>
          ))}
        </TextField>
      )}
    </Box>
  );
}

/** A driver by its name in the list, with the numbers that it begins with. */
function driverNamed(name: string, before: LayerDriver): LayerDriver {
  if (name === 'triplanar') return { kind: 'triplanar', size: rounded(partSize() / 3), blend: 0.3, offset: [0, 0, 0], turn: [0, 0, 0] };
  if (name.startsWith('jig ')) return { kind: 'jig', jig: name.slice(4) };
  return name.startsWith('set ') ? { kind: 'set', set: name.slice(4) } : before;
}

interface SourceProps {
  source: LayerSource;
  unit: string;
  change(source: LayerSource, what: string): void;
  see(source: LayerSource): void;
}

/** What the layer shows: which picture and channel, colours, noise. */
function SourceFields({ source, unit, change, see }: SourceProps) {
  const { images } = useJob('images');
  if (source.kind === 'image')
    return (
      <Box sx={{ display: 'flex', gap: 1 }}>
        <TextField
          select
          fullWidth
          label="Picture"
          value={images.some(({ id }) => id === source.image) ? source.image : ''}
          onChange={(event) => change({ ...source, image: event.target.value }, 'changed the picture of')}
        >
          {images.map((image) => (
            <MenuItem key={image.id} value={image.id}>
              {image.name}
            </MenuItem>
          ))}
        </TextField>
        <TextField
          select
          label="Channel"
          value={source.channel}
          sx={{ width: 96, flex: 'none' }}
          onChange={(event) => change({ ...source, channel: event.target.value as typeof source.channel }, 'changed the channel of')}
        >
          {(['all', 'red', 'green', 'blue', 'alpha'] as const).map((name) => (
            <MenuItem key={name} value={name}>
              {capital(name)}
            </MenuItem>
          ))}
        </TextField>
      </Box>
    );
  if (source.kind === 'grid')
    return (
      <TextField
        select
        fullWidth
        label="Test grid"
        value={source.grid}
        onChange={(event) => change({ ...source, grid: event.target.value as typeof source.grid }, 'changed')}
      >
        {gridKinds.map((kind) => (
          <MenuItem key={kind} value={kind}>
            {capital(kind)}
          </MenuItem>
        ))}
      </TextField>
    );
  if (source.kind === 'colour')
    return (
      <>
        <Colour
          key={source.colour}
          label="Colour"
          value={source.colour}
          onDrag={(colour) => see({ ...source, colour })}
          onChange={(colour) => change({ ...source, colour }, 'coloured')}
        />
        <Swatches value={source.colour} take={(colour) => change({ ...source, colour }, 'coloured')} />
      </>
    );
  const [first, second] = source.colours;
  return (
    <>
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Colour
          label={source.kind === 'noise' ? 'Low' : 'From'}
          value={first}
          onDrag={(one) => see({ ...source, colours: [one, second] })}
          onChange={(one) => change({ ...source, colours: [one, second] }, 'coloured')}
        />
        <Colour
          label={source.kind === 'noise' ? 'High' : 'To'}
          value={second}
          onDrag={(one) => see({ ...source, colours: [first, one] })}
          onChange={(one) => change({ ...source, colours: [first, one] }, 'coloured')}
        />
      </Box>
      {source.kind === 'noise' && (
        <>
          <NumberField
            label="Size of the bumps"
            unit={unit}
            value={sixFigures(source.noise.size)}
            min={1e-6}
            max={1e6}
            step={rounded(source.noise.size / 10)}
            onChange={(size) => change({ ...source, noise: { ...source.noise, size } }, 'sized')}
          />
          <NumberRow
            labels={['Detail']}
            values={[source.noise.detail]}
            old={[3]}
            min={1}
            max={6}
            step={1}
            onChange={([detail]) => change({ ...source, noise: { ...source.noise, detail: Math.round(detail) } }, 'changed')}
          />
          <NumberRow
            labels={['Seed']}
            values={[source.noise.seed]}
            old={[1]}
            min={0}
            max={0xffffff}
            step={1}
            onChange={([seed]) => change({ ...source, noise: { ...source.noise, seed: Math.round(seed) } }, 'changed')}
          />
        </>
      )}
      {source.kind === 'fade' && <FadeFields fade={source.fade} unit={unit} change={(fade, what) => change({ ...source, fade }, what)} />}
    </>
  );
}

function DecalFields({ layer, unit }: { layer: Layer; unit: string }) {
  const hand = useImageGrip((s) => s.hand);
  // layers of a material are on all its parts anyway
  const hasOthers = useBench((s) => (s.summary?.parts.length ?? 0) > 1) && useLayerChoice.getState().material === null;
  const { driver } = layer;
  if (driver.kind !== 'decal') return null;
  const lay = (patch: Partial<typeof driver>, what: string) => void setLayer({ ...layer, driver: { ...driver, ...patch } }, what);
  const see = (patch: Partial<typeof driver>) => previewLayer({ ...layer, driver: { ...driver, ...patch } });
  const [wide, tall] = driver.size;
  const out: [number, number, number] = [
    driver.right[1] * driver.up[2] - driver.right[2] * driver.up[1],
    driver.right[2] * driver.up[0] - driver.right[0] * driver.up[2],
    driver.right[0] * driver.up[1] - driver.right[1] * driver.up[0],
  ];
  return (
    <>
      <Button
        size="small"
        variant={hand ? 'contained' : 'outlined'}
        aria-pressed={hand !== null}
        onClick={() => {
          useImageGrip.setState({ grip: null, hand: hand ? null : new DecalTool(null) });
          useBench.getState().set({ overlay: 'picture' });
        }}
      >
        {hand ? 'Drag over the model moves it' : 'Move it over the surface'}
      </Button>
      <NumberRow
        labels={['Width', 'Height']}
        unit={unit}
        values={[wide, tall]}
        old={[wide, tall]}
        min={1e-6}
        step={rounded(wide / 10)}
        onChange={([w, h]) => lay({ size: w !== wide ? [w, (tall * w) / wide] : [w, h] }, 'sized')}
      />
      <NumberRow
        labels={['Turned by']}
        unit="°"
        values={[sixFigures(turnOf(driver))]}
        old={[0]}
        min={-3600}
        max={3600}
        step={15}
        onChange={([turn]) => lay(frameOn(out, turn), 'turned')}
      />
      <Dragged
        label="Wrapped round"
        value={driver.bend}
        min={-350}
        max={350}
        step={5}
        words={(x) => `${x}°`}
        onDrag={(bend) => see({ bend })}
        onChange={(bend) => lay({ bend }, 'wrapped')}
      />
      <NumberField
        label="Reaches before and behind"
        unit={unit}
        value={sixFigures(driver.depth)}
        min={1e-6}
        max={1e6}
        step={rounded(driver.depth / 10)}
        onChange={(depth) => lay({ depth }, 'changed the depth of')}
      />
      <Dragged
        label="Faces turned away by up to"
        value={driver.facing}
        min={5}
        max={180}
        step={5}
        words={(x) => `${x}°`}
        onDrag={(facing) => see({ facing })}
        onChange={(facing) => lay({ facing }, 'changed')}
      />
      {hasOthers && (
        <Toggle
          label="On other parts that it reaches, too"
          checked={driver.others ?? false}
          onChange={(others) => lay({ others, notOn: undefined }, others ? 'reached out with' : 'kept to its part')}
        />
      )}
    </>
  );
}
