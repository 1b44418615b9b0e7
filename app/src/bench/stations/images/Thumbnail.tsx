import { Box } from '@mui/material';
import { useEffect, useRef, useState } from 'react';
import { coreApi } from '../../../worker/client.ts';

/** Px of a thumbnail's longer side, twice what it is shown at: sharp on fine screens, too. */
const px = 64;
/** Thumbnails that are kept; 16 kB each. */
const most = 400;
/** Images that are read at once. */
const atOnce = 2;

const made = new Map<string, Promise<ImageBitmap | null>>();
let reading = 0;
const waiting: (() => void)[] = [];

async function taken<T>(work: () => Promise<T>): Promise<T> {
  if (reading >= atOnce) await new Promise<void>((go) => waiting.push(go));
  reading++;
  try {
    return await work();
  } finally {
    reading--;
    waiting.shift()?.();
  }
}

/** A small picture of an image, read and made smaller beside the page's own work; null where it cannot be read. */
function thumbnailOf(image: string, width: number, height: number): Promise<ImageBitmap | null> {
  const known = made.get(image);
  if (known) return known;
  const scale = px / Math.max(width, height);
  const small = taken(async () => {
    const found = await coreApi().image(image);
    if (!found) return null;
    return createImageBitmap(new Blob([found.bytes as Uint8Array<ArrayBuffer>], { type: found.type }), {
      resizeWidth: Math.max(1, Math.round(width * scale)),
      resizeHeight: Math.max(1, Math.round(height * scale)),
      resizeQuality: 'medium',
    });
  }).catch(() => null);
  made.set(image, small);
  for (const old of made.keys()) {
    if (made.size <= most) break;
    made.delete(old);
  }
  return small;
}

/** What an image looks like, once its row comes into sight; decoration beside its name. */
export function Thumbnail({ image }: { image: { id: string; width: number; height: number } }) {
  const { id, width, height } = image;
  const place = useRef<HTMLCanvasElement>(null);
  const [seen, setSeen] = useState(false);
  useEffect(() => {
    if (!place.current) return;
    const watch = new IntersectionObserver((entries) => entries.some((entry) => entry.isIntersecting) && setSeen(true));
    watch.observe(place.current);
    return () => watch.disconnect();
  }, []);
  useEffect(() => {
    if (!seen) return;
    let current = true;
    void thumbnailOf(id, width, height).then((picture) => {
      const canvas = place.current;
      if (!current || !canvas || !picture) return;
      canvas.width = picture.width;
      canvas.height = picture.height;
      canvas.getContext('2d')!.drawImage(picture, 0, 0);
    });
    return () => {
      current = false;
    };
  }, [seen, id, width, height]);
  return (
    <Box
      component="canvas"
      ref={place}
      aria-hidden
      width={px}
      height={px}
      sx={{ width: 32, height: 32, flex: 'none', mr: 1, objectFit: 'contain', bgcolor: 'action.hover', borderRadius: 0.5 }}
    />
  );
}
