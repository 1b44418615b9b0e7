import { Alert, Box, Button, Checkbox, FormControlLabel, Link, MenuItem, TextField, Typography } from '@mui/material';
import DoneIcon from '@mui/icons-material/TaskAlt';
import { fileLayer } from '@jig-peel/core';
import { useJob } from '../../store/useJob.ts';
import { useBench } from '../../store/bench.ts';
import { deliverNow, save, useDeliver } from '../deliver.ts';
import { NumberField } from '../../fields/NumberField.tsx';
import { Card } from './Card.tsx';
import { RecipeCard } from './RecipeCard.tsx';

const normalWords = {
  asTheyCame: 'the file’s own; where it has none, smoothing groups or this angle',
  smooth: 'smooth up to this angle, whatever came',
  flat: 'a normal for each face',
} as const;

const kinds = [
  { key: 'obj', label: 'OBJ + MTL', about: 'polygons, groups, materials as they came' },
  { key: 'glb', label: 'GLB', about: 'triangles, all UV sets' },
  { key: 'ply', label: 'PLY', about: 'polygons, one UV set' },
  { key: 'guidePng', label: 'Layout guide, PNG', about: 'for the painter, transparent ground' },
  { key: 'guideSvg', label: 'Layout guide, SVG', about: 'the same in lines' },
  { key: 'archive', label: 'Job archive', about: 'everything in one file, to go on elsewhere' },
] as const;

/** What to write; each file is read back before it is handed over. */
export function DeliverPanel() {
  const { parts, activePart, materialLayers } = useJob('parts', 'activePart', 'materialLayers');
  const layout = useBench((s) => s.layout);
  const { choice, guideSize, onlyActive, delivered, bundle, notes, working, normals, asked, set } = useDeliver();
  const delivering = onlyActive ? parts.filter((part) => part.id === activePart) : parts;
  const layered = delivering.filter((part) =>
    part.layers
      ? part.layers.some(({ isOn }) => isOn)
      : materialLayers.some(({ material, layers }) => part.materials.includes(material) && layers.some(({ id }) => id !== fileLayer)),
  );
  const ownNormals = delivering.every((part) => part.fromGltf);
  const active = parts.find((part) => part.id === activePart)!;
  const many = parts.length > 1;
  return (
    <>
      <Card>
        <Button variant="contained" fullWidth disabled={working || !Object.values(choice).some(Boolean)} onClick={() => void deliverNow()}>
          Deliver
        </Button>
        {layered.length > 0 && (
          <Alert severity="info" variant="outlined" sx={{ py: 0.25, px: 1 }}>
            {layered.length === 1 ? `${layered[0]!.name} shows layers` : `${layered.length} parts show layers`}, which only a job archive holds: OBJ and GLB get
            the parts’ own pictures. Bake them into one first.{' '}
            <Link component="button" type="button" variant="body2" onClick={() => useBench.getState().goTo('images')}>
              Go to Images
            </Link>
          </Alert>
        )}
        <Typography variant="caption" color="text.secondary">
          Every model is read back and compared with the job before it is handed over.
        </Typography>
        {asked && (
          <Alert severity="warning" role="alertdialog" aria-label="Not all is on the sheet" sx={{ py: 0.5 }}>
            {asked.words.map((words) => (
              <Typography key={words} variant="body2">
                {words}
              </Typography>
            ))}
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
              <Button size="small" variant="outlined" onClick={() => void deliverNow(undefined, true)}>
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
      <Card title="Files">
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
        {(choice.guidePng || choice.guideSvg) && (
          <TextField select fullWidth label="Guide size" value={guideSize} onChange={(event) => set({ guideSize: event.target.value })}>
            {['512', '1024', '2048', '4096'].map((size) => (
              <MenuItem key={size} value={size}>
                {size} px
              </MenuItem>
            ))}
          </TextField>
        )}
        {(choice.obj || choice.glb) && !ownNormals && (
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
        {many && (
          <TextField
            select
            fullWidth
            label="Parts"
            value={onlyActive ? 'active' : 'all'}
            onChange={(event) => set({ onlyActive: event.target.value === 'active' })}
            helperText="a job archive always holds all parts"
          >
            <MenuItem value="active">{active.name} only</MenuItem>
            <MenuItem value="all">all {parts.length} parts</MenuItem>
          </TextField>
        )}
      </Card>
      {delivered.length > 0 && (
        <Card title="Delivered">
          {delivered.map(({ file, url }) => (
            <Box key={file.name} sx={{ display: 'flex', gap: 1, alignItems: 'flex-start' }}>
              <DoneIcon sx={{ fontSize: 18, color: 'success.main', mt: 0.2 }} />
              <Box sx={{ flex: 1, minWidth: 0 }}>
                <Typography variant="body2" sx={{ overflowWrap: 'anywhere' }}>
                  {file.name}
                </Typography>
                <Typography variant="caption" color="text.secondary" component="div" sx={{ lineHeight: 1.3 }}>
                  {file.proof}
                </Typography>
              </Box>
              <Button aria-label={`Save ${file.name}`} onClick={() => save(file.name, url)} sx={{ minWidth: 0 }}>
                Save
              </Button>
            </Box>
          ))}
          {notes.map((note) => (
            <Typography key={note} variant="caption" color="text.secondary">
              {note}
            </Typography>
          ))}
          {bundle && delivered.length > 1 && (
            <Button variant="outlined" onClick={() => save(bundle.name, bundle.url)}>
              Save all as {bundle.name}
            </Button>
          )}
        </Card>
      )}
      <RecipeCard />
    </>
  );
}
