import { Box, ButtonBase, Tooltip, Typography } from '@mui/material';
import CheckIcon from '@mui/icons-material/CheckCircleOutlined';
import ProblemIcon from '@mui/icons-material/ErrorOutlined';
import WarnIcon from '@mui/icons-material/WarningAmberOutlined';
import { keysOf, useKeys } from '../keys/keyTable.ts';
import { useBench, type BenchState } from '../store/bench.ts';
import { runCommand } from './commands/index.ts';
import type { JobSummary } from '../session/messages.ts';
import { islandsLeft } from './done.ts';

interface Gauge {
  label: string;
  value: string;
  /** none: a plain figure. */
  state: 'good' | 'warn' | 'bad' | 'none';
  help: string;
  /** What a click shows. */
  show?: Partial<Pick<BenchState, 'overlay' | 'fault'>>;
  on?: boolean;
  /** What a click does, where it is more than to show a fault. */
  run?: () => void;
}

/** Live figures of the layout; colour is never their only sign. A click shows where. */
export function Gauges() {
  const layout = useBench((s) => s.layout);
  const measures = useBench((s) => s.measures);
  const measuring = useBench((s) => s.measuring);
  const overlay = useBench((s) => s.overlay);
  const fault = useBench((s) => s.fault);
  const tool = useBench((s) => s.tool);
  const ownKeys = useKeys((s) => s.own);
  const kind = useBench((s) => s.kind);
  const set = useBench((s) => s.set);
  const part = useBench((s) => s.summary?.parts.find((one) => one.id === s.summary?.activePart) ?? null);
  const gauges = [...gaugesOf(layout, measures, overlay, fault), ...leftGauge(part, layout)];
  return (
    <Box
      component="footer"
      aria-label="Gauges"
      sx={{
        height: 34,
        flex: 'none',
        display: 'flex',
        alignItems: 'stretch',
        borderTop: 1,
        borderColor: 'divider',
        bgcolor: 'background.paper',
        px: 0.5,
        opacity: 1,
        overflow: 'hidden',
      }}
    >
      {gauges.map((gauge) => (
        <Tooltip key={gauge.label} title={gauge.help}>
          <ButtonBase
            disabled={!gauge.show && !gauge.run}
            aria-pressed={gauge.show || gauge.run ? gauge.on : undefined}
            onClick={() => {
              if (gauge.run) gauge.run();
              if (gauge.show) set(gauge.on ? { fault: 'none', ...(gauge.show.overlay ? { overlay: 'grid' } : {}) } : { fault: 'none', ...gauge.show });
              document.getElementById('views')?.focus({ preventScroll: true });
            }}
            sx={{
              px: 1,
              gap: 0.6,
              borderRadius: 1,
              my: 0.4,
              bgcolor: gauge.on ? 'action.selected' : 'transparent',
              '&:hover': { bgcolor: 'action.hover' },
              '&.Mui-focusVisible': { outline: 2, outlineColor: 'primary.main', outlineOffset: -2 },
            }}
          >
            {gauge.state === 'good' && <CheckIcon sx={{ fontSize: 15, color: 'success.main' }} />}
            {gauge.state === 'warn' && <WarnIcon sx={{ fontSize: 15, color: 'warning.main' }} />}
            {gauge.state === 'bad' && <ProblemIcon sx={{ fontSize: 15, color: 'error.main' }} />}
            <Typography variant="caption" color="text.secondary">
              {gauge.label}{' '}
            </Typography>
            <Typography variant="figure" sx={{ fontWeight: 600, opacity: measuring ? 0.55 : 1 }}>
              {gauge.value}
            </Typography>
            {(gauge.state === 'bad' || gauge.state === 'warn') && (
              <Box sx={{ position: 'absolute', width: 1, height: 1, overflow: 'hidden', clipPath: 'inset(50%)' }}>
                {gauge.state === 'bad' ? ' (a fault)' : ' (worth a look)'}
              </Box>
            )}
          </ButtonBase>
        </Tooltip>
      ))}
      <Typography variant="caption" noWrap sx={{ ml: 'auto', alignSelf: 'center', px: 1, color: 'text.secondary' }}>
        {hint(tool, kind, ownKeys)}
      </Typography>
    </Box>
  );
}

/** How many islands are still to do, once anything is marked as done; a click shows them alone. */
function leftGauge(part: JobSummary['parts'][number] | null, layout: BenchState['layout']): Gauge[] {
  if (!part?.done || !layout || layout.part !== part.id) return [];
  const left = islandsLeft(useBench.getState());
  const alone = part.hidden !== null && part.hidden.every((x, f) => x === part.done![f]);
  return [
    {
      label: 'To do',
      value: `${left} of ${layout.islands.length}`,
      state: left === 0 ? 'good' : 'none',
      help: alone ? 'Only what is left to do is shown; a click shows all' : 'Islands not marked as done yet; a click shows them alone',
      on: alone,
      run: () => runCommand(alone ? 'show' : 'left'),
    },
  ];
}

/** What to do now, with the keys as they are now. */
function hint(tool: BenchState['tool'], kind: BenchState['kind'], own: Record<string, readonly string[]>): string {
  const does = (id: string, what: string) => keysOf(id, own).map((key) => `${key} ${what}`)[0];
  const line = (...parts: (string | undefined)[]) => parts.filter(Boolean).join(' · ');
  if (tool === 'pen') return line('Draw on the model to cut', 'Ctrl to uncut', does('none', 'ends'));
  if (tool === 'relax')
    return line('Brush over either view to relax what is under it', does('brush-less', 'smaller'), does('brush-more', 'larger'), does('none', 'ends'));
  if (tool === 'push') return line('Drag over the sheet: points go along', does('brush-less', 'smaller'), does('brush-more', 'larger'), does('none', 'ends'));
  if (tool === 'area') return line('Click the corners on the sheet', 'the first one again closes', does('none', 'ends'));
  if (tool === 'pair') return line('By turns: a point of the model, its place on the sheet', does('none', 'ends'));
  if (tool === 'field') return line('Drag a field on the sheet', 'click one to take it away', does('none', 'ends'));
  if (tool === 'grain') return line('Drag an arrow along the model: the way pictures run', does('none', 'ends'));
  if (tool === 'move' || tool === 'turn' || tool === 'size')
    return line(
      `Drag ${kind} on the sheet`,
      tool === 'turn' ? 'Shift by 15°' : tool === 'move' ? 'Shift along u or v' : 'Shift for u and v apart',
      'Ctrl catches nowhere',
    );
  if (kind === 'edges') return line('Click an edge, double click its loop', does('cut', 'cuts'), does('pen', 'seam pen'));
  if (kind === 'parts') return line('Click a part to work on it', 'Shift adds', does('hide', 'hides'));
  if (kind === 'points') return 'Click points · Shift adds · values stand beside them';
  return kind === 'faces' ? 'Click faces · double click the piece' : 'Click islands in either view';
}

function gaugesOf(layout: BenchState['layout'], measures: BenchState['measures'], overlay: BenchState['overlay'], fault: BenchState['fault']): Gauge[] {
  if (!layout) return [];
  const report = measures?.part === layout.part ? measures.report : null;
  const placed = !layout.allUnplaced;
  const percent = (x: number) => (x > 0 && x < 0.0005 ? '<0.1 %' : `${(x * 100).toFixed(x < 0.1 ? 1 : 0)} %`);
  const not = '–';
  const r = placed ? report : null;
  const away = r ? measures!.outsideIslands : [];
  const waiting = r ? measures!.waitingIslands : [];
  const some = (letters: string[]) => (letters.length > 12 ? `${letters.slice(0, 12).join(', ')} …` : letters.join(', '));
  const closed = layout.islands.filter((island) => island.shape === 'closed' || island.shape === 'handle').length;
  return [
    {
      label: 'Islands',
      value: r && r.islands > layout.islands.length ? `${layout.islands.length} of ${r.islands}` : String(layout.islands.length),
      state: closed > 0 ? 'warn' : 'none',
      help:
        closed > 0
          ? `${closed} cannot lie flat yet: see Pieces`
          : r && r.islands > layout.islands.length
            ? 'Pieces of this part, of all on its sheet; a click tints them'
            : 'Pieces of the layout; a click tints them',
      show: { overlay: 'islands' },
      on: overlay === 'islands',
    },
    {
      label: 'Stretch',
      value: r?.stretchL2 ? r.stretchL2.toFixed(3) : not,
      state: !r ? 'none' : !r.stretchL2 ? 'bad' : r.stretchL2 < 1.05 ? 'good' : r.stretchL2 < 1.25 ? 'warn' : 'bad',
      help:
        r && !r.stretchL2
          ? 'No figure: some faces are shrunk to a line or point on the sheet, where the image is stretched without end. A click shows where; “Select shrunk faces” takes them'
          : 'Root mean square stretch inside the islands, each at its own scale; 1 is none (Sander et al. 2001). A click shows where',
      ...(placed ? { show: { overlay: 'stretch' as const } } : {}),
      on: overlay === 'stretch',
    },
    {
      label: 'Flips',
      value: r ? `${r.flippedTriangles}${r.concavePolygons > 0 ? ` + ${r.concavePolygons}` : ''}` : not,
      state: !r ? 'none' : r.flippedTriangles > 0 ? 'bad' : r.concavePolygons > 0 ? 'warn' : 'good',
      help:
        r && r.concavePolygons > 0
          ? `Triangles turned over inside their island, and ${r.concavePolygons} faces that are convex on the model and concave on the sheet: another program may cut them so that a part is turned over. A click dots them; Unwrap or Relax puts them right`
          : 'Triangles turned over inside their island. A click dots them',
      ...(placed ? { show: { fault: 'flipped' as const } } : {}),
      on: fault === 'flipped',
    },
    ...(r && measures!.grain
      ? [
          {
            label: 'Grain',
            value: `${measures!.grain.mean.toFixed(1)}°`,
            state: measures!.grain.over < 0.01 ? ('good' as const) : ('warn' as const),
            help: `How far the picture runs off the grain in the mean; ${measures!.grain.worst.toFixed(1)}° at most, ${percent(measures!.grain.over)} by more than 10°. A click shows where`,
            show: { overlay: 'grain' as const },
            on: overlay === 'grain',
          },
        ]
      : []),
    {
      label: 'Overlap',
      value: !r ? not : r.overlapArea >= 1e-9 && measures!.overlapFaults === 0 ? 'repeats' : percent(r.overlapArea),
      state: !r ? 'none' : r.overlapArea < 1e-9 ? 'good' : measures!.overlapFaults === 0 ? 'none' : 'bad',
      help:
        r && r.overlapArea >= 1e-9 && measures!.overlapFaults === 0
          ? `Islands lie over one another by design, since the image repeats: ${percent(r.overlapArea)} of the sheet. A click hatches it`
          : 'Share of the sheet covered more than once. A click hatches it',
      ...(placed ? { show: { fault: 'overlapping' as const } } : {}),
      on: fault === 'overlapping',
    },
    {
      label: 'Outside',
      value: !r ? not : away.length === 0 ? '0' : measures!.repeats ? 'repeats' : String(away.length),
      state: !r ? 'none' : away.length === 0 ? 'good' : measures!.repeats ? 'none' : 'bad',
      help:
        away.length === 0
          ? 'Islands off the sheet, wholly or in part: none'
          : measures!.repeats
            ? `Islands that go beyond the sheet by design, since the image repeats: ${some(away)}. A click marks them`
            : `Islands off the sheet, wholly or in part: ${some(away)}. A click marks them`,
      ...(placed ? { show: { fault: 'outside' as const } } : {}),
      on: fault === 'outside',
    },
    ...(waiting.length > 0
      ? [
          {
            label: 'In the tray',
            value: String(waiting.length),
            state: 'warn' as const,
            help: `Islands that wait for room beside the sheet: ${some(waiting)}. A click selects their faces`,
            run: () => runCommand('select-tray'),
          },
        ]
      : []),
    { label: 'Coverage', value: r ? percent(r.coverage) : not, state: 'none', help: 'Share of the sheet that is used' },
    {
      label: 'Spread',
      value: r?.densityCV != null ? percent(r.densityCV) : not,
      state: r?.densityCV == null ? 'none' : r.densityCV < 0.02 ? 'good' : 'warn',
      help: 'How far texel density differs between islands; Pack evens it out. A click shows where',
      ...(placed ? { show: { overlay: 'density' as const } } : {}),
      on: overlay === 'density',
    },
    { label: 'Gap', value: r?.smallestGapPx != null ? `${r.smallestGapPx.toFixed(1)} px` : not, state: 'none', help: 'Smallest gap between two islands' },
  ];
}
