import { Box, IconButton, Tooltip } from '@mui/material';
import CloseIcon from '@mui/icons-material/Close';
import { useRef, type KeyboardEvent, type PointerEvent } from 'react';
import { useWithKey } from '../../../keys/keyTable.ts';
import { useJob } from '../../../store/useJob.ts';
import { placePinned, unpinPicture, usePinned, type PinnedPicture } from '../../pinned.ts';
import { useImageUrl } from './useImageUrl.ts';

type Image = { id: string; name: string; width: number; height: number };

/** Pictures pinned over the model view, to look at while working. */
export default function PinnedPictures() {
  const { images } = useJob('images');
  const { pins, isHidden } = usePinned();
  if (isHidden) return null;
  // one that is not in the job at present comes back with undo
  return pins.map((pin) => {
    const image = images.find(({ id }) => id === pin.image);
    return image && <Pinned key={pin.image} pin={pin} image={image} />;
  });
}

const arrows: Partial<Record<string, [number, number]>> = { ArrowRight: [1, 0], ArrowLeft: [-1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };

function Pinned({ pin, image }: { pin: PinnedPicture; image: Image }) {
  const { url } = useImageUrl(image.id);
  const button = useRef<HTMLButtonElement>(null);
  const held = useRef<{ grip: 'move' | 'size'; x: number; y: number; from: PinnedPicture } | null>(null);
  const help = useWithKey('Drag to move, arrow keys too; + and − size it. Hide all pinned pictures', 'pinned');
  const grip = (kind: 'move' | 'size') => ({
    onPointerDown: (event: PointerEvent) => {
      event.stopPropagation();
      if (event.button !== 0) return;
      // Escape is to be heard, also while it is sized
      button.current?.focus();
      event.currentTarget.setPointerCapture(event.pointerId);
      held.current = { grip: kind, x: event.clientX, y: event.clientY, from: pin };
    },
    onPointerMove: (event: PointerEvent) => {
      const own = held.current;
      if (!own) return;
      event.stopPropagation();
      const [dx, dy] = [event.clientX - own.x, event.clientY - own.y];
      if (own.grip === 'move') placePinned(pin.image, { left: own.from.left + dx, bottom: own.from.bottom - dy });
      else placePinned(pin.image, { width: own.from.width + dx });
    },
    onPointerUp: (event: PointerEvent) => {
      event.stopPropagation();
      held.current = null;
    },
    onPointerCancel: () => {
      held.current = null;
    },
  });
  const onKeyDown = (event: KeyboardEvent) => {
    const by = arrows[event.key];
    const own = held.current;
    if (event.key === 'Escape' && own) {
      placePinned(pin.image, own.from);
      held.current = null;
    } else if (by) placePinned(pin.image, { left: pin.left + by[0] * 8, bottom: pin.bottom + by[1] * 8 });
    else if (event.key === '+' || event.key === '=') placePinned(pin.image, { width: pin.width * 1.1 });
    else if (event.key === '-') placePinned(pin.image, { width: pin.width / 1.1 });
    else if (event.key === 'Delete') unpinPicture(pin.image);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <Box
      data-chrome
      role="group"
      aria-label={`Pinned picture ${image.name}`}
      // what is done here is not for the view under it
      onWheel={(event) => event.stopPropagation()}
      sx={{
        position: 'absolute',
        border: 1,
        borderColor: 'divider',
        borderRadius: 1,
        overflow: 'hidden',
        bgcolor: 'background.paper',
        boxShadow: 2,
        lineHeight: 0,
      }}
      style={{ left: `min(${pin.left}px, calc(100% - 48px))`, bottom: `min(${pin.bottom}px, calc(100% - 48px))`, width: pin.width }}
    >
      <Tooltip title={help} enterDelay={900} disableInteractive>
        <Box
          ref={button}
          component="button"
          type="button"
          aria-label={`${image.name}: move by arrow keys, size by + and −, unpin by Delete`}
          onKeyDown={onKeyDown}
          {...grip('move')}
          sx={{
            p: 0,
            border: 0,
            display: 'block',
            width: '100%',
            bgcolor: 'transparent',
            cursor: 'move',
            touchAction: 'none',
            '&:focus-visible': { outline: 2, outlineStyle: 'solid', outlineColor: 'primary.main', outlineOffset: '-2px' },
          }}
        >
          <Box
            component="img"
            src={url || undefined}
            alt={image.name}
            draggable={false}
            sx={{ display: 'block', width: '100%' }}
            style={{ aspectRatio: `${Math.max(1, image.width)} / ${Math.max(1, image.height)}` }}
          />
        </Box>
      </Tooltip>
      <IconButton
        size="small"
        aria-label={`Unpin ${image.name}`}
        title="Unpin"
        onPointerDown={(event) => event.stopPropagation()}
        onClick={() => unpinPicture(pin.image)}
        sx={{ position: 'absolute', right: 2, top: 2, p: 0.25, bgcolor: 'background.paper', '&:hover': { bgcolor: 'background.paper' } }}
      >
        <CloseIcon sx={{ fontSize: 15 }} />
      </IconButton>
      <Box
        aria-hidden
        {...grip('size')}
        sx={{
          position: 'absolute',
          right: 0,
          bottom: 0,
          width: 18,
          height: 18,
          cursor: 'nwse-resize',
          touchAction: 'none',
          bgcolor: 'background.paper',
          borderTopLeftRadius: 6,
          color: 'text.secondary',
        }}
      >
        <svg viewBox="0 0 18 18" width="18" height="18">
          <path d="M6 14L14 6M10 14L14 10" stroke="currentColor" strokeWidth="1.6" strokeLinecap="round" />
        </svg>
      </Box>
    </Box>
  );
}
