import { Box, Button, MenuItem, TextField } from '@mui/material';
import { useState } from 'react';
import type { ParamsOf } from '@jig-peel/core';
import type { JigRow } from '../../../session/messages.ts';
import { useBench } from '../../../store/bench.ts';
import { run } from '../../../worker/client.ts';
import { Section } from './Section.tsx';

/** The image made to go on from neighbours. */
export function Matching({ row }: { row: JigRow }) {
  const jigs = useBench((s) => s.summary!.jigs);
  const others = jigs.filter((one) => one.id !== row.id && one.drives.some((d) => row.drives.some((mine) => mine.part === d.part)));
  const [to, setTo] = useState('');
  const target = others.some(({ id }) => id === to) ? to : '';
  const match = (what: ParamsOf<'matchJig'>['what']) => void run('matchJig', { id: row.id, what, ...(target ? { to: target } : {}) }, true);
  return (
    <Section title="Go on from its neighbours">
      {others.length > 0 && (
        <TextField
          select
          fullWidth
          label="Match"
          value={target}
          onChange={(event) => setTo(event.target.value)}
          slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
        >
          <MenuItem value="">all faces beside it</MenuItem>
          {others.map(({ id, name }) => (
            <MenuItem key={id} value={id}>
              {name}
            </MenuItem>
          ))}
        </TextField>
      )}
      <Box sx={{ display: 'flex', gap: 0.5 }}>
        {(['size', 'heading', 'phase'] as const).map((what) => (
          <Button key={what} size="small" variant="outlined" fullWidth sx={{ minWidth: 0 }} onClick={() => match([what])}>
            {what[0]!.toUpperCase() + what.slice(1)}
          </Button>
        ))}
        <Button size="small" variant="outlined" fullWidth sx={{ minWidth: 0 }} onClick={() => match(['size', 'heading', 'phase'])}>
          All
        </Button>
      </Box>
    </Section>
  );
}
