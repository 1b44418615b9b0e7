import { Alert, Box, Button } from '@mui/material';
import { imageSizeOf, repeatsOf, unevenness, type Jig } from '@jig-peel/core';
import { NumberField } from '../../../fields/NumberField.tsx';
import { NumberRow, sixFigures } from '../../../fields/NumberRow.tsx';
import { Toggle } from '../../../fields/Toggle.tsx';
import type { JigRow } from '../../../session/messages.ts';
import { useBench } from '../../../store/bench.ts';
import { change } from '../../jigs.ts';
import { OwnRepeats } from './OwnRepeats.tsx';
import { Section } from './Section.tsx';

interface Props {
  row: JigRow;
  /** The jig as it was when it was taken in hand. */
  was: Jig;
  units: string;
}

/** The image on a jig: how large or how often, slid, turned, mirrored. */
export function JigImage({ row, was, units }: Props) {
  const { jig } = row;
  const aspect = usePictureAspect();
  const uneven = jig.kind !== 'flat-regions' && jig.kind !== 'box' ? unevenness(jig, aspect) : 1;
  const [wide, tall] = imageSizeOf(jig);
  return (
    <Section title="Image">
      <Toggle
        label="A real width"
        checked={jig.imageWidth !== null}
        onChange={(on) =>
          change(
            on ? { imageWidth: sixFigures(wide), imageAspect: sixFigures(tall / wide) } : { imageWidth: null, repeats: repeatsOf(jig) },
            'changed the image of',
          )
        }
      />
      {jig.imageWidth !== null ? (
        <NumberField
          label="Image width"
          unit={units}
          value={sixFigures(jig.imageWidth)}
          old={was.imageWidth === null ? undefined : sixFigures(was.imageWidth)}
          min={1e-6}
          max={1e6}
          step={0.1}
          onChange={(imageWidth) => change({ imageWidth }, 'changed the image width of')}
        />
      ) : (
        <NumberRow
          labels={['Repeats in u', 'Repeats in v']}
          values={jig.repeats}
          old={was.repeats}
          min={0.0001}
          max={10_000}
          step={1}
          onChange={(repeats) => change({ repeats }, 'changed the repeats of')}
        />
      )}
      {Math.abs(Math.log(uneven)) > 0.02 && (
        <Alert
          severity="warning"
          sx={{ py: 0, '& .MuiAlert-action': { pt: 0.25 } }}
          action={
            <Button color="inherit" size="small" onClick={() => change(evened(jig, aspect), 'evened out')}>
              Even size
            </Button>
          }
        >
          The image is {uneven > 1 ? 'widened' : 'made narrow'} {Math.max(uneven, 1 / uneven).toFixed(2)} times.
        </Alert>
      )}
      <NumberRow
        labels={['Slide in u', 'Slide in v']}
        values={jig.offset}
        old={was.offset}
        min={-1e6}
        max={1e6}
        step={0.05}
        onChange={(offset) => change({ offset }, 'slid the image of')}
      />
      <NumberField
        label="Image turned by"
        unit="°"
        value={sixFigures(jig.turn)}
        old={sixFigures(was.turn)}
        min={-3600}
        max={3600}
        step={15}
        onChange={(turn) => change({ turn }, 'turned the image of')}
      />
      <Flips jig={jig} />
      {(jig.kind === 'box' || (jig.kind === 'cylindrical' && jig.lids)) && <OwnRepeats row={row} />}
    </Section>
  );
}

function Flips({ jig }: { jig: Jig }) {
  return (
    <Box sx={{ display: 'flex', gap: 0.75 }}>
      <Button
        size="small"
        variant={jig.mirrorU ? 'contained' : 'outlined'}
        aria-pressed={jig.mirrorU}
        fullWidth
        onClick={() => change({ mirrorU: !jig.mirrorU }, 'mirrored')}
      >
        Mirror u
      </Button>
      <Button
        size="small"
        variant={jig.mirrorV ? 'contained' : 'outlined'}
        aria-pressed={jig.mirrorV}
        fullWidth
        onClick={() => change({ mirrorV: !jig.mirrorV }, 'mirrored')}
      >
        Mirror v
      </Button>
      <Button
        size="small"
        variant="outlined"
        fullWidth
        sx={{ whiteSpace: 'nowrap', px: 0.25, fontSize: 12 }}
        onClick={() => change({ quarter: (jig.quarter + 1) % 4 }, 'turned a quarter')}
      >
        Quarter turn
      </Button>
    </Box>
  );
}

/** Height over width of the picture that the part shows; the test grid is square. */
function usePictureAspect(): number {
  return useBench((s) => {
    const part = s.summary?.parts.find((p) => p.id === s.summary?.activePart);
    const image = s.overlay === 'picture' ? s.summary?.images.find((i) => i.id === part?.imageId) : undefined;
    return image && image.width > 0 ? image.height / image.width : 1;
  });
}

/** The image as wide as before, its height by its own proportions. */
function evened(jig: Jig, aspect: number): Partial<Jig> {
  if (jig.imageWidth !== null) return { imageAspect: aspect };
  const off = unevenness(jig, aspect);
  return { repeats: jig.quarter % 2 === 0 ? [jig.repeats[0], jig.repeats[1] / off] : [jig.repeats[0] / off, jig.repeats[1]] };
}
