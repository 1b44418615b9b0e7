import { Box, Slider, ToggleButton, ToggleButtonGroup, Typography } from '@mui/material';
import UnderIcon from '@mui/icons-material/ImageOutlined';
import { useBench, type Look } from '../../store/bench.ts';
import { ChromeMenu } from './ChromeMenu.tsx';

/** What lies on the sheet under the islands, with its own strength. */
export function UnderMenu() {
  const look = useBench((s) => s.look);
  const set = useBench((s) => s.setLook);
  const image = useBench((s) => s.summary?.parts.find((part) => part.id === s.summary?.activePart)?.imageId ?? null);
  return (
    <ChromeMenu label="Under the islands" icon={<UnderIcon sx={{ fontSize: 17 }} />} active={look.under !== 'nothing'} width={250}>
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
    </ChromeMenu>
  );
}
