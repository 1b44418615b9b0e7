import { Badge, Box, Button, Divider, IconButton, ListItemText, Menu, MenuItem, TextField, Tooltip, Typography } from '@mui/material';
import ArrowDownIcon from '@mui/icons-material/ArrowDropDown';
import DarkModeIcon from '@mui/icons-material/DarkModeOutlined';
import GuideIcon from '@mui/icons-material/MenuBookOutlined';
import HelpIcon from '@mui/icons-material/KeyboardOutlined';
import HistoryIcon from '@mui/icons-material/History';
import LightModeIcon from '@mui/icons-material/LightModeOutlined';
import NoticesIcon from '@mui/icons-material/NotificationsNoneOutlined';
import RedoIcon from '@mui/icons-material/Redo';
import SearchIcon from '@mui/icons-material/Search';
import UndoIcon from '@mui/icons-material/Undo';
import { useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import { useBench } from '../store/bench.ts';
import { useKeyOf, useWithKey } from '../keys/keyTable.ts';
import { usePreferences } from '../store/preferences.ts';
import { run } from '../worker/client.ts';
import { runCommand } from './commands/index.ts';

/** Job, part, undo, search, how long ago the last step was kept. */
export function TopBar() {
  const canUndo = useBench((s) => s.summary !== null && s.summary.historyIndex > 0);
  const canRedo = useBench((s) => s.summary !== null && s.summary.historyIndex + 1 < s.summary.history.length);
  const { mode, setMode } = usePreferences();
  const undoWords = useWithKey('Undo', 'undo');
  const redoWords = useWithKey('Redo', 'redo');
  const findKey = useKeyOf('find');
  return (
    <Box
      component="header"
      sx={{
        height: 44,
        flex: 'none',
        display: 'flex',
        alignItems: 'center',
        gap: 0.5,
        px: 1,
        borderBottom: 1,
        borderColor: 'divider',
        bgcolor: 'background.paper',
      }}
    >
      <JobMenu />
      <Divider orientation="vertical" flexItem sx={{ mx: 0.5, my: 1 }} />
      <PartMenu />
      <Divider orientation="vertical" flexItem sx={{ mx: 0.5, my: 1 }} />
      <Tooltip title={undoWords}>
        <span>
          <IconButton aria-label="Undo" disabled={!canUndo} onClick={() => runCommand('undo')}>
            <UndoIcon fontSize="small" />
          </IconButton>
        </span>
      </Tooltip>
      <Tooltip title={redoWords}>
        <span>
          <IconButton aria-label="Redo" disabled={!canRedo} onClick={() => runCommand('redo')}>
            <RedoIcon fontSize="small" />
          </IconButton>
        </span>
      </Tooltip>
      <HistoryMenu />
      <Box sx={{ flex: 1 }} />
      <Button
        variant="outlined"
        color="inherit"
        startIcon={<SearchIcon />}
        onClick={() => runCommand('find')}
        sx={{ width: 220, justifyContent: 'flex-start', color: 'text.secondary', borderColor: 'divider', fontWeight: 500 }}
      >
        Find a command
        <Typography variant="figure" sx={{ ml: 'auto' }}>
          {findKey}
        </Typography>
      </Button>
      <Box sx={{ flex: 1 }} />
      <Saved />
      <NoticesMenu />
      <Tooltip title={mode === 'light' ? 'Night bench: the dark theme' : 'Workshop paper: the light theme'}>
        <IconButton aria-label={mode === 'light' ? 'Dark theme' : 'Light theme'} onClick={() => setMode(mode === 'light' ? 'dark' : 'light')}>
          {mode === 'light' ? <DarkModeIcon fontSize="small" /> : <LightModeIcon fontSize="small" />}
        </IconButton>
      </Tooltip>
      <Tooltip title="Guide, at this station">
        <IconButton aria-label="Guide" onClick={() => runCommand('guide')}>
          <GuideIcon fontSize="small" />
        </IconButton>
      </Tooltip>
      <Tooltip title="Keys and pointer (?)">
        <IconButton aria-label="Keys and pointer" onClick={() => runCommand('keys')}>
          <HelpIcon fontSize="small" />
        </IconButton>
      </Tooltip>
    </Box>
  );
}

function JobMenu() {
  const held = useBench((s) => s.summary?.name);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [name, setName] = useState<string | null>(null);
  const navigate = useNavigate();
  const commit = () => {
    if (name !== null && name.trim() && name.trim() !== held) void run('renameJob', { name: name.trim() });
    setName(null);
  };
  if (name !== null) {
    return (
      <TextField
        autoFocus
        value={name}
        onChange={(event) => setName(event.target.value)}
        onBlur={commit}
        onKeyDown={(event) => {
          if (event.key === 'Enter' || event.key === 'Escape') commit();
        }}
        slotProps={{ htmlInput: { 'aria-label': 'Name of the job', style: { padding: '4px 8px' } } }}
        sx={{ width: 200 }}
      />
    );
  }
  return (
    <>
      <Tooltip title="The job: rename it, or go to the jobs page">
        <Button
          color="inherit"
          endIcon={<ArrowDownIcon />}
          onClick={(event) => setAnchor(event.currentTarget)}
          aria-haspopup="menu"
          sx={{ maxWidth: 220, fontWeight: 700 }}
        >
          <Box component="img" src="/mark.svg" alt="" sx={{ width: 18, height: 18, mr: 1 }} />
          <Typography noWrap component="span" sx={{ fontWeight: 700 }}>
            {held ?? 'Opening …'}
          </Typography>
        </Button>
      </Tooltip>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        <MenuItem
          onClick={() => {
            setAnchor(null);
            setName(held ?? '');
          }}
        >
          Rename the job
        </MenuItem>
        <MenuItem
          onClick={() => {
            setAnchor(null);
            runCommand('archive');
          }}
        >
          Save a job archive
        </MenuItem>
        <MenuItem onClick={() => void navigate('/')}>To the jobs page</MenuItem>
      </Menu>
    </>
  );
}

function PartMenu() {
  const parts = useBench((s) => s.summary?.parts);
  const activePart = useBench((s) => s.summary?.activePart);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  if (!parts) return null;
  const active = parts.find((part) => part.id === activePart)!;
  if (parts.length === 1) return <Typography sx={{ px: 1 }}>{active.name}</Typography>;
  return (
    <>
      <Tooltip title="The part being worked on">
        <Button
          color="inherit"
          endIcon={<ArrowDownIcon />}
          onClick={(event) => setAnchor(event.currentTarget)}
          aria-haspopup="menu"
          aria-label={`Part: ${active.name}`}
          sx={{ fontWeight: 500 }}
        >
          {active.name}
        </Button>
      </Tooltip>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {parts.map((part) => (
          <MenuItem
            key={part.id}
            selected={part.id === active.id}
            onClick={() => {
              setAnchor(null);
              if (part.id !== active.id) void run('activatePart', { part: part.id });
            }}
          >
            <ListItemText primary={part.name} secondary={`${part.faces.toLocaleString('en')} faces${part.unplaced === part.faces ? ', no UVs yet' : ''}`} />
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}

/** The steps of the job, the newest first; those that were undone are grey. */
function Steps() {
  const history = useBench((s) => s.summary?.history) ?? [];
  const index = useBench((s) => s.summary?.historyIndex ?? 0);
  return history
    .map((entry, k) => ({ ...entry, k }))
    .reverse()
    .map(({ sentence, time, k }) => (
      <MenuItem key={k} dense selected={k === index} disabled={k > index} disableRipple sx={{ cursor: 'default' }}>
        <ListItemText primary={sentence} secondary={new Date(time).toLocaleTimeString()} slotProps={{ primary: { noWrap: true } }} />
      </MenuItem>
    ));
}

function HistoryMenu() {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Tooltip title="Steps of this job">
        <IconButton aria-label="Steps of this job" onClick={(event) => setAnchor(event.currentTarget)}>
          <HistoryIcon fontSize="small" />
        </IconButton>
      </Tooltip>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)} slotProps={{ paper: { sx: { maxHeight: 420, width: 340 } } }}>
        {anchor && <Steps />}
      </Menu>
    </>
  );
}

function NoticesMenu() {
  const notices = useBench((s) => s.notices);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const errors = notices.filter((notice) => notice.severity === 'error').length;
  return (
    <>
      <Tooltip title="Notices and errors of this session">
        <IconButton aria-label={`Notices, ${errors} errors`} onClick={(event) => setAnchor(event.currentTarget)}>
          <Badge badgeContent={errors} color="error">
            <NoticesIcon fontSize="small" />
          </Badge>
        </IconButton>
      </Tooltip>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)} slotProps={{ paper: { sx: { maxHeight: 380, width: 380 } } }}>
        {notices.length === 0 && <MenuItem disabled>Nothing so far</MenuItem>}
        {[...notices].reverse().map((notice) => (
          <MenuItem key={notice.id} dense disableRipple sx={{ whiteSpace: 'normal', cursor: 'default' }}>
            <ListItemText primary={notice.text} secondary={`${notice.severity === 'error' ? 'Error · ' : ''}${new Date(notice.time).toLocaleTimeString()}`} />
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}

/** "kept 4 s ago", counting. */
function Saved() {
  const savedAt = useBench((s) => s.savedAt);
  const unsaved = useBench((s) => s.unsaved);
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 1000);
    return () => clearInterval(timer);
  }, []);
  if (unsaved)
    return (
      <Tooltip title={`${unsaved.sentence} It is tried again.`}>
        <Typography variant="caption" color="error" sx={{ width: 118, textAlign: 'right', pr: 0.5, fontWeight: 700 }}>
          not all is saved
        </Typography>
      </Tooltip>
    );
  if (savedAt === null) return <Box sx={{ width: 118 }} />;
  const seconds = Math.max(0, Math.round((now - savedAt) / 1000));
  const words = seconds < 2 ? 'just now' : seconds < 60 ? `${seconds} s ago` : `${Math.round(seconds / 60)} min ago`;
  return (
    <Tooltip title="Every step is kept in this browser as it happens">
      <Typography variant="caption" color="text.secondary" sx={{ width: 118, textAlign: 'right', pr: 0.5 }}>
        saved {words}
      </Typography>
    </Tooltip>
  );
}
