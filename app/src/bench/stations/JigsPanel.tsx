import { Alert, Box, Button, LinearProgress, MenuItem, TextField, ToggleButton, ToggleButtonGroup, Tooltip, Typography } from '@mui/material';
import { useEffect } from 'react';
import { jigWords, type Advice, type JigKind } from '@jig-peel/core';
import { lengthWords } from '../../fields/lengthWords.ts';
import { useBench } from '../../store/bench.ts';
import { useJob } from '../../store/useJob.ts';
import { coreApi } from '../../worker/client.ts';
import { advise, endPreview, placeNow, preview, takeAdvice, useJigs } from '../jigs.ts';
import { Card } from './Card.tsx';
import { JigCard } from './jig/JigCard.tsx';
import { PictureFrameCard } from './jig/PictureFrameCard.tsx';
import { JigList } from './jig/JigList.tsx';

const help: Record<JigKind, string> = {
  planar: 'Straight through, like a slide projector far away (planar)',
  cylindrical: 'Rolled round an axis, ends flat (cylindrical)',
  spherical: 'Wrapped round from the middle (spherical)',
  box: 'From six sides, each face from the one it looks to',
  'flat-regions': 'Each flat region by its own plane, all at one true size',
  'each-face': 'The whole image on each face',
  view: 'As the eye sees it now, its perspective included',
};
const rows: JigKind[][] = [
  ['planar', 'cylindrical', 'spherical', 'box'],
  ['flat-regions', 'each-face', 'view'],
];

const axes: { value: 'auto' | 'facing' | 'x' | 'y' | 'z' | 'view'; label: string }[] = [
  { value: 'auto', label: 'on the selection, as it lies' },
  { value: 'facing', label: 'along its average facing' },
  { value: 'x', label: 'along x' },
  { value: 'y', label: 'along y' },
  { value: 'z', label: 'along z' },
  { value: 'view', label: 'from this view' },
];

/** Placed projections: what the form is like, with measured advice on top; where to place it; the jigs of the part and the one in hand. */
export function JigsPanel() {
  const summary = useJob('parts', 'activePart', 'jigs', 'selection');
  const { kind, axis, sizeBy, advice, advised, measuring, placing, chosen } = useJigs();
  const { selection } = summary;
  const active = summary.parts.find((p) => p.id === summary.activePart)!;
  const onFaces = selection.part === active.id && selection.ids.length > 0;
  useEffect(() => {
    const timer = setTimeout(() => void advise(), 250);
    return () => {
      clearTimeout(timer);
      void coreApi().leaveAdvice();
    };
  }, [selection, active.id]);
  useEffect(
    () => () => {
      endPreview();
      useJigs.setState({ placing: null, takes: 'part' });
    },
    [],
  );
  const inHand = summary.jigs.find((jig) => jig.id === chosen && (jig.drives.length === 0 || jig.drives.some(({ part }) => part === active.id)));
  const flat = kind === 'planar';
  const axisMatters = flat || kind === 'cylindrical' || kind === 'spherical' || kind === 'box';
  return (
    <>
      <Card title="What is the form like?">
        <Typography variant="body2" color="text.secondary">
          {onFaces ? 'Measured on what is selected.' : `Nothing is selected: measured on the whole of ${active.name}.`} Point at one to see it on the model;
          crosses mark the faces it serves badly.
        </Typography>
        {measuring && <LinearProgress aria-label="Measuring projections" />}
        {advice && advised === selection && badShare(advice[0]) >= noneServes && (
          <Alert
            severity="info"
            action={
              <Button size="small" onClick={() => useBench.getState().goTo('seams')}>
                Seams
              </Button>
            }
          >
            No projection serves this form: the best leaves {Math.round(badShare(advice[0]) * 100)} % of the faces badly stretched. Cut seams instead.
          </Alert>
        )}
        {advice && advised === selection && (
          <Box component="ul" aria-label="Advice" sx={{ m: 0, p: 0, listStyle: 'none', display: 'flex', flexDirection: 'column', gap: 0.5 }}>
            {advice.map((entry, k) => (
              <Box component="li" key={k}>
                <AdviceRow advice={entry} at={k} />
              </Box>
            ))}
          </Box>
        )}
      </Card>
      <Card title="Place it">
        {rows.map((list, k) => (
          <ToggleButtonGroup
            key={k}
            exclusive
            fullWidth
            size="small"
            value={kind}
            aria-label={k === 0 ? 'Form' : 'Other ways'}
            onChange={(_, value: JigKind | null) => value && useJigs.setState({ kind: value, ...(value === 'view' ? { axis: 'view' as const } : {}) })}
          >
            {list.map((one) => (
              <ToggleButton key={one} value={one} sx={{ whiteSpace: 'nowrap' }}>
                <Tooltip title={help[one]}>
                  <span>{one === 'view' ? 'As seen' : jigWords[one]}</span>
                </Tooltip>
              </ToggleButton>
            ))}
          </ToggleButtonGroup>
        ))}
        {axisMatters && (
          <TextField
            select
            fullWidth
            label={flat || kind === 'box' ? 'Direction' : 'Axis'}
            value={kind === 'box' && axis !== 'view' ? 'auto' : axis}
            onChange={(event) => useJigs.setState({ axis: event.target.value as typeof axis })}
          >
            {axes
              .filter(({ value }) => flat || value === 'auto' || (kind === 'box' ? value === 'view' : value !== 'view' && value !== 'facing'))
              .map(({ value, label }) => (
                <MenuItem key={value} value={value}>
                  {label}
                </MenuItem>
              ))}
          </TextField>
        )}
        {onFaces && kind !== 'each-face' && (
          <TextField
            select
            fullWidth
            label="As large as"
            value={sizeBy}
            onChange={(event) => useJigs.setState({ sizeBy: event.target.value as typeof sizeBy })}
          >
            <MenuItem value="faces">the selected faces</MenuItem>
            <MenuItem value="part">the whole part</MenuItem>
          </TextField>
        )}
        <Button variant="contained" fullWidth onClick={() => void placeNow()}>
          Place on {onFaces ? 'the selected faces' : 'the whole part'}
        </Button>
        {kind !== 'each-face' && kind !== 'flat-regions' && (
          <Box sx={{ display: 'flex', gap: 0.75 }}>
            {(
              [
                ['draw', 'Draw it', 'Drag a rectangle over the model: the jig is placed in it, as you see it'],
                ['surface', 'On the surface', 'Drag over the model: the middle and facing of the jig come from what is under the pointer'],
              ] as const
            ).map(([way, label, title]) => (
              <Tooltip key={way} title={title}>
                <Button
                  fullWidth
                  size="small"
                  variant={placing === way ? 'contained' : 'outlined'}
                  aria-pressed={placing === way}
                  onClick={() => useJigs.setState({ placing: placing === way ? null : way })}
                >
                  {label}
                </Button>
              </Tooltip>
            ))}
          </Box>
        )}
        {placing && (
          <Typography variant="caption" role="status">
            {placing === 'draw' ? 'Now drag a rectangle over the model.' : 'Now drag over the model; let go where it shall sit.'}
          </Typography>
        )}
      </Card>
      <PictureFrameCard inHand={inHand} />
      <JigList />
      {inHand && <JigCard row={inHand} />}
    </>
  );
}

/** From this share of badly served faces on a projection is no help. */
const noneServes = 0.2;

function badShare(advice: Advice | undefined): number {
  const faces = advice?.parts.reduce((sum, part) => sum + part.faces.length, 0) ?? 0;
  return faces > 0 ? advice!.figures.badly.length / faces : 0;
}

function AdviceRow({ advice, at }: { advice: Advice; at: number }) {
  const { parts, figures } = advice;
  const picture = useJigs((s) => s.pictures[at]);
  const faces = parts.reduce((sum, p) => sum + p.faces.length, 0);
  const name = parts.map((p) => `${jigWords[p.jig.kind]}${p.jig.kind === 'cylindrical' && p.jig.lids ? ' with lids' : ''}`).join(' + ');
  const well = faces > 0 ? Math.round((figures.well.length / faces) * 100) : 0;
  const bad = faces > 0 ? Math.round((figures.badly.length / faces) * 100) : 0;
  const unit = useBench((s) => s.summary!.settings.unit);
  const measure = (length: number) => lengthWords(length, unit);
  const percent = (x: number) => `${(x * 100).toFixed(x > 0 && x < 0.1 ? 1 : 0)} %`;
  const show = () =>
    preview(
      parts.map(({ jig, faces: on }) => ({ jig, faces: on })),
      figures.badly,
    );
  return (
    <Button
      fullWidth
      size="small"
      variant={at === 0 ? 'contained' : 'outlined'}
      onClick={() => void takeAdvice(advice)}
      onMouseEnter={show}
      onFocus={show}
      onMouseLeave={endPreview}
      onBlur={endPreview}
      sx={{ justifyContent: 'flex-start', textAlign: 'left', alignItems: 'center', gap: 1, py: 0.5, px: 0.75 }}
    >
      {picture && <Box component="img" src={picture} alt="" sx={{ width: 44, height: 44, flex: 'none', borderRadius: '4px', bgcolor: 'background.default' }} />}
      <Box component="span" sx={{ flex: 1, minWidth: 0 }}>
        <Box component="span" sx={{ display: 'flex', justifyContent: 'space-between', gap: 1 }}>
          <span>{name}</span>
          <Typography component="span" variant="figure" sx={{ whiteSpace: 'nowrap' }}>
            energy {figures.energy.toFixed(2)}
          </Typography>
        </Box>
        <Typography component="span" variant="caption" sx={{ display: 'block', fontWeight: 400, lineHeight: 1.3 }}>
          {well} % of the faces well, {bad} % badly
          {figures.flipped > 0.0005 ? `, ${percent(figures.flipped)} turned over` : ''}
          {figures.overlap > 0.0005 ? `, ${percent(figures.overlap)} overlap` : ''}
          {figures.partedLength > 0 ? `; parts ${measure(figures.partedLength)}` : ''}
        </Typography>
      </Box>
    </Button>
  );
}

/** A switch with its words. */
