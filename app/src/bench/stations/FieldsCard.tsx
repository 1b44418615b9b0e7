import { Box, Button, MenuItem, TextField, Tooltip, Typography } from '@mui/material';
import { useEffect } from 'react';
import { NumberField } from '../../fields/NumberField.tsx';
import { useBench } from '../../store/bench.ts';
import { useJob } from '../../store/useJob.ts';
import { selectedCount } from '@jig-peel/core';
import { dropFields, placeOnFields, takeAlpha, takeGrid, useFielding } from '../hands/fielding.ts';
import { Card } from './Card.tsx';

const twoColumns = { display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 0.75 };

/** Islands on the fields of a finished picture. */
export function FieldsCard() {
  const { fields, columns, rows, fit, order, unused } = useFielding();
  const { selection, parts, activePart } = useJob('selection', 'parts', 'activePart');
  const kind = useBench((s) => s.kind);
  const tool = useBench((s) => s.tool);
  const hasPicture = (parts.find((part) => part.id === activePart)?.imageId ?? null) !== null;
  const count = kind === 'parts' ? 0 : selectedCount(selection);
  useEffect(() => dropFields, []);
  const draw = () => {
    const { set, setLook, look } = useBench.getState();
    set({ tool: tool === 'field' ? 'select' : 'field' });
    // the picture is drawn over, so it has to be seen
    if (tool !== 'field' && hasPicture && look.under === 'nothing') setLook({ under: 'picture' });
  };
  return (
    <Card title="Fields of a picture" folds="closed">
      <Box sx={twoColumns}>
        <NumberField bare whole label="Columns" value={columns} min={1} max={64} onChange={(n) => useFielding.setState({ columns: n })} />
        <NumberField bare whole label="Rows" value={rows} min={1} max={64} onChange={(n) => useFielding.setState({ rows: n })} />
        <Button size="small" variant="outlined" onClick={takeGrid}>
          As a grid
        </Button>
        <Tooltip title={hasPicture ? 'Each opaque piece of the part’s picture is a field' : 'The part shows no picture: drop one on a view'}>
          <span>
            <Button size="small" variant="outlined" fullWidth disabled={!hasPicture} onClick={() => void takeAlpha()}>
              By its alpha
            </Button>
          </span>
        </Tooltip>
      </Box>
      <Button size="small" variant={tool === 'field' ? 'contained' : 'outlined'} aria-pressed={tool === 'field'} onClick={draw}>
        Draw them on the sheet
      </Button>
      {!fields || fields.length === 0 ? (
        <Typography variant="caption" color="text.secondary">
          {hasPicture
            ? 'Find or draw the fields of the picture, then put islands on them.'
            : 'A grid of fields, drawn ones, or those of a picture with alpha: drop one on a view.'}
        </Typography>
      ) : (
        <>
          <Typography variant="body2" role="status">
            {fields.length} {fields.length === 1 ? 'field' : 'fields'}
            {unused.size > 0 ? `, ${unused.size} unused` : ''}, dashed on the sheet.
          </Typography>
          <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1 }}>
            <TextField select label="Islands" value={fit} onChange={(event) => useFielding.setState({ fit: event.target.value as typeof fit })}>
              <MenuItem value="proportion">in proportion</MenuItem>
              <MenuItem value="fill">fill the field</MenuItem>
            </TextField>
            <TextField select label="Order" value={order} onChange={(event) => useFielding.setState({ order: event.target.value as typeof order })}>
              <MenuItem value="neighbours">by neighbours</MenuItem>
              <MenuItem value="picture" disabled={!hasPicture}>
                by the picture’s colours
              </MenuItem>
              <MenuItem value="reading">as they read</MenuItem>
            </TextField>
          </Box>
          <Box sx={twoColumns}>
            <Button size="small" variant="contained" onClick={() => void placeOnFields()}>
              {count > 0 ? 'Put the selected' : 'Put all on them'}
            </Button>
            <Button size="small" onClick={dropFields}>
              Drop the fields
            </Button>
          </Box>
          <Typography variant="caption" color="text.secondary">
            They are locked then: packing goes round them.
          </Typography>
        </>
      )}
    </Card>
  );
}
