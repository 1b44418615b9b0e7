import { selectedCount } from '@jig-peel/core';
import { Box, Button, IconButton, TextField, Tooltip, Typography } from '@mui/material';
import DeleteIcon from '@mui/icons-material/DeleteOutlined';
import EditIcon from '@mui/icons-material/EditOutlined';
import { useEffect, useMemo, useState } from 'react';
import { LatestOnly } from '../../../session/latestOnly.ts';
import type { JobSummary } from '../../../session/messages.ts';
import { useKeyOf } from '../../../keys/keyTable.ts';
import { useBench } from '../../../store/bench.ts';
import { show } from '../../../store/shown.ts';
import { useJob } from '../../../store/useJob.ts';
import { coreApi, run } from '../../../worker/client.ts';
import { Card } from '../Card.tsx';
import { CompareRow } from './CompareRow.tsx';

type Row = JobSummary['versions'][number];

/** The version whose layout the views show. */
let pointedAt = '';
const previews = new LatestOnly<string, Awaited<ReturnType<ReturnType<typeof coreApi>['previewVersion']>>>(
  (id) => coreApi().previewVersion(id),
  (preview, id) => {
    if (preview && pointedAt === id) show({ uvs: { preview, badly: null } });
  },
);
function pointAt(id: string): void {
  if (pointedAt === id) return;
  pointedAt = id;
  if (id) previews.ask(id);
  else {
    previews.drop();
    show({ uvs: null });
  }
}

/** Layouts kept under names: pointing at one shows it in both views, with its figures beside those of now. */
export function VersionsCard() {
  const { versions } = useJob('versions');
  const layout = useBench((s) => s.layout);
  const [name, setName] = useState('');
  const [note, setNote] = useState('');
  const key = useKeyOf('keep-version');
  useEffect(() => () => pointAt(''), [layout]);
  const keep = async () => {
    const outcome = await run('keepVersion', { name, note, time: Date.now() }, true);
    if (!outcome.ok) return;
    setName('');
    setNote('');
  };
  return (
    <Card title="Versions">
      <Box sx={{ display: 'flex', gap: 1 }}>
        <TextField
          fullWidth
          label="Name"
          placeholder={`Version ${versions.length + 1}`}
          value={name}
          slotProps={{ htmlInput: { maxLength: 80 } }}
          onChange={(event) => setName(event.target.value)}
          onKeyDown={(event) => event.key === 'Enter' && void keep()}
        />
        <Tooltip title={`Keep the layout of all parts as it is now${key ? ` (${key})` : ''}`}>
          <Button variant="outlined" sx={{ flex: 'none' }} onClick={() => void keep()}>
            Keep
          </Button>
        </Tooltip>
      </Box>
      <NoteField value={note} set={setNote} />
      <CompareRow />
      {versions.length === 0 ? (
        <Typography variant="caption" color="text.secondary">
          Keep the layout before you try something else: you can compare and go back, or take single pieces of it.
        </Typography>
      ) : (
        <Box component="ul" aria-label="Versions" sx={{ m: 0, p: 0, listStyle: 'none', display: 'flex', flexDirection: 'column', gap: 1 }}>
          {[...versions].reverse().map((one) => (
            <VersionRow key={one.id} one={one} />
          ))}
        </Box>
      )}
    </Card>
  );
}

function NoteField({ value, set }: { value: string; set(note: string): void }) {
  return (
    <TextField
      fullWidth
      multiline
      maxRows={4}
      label="Note"
      placeholder="What was tried, for whom"
      value={value}
      slotProps={{ htmlInput: { maxLength: 500 } }}
      onChange={(event) => set(event.target.value)}
    />
  );
}

/** Another name or note for a version. */
function EditVersion({ one, close }: { one: Row; close(): void }) {
  const [name, setName] = useState(one.name);
  const [note, setNote] = useState(one.note);
  const isSame = name.trim() === one.name && note.trim() === one.note;
  const keep = () => void (isSame ? close() : run('editVersion', { version: one.id, name, note }, true).then((outcome) => outcome.ok && close()));
  return (
    <Box
      component="form"
      aria-label={`Name and note of ${one.name}`}
      sx={{ display: 'flex', flexDirection: 'column', gap: 1, mt: 1 }}
      onSubmit={(event) => {
        event.preventDefault();
        keep();
      }}
      onKeyDown={(event) => {
        if (event.key !== 'Escape') return;
        event.stopPropagation();
        close();
      }}
    >
      <TextField fullWidth autoFocus label="Name" value={name} slotProps={{ htmlInput: { maxLength: 80 } }} onChange={(event) => setName(event.target.value)} />
      <NoteField value={note} set={setNote} />
      <Box sx={{ display: 'flex', gap: 0.5 }}>
        <Button size="small" type="submit" variant="contained">
          Keep
        </Button>
        <Button size="small" onClick={close}>
          Leave
        </Button>
      </Box>
    </Box>
  );
}

const percent = (x: number) => `${(x * 100).toFixed(x > 0 && x < 0.1 ? 1 : 0)} %`;

function VersionRow({ one }: { one: Row }) {
  const { id, name, note, made, figures, picture } = one;
  const selected = useBench((s) =>
    s.summary!.selection.kind === 'faces' || s.summary!.selection.kind === 'islands' ? selectedCount(s.summary!.selection) : 0,
  );
  const sheet = useBench((s) => {
    const part = s.summary!.parts.find((row) => row.id === s.summary!.activePart)!;
    return s.summary!.sheets.find((row) => row.id === part.sheet)?.name ?? s.summary!.sheets[0]?.name ?? '';
  });
  const partName = useBench((s) => s.summary!.parts.find((row) => row.id === s.summary!.activePart)!.name);
  const [words, setWords] = useState('');
  const [edits, setEdits] = useState(false);
  const url = useMemo(() => URL.createObjectURL(new Blob([picture as Uint8Array<ArrayBuffer>], { type: 'image/png' })), [picture]);
  useEffect(() => () => URL.revokeObjectURL(url), [url]);
  const own = figures.find((row) => row.sheet === sheet) ?? figures[0];
  const when = made > 0 ? new Date(made).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' }) : '';
  /** What became of the active part's pieces since, in words, those that changed selected. */
  const compare = async () => {
    const outcome = await run('compareVersions', { version: id });
    if (!outcome.ok) return;
    const active = useBench.getState().summary!.activePart;
    const part = outcome.report.parts.find((row) => row.part === active);
    if (!part?.faces) {
      setWords('It has no layout that fits this part: its faces are others now.');
      return;
    }
    const { same, moved, reshaped, recut } = part.islands;
    setWords(
      [`${same} as they were`, moved > 0 && `${moved} moved`, reshaped > 0 && `${reshaped} reshaped`, recut > 0 && `${recut} cut or joined`]
        .filter(Boolean)
        .join(', '),
    );
    const ids = Uint32Array.from([...part.faces.keys()].filter((f) => part.faces![f]! > 0));
    useBench.getState().set({ kind: 'faces' });
    await run('select', { kind: 'faces', ids });
  };
  return (
    <Box component="li" onMouseEnter={() => pointAt(id)} onMouseLeave={() => pointAt('')} sx={{ borderTop: 1, borderColor: 'divider', pt: 1 }}>
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Box
          component="img"
          src={url}
          alt=""
          sx={{ width: 64, height: 64, flex: 'none', objectFit: 'contain', bgcolor: 'background.default', borderRadius: '4px' }}
        />
        <Box sx={{ flex: 1, minWidth: 0 }}>
          <Typography variant="body2" noWrap sx={{ fontWeight: 600 }}>
            {name}
          </Typography>
          <Typography variant="caption" component="div" color="text.secondary" noWrap>
            {when}
          </Typography>
          {note && (
            <Typography variant="caption" component="div" sx={{ whiteSpace: 'pre-line', overflowWrap: 'anywhere' }}>
              {note}
            </Typography>
          )}
          {own && (
            <Typography variant="caption" component="div">
              {own.islands} {own.islands === 1 ? 'island' : 'islands'}, energy {own.energy === null ? '–' : own.energy.toFixed(2)}, {percent(own.coverage)} used
              {own.overlap > 1e-9 ? `, ${percent(own.overlap)} overlap` : ''}
              {own.flips > 0 ? `, ${own.flips} turned over` : ''}
            </Typography>
          )}
        </Box>
        <Tooltip title="Name and note">
          <IconButton size="small" aria-label={`Name and note of ${name}`} aria-expanded={edits} sx={{ alignSelf: 'start' }} onClick={() => setEdits(!edits)}>
            <EditIcon fontSize="small" />
          </IconButton>
        </Tooltip>
        <Tooltip title="Remove this version">
          <IconButton
            size="small"
            aria-label={`Remove ${name}`}
            sx={{ alignSelf: 'start' }}
            onClick={() => void run('editVersion', { version: id, do: 'remove' }, true)}
          >
            <DeleteIcon fontSize="small" />
          </IconButton>
        </Tooltip>
      </Box>
      {edits && <EditVersion one={one} close={() => setEdits(false)} />}
      <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.5, mt: 0.5 }}>
        <Button
          size="small"
          variant="outlined"
          onFocus={() => pointAt(id)}
          onBlur={() => pointAt('')}
          onClick={() => void run('useVersion', { version: id }, true)}
        >
          Go back
        </Button>
        <Tooltip title={selected > 0 ? 'Only the pieces that the selected faces belong to' : 'Select pieces or faces first'}>
          <Box component="span">
            <Button size="small" variant="outlined" disabled={selected === 0} onClick={() => void run('useVersion', { version: id, what: 'selected' }, true)}>
              Take selected
            </Button>
          </Box>
        </Tooltip>
        <Tooltip title={`The layout of ${partName} alone`}>
          <Button size="small" variant="outlined" onClick={() => void run('useVersion', { version: id, what: 'part' }, true)}>
            This part
          </Button>
        </Tooltip>
        <Button size="small" onClick={() => void compare()}>
          What changed
        </Button>
      </Box>
      {words && (
        <Typography variant="caption" component="div" role="status">
          Since then: {words}.
        </Typography>
      )}
    </Box>
  );
}
