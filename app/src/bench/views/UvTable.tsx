import { Box, Button, FormControlLabel, IconButton, Paper, Switch, Tooltip, Typography } from '@mui/material';
import CloseIcon from '@mui/icons-material/Close';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useMemo, useRef, useState, type KeyboardEvent } from 'react';
import { evaluate } from '../../fields/arithmetic.ts';
import { monospaced } from '../../theme/theme.ts';
import { useBench } from '../../store/bench.ts';
import { run } from '../../worker/client.ts';
import { chosenCorners, facesOfCorners, rowCorners } from './uvRows.ts';

const rowHeight = 24;
/** The browser lets no element grow beyond some 33 million px. */
const mostRows = Math.floor(32_000_000 / rowHeight);
const columns = '1.1fr 1fr 1fr 1.3fr 1.3fr';
/** One style sheet for all rows: a style of its own for each row would be made again at every step of the wheel. */
const rowStyles = {
  position: 'relative',
  '& [role="row"]': {
    position: 'absolute',
    left: 0,
    right: 0,
    height: rowHeight,
    contain: 'strict',
    display: 'grid',
    gridTemplateColumns: columns,
    alignItems: 'center',
    px: 1,
    cursor: 'pointer',
    fontFamily: monospaced,
    textAlign: 'right',
  },
  '& [role="row"]:hover': { bgcolor: 'action.hover' },
  '& [role="row"][aria-selected="true"]': { bgcolor: 'action.selected' },
  '& [data-here]': { boxShadow: 'inset 2px 0 0 currentColor' },
  '& [data-bare]': { color: 'text.secondary' },
} as const;
const figure = (x: number) => String(Math.round(x * 1e6) / 1e6);

/**
 * UV values of every corner: only the rows in sight are drawn. A click on a row selects its point in the views; what is selected there is
 * marked here. Values take arithmetic.
 */
export default function UvTable() {
  const geometry = useBench((s) => s.geometry);
  const layout = useBench((s) => s.layout);
  const selection = useBench((s) => s.summary?.selection);
  const also = (selection?.also ?? []).length > 0;
  const set = useBench((s) => s.set);
  const [only, setOnly] = useState(false);
  const [editing, setEditing] = useState<{ corner: number; column: 'u' | 'v' } | null>(null);
  const [focus, setFocus] = useState(0);
  const scroller = useRef<HTMLDivElement>(null);
  const anchor = useRef(0);
  const here = useRef(false);
  const chosen = useMemo(
    () => (geometry && layout && selection ? chosenCorners(geometry, layout, selection) : new Uint8Array(0)),
    [geometry, layout, selection],
  );
  const faceOf = useMemo(() => (geometry ? facesOfCorners(geometry) : new Uint32Array(0)), [geometry]);
  const rows = useMemo(() => rowCorners(chosen, only), [chosen, only]);
  const count = Math.min(mostRows, rows ? rows.length : (geometry?.corners.length ?? 0));
  const cornerAt = (k: number) => (rows ? rows[k]! : k);
  const list = useVirtualizer({ count, getScrollElement: () => scroller.current, estimateSize: () => rowHeight, overscan: 4 });
  const { first, chosenCount } = useMemo(() => ({ first: chosen.indexOf(1), chosenCount: chosen.reduce((sum, x) => sum + x, 0) }), [chosen]);
  useEffect(() => {
    // a selection made in a view brings its first row into sight; one made here stays where it is
    if (!here.current && first >= 0 && !only) list.scrollToIndex(first, { align: 'center' });
    here.current = false;
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [selection, only]);
  if (!geometry || !layout) return null;

  const choose = (k: number, event: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) => {
    const isMore = event.shiftKey || event.ctrlKey || event.metaKey;
    const corners = new Set<number>();
    if (isMore && selection?.kind === 'points') chosen.forEach((on, c) => on && corners.add(c));
    const corner = cornerAt(k);
    const atPlace = (c: number) =>
      [...geometry.corners.keys()].filter(
        (d) =>
          geometry.corners[d] === geometry.corners[c] &&
          layout.cornerUv[d * 2] === layout.cornerUv[c * 2] &&
          layout.cornerUv[d * 2 + 1] === layout.cornerUv[c * 2 + 1],
      );
    if (event.shiftKey) {
      const [from, to] = [Math.min(anchor.current, k), Math.max(anchor.current, k)];
      for (let i = from; i <= to; i++) corners.add(cornerAt(i));
    } else {
      const ofPlace = atPlace(corner);
      const drop = (event.ctrlKey || event.metaKey) && corners.has(corner);
      for (const c of ofPlace) {
        if (drop) corners.delete(c);
        else corners.add(c);
      }
      anchor.current = k;
    }
    here.current = true;
    setFocus(k);
    set({ kind: 'points' });
    const ids = [...new Set([...corners].map((c) => geometry.corners[c]!))];
    const same = selection?.kind === 'points' && chosen.every((on, c) => (on === 1) === corners.has(c));
    if (!same) void run('select', { kind: 'points', ids, ...(ids.length > 0 ? { corners: [...corners] } : {}) });
  };
  const commit = (corner: number, column: 'u' | 'v', text: string) => {
    setEditing(null);
    const value = evaluate(text);
    if (value === null) {
      useBench.getState().notice(`“${text}” is no number: ${column} was left as it was.`, 'warning');
      return;
    }
    if (figure(value) === figure(layout.cornerUv[corner * 2 + (column === 'u' ? 0 : 1)]!)) return;
    here.current = true;
    void run('setUv', { corners: [corner], [column]: value });
  };
  const keys = (event: KeyboardEvent) => {
    if (editing) return;
    const by = { ArrowDown: 1, ArrowUp: -1, PageDown: 20, PageUp: -20, Home: -count, End: count }[event.key];
    if (by !== undefined) {
      event.preventDefault();
      event.stopPropagation();
      const next = Math.max(0, Math.min(count - 1, focus + by));
      setFocus(next);
      list.scrollToIndex(next, { align: 'auto' });
    } else if (event.key === 'Enter' || event.key === 'F2') {
      event.preventDefault();
      event.stopPropagation();
      if (!layout.unplaced[faceOf[cornerAt(focus)]!]) setEditing({ corner: cornerAt(focus), column: 'u' });
    } else if (event.key === ' ') {
      event.preventDefault();
      event.stopPropagation();
      choose(focus, event);
    }
  };
  return (
    <Paper
      data-chrome
      elevation={3}
      role="region"
      aria-label="UV table"
      onWheel={(event) => event.stopPropagation()}
      sx={{ position: 'absolute', left: 42, right: 8, bottom: 28, height: '46%', display: 'flex', flexDirection: 'column', cursor: 'default' }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, pl: 1.25, pr: 0.5, py: 0.25, borderBottom: 1, borderColor: 'divider' }}>
        <Typography variant="body2" sx={{ fontWeight: 650 }}>
          UV table
        </Typography>
        <Typography variant="caption" color="text.secondary" noWrap>
          {geometry.corners.length.toLocaleString('en')} corners{chosenCount > 0 ? `, ${chosenCount.toLocaleString('en')} selected` : ''}
          {also ? `${chosenCount > 0 ? '' : ', none selected'}, more selected of other parts` : ''}
          {(rows ? rows.length : geometry.corners.length) > mostRows ? `; the first ${mostRows.toLocaleString('en')} are listed` : ''}
        </Typography>
        <FormControlLabel
          sx={{ ml: 'auto', mr: 0 }}
          control={<Switch size="small" checked={only} onChange={(event) => setOnly(event.target.checked)} />}
          label={<Typography variant="caption">only the selected</Typography>}
        />
        <Tooltip title="Close the UV table">
          <IconButton size="small" aria-label="Close the table" onClick={() => set({ table: false })}>
            <CloseIcon sx={{ fontSize: 16 }} />
          </IconButton>
        </Tooltip>
      </Box>
      {(chosenCount > 0 || also) && <SetSelected />}
      <Box
        ref={scroller}
        role="grid"
        aria-label="UV values"
        aria-rowcount={count + 1}
        tabIndex={0}
        onKeyDown={keys}
        sx={{ flex: 1, overflow: 'auto', fontSize: 12, '&:focus-visible': { outline: '2px solid', outlineColor: 'primary.main', outlineOffset: -2 } }}
      >
        <Box
          role="row"
          sx={{
            display: 'grid',
            gridTemplateColumns: columns,
            position: 'sticky',
            top: 0,
            bgcolor: 'background.paper',
            zIndex: 1,
            borderBottom: 1,
            borderColor: 'divider',
            px: 1,
            py: 0.25,
          }}
        >
          {['corner', 'face', 'point', 'u', 'v'].map((name) => (
            <Typography key={name} role="columnheader" variant="caption" color="text.secondary" sx={{ textAlign: 'right' }}>
              {name}
            </Typography>
          ))}
        </Box>
        {count === 0 && (
          <Typography variant="body2" color="text.secondary" sx={{ p: 1.5 }}>
            Nothing is selected: select something in a view, or turn “only the selected” off.
          </Typography>
        )}
        <Box sx={rowStyles} style={{ height: list.getTotalSize() }}>
          {list.getVirtualItems().map((item) => {
            const corner = cornerAt(item.index);
            const face = faceOf[corner]!;
            const bare = layout.unplaced[face] === 1;
            return (
              <div
                key={item.key}
                role="row"
                aria-rowindex={item.index + 2}
                aria-selected={chosen[corner] === 1}
                data-here={item.index === focus || undefined}
                style={{ top: item.start }}
                onClick={(event) => choose(item.index, event)}
              >
                <span role="gridcell">
                  {chosen[corner] ? '● ' : ''}
                  {corner}
                </span>
                <span role="gridcell">{face}</span>
                <span role="gridcell">{geometry.corners[corner]}</span>
                {(['u', 'v'] as const).map((column, d) =>
                  editing?.corner === corner && editing.column === column ? (
                    <Editor
                      key={column}
                      label={`${column} of corner ${corner}`}
                      value={figure(layout.cornerUv[corner * 2 + d]!)}
                      onCommit={(text) => commit(corner, column, text)}
                      onNext={(text) => {
                        commit(corner, column, text);
                        setEditing(column === 'u' ? { corner, column: 'v' } : null);
                      }}
                      onCancel={() => {
                        setEditing(null);
                        scroller.current?.focus();
                      }}
                    />
                  ) : (
                    <span
                      key={column}
                      role="gridcell"
                      data-bare={bare || undefined}
                      title={bare ? 'no place on the sheet yet' : 'double click to change'}
                      onDoubleClick={() => !bare && setEditing({ corner, column })}
                    >
                      {bare ? '–' : figure(layout.cornerUv[corner * 2 + d]!)}
                    </span>
                  ),
                )}
              </div>
            );
          })}
        </Box>
      </Box>
    </Paper>
  );
}

interface EditorProps {
  label: string;
  value: string;
  onCommit(text: string): void;
  onNext(text: string): void;
  onCancel(): void;
}

function Editor({ label, value, onCommit, onNext, onCancel }: EditorProps) {
  const [text, setText] = useState(value);
  const ended = useRef(false);
  const end = (how: (text: string) => void) => {
    if (ended.current) return;
    ended.current = true;
    how(text);
  };
  return (
    <Box
      component="input"
      autoFocus
      aria-label={label}
      value={text}
      onChange={(event) => setText((event.target as HTMLInputElement).value)}
      onFocus={(event) => (event.target as HTMLInputElement).select()}
      onClick={(event) => event.stopPropagation()}
      onBlur={() => end(onCommit)}
      onKeyDown={(event: KeyboardEvent) => {
        event.stopPropagation();
        if (event.key === 'Enter') end(onCommit);
        if (event.key === 'Escape') end(onCancel);
        if (event.key === 'Tab') {
          event.preventDefault();
          end(onNext);
        }
      }}
      sx={{
        font: 'inherit',
        width: '100%',
        textAlign: 'right',
        border: 1,
        borderColor: 'primary.main',
        borderRadius: '3px',
        bgcolor: 'background.default',
        color: 'text.primary',
        px: 0.5,
      }}
    />
  );
}

/** One value for all that is selected, of all parts: lays it level (v) or plumb (u). */
function SetSelected() {
  const [text, setText] = useState('');
  const value = evaluate(text);
  const give = (column: 'u' | 'v') => void run('setUv', { [column]: value }, true);
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.75, px: 1.25, py: 0.5, borderBottom: 1, borderColor: 'divider' }}>
      <Typography variant="caption">All selected to</Typography>
      <Box
        component="input"
        aria-label="Value for all selected"
        placeholder="0.5 or 1024/2048"
        value={text}
        onChange={(event) => setText((event.target as HTMLInputElement).value)}
        onKeyDown={(event: KeyboardEvent) => event.stopPropagation()}
        sx={{
          font: `12px ${monospaced}`,
          width: 150,
          border: 1,
          borderColor: 'divider',
          borderRadius: '3px',
          bgcolor: 'background.default',
          color: 'text.primary',
          px: 0.75,
          py: 0.25,
        }}
      />
      {value !== null && (
        <>
          <Button size="small" variant="outlined" onClick={() => give('u')}>
            Set u
          </Button>
          <Button size="small" variant="outlined" onClick={() => give('v')}>
            Set v
          </Button>
        </>
      )}
    </Box>
  );
}
