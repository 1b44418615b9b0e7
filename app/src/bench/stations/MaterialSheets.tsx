import { Button, Tooltip } from '@mui/material';
import SplitIcon from '@mui/icons-material/CallSplit';
import type { JobSummary } from '../../session/messages.ts';
import { run } from '../../worker/client.ts';

/** Splits parts of several materials, so that each material has a sheet of its own; absent where there are none. */
export function MaterialSheets({ parts }: { parts: readonly Pick<JobSummary['parts'][number], 'id' | 'name' | 'materials'>[] }) {
  const mixed = parts.filter(({ materials }) => materials.length > 1);
  if (mixed.length === 0) return null;
  const which = mixed.length === 1 ? `${mixed[0]!.name} has several materials; it becomes` : `${mixed.length} parts have several materials; each becomes`;
  return (
    <Tooltip describeChild title={`${which} a part for each. Files have the whole again.`}>
      <Button size="small" variant="outlined" startIcon={<SplitIcon />} onClick={() => void run('splitParts', { parts: mixed.map(({ id }) => id) }, true)}>
        A sheet for each material
      </Button>
    </Tooltip>
  );
}
