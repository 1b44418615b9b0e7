import { Box, Button, MenuItem, TextField } from '@mui/material';
import { useState } from 'react';
import { jigSides, repeatsOf, type JigSide } from '@jig-peel/core';
import { NumberRow } from '../../../fields/NumberRow.tsx';
import type { JigRow } from '../../../session/messages.ts';
import { change } from '../../jigs.ts';

/** Repeats of one side or lid, in place of the jig's. */
export function OwnRepeats({ row }: { row: JigRow }) {
  const { jig } = row;
  const sides: readonly JigSide[] = jig.kind === 'box' ? jigSides : ['top', 'bottom'];
  const [side, setSide] = useState<JigSide>('top');
  const own = jig.own[side];
  const word = jig.kind === 'box' ? 'side' : 'lid';
  return (
    <>
      <Box sx={{ display: 'flex', gap: 1, alignItems: 'center' }}>
        <TextField select fullWidth label={`One ${word}`} value={side} onChange={(event) => setSide(event.target.value as JigSide)}>
          {sides.map((name) => (
            <MenuItem key={name} value={name}>
              {name}
              {jig.own[name] ? ' (own repeats)' : ''}
            </MenuItem>
          ))}
        </TextField>
        <Button
          size="small"
          variant="outlined"
          sx={{ whiteSpace: 'nowrap', flex: 'none' }}
          onClick={() => {
            const { [side]: _, ...rest } = jig.own;
            change({ own: own ? rest : { ...jig.own, [side]: repeatsOf(jig) } }, 'changed the repeats of');
          }}
        >
          {own ? 'As the others' : 'Own repeats'}
        </Button>
      </Box>
      {own && (
        <NumberRow
          labels={['u', 'v'].map((name) => `${side[0]!.toUpperCase() + side.slice(1)}: repeats in ${name}`)}
          values={own}
          old={own}
          min={0.0001}
          max={10_000}
          step={1}
          onChange={(values) => change({ own: { ...jig.own, [side]: values } }, 'changed the repeats of')}
        />
      )}
    </>
  );
}
