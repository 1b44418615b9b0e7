import { Box, Button, IconButton, List, ListItem, ListItemButton, ListItemText, Tooltip } from '@mui/material';
import DownIcon from '@mui/icons-material/ArrowDownward';
import RemoveIcon from '@mui/icons-material/DeleteOutlined';
import UpIcon from '@mui/icons-material/ArrowUpward';
import { NameField } from '../../fields/NameField.tsx';
import { useJob } from '../../store/useJob.ts';
import { run } from '../../worker/client.ts';
import { Card } from './Card.tsx';

/** The active part's UV sets: choose, add, copy, rename, reorder, remove. GLB gets all, OBJ and PLY the one being worked on. */
export function UvSetsCard() {
  const summary = useJob('id', 'parts', 'activePart');
  const { uvSets, activeUv } = summary.parts.find((part) => part.id === summary.activePart)!;
  const many = uvSets.length > 1;
  return (
    <Card title={many ? `${uvSets.length} UV sets` : 'UV set'}>
      {many && (
        <List dense disablePadding aria-label="UV sets">
          {uvSets.map((name, k) => (
            <ListItem
              key={name}
              disablePadding
              secondaryAction={
                <Box sx={{ display: 'flex' }}>
                  {k > 0 && (
                    <Action label={`Move ${name} up`} icon={<UpIcon sx={{ fontSize: 16 }} />} onClick={() => void run('uvSets', { what: 'up', set: k })} />
                  )}
                  {k + 1 < uvSets.length && (
                    <Action
                      label={`Move ${name} down`}
                      icon={<DownIcon sx={{ fontSize: 16 }} />}
                      onClick={() => void run('uvSets', { what: 'down', set: k })}
                    />
                  )}
                  <Action
                    label={`Remove ${name}`}
                    icon={<RemoveIcon sx={{ fontSize: 16 }} />}
                    onClick={() => void run('uvSets', { what: 'remove', set: k }, true)}
                  />
                </Box>
              }
            >
              <ListItemButton
                selected={k === activeUv}
                onClick={() => k !== activeUv && void run('uvSets', { what: 'choose', set: k })}
                sx={{ borderRadius: 1, px: 1, pr: 11 }}
              >
                <ListItemText primary={name} secondary={k === activeUv ? 'being worked on' : undefined} />
              </ListItemButton>
            </ListItem>
          ))}
        </List>
      )}
      <NameField
        key={`${summary.activePart} ${activeUv}`}
        label="Name of the UV set"
        value={uvSets[activeUv]!}
        change={{ job: summary.id, operation: 'uvSets', params: { part: summary.activePart, what: 'rename', set: activeUv }, field: 'name' }}
      />
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Button size="small" variant="outlined" fullWidth onClick={() => void run('uvSets', { what: 'copy' }, true)}>
          Copy it
        </Button>
        <Button size="small" variant="outlined" fullWidth onClick={() => void run('uvSets', { what: 'add' }, true)}>
          Add an empty one
        </Button>
      </Box>
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Button size="small" variant="outlined" fullWidth onClick={() => void run('uvSets', { what: 'starter' }, true)}>
          Add a starter one
        </Button>
      </Box>
    </Card>
  );
}

function Action({ label, icon, onClick }: { label: string; icon: React.ReactNode; onClick: () => void }) {
  return (
    <Tooltip title={label}>
      <IconButton size="small" aria-label={label} onClick={onClick} sx={{ p: 0.4 }}>
        {icon}
      </IconButton>
    </Tooltip>
  );
}
