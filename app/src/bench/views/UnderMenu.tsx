import { Box, IconButton, Paper, Popover, Slider, ToggleButton, ToggleButtonGroup, Tooltip, Typography } from '@mui/material';
import UnderIcon from '@mui/icons-material/ImageOutlined';
import { useState } from 'react';
import { useBench, type Look } from '../../store/bench.ts';

/** What lies on the sheet under the islands, with its own strength. */
export function UnderMenu() {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const look = useBench((s) => s.look);
  const set = useBench((s) => s.setLook);
  const image = useBench((s) => s.summary?.parts.find((part) => part.id === s.summary?.activePart)?.imageId ?? null);
  return (
    <>
      <Tooltip title="Under the islands">
        <Paper elevation={1} sx={{ borderRadius: 1 }}>
          <IconButton
            aria-label="Under the islands"
            aria-haspopup="dialog"
            onClick={(event) => setAnchor(event.currentTarget)}
            sx={{ borderRadius: 1, p: 0.6, color: look.under === 'nothing' ? 'inherit' : 'primary.main' }}
          >
            <UnderIcon sx={{ fontSize: 17 }} />
          </IconButton>
        </Paper>
      </Tooltip>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => {
          setAnchor(null);
          document.getElementById('views')?.focus({ preventScroll: true });
        }}
        transitionDuration={0}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'right' }}
        transformOrigin={{ vertical: 'top', horizontal: 'right' }}
        slotProps={{ paper: { sx: { p: 1.5, width: 250 }, role: 'dialog', 'aria-label': 'Under the islands' } }}
      >
        <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1 }}>
          <ToggleButtonGroup
            exclusive
            fullWidth
            size="small"
            value={look.under}
            aria-label="Under the islands"
            onChange={(_, under: Look['under'] | null) => under && set({ under })}
          >
            <ToggleButton value="nothing">Nothing</ToggleButton>
            <ToggleButton value="grid">Test grid</ToggleButton>
            <ToggleButton value="picture" disabled={image === null}>
              Picture
            </ToggleButton>
          </ToggleButtonGroup>
          {image === null && (
            <Typography variant="caption" color="text.secondary">
              This part has no picture: drop one on a view.
            </Typography>
          )}
          {look.under !== 'nothing' && (
            <Box sx={{ px: 1 }}>
              <Typography variant="caption" color="text.secondary">
                Opacity
              </Typography>
              <Slider
                size="small"
                min={0.05}
                max={1}
                step={0.05}
                value={look.underOpacity}
                aria-label="Opacity under the islands"
                valueLabelDisplay="auto"
                valueLabelFormat={(x) => `${Math.round(x * 100)} %`}
                onChange={(_, next) => set({ underOpacity: next as number })}
              />
            </Box>
          )}
        </Box>
      </Popover>
    </>
  );
}
