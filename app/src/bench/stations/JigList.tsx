import { Box, Button, IconButton, ListItemButton, Menu, MenuItem, Tooltip, Typography } from '@mui/material';
import MoreVertIcon from '@mui/icons-material/MoreVert';
import { useState } from 'react';
import { useBench } from '../../store/bench.ts';
import { run } from '../../worker/client.ts';
import type { JigRow } from '../../worker/messages.ts';
import { takeInHand, useJigs } from '../jigs.ts';
import { Card } from './Card.tsx';

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
  const parts = useBench((s) => s.summary!.parts);
  const others = parts.filter((part) => !jig.drives.some((drive) => drive.part === part.id));
  const state = (to: string) => ({ name: 'setJigState', params: { ids: [jig.id], to } });
  const items = [
    jig.state === 'live' && { label: 'Write to UVs', ...state('written') },
    jig.state === 'live' && { label: 'Switch off', ...state('off') },
    jig.state !== 'live' && { label: 'Make live', ...state('live') },
    { label: 'Give it the selected faces', name: 'driveFaces', params: { id: jig.id, faces: 'selected' } },
    jig.drives.length > 0 && { label: 'Take the selected faces from it', name: 'driveFaces', params: { id: jig.id, faces: 'selected', take: true } },
    others.length > 0 &&
      jig.drives.length > 0 && {
        label: `Copy to the other parts (${others.length})`,
        name: 'copyJig',
        params: { id: jig.id, parts: others.map(({ id }) => id) },
      },
    others.some((part) => part.groups.length > 0) &&
      jig.drives.length > 0 && {
        label: 'Copy to face groups of the same name',
        name: 'copyJig',
        params: { id: jig.id, parts: others.map(({ id }) => id), by: 'group' },
      },
    { label: 'Remove, UVs stay', ...state('removed') },
  ].filter((item) => item !== false);
  return (
    <>
      <Tooltip title={`More of ${jig.name}`}>
        <IconButton size="small" aria-label={`More of ${jig.name}`} onClick={(event) => setAnchor(event.currentTarget)}>
          <MoreVertIcon sx={{ fontSize: 18 }} />
        </IconButton>
      </Tooltip>
      <Menu open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)} transitionDuration={0}>
        {items.map(({ label, name, params }) => (
          <MenuItem
            key={label}
            dense
            onClick={() => {
              setAnchor(null);
              void run(name, params, true);
            }}
          >
            {label}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
