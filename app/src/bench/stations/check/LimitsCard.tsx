import { Box, Button, IconButton, MenuItem, Switch, TextField, Tooltip, Typography } from '@mui/material';
import KeptIcon from '@mui/icons-material/CheckCircleOutlined';
import MissedIcon from '@mui/icons-material/ErrorOutlined';
import BeforeIcon from '@mui/icons-material/ChevronLeft';
import NextIcon from '@mui/icons-material/ChevronRight';
import { useRef } from 'react';
import type { LimitKey, Purpose, Verdict } from '@jig-peel/core';
import { figureWords, judge, limitFigures, limitKeys, limitWords, purposes, purposeWords } from '@jig-peel/core/measure/judge';
import { NumberField } from '../../../fields/NumberField.tsx';
import { useBench } from '../../../store/bench.ts';
import { useJob } from '../../../store/useJob.ts';
import { run } from '../../../worker/client.ts';
import { Card } from '../Card.tsx';
import { keepLimits, mends, stepOffenders, takeLimits, useOffenders } from './offenders.ts';

/** What the layout is for, and each limit with its figure, its verdict and the places that break it. */
export function LimitsCard() {
  const { settings } = useJob('settings');
  const measures = useBench((s) => (s.measures?.part === s.summary?.activePart ? s.measures : null));
  const measuring = useBench((s) => s.measuring);
  const unit = settings.unit === 'unit' ? 'units' : settings.unit;
  const file = useRef<HTMLInputElement>(null);
  const verdicts = measures ? judge(measures.judged, settings.limits, measures.ofParts) : null;
  const figures = measures ? limitFigures(measures.judged, measures.ofParts) : null;
  const missed = verdicts?.filter(({ passed }) => !passed).length ?? 0;
  return (
    <Card title="Limits">
      <TextField
        select
        fullWidth
        label="The layout is"
        value={settings.purpose}
        onChange={(event) => void run('setLimits', { purpose: event.target.value as Purpose })}
        helperText="Sets the limits that are usual for it; change each below"
      >
        {purposes.map((one) => (
          <MenuItem key={one} value={one}>
            {purposeWords[one]}
          </MenuItem>
        ))}
      </TextField>
      <NumberField
        label="Seen from a distance of"
        unit={unit}
        value={settings.distance ?? 0}
        min={0}
        max={1e9}
        onChange={(value) => void run('setLimits', { distance: value > 0 ? value : null })}
        help={settings.distance === null ? '0: not said' : 'Asks for one texel a line of a screen there'}
      />
      <Typography variant="body2" role="status" sx={{ fontWeight: 600 }} color={!verdicts ? 'text.secondary' : missed > 0 ? 'error.main' : 'success.main'}>
        {!verdicts
          ? 'Measuring …'
          : missed > 0
            ? `${missed} of ${verdicts.length} limits ${missed === 1 ? 'is' : 'are'} not kept`
            : `All ${verdicts.length} limits are kept${measuring ? ', as measured last' : ''}`}
      </Typography>
      <Box component="ul" aria-label="Limits" sx={{ m: 0, p: 0, listStyle: 'none', display: 'flex', flexDirection: 'column' }}>
        {limitKeys.map((key) => (
          <LimitRow
            key={key}
            name={key}
            figure={figures?.[key] ?? null}
            limit={settings.limits[key]}
            verdict={verdicts?.find((one) => one.key === key) ?? null}
          />
        ))}
      </Box>
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Button size="small" variant="outlined" sx={{ flex: 1, whiteSpace: 'nowrap' }} onClick={keepLimits}>
          Keep as a file
        </Button>
        <Button size="small" variant="outlined" sx={{ flex: 1, whiteSpace: 'nowrap' }} onClick={() => file.current?.click()}>
          From a file
        </Button>
        <input
          ref={file}
          type="file"
          accept=".json"
          hidden
          aria-label="Limits from a file"
          onChange={(event) => {
            const [first] = event.target.files ?? [];
            event.target.value = '';
            if (first) void takeLimits(first);
          }}
        />
      </Box>
    </Card>
  );
}

function LimitRow({ name, figure, limit, verdict }: { name: LimitKey; figure: number | null; limit: number | null; verdict: Verdict | null }) {
  const { label, way, unit, help } = limitWords[name];
  const { key, list, at } = useOffenders();
  const set = (value: number | null) => void run('setLimits', { limits: { [name]: value } });
  const mend = mends[name];
  const stepping = key === name;
  return (
    <Box component="li" sx={{ borderTop: 1, borderColor: 'divider', py: 0.5 }}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5 }}>
        {verdict ? (
          verdict.passed ? (
            <KeptIcon titleAccess="kept" sx={{ fontSize: 16, color: 'success.main' }} />
          ) : (
            <MissedIcon titleAccess="not kept" sx={{ fontSize: 16, color: 'error.main' }} />
          )
        ) : (
          <Box sx={{ width: 16 }} />
        )}
        <Tooltip title={help} placement="right">
          <Typography variant="body2" sx={{ flex: 1, color: limit === null ? 'text.secondary' : 'text.primary' }}>
            {label}
          </Typography>
        </Tooltip>
        <Typography variant="figure" sx={{ whiteSpace: 'nowrap' }}>
          {figureWords(name, figure)}
        </Typography>
        <Switch
          size="small"
          checked={limit !== null}
          slotProps={{ input: { 'aria-label': `Ask for a limit: ${label}` } }}
          onChange={(event) => set(event.target.checked ? suggested(name, figure) : null)}
        />
      </Box>
      {limit !== null && (
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5, pl: 2.5, pt: 0.5, pb: verdict && !verdict.passed ? 0.5 : 0 }}>
          <Box sx={{ width: 132 }}>
            <NumberField label={way === 'most' ? 'At most' : 'At least'} unit={unit || undefined} value={limit} min={0} max={1e6} bare onChange={set} />
          </Box>
          {name === 'gap' && verdict && !verdict.passed && <ShowClose />}
          {verdict && !verdict.passed && <Offenders name={name} words={stepping && list && list.length > 0 ? `${at + 1} of ${list.length}` : ''} />}
        </Box>
      )}
      {verdict && !verdict.passed && (
        <Box sx={{ display: 'flex', alignItems: 'center', justifyContent: 'space-between', pl: 2.5, gap: 1 }}>
          <Typography variant="caption" role={stepping ? 'status' : undefined}>
            {stepping && list ? (list.length === 0 ? 'No single place is to blame.' : list[at]?.words) : ''}
          </Typography>
          {mend && (
            <Button size="small" onClick={() => void mend.run()} sx={{ whiteSpace: 'nowrap' }}>
              {mend.label}
            </Button>
          )}
        </Box>
      )}
    </Box>
  );
}

/** All faces that are too close to another island at once, marked in both views. */
function ShowClose() {
  const layout = useBench((s) => s.layout);
  const isShown = useBench((s) => s.fault === 'close' && s.closeFaces?.layout === s.layout);
  const toggle = async () => {
    const { summary, set } = useBench.getState();
    if (isShown || !summary || !layout) {
      set({ fault: 'none', closeFaces: null });
      return;
    }
    const outcome = await run('offenders', { part: summary.activePart, limit: 'gap' });
    if (outcome.ok) set({ fault: 'close', closeFaces: { layout, faces: Uint32Array.from(outcome.report.list.flatMap(({ ids }) => [...ids])) } });
  };
  return (
    <Tooltip title="Mark all of them in both views">
      <Button size="small" aria-pressed={isShown} variant={isShown ? 'contained' : 'text'} sx={{ minWidth: 0, px: 0.75 }} onClick={() => void toggle()}>
        All
      </Button>
    </Tooltip>
  );
}

/** The places that break a limit, one after the other in both views. */
function Offenders({ name, words }: { name: LimitKey; words: string }) {
  const { label } = limitWords[name];
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', ml: 'auto' }}>
      <Tooltip title="The place before">
        <IconButton size="small" aria-label={`${label}: the place before`} onClick={() => void stepOffenders(name, -1)}>
          <BeforeIcon fontSize="small" />
        </IconButton>
      </Tooltip>
      <Typography variant="figure" sx={{ minWidth: 44, textAlign: 'center', whiteSpace: 'nowrap' }}>
        {words}
      </Typography>
      <Tooltip title="The next place that breaks it, shown in both views">
        <IconButton size="small" aria-label={`${label}: the next place`} onClick={() => void stepOffenders(name, 1)}>
          <NextIcon fontSize="small" />
        </IconButton>
      </Tooltip>
    </Box>
  );
}

/** A limit to begin with: what the layout has, rounded. */
function suggested(name: LimitKey, figure: number | null): number {
  if (figure === null) return limitWords[name].way === 'most' ? 5 : 1;
  return limitWords[name].way === 'most' ? Math.ceil(figure * 10) / 10 : Math.floor(figure * 10) / 10;
}
