import { FormControlLabel, Switch, Typography } from '@mui/material';
import { lengthWords } from '../../fields/lengthWords.ts';
import { useBench } from '../../store/bench.ts';

/** Length of all seams and how much of it is in plain sight; notches. */
export function SeamFigures() {
  const report = useBench((s) => (s.measures?.part === s.summary?.activePart ? s.measures?.own : undefined));
  const unit = useBench((s) => s.summary!.settings.unit);
  const notches = useBench((s) => s.notches);
  return (
    <>
      {report && report.seamLength > 0 && (
        <Typography variant="caption" component="div">
          Seams:{' '}
          <Typography component="span" variant="figure">
            {lengthWords(report.seamLength, unit)}
          </Typography>
          {report.hiddenSeamShare !== null && (
            <>
              , in plain sight{' '}
              <Typography component="span" variant="figure">
                {Math.round((1 - report.hiddenSeamShare) * 100)} %
              </Typography>
            </>
          )}
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
