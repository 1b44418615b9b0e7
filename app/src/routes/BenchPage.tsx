import { Box, Button, LinearProgress, Paper, Typography } from '@mui/material';
import { useEffect, useRef, useState } from 'react';
import { later } from '../later.tsx';
import { useHotkeys } from 'react-hotkeys-hook';
import { Link, useParams } from 'react-router';
import { CommandSearch, findLater } from '../bench/CommandSearch.tsx';
import { Gauges } from '../bench/Gauges.tsx';
import { KeyBindings } from '../bench/KeyBindings.tsx';
import { StationRail } from '../bench/StationRail.tsx';
import { TopBar } from '../bench/TopBar.tsx';
import { SeamsPanel } from '../bench/stations/SeamsPanel.tsx';
import { Views } from '../bench/views/Views.tsx';
import { finishDrafts } from '../fields/drafts.ts';
import type { SnackbarKey } from 'notistack';
import { snackbars } from '../notices/snackbars.ts';
import { useBench, type Notice } from '../store/bench.ts';
import { Banners } from '../bench/Banners.tsx';
import { LiveAsk } from '../bench/LiveAsk.tsx';
import { cancel, codeOf, coreApi, loadJob, redo, undo } from '../worker/client.ts';

/** Fetched when it is opened first. */
const Walk = later(() => import('../bench/Walk.tsx'));
const KeysDialog = later(() => import('../bench/KeysDialog.tsx'), EscapeCloses);
const OperationForm = later(() => import('../bench/OperationForm.tsx'), EscapeCloses);

/** Stations that most jobs do not begin at come a moment after the bench, or when they are asked for. */
const IntakePanel = later(() => import('../bench/stations/IntakePanel.tsx'));
const ShapePanel = later(async () => ({ default: (await import('../bench/stations/ShapePanel.tsx')).ShapePanel }));
const JigsPanel = later(async () => ({ default: (await import('../bench/stations/JigsPanel.tsx')).JigsPanel }));
const PackPanel = later(async () => ({ default: (await import('../bench/stations/PackPanel.tsx')).PackPanel }));
const ImagesPanel = later(() => import('../bench/stations/ImagesPanel.tsx'));
const CheckPanel = later(() => import('../bench/stations/check/CheckPanel.tsx'));
const DeliverPanel = later(async () => ({ default: (await import('../bench/stations/DeliverPanel.tsx')).DeliverPanel }));
const fetchAfter = 1500;
const fetchedThen = [JigsPanel, { load: findLater }, IntakePanel, ShapePanel, PackPanel, ImagesPanel, DeliverPanel, CheckPanel];

const panels = {
  intake: IntakePanel,
  jigs: JigsPanel,
  seams: SeamsPanel,
  shape: ShapePanel,
  pack: PackPanel,
  images: ImagesPanel,
  check: CheckPanel,
  deliver: DeliverPanel,
};

/** The working screen of a job. */
export default function BenchPage() {
  const { jobId = '' } = useParams();
  const station = useBench((s) => s.station);
  const name = useBench((s) => s.summary?.name);
  const dialog = useBench((s) => s.dialog);
  const walks = useBench((s) => s.walk !== null);
  const [trouble, setTrouble] = useState<string | null>(null);
  useNotices();

  useEffect(() => {
    let current = true;
    void loadJob(jobId, useBench.getState().summary?.id === jobId).then((outcome) => {
      if (!current) return;
      setTrouble(outcome.ok || codeOf(outcome) === 'cancelled' ? null : outcome.sentence);
      // asked once there is something to lose; some browsers ask the person
      if (outcome.ok) void navigator.storage?.persist?.().catch(() => {});
      if (outcome.ok) void import('../bench/watch.ts').then(({ beginWatching }) => beginWatching(jobId));
      const { missing, left } = outcome.ok ? outcome.report : { missing: 0, left: 0 };
      if (missing > 0)
        useBench
          .getState()
          .notice(
            `${missing === 1 ? 'One step' : `${missing} steps`} of this job could not be read any more; the other ${left} are here, and this is the state after the last of them. Save a job archive under Deliver.`,
            'error',
          );
      if (outcome.ok && finishDrafts(jobId) > 0) useBench.getState().notice('A name that was being typed when the page was left has been kept.', 'info');
    });
    return () => {
      current = false;
      // another tab may work on it then
      void coreApi()
        .letGo(jobId)
        .catch(() => {});
    };
  }, [jobId]);

  useEffect(() => {
    const timer = setTimeout(async () => {
      for (const one of fetchedThen) await one.load().catch(() => {});
    }, fetchAfter);
    return () => clearTimeout(timer);
  }, []);

  const unsaved = useBench((s) => s.unsaved !== null);
  useEffect(() => {
    if (!unsaved) return;
    const ask = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener('beforeunload', ask);
    return () => window.removeEventListener('beforeunload', ask);
  }, [unsaved]);

  useEffect(() => {
    document.title = name === undefined ? 'Jig Peel' : `${name} – Jig Peel`;
  }, [name]);

  if (trouble) {
    return (
      <Box component="main" sx={{ p: 6, maxWidth: 620 }}>
        <Typography variant="h1" gutterBottom>
          This job cannot be opened
        </Typography>
        <Typography sx={{ mb: 3 }}>{trouble}</Typography>
        <Button component={Link} to="/" variant="contained">
          To the jobs page
        </Button>
      </Box>
    );
  }
  const PanelOf = panels[station];
  return (
    <Box sx={{ height: '100%', display: 'flex', flexDirection: 'column', bgcolor: 'background.default' }}>
      <TopBar />
      <Banners />
      <Box sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
        <StationRail />
        <Box
          component="section"
          aria-label={`Station ${station}`}
          onClick={(event) => {
            // a click on a control gives the keys back to the views, unless it is a field to type in
            const target = event.target as HTMLElement;
            if (!target.closest('input:not([type=checkbox]):not([type=radio]), textarea, [role=combobox], [role=listbox], a'))
              document.getElementById('views')?.focus({ preventScroll: true });
          }}
          sx={{ width: 300, flex: 'none', overflowY: 'auto', borderRight: 1, borderColor: 'divider', bgcolor: 'background.default', p: 1.25 }}
        >
          <LiveAsk />
          {walks && <Walk />}
          {name === undefined ? null : <PanelOf />}
        </Box>
        <Views />
      </Box>
      <Gauges />
      <WorkingBar />
      <KeyBindings />
      <CommandSearch />
      {(dialog === 'keys' || dialog === 'form') && (dialog === 'keys' ? <KeysDialog /> : <OperationForm />)}
    </Box>
  );
}

/** Escape is for a dialog that is on its way, too. */
function EscapeCloses() {
  useHotkeys('escape', () => useBench.getState().set({ dialog: null }));
  return null;
}

/** New notices become snackbars; they stay in a list that the top bar shows. */
function useNotices() {
  const shown = useRef(0);
  const notices = useBench((s) => s.notices);
  useEffect(() => {
    for (const notice of notices) {
      if (notice.id <= shown.current) continue;
      shown.current = notice.id;
      void showNotice(notice);
    }
  }, [notices]);
}

/** The notice whose button takes the last step back: of an earlier one it would take back another step than it names. */
let lastStep: SnackbarKey | null = null;

async function showNotice({ text, severity, action, takesBack }: Notice): Promise<void> {
  const { enqueueSnackbar, closeSnackbar } = await snackbars();
  /** The step that it is about, once its news is there. */
  let step: number | undefined;
  const stepNow = () => useBench.getState().summary?.historyIndex;
  if (takesBack) setTimeout(() => (step = stepNow()), 300);
  const takeBack = () => {
    if (step !== undefined && stepNow() !== step) useBench.getState().notice('Other steps came after that one: undo takes back the last of them.', 'info');
    else void (takesBack === 'redo' ? redo() : undo());
  };
  const own = action ?? (takesBack ? { label: takesBack === 'redo' ? 'Redo' : 'Undo', act: takeBack } : null);
  if (takesBack && lastStep !== null) closeSnackbar(lastStep);
  const key = enqueueSnackbar(text, {
    variant: severity === 'info' ? 'default' : severity,
    autoHideDuration: action ? 20_000 : severity === 'error' || severity === 'warning' ? 9000 : 3500,
    action: own
      ? (key) => (
          <Button
            color="inherit"
            variant={action ? 'outlined' : 'text'}
            size="small"
            sx={{ whiteSpace: 'nowrap' }}
            onClick={() => {
              closeSnackbar(key);
              own.act();
            }}
          >
            {own.label}
          </Button>
        )
      : undefined,
  });
  if (takesBack) lastStep = key;
}

/** Long work: what is done now, how far, and a way out. */
function WorkingBar() {
  const progress = useBench((s) => s.progress);
  if (!progress) return null;
  return (
    <Paper
      elevation={6}
      role="status"
      aria-live="polite"
      sx={{
        position: 'fixed',
        // clear of the bar of what a click takes
        bottom: 124,
        left: '50%',
        transform: 'translateX(-50%)',
        width: 380,
        p: 1.5,
        zIndex: 1300,
        display: 'flex',
        alignItems: 'center',
        gap: 1.5,
      }}
    >
      <Box sx={{ flex: 1 }}>
        <Typography variant="caption">
          {progress.text} · {Math.round(progress.share * 100)} %
        </Typography>
        <LinearProgress
          variant="determinate"
          value={Math.min(100, progress.share * 100)}
          aria-label={progress.text}
          // gliding, the page would be drawn at every frame beside the work
          sx={{ '& .MuiLinearProgress-bar': { transition: 'none' } }}
        />
      </Box>
      <Button onClick={cancel}>Cancel</Button>
    </Paper>
  );
}
