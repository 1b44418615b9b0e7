import { Box, Button, ButtonBase, Tooltip } from '@mui/material';
import { canPick, forgetSwatch, keepSwatch, pickColour, useSwatches } from './swatches.ts';

/** Colours that were kept, to take again; keeping the present one; and taking one from the screen. */
export function Swatches({ value, take }: { value: string; take(colour: string): void }) {
  const colours = useSwatches((s) => s.colours);
  return (
    <Box role="group" aria-label="Kept colours" sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.5, alignItems: 'center' }}>
      {colours.map((colour) => (
        <Tooltip key={colour} title={`${colour}: click takes it, Delete forgets it`}>
          <ButtonBase
            aria-label={`Take ${colour}`}
            aria-pressed={colour === value}
            onClick={() => take(colour)}
            onKeyDown={(event) => {
              if (event.key !== 'Delete' && event.key !== 'Backspace') return;
              event.stopPropagation();
              forgetSwatch(colour);
            }}
            sx={{ width: 24, height: 24, borderRadius: 0.5, border: 2, borderColor: colour === value ? 'primary.main' : 'divider', bgcolor: colour }}
          />
        </Tooltip>
      ))}
      <Box sx={{ flex: 1 }} />
      {!colours.includes(value.toLowerCase()) && (
        <Button size="small" onClick={() => keepSwatch(value)}>
          Keep it
        </Button>
      )}
      {canPick() && (
        <Tooltip title="Press on any place of a picture, in the views or elsewhere on the screen">
          <Button
            size="small"
            onClick={() =>
              void pickColour().then((colour) => {
                if (colour) take(colour);
              })
            }
          >
            From the screen
          </Button>
        </Tooltip>
      )}
    </Box>
  );
}
