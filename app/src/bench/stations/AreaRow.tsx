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
  const others = (kind === 'islands' ? also : []).flatMap(({ part, ids: list }) => Array.from(list, (k) => sheetParts.get(part)?.islands[k]));
  const boxes = [...own.map((k) => layout.islands[k]), ...others].filter((box) => box !== undefined).filter(({ unplaced }) => !unplaced);
  if (boxes.length === 0) return null;
  const sides = (of: (box: (typeof boxes)[number]) => number, pick: (...values: number[]) => number) => clamped(pick(...boxes.map(of)));
  return [
    sides(({ left }) => left, Math.min),
    sides(({ bottom }) => bottom, Math.min),
    sides(({ left, width }) => left + width, Math.max),
    sides(({ bottom, height }) => bottom + height, Math.max),
  ];
}

/** Where on the sheet packing puts islands: all of it, a rectangle in px, or a polygon that is drawn. */
export function AreaRow() {
  const area = usePacking((s) => s.area);
  const polygon = usePacking((s) => s.polygon);
  const isDrawn = usePacking((s) => s.isDrawn);
  const tool = useBench((s) => s.tool);
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
        value={polygon ? 'polygon' : area ? 'rectangle' : 'sheet'}
        onChange={({ target: { value } }) => {
          usePacking.setState({
            area: value === 'rectangle' ? [0, 0, 0.5, 0.5] : null,
            polygon: value === 'polygon' ? [] : null,
            isDrawn: value === 'polygon',
          });
          // whatever else is in hand stays there
          if (value === 'polygon' || tool === 'area') useBench.getState().set({ tool: value === 'polygon' ? 'area' : 'select' });
        }}
      >
        <MenuItem value="sheet">The whole sheet</MenuItem>
        <MenuItem value="rectangle">A rectangle of it</MenuItem>
        <MenuItem value="polygon">A polygon of it</MenuItem>
      </TextField>
      {polygon && (
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
          <Button
            size="small"
            variant={tool === 'area' ? 'contained' : 'outlined'}
            aria-pressed={tool === 'area'}
            sx={{ flex: 'none' }}
            onClick={() => useBench.getState().set({ tool: tool === 'area' ? 'select' : 'area' })}
          >
            {isDrawn ? 'Draw it' : 'Move corners'}
          </Button>
          <Typography variant="caption" color="text.secondary" role="status">
            {isDrawn
              ? polygon.length === 0
                ? 'Click its corners on the sheet.'
                : `${polygon.length} ${polygon.length === 1 ? 'corner' : 'corners'}; the first one again closes it.`
              : `${polygon.length} corners. What does not move stays, also in it.`}
          </Typography>
        </Box>
      )}
      {polygon && polygon.length > 0 && (
        <Button
          size="small"
          onClick={() => {
            usePacking.setState({ polygon: [], isDrawn: true });
            useBench.getState().set({ tool: 'area' });
          }}
        >
          Draw another
        </Button>
      )}
      {px && !polygon && (
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
