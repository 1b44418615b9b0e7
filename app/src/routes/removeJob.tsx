import { Button } from '@mui/material';
import { binJob, putBackJob } from '../keep/bin.ts';
import { snackbars } from '../notices/snackbars.ts';
import { openElsewhere } from './openElsewhere.ts';

/** Puts a job into the bin, and offers to put it back. */
export async function removeJob(
  id: string,
  name: string,
  change: (work: () => Promise<unknown>) => Promise<boolean>,
  refuse: (why: string) => void,
): Promise<void> {
  if (await openElsewhere(id)) {
    refuse(`“${name}” is open in another tab: close it there first.`);
    return;
  }
  if (!(await change(() => binJob(id)))) return;
  const { enqueueSnackbar, closeSnackbar } = await snackbars();
  enqueueSnackbar(`“${name}” is in the bin`, {
    action: (key) => (
      <Button
        color="inherit"
        onClick={() => {
          closeSnackbar(key);
          void change(() => putBackJob(id));
        }}
      >
        Put back
      </Button>
    ),
  });
}
