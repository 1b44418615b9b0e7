import { Box, Button, ButtonBase, MenuItem, TextField, Typography } from '@mui/material';
import { useKeyOf } from '../../keys/keyTable.ts';
import { NumberField } from '../../fields/NumberField.tsx';
import { useBench } from '../../store/bench.ts';
import { selectedCount } from '@jig-peel/core';
import { dropWays, lookForWays, showWay, takeWay, useStraightening, type Ways } from '../hands/straightening.ts';
import { Card } from './Card.tsx';

const kept = { middle: 'Middle line', longer: 'Longer border', shorter: 'Shorter border', edges: 'Selected edges' } as const;

/** Strips become straight: the ways to do it with what each costs, the chosen one shown in the views before it is taken. */
export function StraightenCard() {
  const { ways, at, spacing, lay, length } = useStraightening();
  const key = useKeyOf('straighten');
  const count = useBench((s) => (s.summary && s.kind !== 'parts' ? selectedCount(s.summary.selection) : 0));
  const again = (patch: Partial<{ spacing: typeof spacing; lay: typeof lay }>) => {
    useStraightening.setState(patch);
    if (ways) void lookForWays();
  };
  return (
    <Card title="Straighten">
      {ways ? (
        <>
          <Typography variant="caption" color="text.secondary">
            Piece {ways.letter}: which line keeps its length. Both views show the chosen way; it is taken by the button or {key ?? 'its key'}.
          </Typography>
          <Box role="listbox" aria-label="Ways to straighten" sx={{ display: 'flex', flexDirection: 'column', gap: 0.5 }}>
            {ways.list.map((way, k) => (
              <Way key={`${way.keep} ${way.far}`} way={way} chosen={k === at} onChoose={() => showWay(k)} />
            ))}
          </Box>
          <NumberField
            label="Length of the kept line"
            unit="px"
            value={length ?? Number(ways.list[at]!.keptPx.toFixed(1))}
            old={Number(ways.list[at]!.keptPx.toFixed(1))}
            min={1}
            max={65536}
            onChange={(px) => showWay(at, px === Number(ways.list[at]!.keptPx.toFixed(1)) ? null : px)}
          />
          <Box sx={{ display: 'flex', gap: 1 }}>
            <Button variant="contained" fullWidth onClick={() => void takeWay()}>
              Straighten so
            </Button>
            <Button variant="outlined" onClick={() => dropWays()}>
              Leave it
            </Button>
          </Box>
        </>
      ) : (
        <>
          <Button variant="contained" fullWidth disabled={count === 0} onClick={() => void lookForWays()}>
            Straighten {key ? `(${key})` : ''}
          </Button>
          <Typography variant="caption" color="text.secondary">
            {count === 0
              ? 'Select strips, or a line of edges along one.'
              : 'Long pieces with four corners, and grids of quads of any outline; a closed band is opened first, branches follow the longest run.'}
          </Typography>
        </>
      )}
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 1 }}>
        <TextField select label="Lay it" value={lay} onChange={(event) => again({ lay: event.target.value as typeof lay })}>
          <MenuItem value="nearest">as nearest</MenuItem>
          <MenuItem value="level">level</MenuItem>
          <MenuItem value="upright">upright</MenuItem>
          <MenuItem value="asLies">as it lies</MenuItem>
        </TextField>
        <TextField select label="Rows of quads" value={spacing} onChange={(event) => again({ spacing: event.target.value as typeof spacing })}>
          <MenuItem value="lengths">by length</MenuItem>
          <MenuItem value="equal">all alike</MenuItem>
        </TextField>
      </Box>
    </Card>
  );
}

function Way({ way, chosen, onChoose }: { way: Ways['list'][number]; chosen: boolean; onChoose: () => void }) {
  const gains = way.borders.map(({ px, laidPx }) => `${laidPx >= px ? '+' : '−'}${Math.abs((laidPx / px - 1) * 100).toFixed(1)} %`);
  return (
    <ButtonBase
      role="option"
      aria-selected={chosen}
      onClick={onChoose}
      sx={{
        display: 'block',
        textAlign: 'left',
        border: chosen ? 2 : 1,
        borderColor: chosen ? 'primary.main' : 'divider',
        borderRadius: 1,
        px: chosen ? '7px' : 1,
        py: chosen ? '3px' : 0.5,
        '&.Mui-focusVisible': { outline: 2, outlineColor: 'primary.main', outlineOffset: 1 },
      }}
    >
      <Box sx={{ display: 'flex', justifyContent: 'space-between', gap: 1 }}>
        <Typography variant="body2" sx={{ fontWeight: chosen ? 700 : 500 }}>
          {kept[way.keep]}
          {way.far === 'free' ? ', the rest bends' : ''}
        </Typography>
        <Typography variant="figure">{way.flips > 0 ? `${way.flips} flipped` : way.energy.toFixed(3)}</Typography>
      </Box>
      <Typography variant="caption" color="text.secondary">
        {way.keptPx.toFixed(0)} px long{gains.length > 0 ? `; borders ${gains.join(' and ')}` : ''}
        {way.unfit > 0 ? `; ${way.unfit} ${way.unfit === 1 ? 'face fits' : 'faces fit'} no row` : ''}
        {way.follow > 0 ? `; branches of ${way.follow} faces follow` : ''}
      </Typography>
    </ButtonBase>
  );
}
