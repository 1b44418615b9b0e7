import { Alert, Box, Button, Checkbox, FormControlLabel, Link, MenuItem, TextField, Typography } from '@mui/material';
import { isBeyondFiles } from '@jig-peel/core';
import { useJob } from '../../store/useJob.ts';
import { useBench } from '../../store/bench.ts';
import type { DeliverKinds } from '../../session/delivery.ts';
import { deliverNow, useDeliver } from '../deliver.ts';
import { NumberField } from '../../fields/NumberField.tsx';
import { Card } from './Card.tsx';
import { DeliveredCard } from './DeliveredCard.tsx';
import { PresetsRow } from './PresetsRow.tsx';
import { RecipeCard } from './RecipeCard.tsx';

const normalWords = {
  asTheyCame: 'the file’s own; where it has none, smoothing groups or this angle',
  smooth: 'smooth up to this angle, whatever came',
  flat: 'a normal for each face',
} as const;

const kinds: readonly { key: keyof DeliverKinds; label: string; about: string }[] = [
  { key: 'obj', label: 'OBJ + MTL', about: 'polygons, groups, materials as they came' },
  { key: 'glb', label: 'GLB', about: 'triangles, all UV sets' },
  { key: 'gltf', label: 'glTF', about: 'the same as JSON with its files beside it' },
  { key: 'ply', label: 'PLY', about: 'polygons, one UV set' },
  { key: 'guidePng', label: 'Layout guide, PNG', about: 'for the painter, transparent ground' },
  { key: 'guideSvg', label: 'Layout guide, SVG', about: 'the same in lines' },
  { key: 'guidePdf', label: 'Layout guide, PDF', about: 'the same to print' },
  { key: 'images', label: 'Pictures', about: 'of the parts, and what was baked for them' },
  { key: 'report', label: 'Report', about: 'figures and verdicts by the limits, HTML and JSON' },
  { key: 'archive', label: 'Job archive', about: 'everything in one file, to go on elsewhere' },
  { key: 'record', label: 'Record', about: 'what was delivered, with sizes, hashes and verdicts, JSON' },
];

/** What to write; each file is read back before it is handed over. */
export function DeliverPanel() {
  const { parts, activePart, materialLayers, versions } = useJob('parts', 'activePart', 'materialLayers', 'versions');
  const layout = useBench((s) => s.layout);
  const { choice, guideSize, guideLook, onlyActive, version, working, normals, smoothing, bake, asked, set } = useDeliver();
  const smoothBorders = useBench((s) => s.look.smoothBorders);
  const delivering = onlyActive ? parts.filter((part) => part.id === activePart) : parts;
  const layered = delivering.filter((part) =>
    part.layers
      ? part.layers.some(isBeyondFiles)
      : materialLayers.some(({ material, layers }) => part.materials.includes(material) && layers.some(isBeyondFiles)),
  );
  const ownNormals = delivering.every((part) => part.fromGltf);
  const active = parts.find((part) => part.id === activePart)!;
  const many = parts.length > 1;
  const any = kinds.some(({ key }) => choice[key] && key !== 'record');
  return (
    <>
      <Card>
        <Button variant="contained" fullWidth disabled={working || !any} onClick={() => void deliverNow()}>
          {!many ? 'Deliver' : onlyActive ? `Deliver ${active.name} only` : `Deliver all ${parts.length} parts`}
        </Button>
        <Button size="small" fullWidth disabled={working || !any} onClick={() => void deliverNow(undefined, false, true)}>
          Look at the files first
        </Button>
        {layered.length > 0 && (
          <Alert severity="info" variant="outlined" sx={{ py: 0.25, px: 1 }}>
            {layered.length === 1 ? `${layered[0]!.name} shows layers` : `${layered.length} parts show layers`}, which OBJ and GLB cannot say.
            <FormControlLabel
              control={<Checkbox size="small" checked={bake === true} onChange={(event) => set({ bake: event.target.checked })} />}
              label="Bake them into a picture for these files"
              slotProps={{ typography: { variant: 'body2' } }}
            />
            <Typography variant="caption" color="text.secondary" component="p">
              {bake ? 'One for each sheet, at its size; the job keeps its layers. ' : 'Without it they get the parts’ own pictures. '}
              <Link component="button" type="button" variant="caption" onClick={() => useBench.getState().goTo('images')}>
                More at Images
              </Link>
            </Typography>
          </Alert>
        )}
        <Typography variant="caption" color="text.secondary">
          Every model is read back and compared with the job before it is handed over.
        </Typography>
        {asked && (
          <Alert severity="warning" role="alertdialog" aria-label="Not all is on the sheet" sx={{ py: 0.5 }}>
            {asked.words.slice(0, 6).map((words) => (
              <Typography key={words} variant="body2">
                {words}
              </Typography>
            ))}
            {asked.words.length > 6 && <Typography variant="body2">And {asked.words.length - 6} more parts.</Typography>}
            <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.5, mt: 0.5 }}>
              {asked.parts.includes(activePart) && (
                <Button
                  size="small"
                  variant="contained"
                  onClick={() => {
                    set({ asked: null });
                    useBench.getState().goTo('pack');
                  }}
                >
                  Go to Pack
                </Button>
              )}
              {many && !onlyActive && !asked.parts.includes(activePart) && (
                <Button
                  size="small"
                  variant="contained"
                  onClick={() => {
                    set({ onlyActive: true });
                    void deliverNow(undefined, false, asked.onlyLook);
                  }}
                >
                  {active.name} only
                </Button>
              )}
              <Button size="small" variant="outlined" onClick={() => void deliverNow(undefined, true, asked.onlyLook)}>
                Deliver as it is
              </Button>
              <Button size="small" onClick={() => set({ asked: null })}>
                Not now
              </Button>
            </Box>
          </Alert>
        )}
        {layout?.allUnplaced && (
          <Alert severity="warning" sx={{ py: 0 }}>
            {active.name} has no UVs yet.
          </Alert>
        )}
      </Card>
      <DeliveredCard />
      <Card title="Files">
        <PresetsRow />
        {kinds.map(({ key, label, about }) => (
          <FormControlLabel
            key={key}
            sx={{ alignItems: 'flex-start', m: 0 }}
            control={
              <Checkbox
                size="small"
                sx={{ py: 0.25, pl: 0 }}
                checked={choice[key]}
                onChange={(event) => set({ choice: { ...choice, [key]: event.target.checked } })}
              />
            }
            label={
              <>
                <Typography variant="body2">{label}</Typography>
                <Typography variant="caption" color="text.secondary" component="div" sx={{ lineHeight: 1.25 }}>
                  {about}
                </Typography>
              </>
            }
          />
        ))}
        {(choice.guidePng || choice.guideSvg || choice.guidePdf) && (
          <>
            <TextField select fullWidth label="Guide size" value={guideSize} onChange={(event) => set({ guideSize: event.target.value })}>
              {['512', '1024', '2048', '4096'].map((size) => (
                <MenuItem key={size} value={size}>
                  {size} px
                </MenuItem>
              ))}
            </TextField>
            <NumberField
              label="Bleed on the guide"
              unit="px"
              value={guideLook.bleed}
              min={0}
              max={256}
              step={1}
              onChange={(bleed) => set({ guideLook: { ...guideLook, bleed } })}
            />
            <Box sx={{ display: 'flex', flexWrap: 'wrap' }}>
              {(['notches', 'grid'] as const).map((key) => (
                <FormControlLabel
                  key={key}
                  sx={{ m: 0, mr: 1 }}
                  control={
                    <Checkbox
                      size="small"
                      sx={{ py: 0.25, pl: 0 }}
                      checked={guideLook[key]}
                      onChange={(event) => set({ guideLook: { ...guideLook, [key]: event.target.checked } })}
                    />
                  }
                  label={<Typography variant="body2">{key === 'notches' ? 'Notches at the seams' : 'Faint net'}</Typography>}
                />
              ))}
            </Box>
          </>
        )}
        {(choice.obj || choice.glb || choice.gltf) && !ownNormals && (
          <>
            <TextField
              select
              fullWidth
              label="Normals"
              value={normals.kind}
              onChange={(event) => set({ normals: { ...normals, kind: event.target.value as typeof normals.kind } })}
              helperText={normalWords[normals.kind]}
            >
              <MenuItem value="asTheyCame">as they came</MenuItem>
              <MenuItem value="smooth">smooth</MenuItem>
              <MenuItem value="flat">flat</MenuItem>
            </TextField>
            {normals.kind !== 'flat' && (
              <NumberField
                label="Creases from"
                unit="°"
                value={normals.angle}
                min={0}
                max={180}
                step={5}
                onChange={(angle) => set({ normals: { ...normals, angle } })}
              />
            )}
          </>
        )}
        {(choice.obj || choice.glb || choice.gltf || choice.ply) && (
          <TextField
            select
            fullWidth
            label="Form of the models"
            value={smoothing ?? 0}
            onChange={(event) => set({ smoothing: Number(event.target.value) })}
            helperText={
              smoothing ? `quads, the layout with them; island borders ${smoothBorders === 'kept' ? 'stay' : 'are rounded'} as in the view` : undefined
            }
          >
            <MenuItem value={0}>as they are</MenuItem>
            <MenuItem value={1}>smoothed once</MenuItem>
            <MenuItem value={2}>smoothed twice</MenuItem>
            <MenuItem value={3}>smoothed three times</MenuItem>
          </TextField>
        )}
        {many && (
          <TextField
            select
            fullWidth
            label="Parts"
            value={onlyActive ? 'active' : 'all'}
            onChange={(event) => set({ onlyActive: event.target.value === 'active' })}
            helperText="a job archive always holds all parts"
          >
            <MenuItem value="all">all {parts.length} parts</MenuItem>
            <MenuItem value="active">{active.name} only</MenuItem>
          </TextField>
        )}
        {versions.length > 0 && (
          <TextField
            select
            fullWidth
            label="Layout"
            value={versions.some(({ id }) => id === version) ? version : ''}
            onChange={(event) => set({ version: event.target.value })}
            slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
          >
            <MenuItem value="">as it is now</MenuItem>
            {versions.map(({ id, name }) => (
              <MenuItem key={id} value={id}>
                version “{name}”
              </MenuItem>
            ))}
          </TextField>
        )}
      </Card>
      <RecipeCard />
    </>
  );
}
