import { useEffect, useState } from 'react';
import { later } from '../../later.tsx';
import { useShallow } from 'zustand/react/shallow';
import { Box, Button, FormControlLabel, MenuItem, Switch, TextField, Tooltip, Typography } from '@mui/material';
import { islandLetter, type PackTurn, type ReportOf } from '@jig-peel/core';
import { NumberField } from '../../fields/NumberField.tsx';
import { useBench } from '../../store/bench.ts';
import type { PackingView } from '../../session/messages.ts';
import { run, takePacking } from '../../worker/client.ts';
import { runCommand } from '../commands/index.ts';
import { packNow, packParams, usePacking } from '../packing.ts';
import { CoverageLine } from './CoverageLine.tsx';
import { DensityCard } from './DensityCard.tsx';
import { partsBeside } from '../views/stageMirror.ts';
import { AreaRow } from './AreaRow.tsx';
import { BlocksRow } from './BlocksRow.tsx';
import { Card } from './Card.tsx';

/** Loaded when it is opened first. */
const SheetsCard = later(() => import('./SheetsCard.tsx'));

const sizes = [256, 512, 1024, 2048, 4096, 8192];

const turnWords: Record<PackTurn, [string, string]> = {
  none: ['No turns', 'Every island keeps its heading'],
  half: ['Half turns', 'Grain and up-and-down lettering stay along the sheet'],
  quarter: ['Quarter turns', 'Straight borders stay along pixels'],
  eighth: ['Eighths of a turn', 'Also askew by 45°'],
  free: ['Any angle', 'Tightest; borders no longer run along pixels'],
};
const efforts = ['First layout only', 'Up to 2 seconds', 'Up to 6 seconds', 'Up to 15 seconds', 'Up to 30 seconds', 'Up to a minute'];

/** Sheet size, margin, turns, density; pack. */
export function PackPanel() {
  const settings = useBench((s) => s.summary!.settings);
  const part = useBench((s) => s.summary!.parts.find(({ id }) => id === s.summary!.activePart));
  const sheet = useBench((s) => s.summary!.sheets.find(({ id }) => id === part?.sheet));
  const layout = useBench((s) => s.layout);
  const sheetParts = useBench((s) => s.sheetParts);
  const summary = useBench(useShallow((s) => ({ parts: s.summary!.parts, activePart: s.summary!.activePart })));
  const measures = useBench((s) => s.measures);
  const progress = useBench((s) => s.progress);
  const packing = useBench((s) => s.packing);
  const how = usePacking();
  const plan = usePlan();
  /** The polygon is still drawn. */
  const isOpen = how.polygon !== null && how.isDrawn;
  const change = (patch: Record<string, unknown>) => void run('settings', patch);
  const others = partsBeside({ summary, sheetParts, layout });
  const placed = [...(layout && !layout.allUnplaced ? layout.islands : []), ...others.flatMap(({ islands: own }) => own.filter(({ unplaced }) => !unplaced))];
  const locked = placed.filter((island) => island.locked).length;
  const islands = plan?.moved ?? placed.length - locked;
  const bare = placed.length === 0 && layout !== null;
  const report = measures?.part === layout?.part ? measures?.report : undefined;
  // common practice, no source: 2ⁿ px of margin survive n mip levels
  const mips = settings.margin >= 1 ? Math.floor(Math.log2(settings.margin)) : 0;
  return (
    <>
      <Card>
        <Tooltip title={isOpen ? 'Close the polygon first: click its first corner' : ''}>
          <span>
            <Button variant="contained" fullWidth disabled={islands === 0 || progress !== null || isOpen} onClick={() => void packNow()}>
              Pack{' '}
              {islands > 0
                ? `${islands} ${islands === 1 ? 'island' : 'islands'}${others.length > 0 && how.into === 'sheet' ? ` of ${others.length + 1} parts` : ''}${how.polygon ? ' into the polygon' : how.area ? ' into the rectangle' : ''}`
                : ''}
            </Button>
          </span>
        </Tooltip>
        {packing && <Searching packing={packing} />}
        {!packing && plan && !bare && <Plan plan={plan} locked={locked} into={how.into} canTurn={settings.turn !== 'free'} />}
        {bare && (
          <>
            <Typography variant="caption">The part has no layout to pack yet.</Typography>
            <Button variant="outlined" fullWidth onClick={() => runCommand('first')}>
              Make a first layout
            </Button>
          </>
        )}
        <TextField
          select
          fullWidth
          label="Effort"
          value={settings.effort}
          onChange={(event) => change({ effort: Number(event.target.value) })}
          helperText={settings.effort > 0 && (settings.turn === 'free' || settings.turn === 'eighth') ? 'Half as long again with these turns' : undefined}
        >
          {efforts.map((words, effort) => (
            <MenuItem key={words} value={effort}>
              {effort === 0 ? words : `${effort}: ${words.toLowerCase()}`}
            </MenuItem>
          ))}
        </TextField>
        <TextField
          select
          fullWidth
          label="Which islands"
          value={how.into}
          onChange={(event) => usePacking.setState({ into: event.target.value as 'sheet' | 'free' })}
        >
          <MenuItem value="sheet">All on the sheet</MenuItem>
          <MenuItem value="free">{how.area || how.polygon ? 'Only the selected' : 'Only the selected, between the others'}</MenuItem>
        </TextField>
        <AreaRow />
      </Card>
      <Card title={sheet ? `Sheet: ${sheet.name}` : 'Sheet'}>
        <Box sx={{ display: 'flex', gap: 1 }}>
          {(['width', 'height'] as const).map((side) => (
            <TextField
              key={side}
              select
              fullWidth
              label={side === 'width' ? 'Sheet width' : 'Sheet height'}
              value={settings[side]}
              onChange={(event) => change({ [side]: Number(event.target.value) })}
            >
              {[...new Set([...sizes, settings[side]])]
                .sort((a, b) => a - b)
                .map((size) => (
                  <MenuItem key={size} value={size}>
                    {size} px
                  </MenuItem>
                ))}
            </TextField>
          ))}
        </Box>
        <NumberField
          label="Margin"
          unit="px"
          value={settings.margin}
          min={0}
          max={256}
          step={1}
          onChange={(margin) => change({ margin })}
          help={mips > 0 ? `survives ${mips} mip ${mips === 1 ? 'level' : 'levels'}` : 'islands may touch'}
        />
        <FormControlLabel
          control={<Switch checked={settings.borderGap === null} onChange={(event) => change({ borderGap: event.target.checked ? null : settings.margin })} />}
          label="The same to the border"
          slotProps={{ typography: { variant: 'body2' } }}
        />
        {settings.borderGap !== null && (
          <NumberField label="To the border" unit="px" value={settings.borderGap} min={0} max={256} step={1} onChange={(borderGap) => change({ borderGap })} />
        )}
      </Card>
      {sheet && <DensityCard sheet={sheet} unit={settings.unit} median={report?.densityMedian ?? null} coverage={report?.coverage ?? null} isBare={bare} />}
      <Card title="Islands">
        <TextField
          select
          fullWidth
          label="Turns that islands may take"
          value={settings.turn}
          helperText={turnWords[settings.turn][1]}
          onChange={(event) => change({ turn: event.target.value })}
        >
          {(Object.keys(turnWords) as PackTurn[]).map((turn) => (
            <MenuItem key={turn} value={turn}>
              {turnWords[turn][0]}
            </MenuItem>
          ))}
        </TextField>
        <TextField
          select
          fullWidth
          label="Turns of the selected"
          value={how.selectedTurn ?? 'same'}
          onChange={({ target: { value } }) => usePacking.setState({ selectedTurn: value === 'same' ? null : (value as PackTurn) })}
        >
          <MenuItem value="same">as the others</MenuItem>
          {(Object.keys(turnWords) as PackTurn[]).map((turn) => (
            <MenuItem key={turn} value={turn}>
              {turnWords[turn][0]}
            </MenuItem>
          ))}
        </TextField>
        <FormControlLabel
          control={<Switch checked={settings.upright} onChange={(event) => change({ upright: event.target.checked })} />}
          label="Lay upright what nobody turned"
          slotProps={{ typography: { variant: 'body2' } }}
        />
        <FormControlLabel
          control={<Switch checked={settings.keepPinned} onChange={(event) => change({ keepPinned: event.target.checked })} />}
          label="Pinned and done ones stay"
          slotProps={{ typography: { variant: 'body2' } }}
        />
        <FormControlLabel
          control={<Switch checked={how.wholePx} onChange={(event) => usePacking.setState({ wholePx: event.target.checked })} />}
          label="Lower left corners on whole px"
          slotProps={{ typography: { variant: 'body2' } }}
        />
        <TextField select fullWidth label="Keep together" value={how.group} onChange={(event) => usePacking.setState({ group: event.target.value as 'none' })}>
          <MenuItem value="none">Nothing</MenuItem>
          <MenuItem value="blocks">Blocks made by hand</MenuItem>
          <MenuItem value="selected">The selected islands</MenuItem>
          <MenuItem value="part">Islands of one part</MenuItem>
          <MenuItem value="material">Islands of one material</MenuItem>
        </TextField>
        {how.group === 'blocks' && <BlocksRow />}
        <FormControlLabel
          control={<Switch checked={how.mirror} onChange={(event) => usePacking.setState({ mirror: event.target.checked })} />}
          label="May be mirrored, too"
          slotProps={{ typography: { variant: 'body2' } }}
        />
        <FormControlLabel
          control={<Switch checked={how.keepScale} onChange={(event) => usePacking.setState({ keepScale: event.target.checked })} />}
          label="Keep the size; the rest into the tray"
          slotProps={{ typography: { variant: 'body2' } }}
        />
        <FormControlLabel
          control={<Switch checked={settings.evenDensity} onChange={(event) => change({ evenDensity: event.target.checked })} />}
          label="Even out density first"
          slotProps={{ typography: { variant: 'body2' } }}
        />
      </Card>
      <SheetsCard />
      {report && !bare && (
        <Card title="As it lies now">
          <Box component="dl" sx={{ m: 0, display: 'grid', gridTemplateColumns: '1fr auto', rowGap: 0.5 }}>
            {(
              [
                ['Sheet covered', `${(report.coverage * 100).toFixed(1)} %`],
                ['Texel density', report.densityMedian ? `${report.densityMedian.toPrecision(4)} px/${settings.unit}` : '–'],
                ['Density spread', report.densityCV != null ? `${(report.densityCV * 100).toFixed(1)} %` : '–'],
                ['Smallest gap', report.smallestGapPx != null ? `${report.smallestGapPx.toFixed(1)} px` : '–'],
                ['Smallest border gap', report.smallestBorderGapPx != null ? `${report.smallestBorderGapPx.toFixed(1)} px` : '–'],
                ['Outside the sheet', `${(report.outsideArea * 100).toFixed(1)} %`],
              ] as const
            ).map(([name, value]) => (
              <Box key={name} sx={{ display: 'contents' }}>
                <Typography component="dt" variant="caption" color="text.secondary">
                  {name}
                </Typography>
                <Typography component="dd" variant="figure" sx={{ m: 0, textAlign: 'right' }}>
                  {value}
                </Typography>
              </Box>
            ))}
          </Box>
        </Card>
      )}
    </>
  );
}

/** What packing would do, asked for again when anything that it depends on has changed. */
function usePlan(): ReportOf<'packPlan'> | null {
  const how = usePacking();
  const [plan, setPlan] = useState<ReportOf<'packPlan'> | null>(null);
  const settings = useBench((s) => s.summary?.settings);
  const step = useBench((s) => s.summary?.historyIndex);
  const selection = useBench((s) => (how.into === 'free' || how.selectedTurn || how.group === 'selected' ? s.summary?.selection : null));
  // a tab that only looks on would be refused, aloud
  const isBusy = useBench((s) => s.progress !== null || s.looksOn);
  useEffect(() => {
    if (isBusy) return;
    let isMine = true;
    const timer = setTimeout(() => {
      const params = packParams();
      if (params)
        void run('packPlan', params).then((outcome) => {
          if (isMine) setPlan(outcome.ok ? (outcome.report as ReportOf<'packPlan'>) : null);
        });
    }, 150);
    return () => {
      isMine = false;
      clearTimeout(timer);
    };
  }, [settings, step, selection, isBusy, how]);
  return plan;
}

const many = (count: number, one: string, more: string) => `${count} ${count === 1 ? one : more}`;

interface PlanProps {
  plan: ReportOf<'packPlan'>;
  locked: number;
  into: 'sheet' | 'free';
  /** Whether islands might be turned by more angles than they are. */
  canTurn: boolean;
}

/** Says beforehand what will happen to which islands, and what is hard to pack. */
function Plan({ plan, locked, into, canTurn }: PlanProps) {
  if (plan.moved === 0)
    return (
      <Typography variant="caption">
        {into === 'free'
          ? 'No island is selected.'
          : locked > 0
            ? `All ${locked} islands are locked: unlock those that are to be packed.`
            : 'All islands are pinned or done, and stay.'}
      </Typography>
    );
  const words = [
    plan.turned > 0 && `${plan.turned} laid upright first`,
    plan.kept > 0 && `${many(plan.kept, 'keeps the heading that it was given', 'keep the heading that they were given')}`,
    plan.locked > 0 && `${plan.locked} locked, packed round`,
    plan.stays > 0 && `${plan.stays} pinned or done, ${plan.stays === 1 ? 'stays' : 'stay'}`,
  ].filter((line) => line !== false);
  /** Another island sets the scale, and would after a cut. */
  const isElsewhere = (one: { part: string; island: number }) =>
    plan.longest !== null && (plan.longest.part !== one.part || plan.longest.island !== one.island);
  return (
    <>
      {words.length > 0 && <Typography variant="caption">{`${words.join('; ')}.`}</Typography>}
      {plan.longest && (
        <Troublesome
          {...plan.longest}
          words={`fills the sheet from end to end and sets the scale: at most ${percentOf(plan.longest.coverage)} can be covered. Cut it across${canTurn ? ', or allow any angle' : ''}.`}
        />
      )}
      {plan.spidery.map(({ part, name, island, share }) => (
        <Troublesome
          key={`${part} ${island}`}
          {...{ part, name, island }}
          words={`is spread out: it fills ${percentOf(share)} of its hull and packs badly.${isElsewhere({ part, island }) ? ' The sheet gains little by a cut while another island sets the scale.' : ''}`}
          cuts
        />
      ))}
    </>
  );
}

const percentOf = (share: number) => `${Math.round(share * 100)} %`;

/** An island that is hard to pack, why, and a way to it; one that is spread out is cut at its necks. */
function Troublesome({ part, name, island, words, cuts = false }: { part: string; name: string; island: number; words: string; cuts?: boolean }) {
  return (
    <Box sx={{ display: 'flex', gap: 0.5, alignItems: 'center' }}>
      <Typography variant="caption" sx={{ flex: 1 }}>
        {`${name} ${islandLetter(island)} ${words}`}
      </Typography>
      <Button size="small" onClick={() => void run('activatePart', { part }).then(() => run('select', { kind: 'islands', ids: Uint32Array.of(island) }))}>
        Show
      </Button>
      {cuts && (
        <Tooltip title="Cuts it at its necks into pieces that fill their hulls">
          <Button size="small" onClick={() => void run('cutNecks', { part, islands: [island] }, true)}>
            Cut
          </Button>
        </Tooltip>
      )}
    </Box>
  );
}

/** The search as it goes: how much is covered, and a way to be content with it. */
function Searching({ packing }: { packing: PackingView }) {
  return (
    <Box role="status" aria-label="Packing">
      <Box sx={{ display: 'flex', alignItems: 'baseline', justifyContent: 'space-between' }}>
        <Typography variant="caption">Covered so far</Typography>
        <Typography variant="figure">{`${(packing.coverage * 100).toFixed(1)} %`}</Typography>
      </Box>
      <CoverageLine trace={packing.trace} />
      <Button variant="outlined" fullWidth onClick={takePacking}>
        Take it
      </Button>
    </Box>
  );
}
