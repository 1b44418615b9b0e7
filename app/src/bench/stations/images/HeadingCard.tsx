import { Box, Button, List, ListItem, ListItemButton, ListItemText, Typography } from '@mui/material';
import { islandLetter, type ReportOf } from '@jig-peel/core';
import { useEffect, useState } from 'react';
import { NumberField } from '../../../fields/NumberField.tsx';
import { useBench } from '../../../store/bench.ts';
import { useJob } from '../../../store/useJob.ts';
import { coreApi, run } from '../../../worker/client.ts';
import { Card } from '../Card.tsx';

/** Islands that are listed at once. */
const listed = 20;

const leanWords = (lean: number) => (Math.abs(lean) > 165 ? 'upside down' : `${Math.abs(lean).toFixed(0)}° to the ${lean > 0 ? 'left' : 'right'}`);

/** Whether the picture stands upright on the model, island by island. */
export function HeadingCard() {
  return (
    <Card title="How the picture stands" folds="closed">
      <Asked />
    </Card>
  );
}

function Asked() {
  const { images, parts } = useJob('images', 'parts');
  const layout = useBench((s) => s.layout);
  const [most, setMost] = useState(10);
  const [found, setFound] = useState<ReportOf<'pictureHeading'> | string | null>(null);
  const isBare = !layout || layout.allUnplaced;
  useEffect(() => {
    if (isBare) return;
    let current = true;
    void coreApi()
      .pictureHeading({ most })
      .then((outcome) => {
        if (current) setFound(outcome.ok ? outcome.report : outcome.sentence);
      })
      .catch(() => {});
    return () => {
      current = false;
    };
  }, [isBare, most, layout, images, parts]);
  if (isBare) return <Typography variant="caption">The part has no layout yet: unwrap it first.</Typography>;
  if (typeof found === 'string') return <Typography variant="caption">{found}</Typography>;
  return (
    <>
      <NumberField bare label="It may lean by" unit="°" value={most} min={0} max={180} onChange={setMost} />
      {found && (
        <Typography variant="body2" role="status" aria-label="How the picture stands">
          {found.leaning.length === 0
            ? 'The picture stands upright on all islands.'
            : `It leans on ${found.leaning.length} of ${found.islands} islands that stand, ${(found.share * 100).toFixed(0)} % of their area.`}
        </Typography>
      )}
      {found && found.leaning.length > 0 && (
        <>
          <List dense disablePadding aria-label="Islands on which the picture leans, worst first" sx={{ maxHeight: 160, overflow: 'auto' }}>
            {found.leaning.slice(0, listed).map(({ island, lean }) => (
              <ListItem key={island} disablePadding>
                <ListItemButton
                  sx={{ borderRadius: 1, px: 1, py: 0 }}
                  onClick={() => void run('select', { kind: 'islands', ids: [island] }).then(() => useBench.getState().frame())}
                >
                  <ListItemText primary={islandLetter(island)} secondary={leanWords(lean)} />
                </ListItemButton>
              </ListItem>
            ))}
          </List>
          {found.leaning.length > listed && <Typography variant="caption">The {listed} worst are listed.</Typography>}
          <Box>
            <Button size="small" variant="outlined" onClick={() => void run('pictureHeading', { most, select: true }, true)}>
              Select {found.leaning.length === 1 ? 'it' : `all ${found.leaning.length}`}
            </Button>
          </Box>
        </>
      )}
      <Typography variant="caption" color="text.secondary">
        The picture’s up beside the model’s up, on the mean of each island, as the picture is placed. Faces that look up or down have no up.
      </Typography>
    </>
  );
}
