import { Box, Button, Typography } from '@mui/material';
import { imageSets, roleWords, unseenRoles, type ImageSet } from '@jig-peel/core';
import { useState } from 'react';
import { later } from '../../../later.tsx';
import { useBench } from '../../../store/bench.ts';
import { useActivePart, useJob } from '../../../store/useJob.ts';
import { run } from '../../../worker/client.ts';

const ImageUsesDialog = later(() => import('./ImageUsesDialog.tsx'));

const put = async (set: string, as: 'picture' | 'layers') => {
  const outcome = await run('putImageSet', { set, as });
  if (outcome.ok) useBench.getState().set({ overlay: 'picture' });
};

function SetRow({ set }: { set: ImageSet }) {
  const { imageId, layers } = useActivePart();
  const isLayer = (id: string) => (layers ?? []).some(({ source }) => source.kind === 'image' && source.image === id);
  const seen = set.members.filter(({ role }) => role === 'colour' || role === 'relief');
  const isWhole = seen.length > 0 && seen.every(({ id }) => id === imageId || isLayer(id));
  const unseen = unseenRoles.filter((role) => set.members.some((member) => member.role === role));
  return (
    <Box role="group" aria-label={`Set ${set.name}`} sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
      <Box sx={{ flex: 1, minWidth: 0 }}>
        <Typography variant="body2" noWrap>
          {set.name}
        </Typography>
        <Typography variant="caption" color="text.secondary" sx={{ display: 'block' }}>
          {set.members.map(({ role }) => roleWords(role)).join(', ')}
          {isWhole ? '; on this part' : ''}
          {isWhole && unseen.length > 0 ? `, ${unseen.map(roleWords).join(', ')} unseen` : ''}
        </Typography>
      </Box>
      {!isWhole && seen.length > 0 && (
        <>
          <Button
            size="small"
            variant="outlined"
            onClick={() => void put(set.name, 'picture')}
            title="Its colour becomes the part’s picture, its relief a layer"
          >
            Put on
          </Button>
          <Button
            size="small"
            variant="text"
            onClick={() => void put(set.name, 'layers')}
            title="Colour and relief as layers over the picture, within the set’s mask"
          >
            As layers
          </Button>
        </>
      )}
    </Box>
  );
}

/** Sets of the job's images: of what they are, and how they come onto the part. */
export function ImageSetsRow() {
  const { images } = useJob('images');
  const [open, setOpen] = useState(false);
  const sets = imageSets(images);
  if (images.length < 2) return null;
  return (
    <>
      {sets.length > 0 && (
        <>
          <Typography variant="subtitle2" component="h3">
            Sets
          </Typography>
          {sets.map((set) => (
            <SetRow key={set.name} set={set} />
          ))}
          <Typography variant="caption" color="text.secondary">
            Images of a set move as one on a part. What is unseen goes into bakes and GLB.
          </Typography>
        </>
      )}
      <Button size="small" variant="text" onClick={() => setOpen(true)}>
        Say what each image is of
      </Button>
      {open && <ImageUsesDialog close={() => setOpen(false)} />}
    </>
  );
}
