import { Box, Button, Typography } from '@mui/material';
import { Link } from 'react-router';

/** Shown for addresses that do not exist and, with `fault`, for faults of the app itself. */
export function ErrorPage({ fault = false }: { fault?: boolean }) {
  const missing = !fault;
  return (
    <Box component="main" sx={{ p: 6, maxWidth: 620 }}>
      <Typography variant="h1" gutterBottom>
        {missing ? 'There is no such page' : 'Something in the app went wrong'}
      </Typography>
      <Typography sx={{ mb: 3 }}>
        {missing
          ? 'The address may be mistyped, or the job was removed.'
          : 'The page met something unexpected and stopped. Your job is kept in this browser up to the last step; open it again from the jobs page.'}
      </Typography>
      <Button {...(fault ? { href: '/' } : { component: Link, to: '/' })} variant="contained">
        To the jobs page
      </Button>
    </Box>
  );
}
