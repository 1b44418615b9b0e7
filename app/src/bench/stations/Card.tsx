import { Box, Paper, Typography } from '@mui/material';

/** One card of a station's panel. */
export function Card({ title, children }: { title?: string; children: React.ReactNode }) {
  return (
    <Paper variant="outlined" sx={{ p: 1.5, mb: 1.25 }}>
      {title && (
        <Typography variant="h3" component="h2" sx={{ mb: 1 }}>
          {title}
        </Typography>
      )}
      <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1.25 }}>{children}</Box>
    </Paper>
  );
}
