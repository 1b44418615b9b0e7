import { Box, useTheme } from '@mui/material';
import { Line, LineChart, XAxis, YAxis } from 'recharts';

/** Coverage over the seconds of a search. */
export function CoverageLine({ trace }: { trace: readonly { seconds: number; coverage: number }[] }) {
  const theme = useTheme();
  const last = trace.at(-1)!;
  const rows = trace.map(({ seconds, coverage }) => ({ seconds: Number(seconds.toFixed(1)), covered: Number((coverage * 100).toFixed(2)) }));
  const style = { fontSize: 10, fill: theme.palette.text.secondary };
  return (
    <Box
      role="img"
      aria-label={`${rows.length} layouts in ${last.seconds.toFixed(1)} seconds, the last covers ${(last.coverage * 100).toFixed(1)} %`}
      sx={{ my: 0.5 }}
    >
      <LineChart accessibilityLayer={false} width={244} height={72} data={rows} margin={{ top: 4, right: 6, bottom: 0, left: 0 }}>
        <XAxis dataKey="seconds" type="number" domain={[0, 'dataMax']} tick={style} unit=" s" height={16} tickLine={false} />
        <YAxis domain={['dataMin', 'dataMax']} tick={style} width={34} tickLine={false} tickCount={3} />
        <Line type="stepAfter" dataKey="covered" stroke={theme.palette.primary.main} strokeWidth={2} dot={false} isAnimationActive={false} />
      </LineChart>
    </Box>
  );
}
