import { lazy, Suspense } from 'react';
import { useShallow } from 'zustand/react/shallow';
import { Box, Button, FormControlLabel, MenuItem, Switch, TextField, ToggleButton, ToggleButtonGroup, Tooltip, Typography } from '@mui/material';
import type { JobSettings, Sheet } from '@jig-peel/core';
import { NumberField } from '../../fields/NumberField.tsx';
import { useBench } from '../../store/bench.ts';
import { run } from '../../worker/client.ts';
import { packNow, runCommand } from '../commands/index.ts';
import { partsBeside } from '../views/stageMirror.ts';
import { Card } from './Card.tsx';

/** Loaded when it is opened first. */
const SheetsCard = lazy(() => import('./SheetsCard.tsx'));

const sizes = [256, 512, 1024, 2048, 4096, 8192];

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
  const change = (patch: Record<string, unknown>) => void run('settings', patch);
  const others = partsBeside({ summary, sheetParts, layout });
  const placed = [...(layout && !layout.allUnplaced ? layout.islands : []), ...others.flatMap(({ islands: own }) => own.filter(({ unplaced }) => !unplaced))];
  const locked = placed.filter((island) => island.locked).length;
  const islands = placed.length - locked;
  const bare = placed.length === 0 && layout !== null;
  const report = measures?.part === layout?.part ? measures?.report : undefined;
  // common practice, no source: 2ⁿ px of margin survive n mip levels
  const mips = settings.margin >= 1 ? Math.floor(Math.log2(settings.margin)) : 0;
  return (
    <>
      <Card>
        <Button variant="contained" fullWidth disabled={islands === 0 || progress !== null} onClick={() => void packNow()}>
          Pack {islands > 0 ? `${islands} ${islands === 1 ? 'island' : 'islands'}${others.length > 0 ? ` of ${others.length + 1} parts` : ''}` : ''}
        </Button>
        {locked > 0 && (
          <Typography variant="caption">
            {islands === 0 ? `All ${locked} islands are locked: unlock those that are to be packed.` : `${locked} locked, packed round.`}
          </Typography>
        )}
        {bare && (
          <>
            <Typography variant="caption">The part has no layout to pack yet.</Typography>
            <Button variant="outlined" fullWidth onClick={() => runCommand('first')}>
              Make a first layout
            </Button>
          </>
        )}
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
      {sheet && <DensityCard sheet={sheet} unit={settings.unit} median={report?.densityMedian ?? null} isBare={bare} />}
      <Card title="Islands">
        <Typography variant="caption" component="div" id="turns">
          Turns that islands may take
        </Typography>
        <ToggleButtonGroup
          exclusive
          fullWidth
          size="small"
          value={settings.turn}
          aria-labelledby="turns"
          onChange={(_, turn: string | null) => turn && change({ turn })}
        >
          <ToggleButton value="quarter">
            <Tooltip title="Islands may turn by quarters: denser">
              <span>Quarter turns</span>
            </Tooltip>
          </ToggleButton>
          <ToggleButton value="none">
            <Tooltip title="Grain and lettering keep their heading">
              <span>No turns</span>
            </Tooltip>
          </ToggleButton>
        </ToggleButtonGroup>
        <FormControlLabel
          control={<Switch checked={settings.evenDensity} onChange={(event) => change({ evenDensity: event.target.checked })} />}
          label="Even out density first"
          slotProps={{ typography: { variant: 'body2' } }}
        />
      </Card>
      <Suspense fallback={null}>
        <SheetsCard />
      </Suspense>
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

/** Units in a metre; nothing where it is not known what a unit is. */
const perMetre: Partial<Record<JobSettings['unit'], number>> = { mm: 1000, cm: 100, m: 1, in: 39.3700787, ft: 3.2808399 };
/** Common practice, no source: px per metre that many agree on. */
const commonSteps = [128, 256, 512, 1024, 2048];

interface DensityCardProps {
  sheet: Sheet;
  unit: JobSettings['unit'];
  median: number | null;
  isBare: boolean;
}

/** The density that a sheet is to have, and the islands brought to it. */
function DensityCard({ sheet, unit, median, isBare }: DensityCardProps) {
  const state = (density: number | null) => void run('sheets', { do: 'change', sheet: sheet.id, density });
  const units = perMetre[unit];
  return (
    <Card title="Texel density">
      <NumberField
        label="Meant for this sheet"
        unit={`px/${unit}`}
        value={sheet.density ?? Number((median ?? 0).toPrecision(4))}
        min={0}
        max={1e9}
        onChange={(density) => density > 0 && state(density)}
        help={sheet.density === null ? 'not stated: this is what it is now' : 'new islands come in at it'}
      />
      {units !== undefined && (
        <TextField
          select
          fullWidth
          label="Common steps"
          value={sheet.density === null ? '' : (commonSteps.find((step) => Math.abs(step / units / sheet.density! - 1) < 1e-6) ?? '')}
          onChange={(event) => state(Number(event.target.value) / units)}
        >
          {commonSteps.map((step) => (
            <MenuItem key={step} value={step}>
              {step} px per metre
            </MenuItem>
          ))}
        </TextField>
      )}
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 0.75 }}>
        <Tooltip
          title={
            isBare ? 'The part has no layout yet' : sheet.density === null ? 'State a density first' : 'All islands of the sheet, each about its own middle'
          }
        >
          <span>
            <Button
              size="small"
              variant="outlined"
              fullWidth
              disabled={isBare || sheet.density === null}
              onClick={() => void run('density', { toSheet: true, parts: 'sheet' }, true)}
            >
              Bring all to it
            </Button>
          </span>
        </Tooltip>
        <Tooltip title={isBare ? 'The part has no layout yet' : 'One density for all islands of the sheet'}>
          <span>
            <Button size="small" variant="outlined" fullWidth disabled={isBare} onClick={() => void run('density', { even: true, parts: 'sheet' }, true)}>
              Even out
            </Button>
          </span>
        </Tooltip>
      </Box>
      {sheet.density !== null && (
        <Button size="small" onClick={() => state(null)}>
          State none
        </Button>
      )}
    </Card>
  );
}
