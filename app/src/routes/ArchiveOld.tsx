import { Alert, Box, Button, Checkbox, FormControlLabel, Typography } from '@mui/material';
import { useState } from 'react';
import { binJob } from '../keep/bin.ts';
import type { JobRow } from '../keep/rows.ts';
import { coreApi, outcomeOf } from '../worker/client.ts';
import { megabytes } from './megabytes.ts';
import { openElsewhere } from './openElsewhere.ts';

const old = 30 * 86_400_000;

/** Jobs, the longest untouched first, each saved as an archive and then put into the bin. */
export default function ArchiveOld({ jobs, done }: { jobs: readonly JobRow[]; done(): void }) {
  const sorted = [...jobs].sort((a, b) => a.updated - b.updated);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(() => new Set(sorted.filter(({ updated }) => Date.now() - updated > old).map(({ id }) => id)));
  const [at, setAt] = useState<string | null>(null);
  const [trouble, setTrouble] = useState<string[]>([]);

  const archive = async () => {
    setTrouble([]);
    const names = new Set<string>();
    for (const { id, name } of sorted.filter((job) => chosen.has(job.id))) {
      setAt(name);
      if (await openElsewhere(id)) {
        setTrouble((before) => [...before, `“${name}” is open in another tab: close it there first.`]);
        continue;
      }
      const outcome = await outcomeOf(coreApi().archiveKept(id));
      if (!outcome.ok) {
        setTrouble((before) => [...before, `“${name}”: ${outcome.sentence}`]);
        continue;
      }
      const { name: file, bytes, type } = outcome.report;
      let own = file;
      for (let k = 2; names.has(own); k++) own = file.replace(/(?=\.jigpeel$)/, `-${k}`);
      names.add(own);
      const url = URL.createObjectURL(new Blob([bytes as Uint8Array<ArrayBuffer>], { type }));
      const link = document.createElement('a');
      link.href = url;
      link.download = own;
      link.click();
      setTimeout(() => URL.revokeObjectURL(url), 60_000);
      await binJob(id);
      setChosen((before) => new Set([...before].filter((one) => one !== id)));
    }
    setAt(null);
    done();
  };

  return (
    <Box
      component="section"
      aria-label="Old jobs into archives"
      sx={{ border: 1, borderColor: 'divider', borderRadius: 1, bgcolor: 'background.paper', p: 1.5, mt: 1, maxWidth: 620 }}
    >
      <Typography variant="body2" color="text.secondary">
        Each is written as a job archive, read back, handed to the downloads, and then waits in the bin for 30 days. An archive holds all but the undo.
      </Typography>
      <Box sx={{ maxHeight: 240, overflow: 'auto', my: 1 }}>
        {sorted.map(({ id, name, updated, bytes }) => (
          <FormControlLabel
            key={id}
            sx={{ display: 'flex', m: 0 }}
            control={
              <Checkbox
                size="small"
                checked={chosen.has(id)}
                onChange={(event) => setChosen(new Set(event.target.checked ? [...chosen, id] : [...chosen].filter((one) => one !== id)))}
              />
            }
            label={
              <Typography variant="body2">
                {name}, last worked on {new Date(updated).toLocaleDateString()}
                {bytes === undefined ? '' : `, ${megabytes(bytes)}`}
              </Typography>
            }
          />
        ))}
      </Box>
      {trouble.map((words) => (
        <Alert key={words} severity="error" sx={{ mb: 1 }}>
          {words}
        </Alert>
      ))}
      <Button
        variant="contained"
        disabled={chosen.size === 0 || at !== null}
        title={chosen.size === 0 ? 'Tick at least one job' : undefined}
        onClick={() => void archive()}
      >
        {at === null ? `Archive ${chosen.size} ${chosen.size === 1 ? 'job' : 'jobs'}` : `Archiving ${at} …`}
      </Button>
    </Box>
  );
}
