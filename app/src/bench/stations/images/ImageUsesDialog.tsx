import { Box, Button, Dialog, DialogActions, DialogContent, DialogTitle, MenuItem, TextField, Typography } from '@mui/material';
import { imageRoles, roleWords, useOf, type ImageRole } from '@jig-peel/core';
import { useState } from 'react';
import { useJob } from '../../../store/useJob.ts';
import { run } from '../../../worker/client.ts';
import { useImageUrl } from './useImageUrl.ts';

type Image = ReturnType<typeof useJob<'images'>>['images'][number];

/** A field whose text is taken on Enter and when it is left; Escape leaves it as it was. */
function SetField({ image, value, take }: { image: Image; value: string; take(set: string): void }) {
  const [text, setText] = useState<string | null>(null);
  const done = () => {
    if (text !== null && text.trim() !== value) take(text.trim());
    setText(null);
  };
  return (
    <TextField
      label="Set"
      size="small"
      value={text ?? value}
      slotProps={{ htmlInput: { 'aria-label': `Set of ${image.name}`, maxLength: 200 } }}
      onChange={(event) => setText(event.target.value)}
      onBlur={done}
      onKeyDown={(event) => {
        if (event.key === 'Enter') done();
        if (event.key !== 'Escape' || text === null) return;
        event.stopPropagation();
        setText(null);
      }}
      sx={{ width: 180 }}
    />
  );
}

function Thumbnail({ image }: { image: Image }) {
  const { url } = useImageUrl(image.id);
  return (
    <Box
      aria-hidden
      sx={{
        width: 40,
        height: 40,
        flex: 'none',
        borderRadius: 0.5,
        outline: 1,
        outlineColor: 'divider',
        backgroundSize: 'contain',
        backgroundRepeat: 'no-repeat',
        backgroundPosition: 'center',
      }}
      style={url ? { backgroundImage: `url(${url})` } : {}}
    />
  );
}

function UseRow({ image }: { image: Image }) {
  const use = useOf(image);
  const [role, setRole] = useState<ImageRole>(use?.role ?? 'colour');
  const take = (set: string, as: ImageRole) => void run('setImageUse', { image: image.id, set: set === '' ? null : set, role: as });
  return (
    <Box role="listitem" aria-label={image.name} sx={{ display: 'flex', alignItems: 'center', gap: 1.5, py: 0.75 }}>
      <Thumbnail image={image} />
      <Typography variant="body2" noWrap title={image.name} sx={{ flex: 1, minWidth: 0 }}>
        {image.name}
      </Typography>
      <SetField image={image} value={use?.set ?? ''} take={(set) => take(set, use?.role ?? role)} />
      <TextField
        select
        size="small"
        label="Is its"
        value={use?.role ?? role}
        onChange={(event) => {
          const next = event.target.value as ImageRole;
          setRole(next);
          if (use) take(use.set, next);
        }}
        sx={{ width: 170 }}
      >
        {imageRoles.map((one) => (
          <MenuItem key={one} value={one}>
            {roleWords(one)}
          </MenuItem>
        ))}
      </TextField>
    </Box>
  );
}

/** Which set each image is in, and as what; by their names at first. */
export default function ImageUsesDialog({ close }: { close(): void }) {
  const { images } = useJob('images');
  return (
    <Dialog open onClose={close} maxWidth="md" fullWidth aria-labelledby="uses-title">
      <DialogTitle id="uses-title">What each image is of</DialogTitle>
      <DialogContent>
        <Typography variant="body2" color="text.secondary" sx={{ mb: 1 }}>
          Images with the same set belong together. At first names say it: “bark_color”, “bark_height”, “bark_normal”. An empty set takes an image out.
        </Typography>
        <Box role="list" aria-label="Images and their sets">
          {images.map((image) => (
            <UseRow key={image.id} image={image} />
          ))}
        </Box>
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}
