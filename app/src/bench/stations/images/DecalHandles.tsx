import type { DecalFrame, Layer } from '@jig-peel/core';
import { useBench } from '../../../store/bench.ts';
import { show, useShown } from '../../../store/shown.ts';
import type { Picker } from '../../views/pick.ts';
import type { Stage } from '../../views/stage.ts';
import { decalGrips, draggedDecal, gripPlaces, outOf, placeOn, type DecalGrip } from './decalGrips.ts';
import { frameOn, turnOf } from './decalTool.ts';
import { layersIn, previewLayer, setLayer, useLayerChoice } from './layerWork.ts';
import { SurfaceGrips, type SurfaceGrip } from './SurfaceGrips.tsx';

const words: Record<DecalGrip, Omit<SurfaceGrip<DecalGrip>, 'id'> & { done: string }> = {
  move: { label: 'Move the decal over the surface', done: 'moved', sign: 'move' },
  width: { label: 'Width of the decal', done: 'sized', sign: 'side' },
  height: { label: 'Height of the decal', done: 'sized', sign: 'side' },
  even: { label: 'Size of the decal', done: 'sized', sign: 'even' },
  turn: { label: 'Turn the decal; Ctrl: by 15°', done: 'turned', sign: 'turn' },
};
const grips = decalGrips.map((id) => ({ id, ...words[id] }));

/** Px from the one in the middle at the least. */
const leastPx: Record<DecalGrip, number> = { move: 0, width: 26, height: 26, even: 36, turn: 52 };

interface Props {
  stage: Stage;
  picker: Picker;
}

/** Handles of the decal that is open at Images, over the model view. */
export default function DecalHandles({ stage, picker }: Props) {
  const { material, layer: id } = useLayerChoice();
  const layer = useBench((s) => (s.summary && id !== null ? layersIn(s.summary, material).find((one) => one.id === id) : undefined));
  if (!layer || layer.driver.kind !== 'decal' || !layer.isOn) return null;
  return <Handles key={layer.id} stage={stage} picker={picker} layer={layer} frame={layer.driver} />;
}

function Handles({ stage, picker, layer, frame }: Props & { layer: Layer; frame: DecalFrame }) {
  return (
    <SurfaceGrips
      stage={stage}
      picker={picker}
      label={`Handles of ${layer.name}`}
      grips={grips}
      value={frame}
      shown={() => {
        const shown = useShown.getState().layer;
        return shown?.id === layer.id && shown.driver.kind === 'decal' ? shown.driver : frame;
      }}
      placesOf={(now) => {
        const places = gripPlaces(now);
        const corners = (
          [
            [-0.5, -0.5],
            [0.5, -0.5],
            [0.5, 0.5],
            [-0.5, 0.5],
            [-0.5, -0.5],
          ] as const
        ).map(([x, y]) => placeOn(now, x, y));
        return { grips: places, lines: [corners], apart: { from: places.move, px: leastPx } };
      }}
      drag={(grip, x, y, isHeld): DecalFrame | null => {
        if (grip !== 'move') return draggedDecal(frame, grip, picker.sight(x, y), isHeld ? 15 : 0);
        const on = picker.facing(x, y);
        return on && { ...frame, centre: [...on.place], ...frameOn(on.out, turnOf(frame)) };
      }}
      nudge={(grip, x, y, isFine): DecalFrame => {
        const factor = x + y > 0 ? 1.05 : 1 / 1.05;
        const [wide, tall] = frame.size;
        if (grip === 'move') return { ...frame, centre: placeOn(frame, x * 0.05, y * 0.05) };
        if (grip === 'turn') return { ...frame, ...frameOn(outOf(frame), turnOf(frame) + (x - y) * -(isFine ? 1 : 15)) };
        return { ...frame, size: [grip === 'height' ? wide : wide * factor, grip === 'width' ? tall : tall * factor] };
      }}
      preview={(driver) => previewLayer({ ...layer, driver })}
      keep={(driver, grip) => void setLayer({ ...layer, driver }, words[grip].done)}
      drop={() => show({ layer: null })}
    />
  );
}
