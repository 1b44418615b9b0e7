import { Box, Typography } from '@mui/material';
import { useCallback } from 'react';

interface WipeProps {
  left: ImageBitmap | undefined;
  right: ImageBitmap | undefined;
  /** Share of the left one, %. */
  at: number;
  names: readonly [string, string];
  what: string;
}

/** One view of two versions, the left one as far as the wipe has come. */
export function Wipe({ left, right, at, names, what }: WipeProps) {
  const layer = { position: 'absolute', inset: 0, width: '100%', height: '100%' } as const;
  const name = { position: 'absolute', bottom: 6, bgcolor: 'background.paper', px: 0.75, borderRadius: 0.5 } as const;
  const one = left ?? right;
  if (!one) return null;
  return (
    <Box
      sx={{ position: 'relative', height: '100%', minWidth: 0, border: 1, borderColor: 'divider', overflow: 'hidden' }}
      style={{ aspectRatio: `${one.width} / ${one.height}` }}
    >
      {right && <Drawn picture={right} label={`${what}, ${names[1]}`} sx={layer} />}
      {left && <Drawn picture={left} label={`${what}, ${names[0]}`} sx={layer} clip={`inset(0 ${100 - at}% 0 0)`} />}
      <Box sx={{ position: 'absolute', top: 0, bottom: 0, width: 2, bgcolor: 'primary.main' }} style={{ left: `calc(${at}% - 1px)` }} />
      <Typography variant="caption" sx={{ ...name, left: 6 }}>
        {names[0]}
      </Typography>
      <Typography variant="caption" sx={{ ...name, right: 6 }}>
        {names[1]}
      </Typography>
    </Box>
  );
}

/** One view of one of them, as large as there is room for. */
export function Still({ picture, name, what }: { picture: ImageBitmap | undefined; name: string; what: string }) {
  if (!picture) return null;
  return (
    <Box
      sx={{ position: 'relative', maxHeight: '100%', flex: '0 1 auto', minWidth: 0, border: 1, borderColor: 'divider', overflow: 'hidden' }}
      style={{ aspectRatio: `${picture.width} / ${picture.height}`, width: `calc(42vh * ${picture.width / picture.height})` }}
    >
      <Drawn picture={picture} label={`${what}, ${name}`} sx={{ position: 'absolute', inset: 0, width: '100%', height: '100%' }} />
      <Typography variant="caption" sx={{ position: 'absolute', bottom: 6, left: 6, bgcolor: 'background.paper', px: 0.75, borderRadius: 0.5 }}>
        {name}
      </Typography>
    </Box>
  );
}

function Drawn({ picture, label, sx, clip }: { picture: ImageBitmap; label: string; sx: object; clip?: string }) {
  const draw = useCallback(
    (canvas: HTMLCanvasElement | null) => {
      if (!canvas) return;
      canvas.width = picture.width;
      canvas.height = picture.height;
      canvas.getContext('2d')!.drawImage(picture, 0, 0);
    },
    [picture],
  );
  return <Box component="canvas" ref={draw} sx={sx} style={clip ? { clipPath: clip } : undefined} role="img" aria-label={label} />;
}
