import { Box, Button, Chip, IconButton, List, ListItem, ListItemButton, ListItemText, Tooltip, Typography } from '@mui/material';
import RemoveIcon from '@mui/icons-material/DeleteOutlined';
import { useState } from 'react';
import { NameField } from '../../fields/NameField.tsx';
import { useBench } from '../../store/bench.ts';
import { run } from '../../worker/client.ts';
import { Card } from './Card.tsx';

/** The job's parts; the active one can be renamed, its groups and materials chosen, selected faces given to a material. */
export function PartsCard() {
  const summary = useBench((s) => s.summary)!;
  const active = summary.parts.find((part) => part.id === summary.activePart)!;
  const many = summary.parts.length > 1;
  return (
    <Card title={many ? `${summary.parts.length} parts` : 'Part'}>
      {many && (
        <List dense disablePadding sx={{ maxHeight: 260, overflow: 'auto' }}>
          {summary.parts.map((part) => (
            <ListItem
              key={part.id}
              disablePadding
              secondaryAction={
                <Tooltip title="Remove this part (undo brings it back)">
                  <IconButton edge="end" size="small" aria-label={`Remove ${part.name}`} onClick={() => void run('removePart', { part: part.id }, true)}>
                    <RemoveIcon sx={{ fontSize: 17 }} />
                  </IconButton>
                </Tooltip>
              }
            >
              <ListItemButton
                selected={part.id === active.id}
                onClick={() => part.id !== active.id && void run('activatePart', { part: part.id })}
                sx={{ borderRadius: 1, px: 1 }}
              >
                <ListItemText
                  primary={part.name}
                  secondary={`${part.faces.toLocaleString('en')} faces${part.unplaced === part.faces ? ', no UVs yet' : part.unplaced > 0 ? `, ${part.unplaced} without UVs` : ''}`}
                />
              </ListItemButton>
            </ListItem>
          ))}
        </List>
      )}
      <NameField key={active.id} label="Name of the part" value={active.name} onChange={(name) => void run('renamePart', { part: active.id, name })} />
      <Named what="group" title="Groups" names={active.groups} />
      <Named what="material" title="Materials" names={active.materials} />
      <GiveMaterial names={active.materials} />
    </Card>
  );
}

function Named({ what, title, names }: { what: 'group' | 'material'; title: string; names: readonly string[] }) {
  if (names.length === 0) return null;
  return (
    <Box>
      <Typography variant="caption" color="text.secondary">
        {title}: a click selects the faces
      </Typography>
      <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.5, maxHeight: 120, overflow: 'auto' }}>
        {names.map((name) => (
          <Chip
            key={name}
            size="small"
            variant="outlined"
            label={name}
            onClick={() => void run('selectNamed', { what, name }).then(() => useBench.getState().set({ kind: 'faces' }))}
          />
        ))}
      </Box>
    </Box>
  );
}

/** Gives the selected faces to a material by name; absent unless faces are selected. */
function GiveMaterial({ names }: { names: readonly string[] }) {
  const selection = useBench((s) => s.summary?.selection);
  const [naming, setNaming] = useState(false);
  if (!selection || selection.kind !== 'faces' || selection.ids.length === 0) return null;
  if (!naming)
    return (
      <Button size="small" variant="outlined" onClick={() => setNaming(true)}>
        Give {selection.ids.length.toLocaleString('en')} selected {selection.ids.length === 1 ? 'face' : 'faces'} to a material
      </Button>
    );
  return (
    <NameField
      autoFocus
      label="Material, present or new"
      value={names[0] ?? 'material 1'}
      onChange={(material) => {
        setNaming(false);
        void run('assignMaterial', { faces: [...selection.ids], material }, true);
      }}
    />
  );
}
