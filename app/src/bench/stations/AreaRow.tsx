import { Box, Button, MenuItem, TextField, Tooltip, Typography } from '@mui/material';
import { NumberRow } from '../../fields/NumberRow.tsx';
import { useBench } from '../../store/bench.ts';
import { usePacking } from '../packing.ts';

type Area = NonNullable<ReturnType<typeof usePacking.getState>['area']>;

const clamped = (x: number) => Math.max(0, Math.min(1, x));

/** The box round the selected islands on the sheet; null where none has a place there. */
function roundSelected(): Area | null {
  const { summary, layout, sheetParts } = useBench.getState();
  if (!summary || !layout) return null;
  const { kind, ids, also = [] } = summary.selection;
  const own = kind === 'islands' ? [...ids] : kind === 'faces' ? [...new Set(Array.from(ids, (f) => layout.faceIsland[f]!))] : [];
  const others = also.flatMap(({ part, ids: list }) => Array.from(list, (k) => sheetParts.get(part)?.islands[k]));
  const boxes = [...own.map((k) => layout.islands[k]), ...others].filter((box) => box !== undefined).filter(({ unplaced }) => !unplaced);
  if (boxes.length === 0) return null;
  const sides = (of: (box: (typeof boxes)[number]) => number, pick: (...values: number[]) => number) => clamped(pick(...boxes.map(of)));
  return [
    sides(({ u, width }) => u - width / 2, Math.min),
    sides(({ v, height }) => v - height / 2, Math.min),
    sides(({ u, width }) => u + width / 2, Math.max),
    sides(({ v, height }) => v + height / 2, Math.max),
  ];
}

/** Where on the sheet packing puts islands: all of it, or a rectangle in px. */
export function AreaRow() {
  const area = usePacking((s) => s.area);
  const { width, height } = useBench((s) => s.summary!.settings);
  const { notice } = useBench.getState();
  const px =
    area &&
    ([area[0] * width, area[1] * height, (area[2] - area[0]) * width, (area[3] - area[1]) * height].map(Math.round) as [number, number, number, number]);
  const change = ([left, bottom, wide, tall]: readonly number[]) => {
    const [x, y] = [clamped(left! / width), clamped(bottom! / height)];
    const next: Area = [x, y, clamped(x + Math.max(4, wide!) / width), clamped(y + Math.max(4, tall!) / height)];
    if (next[2] > next[0] && next[3] > next[1]) usePacking.setState({ area: next });
    else notice('The rectangle has to begin on the sheet.', 'info');
  };
  return (
    <>
      <TextField
        select
        fullWidth
        label="Into"
        value={area ? 'rectangle' : 'sheet'}
        onChange={(event) => usePacking.setState({ area: event.target.value === 'sheet' ? null : [0, 0, 0.5, 0.5] })}
      >
        <MenuItem value="sheet">The whole sheet</MenuItem>
        <MenuItem value="rectangle">A rectangle of it</MenuItem>
      </TextField>
      {px && (
        <>
          <NumberRow
            labels={['Left, px', 'Bottom, px']}
            values={[px[0], px[1]]}
            old={[px[0], px[1]]}
            min={0}
            max={16384}
            step={8}
            onChange={([x, y]) => change([x, y, px[2], px[3]])}
          />
          <NumberRow
            labels={['Wide, px', 'High, px']}
            values={[px[2], px[3]]}
            old={[px[2], px[3]]}
            min={4}
            max={16384}
            step={8}
            onChange={([w, h]) => change([px[0], px[1], w, h])}
          />
          <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
            <Tooltip title="The box round the selected islands as they lie now">
              <Button
                size="small"
                variant="outlined"
                sx={{ flex: 'none' }}
                onClick={() => {
                  const found = roundSelected();
                  if (found) usePacking.setState({ area: found });
                  else notice('Select islands that have a place on the sheet first.', 'info');
                }}
              >
                Round the selected
              </Button>
            </Tooltip>
            <Typography variant="caption" color="text.secondary">
              What does not move stays, also in it.
            </Typography>
          </Box>
        </>
      )}
    </>
  );
}
