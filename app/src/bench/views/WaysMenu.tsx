import { Box, Divider, ListItemText, Menu, MenuItem, TextField, Typography } from '@mui/material';
import { selectedCount } from '@jig-peel/core';
import { NumberField } from '../../fields/NumberField.tsx';
import { useBench } from '../../store/bench.ts';
import { run } from '../../worker/client.ts';
import { keysOf, useKeys } from '../../keys/keyTable.ts';
import { commandOf, runCommand } from '../commands/index.ts';

/** Labels without the word that all of them begin with. */
const short = (label: string) => {
  const rest = label.replace(/^Select (the )?/, '');
  return rest[0]!.toUpperCase() + rest.slice(1);
};

const groups = [
  ['select-all', 'select-invert', 'select-grow', 'select-shrink', 'select-convert'],
  ['select-loop', 'select-ring', 'select-run', 'select-path', 'select-border', 'select-seams'],
  ['select-connected', 'select-flat', 'select-facing', 'select-mirror'],
  [
    'select-noUv',
    'select-flipped',
    'select-mirrored',
    'select-overlapping',
    'select-stretched',
    'select-outside',
    'select-tray',
    'select-close',
    'select-turned',
    'select-shrunk',
  ],
  ['hide', 'only', 'show', 'done', 'undone', 'left'],
];

/** The limits that the rules below go by, typed in. Not an item of the menu: keys stay in its fields. */
function LimitsRow() {
  const limits = useBench((s) => s.limits);
  const set = useBench((s) => s.setLimits);
  const margin = useBench((s) => s.summary?.settings.margin ?? 8);
  const unit = useBench((s) => s.summary?.settings.unit ?? 'unit');
  const size = useBench((s) => s.summary?.active.size);
  const thousandth = Number((Math.max(...(size ?? [1])) / 1000).toPrecision(2));
  return (
    <Box
      component="li"
      role="none"
      onKeyDown={(event) => event.key !== 'Escape' && event.key !== 'Tab' && event.stopPropagation()}
      sx={{ columnSpan: 'all', display: 'grid', gridTemplateColumns: 'repeat(3, 148px)', gap: 1, px: 2, py: 1 }}
    >
      <NumberField label="Run, flat, facing within" unit="°" value={limits.angle} min={0} max={180} step={5} onChange={(angle) => set({ angle })} />
      <NumberField label="Stretched over ×" value={limits.stretch} min={1} max={100} step={0.1} onChange={(stretch) => set({ stretch })} />
      <NumberField label="Turned by more than" unit="°" value={limits.turned} min={0} max={180} step={5} onChange={(turned) => set({ turned })} />
      <NumberField label="Closer than" unit="px" value={limits.gap ?? margin} min={0} max={512} onChange={(gap) => set({ gap })} />
      <TextField select label="Mirror across" value={limits.mirrorAxis} onChange={(event) => set({ mirrorAxis: event.target.value as 'x' | 'y' | 'z' })}>
        {(['x', 'y', 'z'] as const).map((axis) => (
          <MenuItem key={axis} value={axis}>
            the middle of {axis}
          </MenuItem>
        ))}
      </TextField>
      <NumberField
        label="Mirror tolerance"
        unit={unit === 'unit' ? '' : unit}
        value={limits.tolerance ?? thousandth}
        min={0}
        max={1e6}
        step={thousandth || 0.001}
        onChange={(tolerance) => set({ tolerance })}
      />
    </Box>
  );
}

/** Every way to select by a rule; what has no effect now says why. */
export default function WaysMenu({ anchor, onClose }: { anchor: HTMLElement; onClose: () => void }) {
  const ownKeys = useKeys((s) => s.own);
  const saved = useBench((s) => s.summary?.saved);
  const count = useBench((s) => (s.summary ? selectedCount(s.summary.selection) : 0));
  const close = () => {
    onClose();
    document.getElementById('views')?.focus({ preventScroll: true });
  };
  const nextName = () => {
    for (let k = 1; ; k++) if (!saved?.includes(`Selection ${k}`)) return `Selection ${k}`;
  };
  return (
    <Menu
      transitionDuration={0}
      slotProps={{ list: { sx: { columns: 2, columnGap: 0, '& > *': { breakInside: 'avoid' } } } }}
      anchorEl={anchor}
      open
      onClose={close}
      anchorOrigin={{ vertical: 'top', horizontal: 'right' }}
      transformOrigin={{ vertical: 'bottom', horizontal: 'right' }}
    >
      <LimitsRow />
      <Divider />
      {groups.flatMap((ids, g) => [
        ...(g > 0 ? [<Divider key={`line-${g}`} />] : []),
        ...ids.map((id) => {
          const command = commandOf(id);
          const [key] = keysOf(id, ownKeys);
          const why = command.blocked?.() ?? null;
          return (
            <MenuItem
              key={id}
              dense
              disabled={why !== null}
              onClick={() => {
                close();
                runCommand(id);
              }}
            >
              <ListItemText primary={short(command.label)} secondary={why ?? undefined} />
              {key && (
                <Typography variant="figure" color="text.secondary" sx={{ ml: 2 }}>
                  {key}
                </Typography>
              )}
            </MenuItem>
          );
        }),
      ])}
      <Divider />
      <MenuItem
        dense
        disabled={count === 0}
        onClick={() => {
          close();
          void run('saveSelection', { name: nextName() }, true);
        }}
      >
        <ListItemText primary="Keep this selection" secondary={count > 0 ? `as “${nextName()}”` : 'select something first'} />
      </MenuItem>
      {saved?.map((name) => (
        <MenuItem
          key={name}
          dense
          onClick={() => {
            close();
            void run('useSelection', { name });
          }}
        >
          <ListItemText primary={`Select “${name}”`} />
        </MenuItem>
      ))}
    </Menu>
  );
}
