import { Alert, MenuItem, TextField } from '@mui/material';
import { jigKinds, jigWords, type JigKind } from '@jig-peel/core';
import { NameField } from '../../../fields/NameField.tsx';
import type { JigRow } from '../../../session/messages.ts';
import { useBench } from '../../../store/bench.ts';
import { changeKind, useJigs } from '../../jigs.ts';
import { Card } from '../Card.tsx';
import { JigForm } from './JigForm.tsx';
import { JigImage } from './JigImage.tsx';
import { JigLayers } from './JigLayers.tsx';
import { JigPlace } from './JigPlace.tsx';
import { JigPointer } from './JigPointer.tsx';
import { Matching } from './Matching.tsx';

/** The jig in hand: what its image does, where it stands, whom it matches. Every number takes arithmetic and can be put back. */
export function JigCard({ row }: { row: JigRow }) {
  const unit = useBench((s) => s.summary!.settings.unit);
  const old = useJigs((s) => s.old);
  const { jig } = row;
  const was = old[row.id] ?? jig;
  const units = unit === 'unit' ? 'units' : unit;
  const framed = jig.kind !== 'each-face';
  return (
    <Card title={`${row.name}: ${jigWords[jig.kind].toLowerCase()}`}>
      <NameField
        label="Name"
        value={row.name}
        change={{ job: useBench.getState().summary!.id, operation: 'changeJig', params: { id: row.id }, field: 'name' }}
      />
      <TextField
        select
        fullWidth
        label="Kind; the image keeps its size"
        value={jig.kind}
        onChange={(event) => void changeKind(row, event.target.value as JigKind)}
      >
        {jigKinds
          .filter((kind) => kind !== 'view' || jig.kind === 'view')
          .map((kind) => (
            <MenuItem key={kind} value={kind}>
              {jigWords[kind]}
            </MenuItem>
          ))}
      </TextField>
      {row.state !== 'live' && (
        <Alert severity="info" sx={{ py: 0 }}>
          It is {row.words}: changes here move no UVs until it is made live.
        </Alert>
      )}
      {framed && <JigPointer />}
      {framed && <JigImage row={row} was={was} units={units} />}
      <JigForm jig={jig} was={was} />
      {framed && <JigPlace row={row} was={was} units={units} />}
      {framed && row.state === 'live' && <Matching row={row} />}
      <JigLayers jig={row.id} />
    </Card>
  );
}
