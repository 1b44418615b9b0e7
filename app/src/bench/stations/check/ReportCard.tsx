import { Box, Button, Typography } from '@mui/material';
import { useState } from 'react';
import { useBench } from '../../../store/bench.ts';
import { run } from '../../../worker/client.ts';
import { save } from '../../deliver.ts';
import { Card } from '../Card.tsx';

const fileName = (name: string) => name.replace(/[^\p{L}\p{N} _-]+/gu, '').trim() || 'layout';

/** The verdict on all sheets as files that open anywhere. */
export function ReportCard() {
  const [busy, setBusy] = useState(false);
  const make = async (kind: 'html' | 'json') => {
    setBusy(true);
    const made = new Date().toLocaleDateString('en-GB', { dateStyle: 'long' });
    const outcome = await run('report', { made });
    setBusy(false);
    if (!outcome.ok) return;
    const url = URL.createObjectURL(new Blob([outcome.report[kind]], { type: kind === 'html' ? 'text/html' : 'application/json' }));
    save(`${fileName(useBench.getState().summary?.name ?? '')} report.${kind}`, url);
    URL.revokeObjectURL(url);
    useBench
      .getState()
      .notice(outcome.report.missed === 0 ? 'The report is saved: all limits are kept.' : `The report is saved: ${outcome.report.missed} not kept.`, 'info');
  };
  return (
    <Card title="Report">
      <Typography variant="body2" color="text.secondary">
        All sheets with figures, verdicts, charts and pictures in one file that opens anywhere and can be printed.
      </Typography>
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Button variant="outlined" sx={{ flex: 1 }} disabled={busy} onClick={() => void make('html')}>
          Report, HTML
        </Button>
        <Button variant="outlined" sx={{ flex: 1 }} disabled={busy} onClick={() => void make('json')}>
          JSON
        </Button>
      </Box>
    </Card>
  );
}
