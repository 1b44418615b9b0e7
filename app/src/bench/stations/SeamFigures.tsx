import { plainSight, viewingWords } from '@jig-peel/core/measure/seamSight';
import { FormControlLabel, Switch, Tooltip, Typography } from '@mui/material';
import { lengthWords } from '../../fields/lengthWords.ts';
import { useBench } from '../../store/bench.ts';

/** Length of all seams and how much of it is in plain sight; notches. */
export function SeamFigures() {
  const report = useBench((s) => (s.measures?.part === s.summary?.activePart ? s.measures?.own : undefined));
  const unit = useBench((s) => s.summary!.settings.unit);
  const seenFrom = useBench((s) => s.summary!.settings.seenFrom);
  const notches = useBench((s) => s.notches);
  return (
    <>
      {report && report.seamLength > 0 && (
        <Typography variant="caption" component="div">
          Seams:{' '}
          <Typography component="span" variant="figure">
            {lengthWords(report.seamLength, unit)}
          </Typography>
          , in plain sight{' '}
          <Tooltip title={`Seen from ${Math.round(plainSight * 100)} % of all directions and more, counting what stands before it`}>
            <Typography component="span" variant="figure">
              {lengthWords(report.seamInSight, unit)} ({Math.round((report.seamInSight / report.seamLength) * 100)} %)
            </Typography>
          </Tooltip>
          {`, seen from ${viewingWords[seenFrom]}`}
        </Typography>
      )}
      <FormControlLabel
        control={<Switch size="small" checked={notches} onChange={(event) => useBench.getState().set({ notches: event.target.checked })} />}
        label="Notches on the sheet"
        slotProps={{ typography: { variant: 'body2' } }}
      />
    </>
  );
}
