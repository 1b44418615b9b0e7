import { Box, Button, Dialog, DialogActions, DialogContent, DialogTitle, FormControlLabel, Switch, Typography } from '@mui/material';
import { useState } from 'react';
import { useImageUrl } from './useImageUrl.ts';

interface Props {
  image: { id: string; name: string; width: number; height: number };
  close(): void;
}

/** Nine copies of a picture side by side: what does not go on in itself shows as a cross. */
export default function TiledDialog({ image, close }: Props) {
  const { url, trouble } = useImageUrl(image.id);
  const [lines, setLines] = useState(false);
  const ratio = Math.max(1, image.width) / Math.max(1, image.height);
  return (
    <Dialog open onClose={close} maxWidth="md" aria-labelledby="tiled-title">
      <DialogTitle id="tiled-title">{image.name}, three times each way</DialogTitle>
      <DialogContent>
        {trouble ? (
          <Typography color="error" role="alert">
            {trouble}
          </Typography>
        ) : (
          <Box
            role="img"
            aria-label={`Nine copies of ${image.name}`}
            sx={{ position: 'relative', boxSizing: 'border-box', outline: 1, outlineColor: 'divider', backgroundSize: '33.3333% 33.3333%' }}
            style={{ aspectRatio: ratio, width: `min(100%, calc(62vh * ${ratio}))`, ...(url ? { backgroundImage: `url(${url})` } : {}) }}
          >
            {lines &&
              [1, 2].flatMap((k) => [
                <Box
                  key={`x${k}`}
                  sx={{ position: 'absolute', top: 0, bottom: 0, width: '1px', bgcolor: 'primary.main' }}
                  style={{ left: `${(k * 100) / 3}%` }}
                />,
                <Box
                  key={`y${k}`}
                  sx={{ position: 'absolute', left: 0, right: 0, height: '1px', bgcolor: 'primary.main' }}
                  style={{ top: `${(k * 100) / 3}%` }}
                />,
              ])}
          </Box>
        )}
      </DialogContent>
      <DialogActions>
        <FormControlLabel
          sx={{ mr: 'auto', ml: 1 }}
          control={<Switch size="small" checked={lines} onChange={(event) => setLines(event.target.checked)} />}
          label={<Typography variant="body2">Lines where copies meet</Typography>}
        />
        <Button onClick={close}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}
