import { Box, Button, MenuItem, TextField, Tooltip, Typography } from '@mui/material';
import { useEffect } from 'react';
import { NumberField } from '../../../fields/NumberField.tsx';
import { sixFigures } from '../../../fields/NumberRow.tsx';
import { Toggle } from '../../../fields/Toggle.tsx';
import type { JigRow } from '../../../session/messages.ts';
import { useBench } from '../../../store/bench.ts';
import { useActivePart, useJob } from '../../../store/useJob.ts';
import { selectedCount } from '@jig-peel/core';
import { endPairs, usePairing } from '../../pairing.ts';
import { beginPairs, fitByOutlines, sides, standPicture, usePictureFrame, wantedNext, type Side } from '../../pictureFrame.ts';
import { Card } from '../Card.tsx';

/** The part's picture stood in space, as one frame for all parts that were traced from it. */
export function PictureFrameCard({ inHand }: { inHand: JigRow | undefined }) {
  const { side, width, errors } = usePictureFrame();
  const pairing = usePairing((s) => s.pairing);
  const { parts, settings, selection, selectedParts } = useJob('parts', 'settings', 'selection', 'selectedParts');
  const tool = useBench((s) => s.tool);
  const { imageId } = useActivePart();
  const unit = settings.unit === 'unit' ? 'units' : settings.unit;
  const count = selectedCount(selection);
  const alike = parts.filter((part) => part.imageId === imageId).length;
  const frame = inHand?.jig.kind === 'planar' ? inHand : null;
  useEffect(() => endPairs, []);
  // another tool, or Escape, ends the asking
  useEffect(() => {
    if (pairing && tool !== 'pair') endPairs();
  }, [pairing, tool]);
  return (
    <Card title="Picture in space" folds="closed">
      {imageId === null ? (
        <Typography variant="caption" color="text.secondary">
          A picture that the model was traced from gives its parts their UVs: drop one on a view.
        </Typography>
      ) : (
        <>
          <TextField select label="Seen from" value={side} onChange={(event) => usePictureFrame.setState({ side: event.target.value as Side })}>
            {Object.entries(sides).map(([value, { label }]) => (
              <MenuItem key={value} value={value}>
                {label}
              </MenuItem>
            ))}
            <MenuItem value="view">where you look from now</MenuItem>
          </TextField>
          <Toggle label="Its width is known" checked={width !== null} onChange={(on) => usePictureFrame.setState({ width: on ? 1 : null })} />
          {width !== null && (
            <NumberField
              label="Width"
              unit={unit}
              value={sixFigures(width)}
              min={1e-6}
              max={1e9}
              step={0.1}
              onChange={(value) => usePictureFrame.setState({ width: value })}
            />
          )}
          <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 0.75 }}>
            <Button size="small" variant="outlined" onClick={() => void standPicture(false)}>
              Stand it there
            </Button>
            <Tooltip title="Place, turn and size are found: outlines of all parts on what is opaque in the picture">
              <Button size="small" variant="contained" onClick={() => void standPicture(true)}>
                Find its place
              </Button>
            </Tooltip>
          </Box>
          <Typography variant="caption" color="text.secondary">
            For{' '}
            {count > 0
              ? 'what is selected'
              : selectedParts.length > 1
                ? `the ${selectedParts.length} selected parts`
                : alike === 1
                  ? 'this part: no other one shows the picture'
                  : `the ${alike} parts that show it`}
            .
          </Typography>
          {frame && (
            <>
              <Typography variant="body2">{frame.name}, in hand:</Typography>
              <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 0.75 }}>
                <Button size="small" variant="outlined" onClick={() => void fitByOutlines(frame.id)}>
                  By outlines
                </Button>
                <Tooltip title="Two points of the model, and where they are in the picture">
                  <Button
                    size="small"
                    variant={pairing ? 'contained' : 'outlined'}
                    aria-pressed={pairing !== null}
                    onClick={() => (pairing ? endPairs() : beginPairs(frame.id))}
                  >
                    By two points
                  </Button>
                </Tooltip>
              </Box>
            </>
          )}
          {pairing && (
            <Typography variant="body2" role="status">
              {wantedNext(pairing)}.
            </Typography>
          )}
          {errors.length > 0 && (
            <Box component="ul" aria-label="How far outlines are off" sx={{ m: 0, p: 0, listStyle: 'none', maxHeight: 160, overflow: 'auto' }}>
              {[...errors]
                .sort((a, b) => b.error - a.error)
                .map(({ part, name, error }) => (
                  <Box component="li" key={part} sx={{ display: 'flex', justifyContent: 'space-between', gap: 1 }}>
                    <Typography variant="caption" noWrap>
                      {name}
                    </Typography>
                    <Typography variant="figure">{error.toFixed(2)} px off</Typography>
                  </Box>
                ))}
            </Box>
          )}
        </>
      )}
    </Card>
  );
}
