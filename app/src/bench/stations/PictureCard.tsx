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
import PinnedIcon from '@mui/icons-material/PushPin';
import PinIcon from '@mui/icons-material/PushPinOutlined';
import { gridKinds, gridSizes, joinsWithItself, type GridKind, type SelfJoin } from '@jig-peel/core';
import { useEffect, useState } from 'react';
import { later } from '../../later.tsx';
import { useDropzone } from 'react-dropzone';
import { useBench, type Look } from '../../store/bench.ts';
import { useActivePart, useJob } from '../../store/useJob.ts';
import { coreApi, run } from '../../worker/client.ts';
import type { FileHandle } from '../../keep/watched.ts';
import { addWatchedImages, chooseImages, keepsFiles } from '../watch.ts';
import { save } from '../deliver.ts';
import { gridPng } from '../views/pictures.ts';
import { mostTexturePx } from '../views/webgl.ts';
import { Card } from './Card.tsx';
import { draggedImage } from '../draggedImage.ts';
import { pinPicture, unpinPicture, usePinned } from '../pinned.ts';
import { ImageSetsRow } from './images/ImageSetsRow.tsx';
import { Thumbnail } from './images/Thumbnail.tsx';
import { shownBytes, wordsOfUse } from './images/uses.ts';
import { WatchedLine } from './WatchedLine.tsx';

const gridWords: Record<GridKind, string> = { letters: 'Letters', squares: 'Squares', circles: 'Circles', stripes: 'Stripes (grain)', ramp: 'Ramp of u, v' };

const sizeWords = (bytes: number) => (bytes < 1e5 ? `${Math.max(1, Math.round(bytes / 1e3))}\u00a0kB` : `${(bytes / 1e6).toFixed(1)}\u00a0MB`);

const TiledDialog = later(() => import('./images/TiledDialog.tsx'));

async function removeAll(ids: readonly string[]): Promise<void> {
  for (const image of ids) await run('removeImage', { image }, true);
}

/** Whether the picture goes on in itself, as measured over its borders. */
function SelfJoinWords({ id }: { id: string }) {
  const [join, setJoin] = useState<{ id: string; found: SelfJoin | null } | null>(null);
  useEffect(() => {
    let current = true;
    void coreApi()
      .selfJoin(id)
      .then((found) => current && setJoin({ id, found }))
      .catch(() => {});
    return () => {
      current = false;
    };
  }, [id]);
  if (join?.id !== id || !join.found) return null;
  const { across, up } = joinsWithItself(join.found);
  const figures = `jump over its borders ${join.found.across.toFixed(1)} across and ${join.found.up.toFixed(1)} up, of 255; ${join.found.inside.toFixed(1)} between px inside`;
  return (
    <Typography variant="caption" color="text.secondary">
      {across && up
        ? 'It joins with itself'
        : across
          ? 'It joins with itself across, not up'
          : up
            ? 'It joins with itself up, not across'
            : 'It does not join with itself'}
      : {figures}.
    </Typography>
  );
}

/** A picture is pinned over the model view to be looked at, and taken off again. */
function PinButton({ image }: { image: { id: string; name: string } }) {
  const isPinned = usePinned(({ pins }) => pins.some((pin) => pin.image === image.id));
  return (
    <Tooltip title={isPinned ? 'Unpin it from the model view' : 'Pin it over the model view, to look at while working'}>
      <IconButton
        size="small"
        aria-label={`Pin ${image.name} over the model`}
        aria-pressed={isPinned}
        onClick={() => (isPinned ? unpinPicture : pinPicture)(image.id)}
        color={isPinned ? 'primary' : 'default'}
      >
        {isPinned ? <PinnedIcon sx={{ fontSize: 17 }} /> : <PinIcon sx={{ fontSize: 17 }} />}
      </IconButton>
    </Tooltip>
  );
}

/** The test grid, and the images of the job: which is on the part, which are missing, what of them is shown. */
export function PictureCard() {
  const { settings, images, missingImages, parts, materialLayers } = useJob('settings', 'images', 'missingImages', 'parts', 'materialLayers');
  const unused = images.filter(({ id }) => wordsOfUse({ parts, materialLayers, images }, id) === 'not used');
  const look = useBench((s) => s.look);
  const setLook = useBench((s) => s.setLook);
  const active = useActivePart();
  const { getRootProps, getInputProps, open, isDragActive } = useDropzone({
    onDrop: (files: (File & { handle?: FileHandle })[]) =>
      void addWatchedImages(
        files,
        files.map(({ handle }) => handle),
      ),
    noClick: true,
    noKeyboard: true,
    accept: { 'image/png': ['.png'], 'image/jpeg': ['.jpg', '.jpeg'], 'image/webp': ['.webp'], 'application/zip': ['.zip'] },
  });
  const [saving, setSaving] = useState(false);
  const [tiled, setTiled] = useState(false);
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
  const memory = shownBytes({ parts, materialLayers, images }, active.id, mostTexturePx());
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
          <List dense disablePadding aria-label="Images of the job" sx={{ maxHeight: 260, overflow: 'auto' }}>
            {images.map((image) => (
              <ListItem
                key={image.id}
                disablePadding
                secondaryAction={
                  <>
                    <PinButton image={image} />
                    <Tooltip title="Remove from the job (undo brings it back)">
                      <IconButton
                        edge="end"
                        size="small"
                        aria-label={`Remove ${image.name}`}
                        onClick={() => void run('removeImage', { image: image.id }, true)}
                      >
                        <RemoveIcon sx={{ fontSize: 17 }} />
                      </IconButton>
                    </Tooltip>
                  </>
                }
                sx={{ '& .MuiListItemButton-root': { pr: 9 } }}
              >
                <ListItemButton
                  selected={image.id === active.imageId}
                  draggable
                  onDragStart={(event) => {
                    event.dataTransfer.setData(draggedImage, image.id);
                    event.dataTransfer.effectAllowed = 'copy';
                  }}
                  onClick={() => show(image.id)}
                  sx={{ borderRadius: 1, px: 1 }}
                >
                  <Thumbnail image={image} />
                  <ListItemText
                    primary={image.name}
                    secondary={`${image.width} × ${image.height} px · ${sizeWords(image.bytes)} · ${image.id === active.imageId ? 'on this part' : wordsOfUse({ parts, materialLayers, images }, image.id)}`}
                    slotProps={{ primary: { noWrap: true } }}
                  />
                </ListItemButton>
              </ListItem>
            ))}
          </List>
        )}
        {images.length > 0 && (
          <Typography variant="caption" color="text.secondary">
            Click one to show it on the part; drag one onto the model to put it there as a decal; the pin keeps one in sight while you work.
          </Typography>
        )}
        {memory.images > 0 && (
          <Typography variant="caption" color="text.secondary">
            This part shows {memory.images === 1 ? 'one image' : `${memory.images} images`}: {sizeWords(memory.bytes)} of graphics memory.
          </Typography>
        )}
        <ImageSetsRow />
        {reduced && (
          <Typography variant="caption" color="text.secondary">
            Shown from a copy of {mostTexturePx()} px: this machine’s graphics take no larger. The image itself is kept whole.
          </Typography>
        )}
        {shown && <SelfJoinWords id={shown.id} />}
        {shown && (
          <Button size="small" variant="text" onClick={() => setTiled(true)}>
            See it three times each way
          </Button>
        )}
        {shown && tiled && <TiledDialog image={shown} close={() => setTiled(false)} />}
        {unused.length > 0 && unused.length < images.length && (
          <Button size="small" variant="text" onClick={() => void removeAll(unused.map(({ id }) => id))}>
            Remove {unused.length === 1 ? 'the one' : `the ${unused.length}`} not used
          </Button>
        )}
        <Box sx={{ display: 'flex', gap: 1 }}>
          <Button
            size="small"
            variant={images.length === 0 ? 'contained' : 'outlined'}
            fullWidth
            onClick={() => (keepsFiles() ? void chooseImages().catch(open) : open())}
          >
            Add images
          </Button>
          {active.imageId !== null && (
            <Button size="small" variant="outlined" fullWidth onClick={() => show(null)}>
              Test grid only
            </Button>
          )}
        </Box>
        <WatchedLine kind="image" />
        {images.length === 0 && (
          <Typography variant="caption" color="text.secondary">
            PNG, JPEG or WebP, or a zip or folder of them; or drop them on a view.
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
