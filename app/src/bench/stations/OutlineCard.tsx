import { Box, Button, MenuItem, TextField, Typography } from '@mui/material';
import { useEffect } from 'react';
import { useBench } from '../../store/bench.ts';
import { useActivePart, useJob } from '../../store/useJob.ts';
import { selectedCount } from '@jig-peel/core';
import { dropMatch, lookForMatch, takeMatch, useOutlineMatching, watchMatch } from '../hands/outlineMatching.ts';
import { watchOutline } from '../hands/pictureOutline.ts';
import { Card } from './Card.tsx';

/** So many islands are listed with their figures. */
const listed = 8;

/** Islands on the outlines of a picture, by its alpha: shown with figures before it is taken. */
export function OutlineCard() {
  const { fit, pieces, found, isLooking } = useOutlineMatching();
  const { selection } = useJob('selection');
  const hasPicture = useActivePart().imageId !== null;
  const kind = useBench((s) => s.kind);
  const count = kind === 'parts' ? 0 : selectedCount(selection);
  useEffect(watchMatch, []);
  useEffect(watchOutline, []);
  const again = (patch: Partial<{ fit: typeof fit; pieces: typeof pieces }>) => {
    useOutlineMatching.setState(patch);
    if (found) void lookForMatch();
  };
  const worst = found ? [...found.report.matched].sort((a, b) => b.error - a.error) : [];
  return (
    <Card title="Match to the picture" folds="closed">
      {!hasPicture ? (
        <Typography variant="caption" color="text.secondary">
          Borders of islands go to the outlines of a picture with alpha: drop one on a view.
        </Typography>
      ) : (
        <>
          <TextField select label="What may change" value={fit} onChange={(event) => again({ fit: event.target.value as typeof fit })}>
            <MenuItem value="each">place, turn and size of each</MenuItem>
            <MenuItem value="shape">of each, and its shape</MenuItem>
            <MenuItem value="together">all by one move, turn and size</MenuItem>
          </TextField>
          {fit !== 'together' && (
            <TextField select label="Which piece of the picture" value={pieces} onChange={(event) => again({ pieces: event.target.value as typeof pieces })}>
              <MenuItem value="like">the one most like the island</MenuItem>
              <MenuItem value="near">the one the island is on</MenuItem>
            </TextField>
          )}
          {found ? (
            <>
              <Typography variant="body2" role="status">
                {found.sentence}.
              </Typography>
              <Box component="table" aria-label="How far borders are off" sx={{ borderSpacing: 0, '& td, & th': { py: 0, px: 0.5, textAlign: 'right' } }}>
                <thead>
                  <tr>
                    <Typography component="th" variant="caption" color="text.secondary" sx={{ textAlign: 'left !important' }}>
                      Island
                    </Typography>
                    <Typography component="th" variant="caption" color="text.secondary">
                      off, px
                    </Typography>
                    {fit === 'shape' && (
                      <Typography component="th" variant="caption" color="text.secondary">
                        stretch
                      </Typography>
                    )}
                  </tr>
                </thead>
                <tbody>
                  {worst.slice(0, listed).map(({ part, letter, error, shaped }) => (
                    <tr key={`${part} ${letter}`}>
                      <Typography component="td" variant="figure" sx={{ textAlign: 'left !important' }}>
                        {letter}
                      </Typography>
                      <Typography component="td" variant="figure">
                        {error.toFixed(2)}
                      </Typography>
                      {fit === 'shape' && (
                        <Typography component="td" variant="figure">
                          {shaped ? `${shaped.before.toFixed(2)} → ${shaped.after.toFixed(2)}` : 'as it was'}
                        </Typography>
                      )}
                    </tr>
                  ))}
                </tbody>
              </Box>
              {worst.length > listed && (
                <Typography variant="caption" color="text.secondary">
                  The {listed} that are off most, of {worst.length}.
                </Typography>
              )}
              <Box sx={{ display: 'flex', gap: 1 }}>
                <Button variant="contained" fullWidth onClick={() => void takeMatch()}>
                  Match so
                </Button>
                <Button variant="outlined" onClick={() => dropMatch()}>
                  Leave it
                </Button>
              </Box>
            </>
          ) : (
            <Button variant="contained" disabled={isLooking} onClick={() => void lookForMatch()}>
              {isLooking ? 'Comparing outlines …' : count > 0 ? 'Show it for the selected' : 'Show it'}
            </Button>
          )}
          <Typography variant="caption" color="text.secondary">
            {count > 0 ? 'The selected islands' : 'All islands of the parts that show the picture'}, but for locked ones. They are locked then: packing goes
            round them. Points can be drawn onto the outline by hand, too: “Catch at”.
          </Typography>
        </>
      )}
    </Card>
  );
}
