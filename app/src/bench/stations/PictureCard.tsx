import {
  Alert,
  Box,
  Button,
  IconButton,
  List,
  ListItem,
  ListItemButton,
  ListItemText,
  MenuItem,
  TextField,
  ToggleButton,
  ToggleButtonGroup,
  Tooltip,
  Typography,
} from '@mui/material';
import RemoveIcon from '@mui/icons-material/DeleteOutlined';
import { gridKinds, gridSizes, type GridKind } from '@jig-peel/core';
import { useState } from 'react';
import { useDropzone } from 'react-dropzone';
import { useBench, type Look } from '../../store/bench.ts';
import { useActivePart, useJob } from '../../store/useJob.ts';
import { run } from '../../worker/client.ts';
import { addImageFiles } from '../addImages.ts';
import { save } from '../deliver.ts';
import { gridPng } from '../views/pictures.ts';
import { mostTexturePx } from '../views/webgl.ts';
import { Card } from './Card.tsx';

const gridWords: Record<GridKind, string> = { letters: 'Letters', squares: 'Squares', circles: 'Circles', stripes: 'Stripes (grain)', ramp: 'Ramp of u, v' };

const sizeWords = (bytes: number) => (bytes < 1e5 ? `${Math.max(1, Math.round(bytes / 1e3))} kB` : `${(bytes / 1e6).toFixed(1)} MB`);

/** The test grid, and the images of the job: which is on the part, which are missing, what of them is shown. */
export function PictureCard() {
  const { settings, images, missingImages } = useJob('settings', 'images', 'missingImages');
  const look = useBench((s) => s.look);
  const setLook = useBench((s) => s.setLook);
  const active = useActivePart();
  const { getRootProps, getInputProps, open, isDragActive } = useDropzone({
    onDrop: (files) => void addImageFiles(files),
    noClick: true,
    noKeyboard: true,
    accept: { 'image/png': ['.png'], 'image/jpeg': ['.jpg', '.jpeg'], 'image/webp': ['.webp'] },
  });
  const [saving, setSaving] = useState(false);
  const saveGrid = async () => {
    setSaving(true);
    try {
      const url = URL.createObjectURL(new Blob([(await gridPng(settings.gridKind, settings.gridSize)) as Uint8Array<ArrayBuffer>], { type: 'image/png' }));
      save(`test-grid-${settings.gridKind}-${settings.gridSize}.png`, url);
      setTimeout(() => URL.revokeObjectURL(url), 60_000);
    } finally {
      setSaving(false);
    }
  };
  const shown = images.find((image) => image.id === active.imageId);
  const reduced = shown && Math.max(shown.width, shown.height) > mostTexturePx();
  const show = (image: string | null) => {
    void run('showImage', { part: active.id, image });
    useBench.getState().set({ overlay: image ? 'picture' : 'grid' });
  };
  return (
    <Card title="Test grid and images">
      <Box sx={{ display: 'flex', gap: 1 }}>
        <TextField
          select
          fullWidth
          label="Test grid"
          value={settings.gridKind}
          onChange={(event) => {
            void run('settings', { gridKind: event.target.value });
            useBench.getState().set({ overlay: 'grid' });
          }}
        >
          {gridKinds.map((kind) => (
            <MenuItem key={kind} value={kind}>
              {gridWords[kind]}
            </MenuItem>
          ))}
        </TextField>
        <TextField
          select
          label="Size, px"
          value={settings.gridSize}
          onChange={(event) => {
            void run('settings', { gridSize: Number(event.target.value) });
            useBench.getState().set({ overlay: 'grid' });
          }}
          sx={{ width: 104, flex: 'none' }}
        >
          {gridSizes.map((size) => (
            <MenuItem key={size} value={size}>
              {size}
            </MenuItem>
          ))}
        </TextField>
      </Box>
      <Button size="small" variant="outlined" disabled={saving} onClick={() => void saveGrid()}>
        {saving ? 'Drawing the grid …' : 'Save this grid as PNG'}
      </Button>
      <Box
        {...getRootProps()}
        sx={{
          display: 'flex',
          flexDirection: 'column',
          gap: 1,
          outline: isDragActive ? 2 : 0,
          outlineStyle: 'dashed',
          outlineColor: 'primary.main',
          borderRadius: 1,
        }}
      >
        <input {...getInputProps()} aria-label="Image files" />
        {missingImages.map(({ library, names }) => (
          <Alert key={library} severity="info" variant="outlined" sx={{ py: 0.25, px: 1 }}>
            {names.length === 1 ? 'One image' : `${names.length} images`} named in “{library}” {names.length === 1 ? 'is' : 'are'} missing: drop{' '}
            {names.length === 1 ? 'it' : 'them'} here ({names.slice(0, 6).join(', ')}
            {names.length > 6 ? ` and ${names.length - 6} more` : ''}).
          </Alert>
        ))}
        {images.length > 0 && (
          <List dense disablePadding aria-label="Images of the job" sx={{ maxHeight: 200, overflow: 'auto' }}>
            {images.map((image) => (
              <ListItem
                key={image.id}
                disablePadding
                secondaryAction={
                  <Tooltip title="Remove from the job (undo brings it back)">
                    <IconButton edge="end" size="small" aria-label={`Remove ${image.name}`} onClick={() => void run('removeImage', { image: image.id }, true)}>
                      <RemoveIcon sx={{ fontSize: 17 }} />
                    </IconButton>
                  </Tooltip>
                }
              >
                <ListItemButton selected={image.id === active.imageId} onClick={() => show(image.id)} sx={{ borderRadius: 1, px: 1 }}>
                  <ListItemText
                    primary={image.name}
                    secondary={`${image.width} × ${image.height} px · ${sizeWords(image.bytes)}${image.id === active.imageId ? ' · on this part' : ''}`}
                    slotProps={{ primary: { noWrap: true } }}
                  />
                </ListItemButton>
              </ListItem>
            ))}
          </List>
        )}
        {reduced && (
          <Typography variant="caption" color="text.secondary">
            Shown from a copy of {mostTexturePx()} px: this machine’s graphics take no larger. The image itself is kept whole.
          </Typography>
        )}
        <Box sx={{ display: 'flex', gap: 1 }}>
          <Button size="small" variant={images.length === 0 ? 'contained' : 'outlined'} fullWidth onClick={open}>
            Add images
          </Button>
          {active.imageId !== null && (
            <Button size="small" variant="outlined" fullWidth onClick={() => show(null)}>
              Test grid only
            </Button>
          )}
        </Box>
        {images.length === 0 && (
          <Typography variant="caption" color="text.secondary">
            PNG, JPEG or WebP; or drop them on a view.
          </Typography>
        )}
      </Box>
      {active.imageId !== null && (
        <ToggleButtonGroup
          exclusive
          fullWidth
          size="small"
          value={look.channel}
          aria-label="Channel of the picture"
          onChange={(_, channel: Look['channel'] | null) => {
            if (!channel) return;
            setLook({ channel });
            useBench.getState().set({ overlay: 'picture' });
          }}
        >
          {(['all', 'red', 'green', 'blue', 'alpha'] as const).map((name) => (
            <ToggleButton key={name} value={name} sx={{ px: 0.5 }}>
              {name[0]!.toUpperCase() + name.slice(1)}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
      )}
    </Card>
  );
}
