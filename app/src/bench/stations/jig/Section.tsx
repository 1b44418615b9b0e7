import { Typography } from '@mui/material';

/** A part of a card under a small heading. */
export function Section({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <>
      <Typography variant="caption" color="text.secondary" sx={{ mt: 0.5, fontWeight: 650 }}>
        {title}
      </Typography>
      {children}
    </>
  );
}
