import { overlays } from '../../theme/palette.ts';
import { Box, Button, FormControlLabel, MenuItem, Switch, TextField, ToggleButton, ToggleButtonGroup, Tooltip, Typography } from '@mui/material';
import { later } from '../../later.tsx';
import PenIcon from '@mui/icons-material/DrawOutlined';
import { selectedCount, islandTint } from '@jig-peel/core';
import { useKeyOf, useWithKey } from '../../keys/keyTable.ts';
import { useBench, type BenchState } from '../../store/bench.ts';
import { useJob } from '../../store/useJob.ts';
import { run } from '../../worker/client.ts';
import type { IslandView } from '../../session/messages.ts';
import { runCommand, unwrapNow } from '../commands/index.ts';
import { Card } from './Card.tsx';

const JoinCard = later(async () => ({ default: (await import('./JoinCard.tsx')).JoinCard }));
const PinsCard = later(async () => ({ default: (await import('./PinsCard.tsx')).PinsCard }));
const CareRow = later(() => import('./CareRow.tsx'));
const Proposals = later(() => import('./Proposals.tsx'));
const SeamFigures = later(async () => ({ default: (await import('./SeamFigures.tsx')).SeamFigures }));

/** Cut, uncut, pen, proposals; unwrap; join, pins; the pieces and which of them cannot lie flat. */
export function SeamsPanel() {
  const { settings } = useJob('settings');
  const selectedOf = (kind: 'edges' | 'islands') => (s: BenchState) => (s.summary?.selection.kind === kind ? selectedCount(s.summary.selection) : 0);
  const edges = useBench(selectedOf('edges'));
  const chosen = useBench(selectedOf('islands'));
  const layout = useBench((s) => s.layout);
  const tool = useBench((s) => s.tool);
  const progress = useBench((s) => s.progress);
  const cutKey = useKeyOf('cut');
  const uncutKey = useKeyOf('uncut');
  const cutWords = useWithKey('Make the selected edges seams', 'cut');
  const uncutWords = useWithKey('Make the selected seams whole', 'uncut');
  const bare = layout?.allUnplaced ?? false;
  return (
    <>
      <Card>
        {bare ? (
          <Button variant="contained" fullWidth disabled={progress !== null} onClick={() => runCommand('main')}>
            Make a first layout
          </Button>
        ) : (
          <Button variant="contained" fullWidth disabled={progress !== null} onClick={() => void unwrapNow()}>
            {chosen > 0 ? `Unwrap ${chosen} selected` : 'Unwrap all islands'}
          </Button>
        )}
        <ToggleButtonGroup
          exclusive
          fullWidth
          size="small"
          value={settings.method}
          aria-label="What unwrapping keeps"
          onChange={(_, method: string | null) => method && void run('settings', { method })}
        >
          <ToggleButton value="isometric">
            <Tooltip title="Symmetric Dirichlet: lengths, areas and angles together change least, and no triangle turns over">
              <span>Least stretch</span>
            </Tooltip>
          </ToggleButton>
          <ToggleButton value="rigid">
            <Tooltip title="As-rigid-as-possible: lengths and areas change least">
              <span>Keep shapes</span>
            </Tooltip>
          </ToggleButton>
          <ToggleButton value="conformal">
            <Tooltip title="Conformal: angles stay, sizes may change">
              <span>Keep angles</span>
            </Tooltip>
          </ToggleButton>
        </ToggleButtonGroup>
        <FormControlLabel
          control={<Switch checked={settings.live} onChange={(event) => void run('settings', { live: event.target.checked })} />}
          label="Unwrap as I cut"
          slotProps={{ typography: { variant: 'body2' } }}
        />
        <Tooltip
          title={
            settings.method === 'isometric'
              ? 'An island that would lie over itself is held apart, at the price of a little stretch'
              : 'An island that would lie over itself is laid by least stretch instead, which holds it apart'
          }
        >
          <FormControlLabel
            control={<Switch checked={settings.apart} onChange={(event) => void run('settings', { apart: event.target.checked })} />}
            label="No island over itself"
            slotProps={{ typography: { variant: 'body2' } }}
          />
        </Tooltip>
        {settings.method === 'isometric' && !bare && <CareRow />}
      </Card>
      <Card title="Seams">
        <Box sx={{ display: 'flex', gap: 1 }}>
          <Tooltip title={edges > 0 ? cutWords : 'Select edges first: click one, double click for its loop'}>
            <Box component="span" sx={{ flex: 1 }}>
              <Button fullWidth variant="outlined" disabled={edges === 0} onClick={() => runCommand('cut')}>
                Cut
              </Button>
            </Box>
          </Tooltip>
          <Tooltip title={edges > 0 ? uncutWords : 'Select seams first'}>
            <Box component="span" sx={{ flex: 1 }}>
              <Button fullWidth variant="outlined" disabled={edges === 0} onClick={() => runCommand('uncut')}>
                Uncut
              </Button>
            </Box>
          </Tooltip>
        </Box>
        <Button
          fullWidth
          variant={tool === 'pen' ? 'contained' : 'outlined'}
          aria-pressed={tool === 'pen'}
          startIcon={<PenIcon />}
          onClick={() => runCommand('pen')}
        >
          Seam pen
        </Button>
        <Typography variant="caption" color="text.secondary">
          {tool === 'pen'
            ? 'Draw over the model: the seam clings to the edges under the stroke, creases first. Hold Ctrl to make seams whole.'
            : edges > 0
              ? `${edges} ${edges === 1 ? 'edge' : 'edges'} selected${cutKey ? `: ${cutKey} cuts` : ''}${uncutKey ? `${cutKey ? ',' : ':'} ${uncutKey} makes whole` : ''}.`
              : 'Click edges on the model or the sheet, then cut; or draw with the pen.'}
        </Typography>
        <TextField
          select
          fullWidth
          size="small"
          label="Mirrored across"
          value={settings.mirror}
          onChange={(event) => void run('settings', { mirror: event.target.value })}
        >
          <MenuItem value="off">off</MenuItem>
          {(['x', 'y', 'z'] as const).map((axis) => (
            <MenuItem key={axis} value={axis}>
              {axis}: cuts and pins on both sides
            </MenuItem>
          ))}
        </TextField>
        <SeamFigures />
      </Card>
      <Proposals />
      <JoinCard />
      <PinsCard />
      {layout && <Pieces islands={layout.islands} />}
    </>
  );
}

const shortWords: Record<IslandView['shape'], string> = {
  disk: '',
  ring: 'a ring: lies flat with a hole; cut from hole to rim to open it',
  closed: 'closed all round: cut it open first',
  handle: 'has a handle: cut round or along it first',
};

/** The pieces as they form, those that cannot lie flat first. */
function Pieces({ islands }: { islands: IslandView[] }) {
  const kind = useBench((s) => s.summary!.selection.kind);
  const ids = useBench((s) => s.summary!.selection.ids);
  const order = islands.map((island, k) => ({ island, k })).sort((a, b) => rank(a.island) - rank(b.island) || b.island.faces - a.island.faces);
  const stuck = islands.filter((island) => rank(island) === 0).length;
  const shown = order.slice(0, 60);
  return (
    <Card title={`${islands.length.toLocaleString('en')} ${islands.length === 1 ? 'piece' : 'pieces'}${stuck > 0 ? `, ${stuck} cannot lie flat` : ''}`}>
      {stuck > 0 && (
        <Button
          variant="outlined"
          fullWidth
          onClick={() => void run('open', { islands: islands.flatMap((island, k) => (rank(island) === 0 ? [k] : [])) }, true)}
        >
          {stuck === 1 ? 'Open it along a short, hidden cut' : 'Open them along short, hidden cuts'}
        </Button>
      )}
      <Box component="ul" sx={{ listStyle: 'none', m: 0, p: 0 }}>
        {shown.map(({ island, k }) => {
          const on = kind === 'islands' && ids.includes(k);
          return (
            <Box component="li" key={k}>
              <Box
                component="button"
                aria-pressed={on}
                onClick={(event) => void run('select', { kind: 'islands', ids: event.shiftKey ? [...(kind === 'islands' ? ids : []), k] : [k] })}
                onMouseEnter={() => useBench.getState().set({ kind: 'islands', hover: { view: 'sheet', face: -1, edge: -1, point: -1, island: k } })}
                onMouseLeave={() => useBench.getState().set({ hover: null })}
                sx={{
                  width: '100%',
                  display: 'flex',
                  alignItems: 'center',
                  gap: 1,
                  border: 0,
                  bgcolor: on ? 'action.selected' : 'transparent',
                  color: 'text.primary',
                  font: 'inherit',
                  fontSize: 12.5,
                  textAlign: 'left',
                  py: 0.4,
                  px: 0.5,
                  borderRadius: 1,
                  cursor: 'pointer',
                  '&:hover': { bgcolor: 'action.hover' },
                }}
              >
                <Box
                  sx={{
                    width: 22,
                    height: 18,
                    flex: 'none',
                    borderRadius: 0.5,
                    border: `1px solid ${overlays.selectedEdge}`,
                    bgcolor: `rgb(${islandTint(k).join()})`,
                    color: overlays.selectedEdge,
                    fontWeight: 700,
                    fontSize: 11,
                    display: 'grid',
                    placeItems: 'center',
                  }}
                >
                  {island.letter}
                </Box>
                <Box sx={{ flex: 1 }}>
                  {island.faces.toLocaleString('en')} {island.faces === 1 ? 'face' : 'faces'}
                  {island.shape !== 'disk' && (
                    <Typography variant="caption" component="div" color={rank(island) === 0 ? 'error' : 'text.secondary'}>
                      {shortWords[island.shape]}
                    </Typography>
                  )}
                </Box>
                {island.unplaced && rank(island) !== 0 && (
                  <Typography variant="caption" color="text.secondary">
                    not laid yet
                  </Typography>
                )}
              </Box>
            </Box>
          );
        })}
      </Box>
      {order.length > shown.length && <Typography variant="caption">and {order.length - shown.length} smaller ones</Typography>}
    </Card>
  );
}

const rank = (island: IslandView) => (island.shape === 'closed' || island.shape === 'handle' ? 0 : island.shape === 'ring' ? 1 : 2);
