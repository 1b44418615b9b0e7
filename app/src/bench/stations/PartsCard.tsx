import { selectedCount } from '@jig-peel/core';
import { Autocomplete, Box, Button, Collapse, IconButton, ListItemText, Menu, MenuItem, TextField, Tooltip, Typography } from '@mui/material';
import MoreIcon from '@mui/icons-material/MoreVert';
import OpenIcon from '@mui/icons-material/ChevronRight';
import HiddenIcon from '@mui/icons-material/VisibilityOffOutlined';
import SeenIcon from '@mui/icons-material/VisibilityOutlined';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useMemo, useRef, useState } from 'react';
import { NameField } from '../../fields/NameField.tsx';
import { useBench } from '../../store/bench.ts';
import { useJob } from '../../store/useJob.ts';
import type { JobSummary } from '../../session/messages.ts';
import { run } from '../../worker/client.ts';
import { Card } from './Card.tsx';

type PartRow = JobSummary['parts'][number];
type Row = { kind: 'part'; part: PartRow } | { kind: 'group' | 'material'; part: PartRow; name: string };

const rowHeight = 30;
const mostRows = 10;

/**
 * Parts with their groups and materials as a tree: a click works on it or selects its faces, the eye hides it, the menu renames, shows it alone or
 * takes it out. A hundred parts stay usable: only the rows in sight are drawn.
 */
export function PartsCard() {
  const summary = useJob('id', 'parts', 'activePart');
  const [open, setOpen] = useState<ReadonlySet<string>>(() => new Set(summary.parts.length === 1 ? [summary.activePart] : []));
  const [renaming, setRenaming] = useState<Row | null>(null);
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useMemo(
    () =>
      summary.parts.flatMap((part): Row[] => [
        { kind: 'part', part },
        ...(open.has(part.id)
          ? [...part.groups.map((name): Row => ({ kind: 'group', part, name })), ...part.materials.map((name): Row => ({ kind: 'material', part, name }))]
          : []),
      ]),
    [summary.parts, open],
  );
  const list = useVirtualizer({ count: rows.length, getScrollElement: () => scroller.current, estimateSize: () => rowHeight, overscan: 6 });
  const at = summary.parts.findIndex((part) => part.id === summary.activePart);
  const row = rows.findIndex((r) => r.kind === 'part' && r.part.id === summary.activePart);
  useEffect(() => {
    if (row >= 0) list.scrollToIndex(row, { align: 'auto' });
    // the part at work comes into sight when it changes, not when rows open
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [at]);
  const away = summary.parts.filter((part) => part.isHidden).length;
  const many = summary.parts.length > 1;
  const toggle = (id: string) => setOpen((now) => new Set(now.has(id) ? [...now].filter((x) => x !== id) : [...now, id]));
  const same = (a: Row | null, b: Row) =>
    a !== null && a.kind === b.kind && a.part.id === b.part.id && (a.kind === 'part' || (b.kind !== 'part' && a.name === b.name));
  return (
    <Card title={many ? `${summary.parts.length} parts` : 'Part'}>
      <Box
        ref={scroller}
        role="tree"
        aria-label="Parts, groups and materials"
        sx={{ height: Math.min(rows.length, mostRows) * rowHeight + 2, overflow: 'auto', mx: -0.5 }}
      >
        <Box sx={{ height: list.getTotalSize(), position: 'relative' }}>
          {list.getVirtualItems().map((item) => {
            const r = rows[item.index]!;
            return (
              <Box key={item.key} sx={{ position: 'absolute', top: item.start, left: 0, right: 0, height: rowHeight }}>
                {same(renaming, r) ? (
                  <Rename row={r} onDone={() => setRenaming(null)} />
                ) : (
                  <TreeRow
                    row={r}
                    active={r.kind === 'part' && r.part.id === summary.activePart}
                    open={open.has(r.part.id)}
                    many={many}
                    onToggle={() => toggle(r.part.id)}
                    onRename={() => setRenaming(r)}
                  />
                )}
              </Box>
            );
          })}
        </Box>
      </Box>
      {away > 0 && (
        <Button size="small" variant="outlined" onClick={() => void run('hideParts', { what: 'all' })}>
          Show all parts ({away} hidden)
        </Button>
      )}
      <NameField
        key={summary.activePart}
        label="Name of the part"
        value={summary.parts[at]!.name}
        change={{ job: summary.id, operation: 'renamePart', params: { part: summary.activePart }, field: 'name' }}
      />
      <GiveMaterial />
    </Card>
  );
}

function Rename({ row, onDone }: { row: Row; onDone: () => void }) {
  const job = useBench((s) => s.summary!.id);
  const { id } = row.part;
  return (
    <NameField
      autoFocus
      bare
      label={`Name of the ${row.kind}`}
      value={row.kind === 'part' ? row.part.name : row.name}
      change={
        row.kind === 'part'
          ? { job, operation: 'renamePart', params: { part: id }, field: 'name' }
          : { job, operation: 'renameNamed', params: { part: id, what: row.kind, name: row.name }, field: 'to' }
      }
      onDone={onDone}
    />
  );
}

interface RowProps {
  row: Row;
  active: boolean;
  open: boolean;
  many: boolean;
  onToggle: () => void;
  onRename: () => void;
}

function TreeRow({ row, active, open, many, onToggle, onRename }: RowProps) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const { part } = row;
  const name = row.kind === 'part' ? part.name : row.name;
  const inner = part.groups.length + part.materials.length > 0;
  const hidden = row.kind === 'part' && part.isHidden;
  const choose = () => {
    if (row.kind === 'part') {
      if (active) useBench.getState().frame();
      else void run('activatePart', { part: part.id });
    } else void run('selectNamed', { part: part.id, what: row.kind, name: row.name }).then(() => useBench.getState().set({ kind: 'faces' }));
  };
  const hide = (how: 'hide' | 'only' | 'show') =>
    row.kind === 'part' ? run('hideParts', { what: how, parts: [part.id] }) : run('hideNamed', { part: part.id, what: row.kind, name: row.name, how });
  const about =
    row.kind === 'part'
      ? `${part.faces.toLocaleString('en')}${part.unplaced === part.faces ? ' · no UVs' : part.unplaced > 0 ? ` · ${part.unplaced.toLocaleString('en')} bare` : ''}`
      : row.kind;
  return (
    <Box
      role="treeitem"
      aria-level={row.kind === 'part' ? 1 : 2}
      aria-selected={active}
      aria-expanded={row.kind === 'part' && inner ? open : undefined}
      sx={{
        display: 'flex',
        alignItems: 'center',
        height: rowHeight,
        borderRadius: 1,
        bgcolor: active ? 'action.selected' : 'transparent',
        opacity: hidden ? 0.75 : 1,
        '&:hover': { bgcolor: active ? 'action.selected' : 'action.hover' },
      }}
    >
      {row.kind === 'part' && inner ? (
        <IconButton size="small" aria-label={`${open ? 'Close' : 'Open'} ${name}`} onClick={onToggle} sx={{ p: 0.25 }}>
          <OpenIcon sx={{ fontSize: 17, transform: open ? 'rotate(90deg)' : 'none' }} />
        </IconButton>
      ) : (
        <Box sx={{ width: row.kind === 'part' ? 21 : 34, flex: 'none' }} />
      )}
      <Tooltip
        describeChild
        title={row.kind === 'part' ? (active ? 'The part at work: bring it into view' : 'Work on this part') : `Select the faces of this ${row.kind}`}
      >
        <Box
          component="button"
          onClick={choose}
          sx={{
            flex: 1,
            minWidth: 0,
            display: 'flex',
            gap: 0.75,
            alignItems: 'baseline',
            border: 0,
            background: 'none',
            p: 0,
            font: 'inherit',
            color: 'inherit',
            textAlign: 'left',
            cursor: 'pointer',
          }}
        >
          <Box component="span" sx={{ position: 'absolute', width: 1, height: 1, overflow: 'hidden', clipPath: 'inset(50%)' }}>
            {row.kind === 'part' ? 'Work on ' : `Select the ${row.kind} `}
          </Box>
          <Typography noWrap variant="body2" component="span" sx={{ fontWeight: active ? 700 : 500 }}>
            {name}
          </Typography>
          <Typography noWrap variant="caption" component="span" color="text.secondary">
            {hidden ? 'hidden' : about}
          </Typography>
        </Box>
      </Tooltip>
      {(row.kind !== 'part' || many) && (
        <Tooltip title={hidden ? 'Show' : 'Hide'}>
          <IconButton size="small" aria-label={`${hidden ? 'Show' : 'Hide'} ${name}`} onClick={() => void hide(hidden ? 'show' : 'hide')} sx={{ p: 0.4 }}>
            {hidden ? <HiddenIcon sx={{ fontSize: 16 }} /> : <SeenIcon sx={{ fontSize: 16 }} />}
          </IconButton>
        </Tooltip>
      )}
      <IconButton size="small" aria-label={`More for ${name}`} aria-haspopup="menu" onClick={(event) => setAnchor(event.currentTarget)} sx={{ p: 0.4 }}>
        <MoreIcon sx={{ fontSize: 16 }} />
      </IconButton>
      <Menu transitionDuration={0} disableRestoreFocus anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)} onClick={() => setAnchor(null)}>
        <MenuItem dense onClick={onRename}>
          Rename
        </MenuItem>
        {(row.kind !== 'part' || many) && (
          <MenuItem dense onClick={() => void hide('only')}>
            Show only this
          </MenuItem>
        )}
        {row.kind !== 'part' && (
          <MenuItem dense onClick={() => void hide('show')}>
            Show again
          </MenuItem>
        )}
        {row.kind === 'part' && part.materials.length > 1 && (
          <MenuItem dense onClick={() => void run('splitParts', { parts: [part.id] }, true)}>
            <ListItemText primary="A part for each material" secondary="each on a sheet of its own; files have the whole" />
          </MenuItem>
        )}
        {row.kind === 'part' && part.groups.length > 1 && (
          <MenuItem dense onClick={() => void run('splitParts', { parts: [part.id], by: 'group', sheets: false }, true)}>
            <ListItemText primary="A part for each group" secondary="files have the whole" />
          </MenuItem>
        )}
        {row.kind === 'part' && part.piece !== null && (
          <MenuItem dense onClick={() => void run('rejoinParts', { parts: [part.id] }, true)}>
            <ListItemText primary="Put together again" secondary={`with the rest of ${part.piece}`} />
          </MenuItem>
        )}
        {row.kind === 'part' && many && (
          <MenuItem dense onClick={() => void run('removeParts', { parts: [part.id] }, true)}>
            <ListItemText primary="Take out of the job" secondary="undo brings it back" />
          </MenuItem>
        )}
      </Menu>
    </Box>
  );
}

/** Gives the selected faces to a material by name; absent unless faces are selected. */
function GiveMaterial() {
  const selection = useBench((s) => s.summary?.selection);
  const names = useBench((s) => s.summary!.parts.find((part) => part.id === s.summary!.activePart)!.materials);
  const [naming, setNaming] = useState(false);
  const [material, setMaterial] = useState('');
  const count = selection?.kind === 'faces' ? selectedCount(selection) : 0;
  if (count === 0) return null;
  const give = () => {
    if (!material.trim()) return;
    setNaming(false);
    void run('assignMaterial', { material: material.trim() }, true);
  };
  return (
    <>
      <Button
        size="small"
        variant="outlined"
        aria-expanded={naming}
        onClick={() => {
          setMaterial(names[0] ?? 'material 1');
          setNaming(!naming);
        }}
      >
        Give {count.toLocaleString('en')} selected {count === 1 ? 'face' : 'faces'} to a material
      </Button>
      <Collapse in={naming} unmountOnExit>
        <Box sx={{ display: 'flex', gap: 1 }}>
          <Autocomplete
            freeSolo
            fullWidth
            size="small"
            options={names}
            inputValue={material}
            onInputChange={(_, text) => setMaterial(text)}
            renderInput={(props) => <TextField {...props} label="Material, present or new" onKeyDown={(event) => event.key === 'Enter' && give()} />}
          />
          <Button variant="contained" onClick={give} disabled={!material.trim()}>
            Give
          </Button>
        </Box>
      </Collapse>
    </>
  );
}
