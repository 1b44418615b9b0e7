import { selectedCount } from '@jig-peel/core';
import { Box, Button, MenuItem, TextField, Tooltip, Typography, useTheme } from '@mui/material';
import { useEffect, useState } from 'react';
import { Bar, BarChart, ReferenceLine, XAxis } from 'recharts';
import type { JobSettings, ReportOf, Sheet } from '@jig-peel/core';
import { ChooseFor } from '../../fields/ChooseFor.tsx';
import { NumberField } from '../../fields/NumberField.tsx';
import { useBench } from '../../store/bench.ts';
import { run } from '../../worker/client.ts';
import { Card } from './Card.tsx';

/** Units in a metre; nothing where it is not known what a unit is. */
const perMetre: Partial<Record<JobSettings['unit'], number>> = { mm: 1000, cm: 100, m: 1, in: 39.3700787, ft: 3.2808399 };
/** Common practice, no source: px per metre that many agree on. */
const commonSteps = [128, 256, 512, 1024, 2048];

interface DensityCardProps {
  sheet: Sheet;
  unit: JobSettings['unit'];
  median: number | null;
  /** Share of the sheet that is covered now. */
  coverage: number | null;
  isBare: boolean;
}

/** The density that a sheet is to have, and the islands brought to it. */
export function DensityCard({ sheet, unit, median, coverage, isBare }: DensityCardProps) {
  const figures = useFigures(isBare);
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
      {figures && figures.islands.length > 0 && (
        <>
          <Answers figures={figures} target={sheet.density} unit={unit} coverage={coverage} />
          <Histogram figures={figures} target={sheet.density} unit={unit} />
          <Weights />
        </>
      )}
    </Card>
  );
}

type Figures = ReportOf<'densityFigures'>;

/** Density of each island, asked for again after each step. */
function useFigures(isBare: boolean): Figures | null {
  const [figures, setFigures] = useState<Figures | null>(null);
  const step = useBench((s) => s.summary?.historyIndex);
  const layout = useBench((s) => s.layout);
  // a tab that only looks on would be refused, aloud
  const isBusy = useBench((s) => s.progress !== null || s.looksOn);
  useEffect(() => {
    if (isBare || isBusy) return;
    let isMine = true;
    const timer = setTimeout(
      () =>
        void run('densityFigures', {}).then((outcome) => {
          if (isMine) setFigures(outcome.ok ? (outcome.report as Figures) : null);
        }),
      150,
    );
    return () => {
      isMine = false;
      clearTimeout(timer);
    };
  }, [step, layout, isBare, isBusy]);
  return isBare ? null : figures;
}

/** Common practice, no source: what a good packing covers. */
const usualCoverage = 0.72;
const three = (x: number) => String(Number(x.toPrecision(3)));

/** What a target asks of the sheet, and what the sheet allows, before anything is packed. */
function Answers({ figures, target, unit, coverage }: { figures: Figures; target: number | null; unit: string; coverage: number | null }) {
  const { weighted, width, height, tiles } = figures;
  // what is packed now tells better than the rule, unless it is mostly empty
  const share = Math.max(coverage ?? 0, usualCoverage);
  const allowed = Math.sqrt((share * width * height * tiles) / weighted);
  const side = target === null ? null : Math.sqrt((target * target * weighted) / share / tiles);
  return (
    <Typography variant="caption" component="div">
      {`Packed at ${Math.round(share * 100)} % this sheet allows about ${three(allowed)} px/${unit}.`}
      {side !== null && ` ${three(target!)} px/${unit} needs about ${three(side)} × ${three(side)} px.`}
    </Typography>
  );
}

interface Bin {
  name: string;
  chosen: number;
  rest: number;
  islands: { part: string; island: number }[];
}

/** Bins of a twelfth of an octave at least, so many that the whole spread is seen. */
function binsOf({ islands }: Figures, selected: ReadonlyMap<string, ReadonlySet<number>>): Bin[] {
  const logs = islands.map(({ density }) => Math.log2(density));
  const [low, high] = [Math.min(...logs), Math.max(...logs)];
  const count = Math.min(12, Math.max(1, Math.ceil((high - low) * 12)));
  const wide = (high - low) / count || 1;
  const bins = Array.from({ length: count }, (_, k): Bin => ({
    name: three(2 ** (low + (k + (high > low ? 0.5 : 0)) * wide)),
    chosen: 0,
    rest: 0,
    islands: [],
  }));
  const sums = bins.map(() => 0);
  islands.forEach(({ part, island, area, density }, k) => {
    const at = Math.min(count - 1, Math.floor((logs[k]! - low) / wide));
    const bin = bins[at]!;
    bin.islands.push({ part, island });
    if (selected.get(part)?.has(island)) bin.chosen += area;
    else bin.rest += area;
    sums[at]! += area * density;
  });
  // told by the mean of what is in it, so that a single density is that density
  bins.forEach((bin, k) => {
    if (bin.islands.length > 0) bin.name = three(sums[k]! / (bin.chosen + bin.rest));
  });
  return bins;
}

/** Area by density; what is selected is marked, a bar selects its islands. */
function Histogram({ figures, target, unit }: { figures: Figures; target: number | null; unit: string }) {
  const selection = useBench((s) => s.summary!.selection);
  const theme = useTheme();
  const selected = new Map<string, ReadonlySet<number>>();
  if (selection.kind === 'islands') {
    selected.set(selection.part, new Set(selection.ids));
    for (const { part, ids } of selection.also ?? []) selected.set(part, new Set(ids));
  }
  const bins = binsOf(figures, selected);
  const choose = ({ islands }: Bin) => {
    const parts = [...new Set(islands.map(({ part }) => part))];
    const own = (id: string) => islands.filter(({ part }) => part === id).map(({ island }) => island);
    const [first = '', ...others] = parts;
    void run('select', { part: first, kind: 'islands', ids: own(first), also: others.map((part) => ({ part, ids: own(part) })) });
  };
  const total = bins.reduce((sum, { chosen, rest }) => sum + chosen + rest, 0);
  const style = { fontSize: 10, fill: theme.palette.text.secondary };
  const told = (bin: Bin) =>
    `${bin.name} px/${unit}: ${bin.islands.length} ${bin.islands.length === 1 ? 'island' : 'islands'}, ${(((bin.chosen + bin.rest) / total) * 100).toFixed(0)} % of the surface`;
  return (
    <Box role="group" aria-label="Surface by density">
      <Typography variant="caption" component="div">
        {`Surface by density, px/${unit}${target === null ? '' : `; the line is ${three(target)}`}`}
      </Typography>
      <BarChart accessibilityLayer={false} width={252} height={96} data={bins} margin={{ top: 4, right: 4, bottom: 0, left: 4 }} barCategoryGap={1}>
        <XAxis dataKey="name" tick={style} height={16} tickLine={false} interval="preserveStartEnd" />
        <Bar
          dataKey="chosen"
          stackId="area"
          fill={theme.palette.warning.main}
          isAnimationActive={false}
          onClick={(_, k) => choose(bins[k]!)}
          cursor="pointer"
        />
        <Bar dataKey="rest" stackId="area" fill={theme.palette.primary.main} isAnimationActive={false} onClick={(_, k) => choose(bins[k]!)} cursor="pointer" />
        {target !== null && <ReferenceLine x={nearest(bins, target)} stroke={theme.palette.text.primary} strokeDasharray="3 2" />}
      </BarChart>
      <Box component="ul" sx={{ m: 0, p: 0, listStyle: 'none', display: 'flex', flexWrap: 'wrap', gap: 0.5 }}>
        {bins.length > 1 &&
          bins
            .filter(({ islands }) => islands.length > 0)
            .map((bin) => (
              <li key={bin.name}>
                <Tooltip title={`Select: ${told(bin)}`}>
                  <Button
                    size="small"
                    variant="text"
                    aria-label={`Select ${told(bin)}`}
                    sx={{ minWidth: 0, px: 0.5, py: 0, fontSize: 11 }}
                    onClick={() => choose(bin)}
                  >
                    {bin.name}
                  </Button>
                </Tooltip>
              </li>
            ))}
      </Box>
    </Box>
  );
}

const nearest = (bins: readonly Bin[], target: number) =>
  bins.reduce((a, b) => (Math.abs(Math.log2(Number(b.name) / target)) < Math.abs(Math.log2(Number(a.name) / target)) ? b : a)).name;

const purposes = [
  { value: 2, label: 'Seen close: twice as sharp' },
  { value: 1.5, label: 'Half as sharp again' },
  { value: 1, label: 'As the others' },
  { value: 0.5, label: 'Hardly seen: half as sharp' },
  { value: 0.25, label: 'Never seen: a quarter' },
];

/** How sharp what is selected is to be against the rest. */
function Weights() {
  const selection = useBench((s) => s.summary!.selection);
  const parts = useBench((s) => s.summary!.selectedParts.length);
  const chosen = selectedCount(selection) + parts > 0;
  return (
    <Box>
      <ChooseFor
        label="Sharpness of the selected"
        choices={purposes}
        off={chosen ? '' : 'Select islands or parts first'}
        onChoose={(weight) => void run('weigh', { weight }, true)}
      />
      <Typography variant="caption">{chosen ? 'Even out or Pack brings them to it.' : 'Select islands or parts first.'}</Typography>
      <Tooltip title="Islands of all parts in view that are hardly seen become half as sharp, those never seen a quarter, by the side that Check says the job is seen from">
        <Button size="small" variant="outlined" fullWidth sx={{ mt: 0.5 }} onClick={() => void run('weighBySight', {}, true)}>
          Weigh by what is seen
        </Button>
      </Tooltip>
    </Box>
  );
}
