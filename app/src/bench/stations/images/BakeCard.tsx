import { Box, Button, MenuItem, TextField, Typography } from '@mui/material';
import { useEffect, useState } from 'react';
import { bakeKinds, gridSizes, tileNumber, type BakeKind } from '@jig-peel/core';
import { NumberField } from '../../../fields/NumberField.tsx';
import { Toggle } from '../../../fields/Toggle.tsx';
import { useBench } from '../../../store/bench.ts';
import { useJob } from '../../../store/useJob.ts';
import { coreApi, run } from '../../../worker/client.ts';
import { save } from '../../deliver.ts';
import { Card } from '../Card.tsx';
import { activeOf, layersIn } from './layerWork.ts';
import { useRoughBake } from './useRoughBake.ts';

const kindWords: Record<BakeKind, string> = {
  colour: 'Colour, as it is seen',
  mask: 'What is covered by layers',
  relief: 'Relief (height)',
  position: 'Position in space',
  normal: 'Normals, in space',
  'tangent-normal': 'Normals, for the UVs',
  face: 'Face groups',
  id: 'Islands',
  material: 'Materials',
  occlusion: 'Occlusion (corners dark)',
  thickness: 'Thickness',
  coverage: 'Where islands are',
  roughness: 'Roughness, of images that go along',
  metalness: 'Metalness, of images that go along',
  'images-occlusion': 'Occlusion, of images that go along',
};

/** The first line of a choice stands for nothing chosen. */
const shownEmpty = { select: { displayEmpty: true }, inputLabel: { shrink: true } };

/** Once, where it comes: the same function each time it is drawn. */
const intoView = (figure: HTMLElement | null) => figure?.scrollIntoView({ block: 'nearest' });

/** Ms that the whole picture waits for the rough one. */
const firstLook = 700;

/** Makes a picture of what is seen, laid out by a UV set. */
export function BakeCard() {
  const summary = useJob('parts', 'activePart', 'settings', 'sheets', 'materialLayers');
  const part = activeOf(summary);
  const isBusy = useBench((s) => s.progress !== null);
  const placed = useBench((s) => s.layout !== null && !s.layout.allUnplaced);
  const [what, setWhat] = useState<BakeKind>('colour');
  const [size, setSize] = useState(2048);
  const [samples, setSamples] = useState<1 | 4 | 16>(4);
  const [full, setFull] = useState(true);
  const [depth, setDepth] = useState<8 | 16>(8);
  /** A set of one part by its number; without one each part's own that is at work. */
  const [chosen, setChosen] = useState<{ part: string; set: number } | null>(null);
  /** Null: all of them. */
  const [tile, setTile] = useState<number | null>(null);
  /** Of a relief the height that is white, of rays how far they look; null: as it comes. */
  const [reach, setReach] = useState<number | null>(null);
  const [rays, setRays] = useState(64);
  /** Of normals for the UVs: which way green is. */
  const [green, setGreen] = useState<'up' | 'down'>('up');
  /** Another part by id, whose picture is taken where it is nearest; null: what the parts themselves show. */
  const [other, setOther] = useState<string | null>(null);
  /** How far away that may be, units; null: a twentieth of its size. */
  const [within, setWithin] = useState<number | null>(null);
  const [alone, setAlone] = useState(false);
  /** Of a mask the layer, by id; null: all of them. */
  const [chosenLayer, setLayer] = useState<string | null>(null);
  const { unit } = summary.settings;
  const unitWords = unit === 'unit' ? 'units' : unit;
  const tiles = summary.sheets.find(({ id }) => id === part.sheet)?.tiles ?? 1;
  const traces = what === 'occlusion' || what === 'thickness';
  const [notes, setNotes] = useState<readonly string[]>([]);
  const first = useRoughBake();
  // what was chosen for another part is not meant here
  const set = chosen?.part === part.id && chosen.set < part.uvSets.length ? chosen.set : part.activeUv;
  // a part that was removed, a layer of another part
  const from = summary.parts.some(({ id }) => id === other && id !== part.id) ? other : null;
  const layers = layersIn(summary, null);
  const layer = what === 'mask' && from === null && layers.some(({ id }) => id === chosenLayer) ? chosenLayer : null;
  const isAlone = alone || from !== null || layer !== null;
  const [isAsked, setAsked] = useState(false);
  const nameOf = (id: string) => summary.parts.find((one) => one.id === id)!.name;
  const why = !placed ? 'The part has no layout yet' : isBusy || isAsked ? 'Something is under way' : '';
  useEffect(() => {
    // the first look is to come at once
    const timer = setTimeout(
      () =>
        void coreApi()
          .warmBake()
          .catch(() => {}),
      500,
    );
    return () => clearTimeout(timer);
  }, []);
  const bake = async (how: 'add' | 'show' | 'save') => {
    // the first tile last: once a bake is shown, what it was made of is not seen any more
    const wanted = tiles > 1 && tile === null ? Array.from({ length: tiles }, (_, k) => tiles - 1 - k) : [Math.min(tile ?? 0, tiles - 1)];
    setAsked(true);
    // a tile with nothing on it is passed over; what is cancelled is cancelled for all of them
    for (const [k, own] of wanted.entries()) if (!(await bakeTile(own, how === 'show' && k < wanted.length - 1 ? 'add' : how))) break;
    setAsked(false);
  };
  /** @returns false if it was cancelled */
  const bakeTile = async (own: number, how: 'add' | 'show' | 'save'): Promise<boolean> => {
    const asked = {
      what,
      ...(set === part.activeUv ? {} : { set }),
      size: String(size),
      samples,
      depth,
      ...(full ? { bleed: 'full' as const } : {}),
      ...(own > 0 ? { tile: tileNumber(own) } : {}),
      ...(reach !== null && what === 'relief' ? { range: reach } : {}),
      ...(reach !== null && traces ? { reach } : {}),
      ...(traces ? { rays } : {}),
      ...(what === 'tangent-normal' ? { green } : {}),
      ...(isAlone ? { part: part.id } : {}),
      ...(from !== null ? { from, ...(within !== null ? { within } : {}) } : {}),
      ...(layer !== null ? { layer } : {}),
    };
    // the whole picture would take the time of the first look; a large part does not hold it up for long
    await Promise.race([first.show(asked), new Promise((next) => setTimeout(next, firstLook))]);
    const outcome = await run('bake', { ...asked, add: true, show: how === 'show' });
    first.end();
    if (!outcome.ok) return outcome.code !== 'cancelled';
    setNotes(outcome.report.notes);
    if (how === 'show') useBench.getState().set({ overlay: 'picture' });
    if (how !== 'save' || !outcome.report.image) return true;
    const image = await coreApi().image(outcome.report.image);
    if (!image) return true;
    const url = URL.createObjectURL(new Blob([image.bytes as Uint8Array<ArrayBuffer>], { type: image.type }));
    save(outcome.report.name, url);
    setTimeout(() => URL.revokeObjectURL(url), 60_000);
    return true;
  };
  return (
    <Card title="Bake">
      <TextField
        select
        fullWidth
        label="A picture of"
        value={what}
        onChange={(event) => {
          setWhat(event.target.value as BakeKind);
          // of another kind it means something else
          setReach(null);
        }}
      >
        {bakeKinds.map((kind) => (
          <MenuItem key={kind} value={kind}>
            {kindWords[kind]}
          </MenuItem>
        ))}
      </TextField>
      {what === 'mask' && from === null && layers.length > 0 && (
        <TextField select fullWidth label="Mask of" value={layer ?? ''} onChange={(event) => setLayer(event.target.value || null)} slotProps={shownEmpty}>
          <MenuItem value="">all layers together</MenuItem>
          {layers.map(({ id, name }) => (
            <MenuItem key={id} value={id}>
              {name}
            </MenuItem>
          ))}
        </TextField>
      )}
      {summary.parts.length > 1 && (
        <TextField select fullWidth label="Looked up on" value={from ?? ''} onChange={(event) => setOther(event.target.value || null)} slotProps={shownEmpty}>
          <MenuItem value="">what is baked itself</MenuItem>
          {summary.parts
            .filter(({ id }) => id !== part.id)
            .map(({ id, name }) => (
              <MenuItem key={id} value={id}>
                {name}
              </MenuItem>
            ))}
        </TextField>
      )}
      {from !== null && (
        <NumberField
          bare
          label="No farther away than"
          unit={unitWords}
          value={within ?? 0}
          min={0}
          max={1e6}
          help={within === null ? '0: a twentieth of its size' : undefined}
          onChange={(to) => setWithin(to > 0 ? to : null)}
        />
      )}
      {part.uvSets.length > 1 && (
        <TextField select fullWidth label="Laid out by" value={set} onChange={(event) => setChosen({ part: part.id, set: Number(event.target.value) })}>
          {part.uvSets.map((name, k) => (
            <MenuItem key={name} value={k}>
              {name}
            </MenuItem>
          ))}
        </TextField>
      )}
      <Box sx={{ display: 'flex', gap: 1 }}>
        <TextField select fullWidth label="Picture size, px" value={size} onChange={(event) => setSize(Number(event.target.value))}>
          {gridSizes.map((px) => (
            <MenuItem key={px} value={px}>
              {px}
            </MenuItem>
          ))}
        </TextField>
        <TextField select fullWidth label="Samples a px" value={samples} onChange={(event) => setSamples(Number(event.target.value) as 1 | 4 | 16)}>
          {[1, 4, 16].map((n) => (
            <MenuItem key={n} value={n}>
              {n}
            </MenuItem>
          ))}
        </TextField>
      </Box>
      <Box sx={{ display: 'flex', gap: 1 }}>
        <TextField select fullWidth label="Between islands" value={full ? 'full' : 'margin'} onChange={(event) => setFull(event.target.value === 'full')}>
          <MenuItem value="full">filled</MenuItem>
          <MenuItem value="margin">{summary.settings.margin} px (margin)</MenuItem>
        </TextField>
        <TextField select fullWidth label="Bits" value={depth} onChange={(event) => setDepth(Number(event.target.value) as 8 | 16)}>
          <MenuItem value={8}>8</MenuItem>
          <MenuItem value={16}>16</MenuItem>
        </TextField>
      </Box>
      {tiles > 1 && (
        <TextField
          select
          fullWidth
          label="Tile"
          value={tile === null ? 'all' : Math.min(tile, tiles - 1)}
          onChange={(event) => setTile(event.target.value === 'all' ? null : Number(event.target.value))}
        >
          <MenuItem value="all">all {tiles}, a picture each</MenuItem>
          {Array.from({ length: tiles }, (_, k) => (
            <MenuItem key={k} value={k}>
              {tileNumber(k)}
            </MenuItem>
          ))}
        </TextField>
      )}
      {what === 'tangent-normal' && (
        <TextField select fullWidth label="Green" value={green} onChange={(event) => setGreen(event.target.value as 'up' | 'down')}>
          <MenuItem value="up">upwards, as glTF has it</MenuItem>
          <MenuItem value="down">downwards</MenuItem>
        </TextField>
      )}
      {(what === 'relief' || traces) && (
        <Box sx={{ display: 'grid', gridTemplateColumns: traces ? '1fr 1fr' : '1fr', gap: 1 }}>
          <NumberField
            bare
            label={traces ? 'Rays look so far' : 'Height that is white'}
            unit={unitWords}
            value={reach ?? 0}
            min={0}
            max={1e6}
            help={reach === null ? (traces ? '0: a quarter of the part' : '0: the most there is') : undefined}
            onChange={(to) => setReach(to > 0 ? to : null)}
          />
          {traces && <NumberField bare label="Rays a sample" value={rays} min={1} max={1024} whole onChange={setRays} />}
        </Box>
      )}
      {from === null && layer === null && summary.parts.some(({ id, sheet }) => id !== part.id && sheet === part.sheet) && (
        <Toggle label="Only this part, not all of the sheet" checked={alone} onChange={setAlone} />
      )}
      <Box title={why} sx={{ display: 'flex', flexDirection: 'column', gap: 1 }}>
        {' '}
        <Button variant="contained" fullWidth disabled={why !== ''} onClick={() => void bake('add')}>
          Bake to a new image
        </Button>
        <Box sx={{ display: 'flex', gap: 1 }}>
          <Button size="small" variant="outlined" fullWidth disabled={why !== ''} onClick={() => void bake('save')}>
            Bake and save PNG
          </Button>
          {what === 'colour' && (
            <Button size="small" variant="outlined" fullWidth disabled={why !== ''} onClick={() => void bake('show')}>
              Bake and show
            </Button>
          )}
        </Box>
      </Box>
      {first.picture && (
        <Box component="figure" sx={{ m: 0 }} ref={intoView}>
          <Box
            component="img"
            src={first.picture}
            alt="Rough first picture of the bake"
            sx={{ width: '100%', maxHeight: 240, objectFit: 'contain', display: 'block', imageRendering: 'pixelated' }}
          />
          <Typography component="figcaption" variant="caption" color="text.secondary">
            A rough first look; the whole picture is being baked. Cancel it if it is not what you want.
          </Typography>
        </Box>
      )}
      {!placed && <Typography variant="caption">The part has no layout yet: unwrap it, or place a projection, then bake.</Typography>}
      {placed && (
        <Typography variant="caption" color="text.secondary">
          {from !== null
            ? `${part.name} gets what ${nameOf(from)} shows at the nearest place along its normals, so that textures survive a new layout or mesh.`
            : isAlone
              ? `${part.name} alone goes into the picture. “Bake and show” puts it on the part and switches its layers off; undo brings them back.`
              : 'All parts of the sheet go into the picture. “Bake and show” puts it on them and switches their layers off; undo brings them back.'}
        </Typography>
      )}
      {notes.map((note) => (
        <Typography key={note} variant="caption">
          {note}
        </Typography>
      ))}
    </Card>
  );
}
