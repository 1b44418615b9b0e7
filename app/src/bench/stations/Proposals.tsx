import { selectedCount } from '@jig-peel/core';
import { Box, Button, Collapse, FormControlLabel, MenuItem, Switch, TextField, Tooltip, Typography } from '@mui/material';
import { useEffect, useRef, useState, useSyncExternalStore } from 'react';
import type { JobSettings, ProposalReport, RankWeights, SeamWay } from '@jig-peel/core';
import { plainSight, viewingSides, viewingWords } from '@jig-peel/core/measure/seamSight';
import { costOf, costTerms, evenWeights } from '@jig-peel/core/propose/rank';
import { lengthWords } from '../../fields/lengthWords.ts';
import { NumberField } from '../../fields/NumberField.tsx';
import { LatestOnly } from '../../session/latestOnly.ts';
import { useBench } from '../../store/bench.ts';
import { show } from '../../store/shown.ts';
import { useJob } from '../../store/useJob.ts';
import { cancel, coreApi, run, step } from '../../worker/client.ts';
import { runCommand } from '../commands/index.ts';
import { Card } from './Card.tsx';
import { Dragged } from '../../fields/Dragged.tsx';

const names: Record<SeamWay, string> = { limbs: 'By limbs', stretch: 'Few, by stretch', crease: 'Creases', flat: 'Near-flat groups' };
/** The quick ones first. */
const order = ['crease', 'limbs', 'flat', 'stretch'] as const;
const none = new Uint32Array(0);

const terms: Record<keyof RankWeights, string> = { sight: 'Seams in plain sight', stretch: 'Stretch', islands: 'Number of islands', sheet: 'Empty sheet' };

const bevelWords = { larger: 'stay with the larger side', half: 'parted in their middle', apart: 'islands of their own' } as const;
type Bevels = keyof typeof bevelWords;

/** The layout of a proposal in both views. */
const previews = new LatestOnly<ProposalReport, Awaited<ReturnType<ReturnType<typeof coreApi>['previewUv']>>>(
  (one) => coreApi().previewUv(one.uv!),
  (preview, one) => {
    if (preview && pointedAt === one) show({ uvs: { preview, badly: null } });
  },
);
let pointedAt: ProposalReport | null = null;
/** What the list is told of which proposal the views show. */
const lookers = new Set<() => void>();
const lookOn = (look: () => void) => {
  lookers.add(look);
  return () => void lookers.delete(look);
};

function pointAt(one: ProposalReport | null): void {
  if (pointedAt === one) return;
  pointedAt = one;
  for (const look of lookers) look();
  useBench.getState().set({ penEdges: one ? Uint32Array.from(one.cuts) : none, penUncuts: false });
  if (one?.uv) previews.ask(one);
  else {
    previews.drop();
    show({ uvs: null });
  }
}

/** Cuts something; and where it is by limbs, some were found: else it is the one by stretch. */
const isNew = ({ by, cuts, limbs }: ProposalReport) => cuts.length > 0 && (by !== 'limbs' || limbs > 0);

const byCost = (list: readonly ProposalReport[], limit: number, weights: RankWeights) =>
  [...list].sort((a, b) => costOf(a, limit, weights) - costOf(b, limit, weights));

/** Ends showing what was not pointed at: with the next press of a button or a key. */
let endShowing = () => {};
/** What is shown where none is pointed at. */
let shownUnasked: ProposalReport | null = null;

/** Shows a proposal without its being pointed at, until something else is done. */
function showBest(best: ProposalReport): void {
  endShowing();
  pointAt(best);
  shownUnasked = best;
  const end = () => {
    endShowing();
    if (pointedAt === best) pointAt(null);
  };
  addEventListener('pointerdown', end, true);
  addEventListener('keydown', end, true);
  endShowing = () => {
    removeEventListener('pointerdown', end, true);
    removeEventListener('keydown', end, true);
    shownUnasked = null;
    endShowing = () => {};
  };
}

/** Seams worked out, laid out and measured before any is cut: the best is shown in both views, so is what is pointed at, and a click takes it. */
export default function Proposals() {
  const { list, layout: of } = useBench((s) => s.proposals);
  const layout = useBench((s) => s.layout);
  const progress = useBench((s) => s.progress);
  const { settings } = useJob('settings');
  const marks = useBench((s) => s.summary!.parts.find((part) => part.id === s.summary!.activePart)!.seamMarks);
  const [angle, setAngle] = useState(40);
  const [limit, setLimit] = useState(4.2);
  const [preferHidden, setPreferHidden] = useState(true);
  const [symmetric, setSymmetric] = useState(true);
  const [keepSeams, setKeepSeams] = useState(true);
  const [bevels, setBevels] = useState<Bevels>('larger');
  const [weights, setWeights] = useState(evenWeights);
  const [showsWeights, setShowsWeights] = useState(false);
  const [busy, setBusy] = useState(false);
  const mounted = useRef(true);
  useEffect(() => {
    mounted.current = true;
    return () => void (mounted.current = false);
  }, []);
  const valid = list.length > 0 && of === layout;
  const ranked = valid ? byCost(list.filter(isNew), limit, weights) : [];

  // worked out for other seams
  const drop = () => useBench.getState().set({ proposals: { list: [], layout: null } });

  // what is shown is of this layout, and goes with it
  useEffect(
    () => () => {
      endShowing();
      pointAt(null);
    },
    [layout],
  );

  const work = async () => {
    setBusy(true);
    useBench.getState().set({ proposals: { list: [], layout: null } });
    const ways = order.map((by) => ({
      by,
      limit,
      preferHidden,
      bevels,
      keepSeams,
      symmetry: symmetric ? ('auto' as const) : ('none' as const),
      ...(by === 'crease' ? { angle } : {}),
    }));
    // each is told of when it is there; that it was cancelled, or why it could not be, is said
    const { ok } = await step('propose', () => coreApi().propose(ways));
    const now = useBench.getState();
    const best = byCost(now.proposals.list.filter(isNew), limit, weights)[0];
    // of the layout that there is
    if (best && mounted.current && now.proposals.layout === now.layout) showBest(best);
    if (ok && !best) now.notice('No further seam is needed.', 'info');
    setBusy(false);
  };
  const take = async ({ by, cuts, symmetry }: ProposalReport) => {
    pointAt(null);
    // how it was found goes along, so that a recipe can find it on another model
    await run('laySeams', { edges: cuts, by, limit, preferHidden, bevels, symmetry: symmetry ?? 'none', keepSeams, ...(by === 'crease' ? { angle } : {}) });
  };

  return (
    <Card title="Proposed seams">
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 1 }}>
        <NumberField label="Crease angle" unit="°" value={angle} min={1} max={180} step={5} onChange={setAngle} />
        <NumberField label="Stretch limit" value={limit} min={4.01} max={20} step={0.1} onChange={setLimit} />
        <SeenFrom value={settings.seenFrom} />
        <TextField select label="Bevels" value={bevels} onChange={(event) => setBevels(event.target.value as Bevels)}>
          {Object.entries(bevelWords).map(([value, words]) => (
            <MenuItem key={value} value={value}>
              {words}
            </MenuItem>
          ))}
        </TextField>
      </Box>
      <Typography variant="caption" color="text.secondary">
        The limit is the energy of the whole part: 4 is no stretch, 4.2 hardly to be seen.
      </Typography>
      <Box>
        <Choice label="Prefer hidden places" checked={preferHidden} onChange={setPreferHidden} />
        <Choice label="Alike left and right" checked={symmetric} onChange={setSymmetric} />
        <Choice
          label="Go on from my seams"
          checked={keepSeams}
          onChange={(checked) => {
            setKeepSeams(checked);
            drop();
          }}
        />
      </Box>
      <Marks marks={marks} />
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Button variant="outlined" sx={{ flex: 1, whiteSpace: 'nowrap' }} disabled={progress !== null || busy} onClick={() => void work()}>
          Work out seams
        </Button>
        <Tooltip title={`Cut every edge that folds by ${angle}° and more, at once`}>
          <Button variant="outlined" sx={{ flex: 1, whiteSpace: 'nowrap' }} onClick={() => void run('seams', { by: 'crease', angle, bevels: 'apart' }, true)}>
            Cut creases
          </Button>
        </Tooltip>
      </Box>
      {busy && (
        <Button size="small" onClick={cancel}>
          Cancel
        </Button>
      )}
      {valid && (
        <>
          <Typography variant="caption" color="text.secondary">
            {busy ? 'The best so far comes first.' : 'The best is shown in both views. Point at another to see it; click one to take it.'}
          </Typography>
          <Box component="ul" aria-label="Proposed seams" sx={{ m: 0, p: 0, listStyle: 'none', display: 'flex', flexDirection: 'column', gap: 0.5 }}>
            {ranked.map((one, k) => (
              <li key={one.by}>
                <Proposal one={one} limit={limit} weights={weights} isBest={k === 0} isOff={busy} onTake={() => void take(one)} />
              </li>
            ))}
          </Box>
          <Button size="small" aria-expanded={showsWeights} onClick={() => setShowsWeights(!showsWeights)}>
            What counts
          </Button>
          <Collapse in={showsWeights} unmountOnExit>
            {(Object.keys(terms) as (keyof RankWeights)[]).map((term) => (
              <Dragged
                key={term}
                label={terms[term]}
                value={weights[term]}
                min={0}
                max={3}
                step={0.25}
                words={(value) => (value === 0 ? 'not at all' : `× ${value}`)}
                onDrag={(value) => setWeights({ ...weights, [term]: value })}
                onChange={(value) => setWeights({ ...weights, [term]: value })}
              />
            ))}
          </Collapse>
        </>
      )}
    </Card>
  );
}

/** One proposal: what it would make of the part, and a click that takes it. */
function Proposal({
  one,
  limit,
  weights,
  isBest,
  isOff,
  onTake,
}: {
  one: ProposalReport;
  limit: number;
  weights: RankWeights;
  isBest: boolean;
  isOff: boolean;
  onTake: () => void;
}) {
  const unit = useBench((s) => s.summary!.settings.unit);
  const isShown = useSyncExternalStore(lookOn, () => pointedAt === one);
  const parts = costTerms(one, limit);
  const sum = (Object.keys(terms) as (keyof RankWeights)[])
    .map((term) => `${terms[term].toLowerCase()} ${(weights[term] * parts[term]).toFixed(2)}`)
    .join(' + ');
  const missed = !one.met && (one.by === 'stretch' || one.by === 'limbs');
  return (
    <Button
      fullWidth
      size="small"
      variant={isShown ? 'contained' : 'outlined'}
      aria-current={isShown}
      disabled={isOff}
      onClick={onTake}
      onMouseEnter={() => pointAt(one)}
      onFocus={() => pointAt(one)}
      onMouseLeave={() => pointAt(shownUnasked)}
      onBlur={() => pointAt(shownUnasked)}
      sx={{ display: 'block', textAlign: 'left', py: 0.5, px: 0.75 }}
    >
      <Box component="span" sx={{ display: 'flex', justifyContent: 'space-between', gap: 1 }}>
        <span>
          {names[one.by]}
          {isBest ? ' · best' : ''}
        </span>
        <Tooltip title={`The sum that they are ranked by, less is better: ${sum}`}>
          <Typography component="span" variant="figure" sx={{ whiteSpace: 'nowrap' }}>
            {costOf(one, limit, weights).toFixed(2)}
          </Typography>
        </Tooltip>
      </Box>
      <Typography component="span" variant="caption" sx={{ display: 'block', fontWeight: 400, lineHeight: 1.3 }}>
        {one.islands} {one.islands === 1 ? 'island' : 'islands'}
        {one.limbs > 0 ? `, ${one.limbs} ${one.limbs === 1 ? 'limb' : 'limbs'} taken off` : ''}; energy{' '}
        {Number.isFinite(one.energy) ? one.energy.toFixed(2) : '–'}; {lengthWords(one.seamLength, unit)} of seams,{' '}
        {Math.round((one.seamInSight / one.seamLength) * 100)} % in plain sight
        {one.coverage === null ? '' : `; ${Math.round(one.coverage * 100)} % of the sheet`}
        {one.flips > 0 ? `; ${one.flips} turned over` : ''}
        {missed ? `; the limit of ${limit} was not reached in the time there was: more seams, or a higher limit, would` : ''}
        {one.symmetry ? `; in pairs across ${one.symmetry}` : ''}
      </Typography>
    </Button>
  );
}

function Choice({ label, checked, onChange }: { label: string; checked: boolean; onChange: (checked: boolean) => void }) {
  return (
    <FormControlLabel
      control={<Switch size="small" checked={checked} onChange={(event) => onChange(event.target.checked)} />}
      label={label}
      slotProps={{ typography: { variant: 'body2' } }}
    />
  );
}

/** The side from which the part is looked at most: of the job, so that seams are judged by it everywhere. */
function SeenFrom({ value }: { value: JobSettings['seenFrom'] }) {
  return (
    <Tooltip
      title={`A seam is in plain sight where ${Math.round(plainSight * 100)} % of all directions and more see it; with a side, those near it count most`}
      placement="left"
    >
      <TextField select label="Seen from" value={value} onChange={(event) => void run('settings', { seenFrom: event.target.value as JobSettings['seenFrom'] })}>
        {viewingSides.map((one) => (
          <MenuItem key={one} value={one}>
            {viewingWords[one]}
          </MenuItem>
        ))}
      </TextField>
    </Tooltip>
  );
}

/** Wishes for where seams run, given to the selected faces. */
function Marks({ marks }: { marks: Uint8Array | null }) {
  const selected = useBench((s) => (s.summary!.selection.kind === 'faces' ? selectedCount(s.summary!.selection) : 0));
  const count = (value: number) => marks?.reduce((sum, mark) => sum + (mark === value ? 1 : 0), 0) ?? 0;
  const said = [
    count(1) > 0 && `${count(1)} faces are kept whole`,
    count(3) > 0 && `${count(3)} are looked at`,
    count(2) > 0 && `seams may go on ${count(2)}`,
  ].filter(Boolean);
  return (
    <>
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 0.5 }}>
        {(
          [
            ['keep-whole', 'Keep whole', 'No proposed seam may run across the selected faces'],
            ['looked-at', 'Looked at', 'Proposed seams keep off the selected faces where there is another way'],
            ['may-go', 'May go here', 'Proposed seams may well run on the selected faces'],
            ['clear-marks', 'Clear', 'Take the marks off the selected faces'],
          ] as const
        ).map(([id, label, title]) => (
          <Tooltip key={id} title={selected > 0 ? title : 'Select faces first'}>
            <Box component="span">
              <Button fullWidth size="small" variant="outlined" disabled={selected === 0} sx={{ px: 0.5, whiteSpace: 'nowrap' }} onClick={() => runCommand(id)}>
                {label}
              </Button>
            </Box>
          </Tooltip>
        ))}
      </Box>
      <Tooltip title="Faces, hands, lettering: where faces are far smaller than elsewhere. Then press “Looked at”, and proposed seams keep off">
        <Button size="small" sx={{ alignSelf: 'start' }} onClick={() => runCommand('select-detail')}>
          Select where the mesh is finest
        </Button>
      </Tooltip>
      {said.length > 0 && (
        <Typography variant="caption" component="div">
          {said.join('; ')}.
        </Typography>
      )}
    </>
  );
}
