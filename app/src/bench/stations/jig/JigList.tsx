import { Box, Button, IconButton, ListItemButton, Menu, MenuItem, Tooltip, Typography } from '@mui/material';
import MoreVertIcon from '@mui/icons-material/MoreVert';
import { useState } from 'react';
import { useBench } from '../../../store/bench.ts';
import { run } from '../../../worker/client.ts';
import type { JigRow } from '../../../session/messages.ts';
import { jigActions } from '../../jigActions.ts';
import { takeInHand, useJigs } from '../../jigs.ts';
import { Card } from '../Card.tsx';

/** The job's jigs: what each drives, in words; the one in hand is marked. */
export function JigList() {
  const jigs = useBench((s) => s.summary!.jigs);
  const activePart = useBench((s) => s.summary!.activePart);
  const chosen = useJigs((s) => s.chosen);
  if (jigs.length === 0) return null;
  return (
    <Card title="Jigs">
      <Box component="ul" aria-label="Jigs" sx={{ m: 0, p: 0, listStyle: 'none' }}>
        {jigs.map((jig) => {
          const here = jig.drives.length === 0 || jig.drives.some(({ part }) => part === activePart);
          return (
            <Box component="li" key={jig.id} sx={{ display: 'flex', alignItems: 'center' }}>
              <ListItemButton
                dense
                selected={jig.id === chosen && here}
                aria-current={jig.id === chosen && here}
                sx={{ borderRadius: 1, py: 0.25, px: 0.75, display: 'block' }}
                onClick={() => {
                  // a jig of another part brings that part along
                  if (!here) void run('activatePart', { part: jig.drives[0]!.part });
                  takeInHand(jig.id);
                }}
              >
                <Typography variant="body2" noWrap sx={{ fontWeight: jig.id === chosen && here ? 650 : 400 }}>
                  {jig.name}
                </Typography>
                <Typography variant="caption" color="text.secondary" sx={{ display: 'block', lineHeight: 1.25 }}>
                  {jig.words}
                </Typography>
              </ListItemButton>
              <JigMenu jig={jig} />
            </Box>
          );
        })}
      </Box>
      {jigs.some((jig) => jig.state === 'live') && (
        <Button
          size="small"
          variant="outlined"
          onClick={() => void run('setJigState', { ids: jigs.filter((j) => j.state === 'live').map((j) => j.id), to: 'written' }, true)}
        >
          Write all to UVs
        </Button>
      )}
    </Card>
  );
}

function JigMenu({ jig }: { jig: JigRow }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Tooltip title={`More of ${jig.name}`}>
        <IconButton size="small" aria-label={`More of ${jig.name}`} onClick={(event) => setAnchor(event.currentTarget)}>
          <MoreVertIcon sx={{ fontSize: 18 }} />
        </IconButton>
      </Tooltip>
      <Menu open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)} transitionDuration={0}>
        {(anchor ? jigActions(jig) : []).map(({ id, label, act }) => (
          <MenuItem
            key={id}
            dense
            onClick={() => {
              setAnchor(null);
              void act();
            }}
          >
            {label}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
