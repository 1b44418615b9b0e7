import { Box, Button, List, ListItem, ListItemText, MenuItem, TextField, Tooltip, Typography } from '@mui/material';
import { useEffect } from 'react';
import { useShallow } from 'zustand/react/shallow';
import { NumberField } from '../../fields/NumberField.tsx';
import { Toggle } from '../../fields/Toggle.tsx';
import { useBench } from '../../store/bench.ts';
import { useJob } from '../../store/useJob.ts';
import { run } from '../../worker/client.ts';
import { selectedCount } from '@jig-peel/core';
import { findLike, selectGroup, stackLike, useLiking, watchLayouts, type LikeGroup } from '../hands/liking.ts';
import { Card } from './Card.tsx';

const twoColumns = { display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 0.75 };

/** Like islands are found, laid on one another, and taken apart. */
export function StacksCard() {
  const { by, tolerance, mirrored, groups } = useLiking(useShallow(({ by, tolerance, mirrored, groups }) => ({ by, tolerance, mirrored, groups })));
  const { stacks, settings, selection } = useJob('stacks', 'settings', 'selection');
  const kind = useBench((s) => s.kind);
  useEffect(watchLayouts, []);
  const count = kind === 'parts' ? 0 : selectedCount(selection);
  const isOne = count === 1 && selection.kind === 'islands';
  const set = (patch: Partial<{ by: typeof by; tolerance: number; mirrored: boolean }>) => useLiking.setState({ ...patch, groups: null });
  const stacked = stacks.reduce((sum, { islands }) => sum + islands.length, 0);
  return (
    <Card title="Like islands and stacks" folds="closed">
      <Box sx={twoColumns}>
        <TextField select label="Alike" value={by} onChange={(event) => set({ by: event.target.value as typeof by })}>
          <MenuItem value="shape">by shape</MenuItem>
          <MenuItem value="connections">by connections</MenuItem>
        </TextField>
        {by === 'shape' ? (
          <NumberField bare label="Within" unit="px" value={tolerance} min={0} max={64} step={0.5} onChange={(px) => set({ tolerance: px })} />
        ) : (
          <span />
        )}
      </Box>
      <Toggle label="Mirrored ones too" checked={mirrored} onChange={(on) => set({ mirrored: on })} />
      <Box sx={twoColumns}>
        <Button variant="outlined" size="small" onClick={() => void findLike()}>
          Find on the sheet
        </Button>
        <Tooltip title={isOne ? 'All islands of the sheet that are like the selected one come to it' : 'Like ones among the selected islands'}>
          <span>
            <Button variant="outlined" size="small" fullWidth disabled={count === 0} onClick={() => void stackLike('selected')}>
              {isOne ? 'Stack its like' : `Stack selected`}
            </Button>
          </span>
        </Tooltip>
      </Box>
      {groups && <Groups groups={groups} />}
      <Typography variant="caption" color="text.secondary">
        {stacks.length === 0
          ? 'Like islands laid on one another share their place on the picture. They move and pack as one and are no overlap.'
          : `${stacks.length} ${stacks.length === 1 ? 'stack' : 'stacks'}, ${stacked} islands.`}
      </Typography>
      {stacks.length > 0 && (
        <>
          <Box sx={twoColumns}>
            <Tooltip title="The selected islands leave their stack; the others stay">
              <span>
                <Button variant="outlined" size="small" fullWidth disabled={count === 0} onClick={() => void run('unstack', { only: true }, true)}>
                  Take out
                </Button>
              </span>
            </Tooltip>
            <Tooltip title={count === 0 ? 'Every stack of the sheet, its islands side by side' : 'The stacks of the selected islands, side by side'}>
              <span>
                <Button variant="outlined" size="small" fullWidth onClick={() => void run('unstack', { which: count === 0 ? 'sheet' : 'selected' }, true)}>
                  {count === 0 ? `Take all ${stacks.length} apart` : 'Take apart'}
                </Button>
              </span>
            </Tooltip>
          </Box>
          <Toggle label="What is done to one is done to all" checked={settings.stacksFollow} onChange={(on) => void run('settings', { stacksFollow: on })} />
        </>
      )}
    </Card>
  );
}

const mostShown = 40;

function Groups({ groups }: { groups: readonly LikeGroup[] }) {
  if (groups.length === 0)
    return (
      <Typography variant="body2" role="status">
        No two islands of the sheet are alike this way.
      </Typography>
    );
  const left = groups.filter(({ stacked }) => !stacked);
  return (
    <>
      <List dense disablePadding aria-label="Groups of like islands" sx={{ maxHeight: 210, overflow: 'auto' }}>
        {groups.slice(0, mostShown).map((group) => (
          <ListItem
            key={`${group.islands[0]!.part} ${group.islands[0]!.island}`}
            disableGutters
            disablePadding
            secondaryAction={
              <>
                <Button size="small" sx={{ minWidth: 0, px: 0.75 }} onClick={() => void selectGroup(group)}>
                  Select
                </Button>
                <Button
                  size="small"
                  sx={{ minWidth: 0, px: 0.75 }}
                  disabled={group.stacked}
                  onClick={() => void selectGroup(group).then(() => stackLike('selected'))}
                >
                  Stack
                </Button>
              </>
            }
          >
            <ListItemText
              primary={`${group.islands.length} × ${group.islands[0]!.letter}`}
              secondary={[
                `${group.faces} ${group.faces === 1 ? 'face' : 'faces'}`,
                group.mirrored > 0 ? `${group.mirrored} mirrored` : '',
                group.stacked ? 'stacked' : '',
              ]
                .filter(Boolean)
                .join(', ')}
              slotProps={{ primary: { variant: 'body2' }, secondary: { variant: 'caption' } }}
            />
          </ListItem>
        ))}
      </List>
      {groups.length > mostShown && <Typography variant="caption">and {groups.length - mostShown} more groups</Typography>}
      {left.length > 0 && (
        <Button variant="contained" size="small" onClick={() => void stackLike('sheet')}>
          Stack all {left.length === 1 ? 'of the group' : `${left.length} groups`}
        </Button>
      )}
    </>
  );
}

/** The layout of the part at work for others of the same topology. */
export function LikePartsCard() {
  const { parts, activePart } = useJob('parts', 'activePart');
  const mirrored = useLiking((s) => s.mirrored);
  const kept = useLiking((s) => s.edge);
  const remembered = parts.some(({ id }) => id === kept?.part) ? kept : null;
  const chosen = useBench((s) => s.summary!.selectedParts);
  const { kind, selection } = useBench(useShallow((b) => ({ kind: b.kind, selection: b.summary!.selection })));
  const own = parts.find((part) => part.id === activePart);
  if (parts.length < 2 || !own) return null;
  const edge = kind === 'edges' && selection.part === activePart && selection.ids.length === 1 ? selection.ids[0]! : null;
  // an edge of another part that is to lie on the selected one says which way is meant
  const paired = remembered && remembered.part !== activePart && edge !== null ? parts.find(({ id }) => id === remembered.part) : undefined;
  const from = paired ?? own;
  const to = paired ? [activePart] : chosen.filter((id) => id !== activePart);
  const copy = (how: 'stack' | 'beside') =>
    void run(
      'copyLayout',
      { from: from.id, how, mirrored, ...(to.length > 0 ? { to: [...to] } : {}), ...(paired ? { pair: [remembered!.edge, edge!] as [number, number] } : {}) },
      true,
    );
  const isBare = from.unplaced === from.faces;
  return (
    <Card title="Copy the layout to like parts" folds="closed">
      <Typography variant="body2">
        From <b>{from.name}</b> to{' '}
        {paired
          ? `${own.name}, its edge on the selected one`
          : to.length > 0
            ? `${to.length} selected ${to.length === 1 ? 'part' : 'parts'}`
            : 'every part of the same faces and edges'}
        .
      </Typography>
      <Toggle label="Mirrored ones too" checked={mirrored} onChange={(on) => useLiking.setState({ mirrored: on, groups: null })} />
      <Box sx={twoColumns}>
        {(
          [
            ['stack', 'On one another', 'They share their place on the picture'],
            ['beside', 'Side by side', 'Each has a place of its own'],
          ] as const
        ).map(([how, label, help]) => (
          <Tooltip key={how} title={isBare ? `${from.name} has no layout yet` : help}>
            <span>
              <Button variant="outlined" size="small" fullWidth disabled={isBare} onClick={() => copy(how)}>
                {label}
              </Button>
            </span>
          </Tooltip>
        ))}
      </Box>
      {isBare && (
        <Typography variant="caption" color="text.secondary">
          {from.name} has no layout yet: unwrap it first.
        </Typography>
      )}
      {!paired && (
        <Tooltip
          title={edge === null ? 'Select one edge first' : 'Then go to the other part, and select the edge that this one is to lie on'}
          placement="right"
        >
          <span>
            <Button size="small" disabled={edge === null} onClick={() => useLiking.setState({ edge: { part: activePart, edge: edge! } })}>
              Remember the selected edge
            </Button>
          </span>
        </Tooltip>
      )}
      <Typography variant="caption" color="text.secondary">
        {remembered && !paired
          ? `An edge of ${parts.find(({ id }) => id === remembered.part)!.name} is remembered: go to the other part and select the edge that it is to lie on.`
          : paired
            ? 'Of the ways that fit, the one is taken that lays these edges on one another.'
            : 'Where several ways fit, as on a box, one edge of each says which is meant.'}
      </Typography>
    </Card>
  );
}
