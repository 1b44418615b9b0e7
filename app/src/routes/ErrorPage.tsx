import { Box, Button, Typography } from '@mui/material';
import { Link, useRouteError } from 'react-router';

/** Shown for addresses that do not exist and for faults of the app itself. */
export function ErrorPage() {
  const error = useRouteError() as { status?: number; message?: string } | undefined;
  const missing = !error || error.status === 404;
  // what it was is for those who can read it
  if (!missing) console.error(error);
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
      <Button component={Link} to="/" variant="contained">
        To the jobs page
      </Button>
    </Box>
  );
}
