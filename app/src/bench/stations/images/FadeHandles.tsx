import type { Fade, Layer } from '@jig-peel/core';
import { useBench } from '../../../store/bench.ts';
import { show, useShown } from '../../../store/shown.ts';
import type { Picker } from '../../views/pick.ts';
import type { Stage } from '../../views/stage.ts';
import { draggedFade, fadePlaces, gripsOfFade, nudgedFade } from './fadeGrips.ts';
import { fadesOf, layersIn, previewLayer, setLayer, useLayerChoice, withFade, type FadeAt } from './layerWork.ts';
import { SurfaceGrips } from './SurfaceGrips.tsx';

interface Props {
  stage: Stage;
  picker: Picker;
}

/** Handles of the fades of the layer that is open at Images, its own and those of its masks, over the model view. */
export default function FadeHandles({ stage, picker }: Props) {
  const { material, layer: id } = useLayerChoice();
  const layer = useBench((s) => (s.summary && id !== null ? layersIn(s.summary, material).find((one) => one.id === id) : undefined));
  if (!layer?.isOn) return null;
  return fadesOf(layer).map(({ at, fade }) => (
    <Handles key={`${layer.id} ${at} ${fade.shape}`} stage={stage} picker={picker} layer={layer} at={at} fade={fade} />
  ));
}

function Handles({ stage, picker, layer, at, fade }: Props & { layer: Layer; at: FadeAt; fade: Fade }) {
  const what = at === 'own' ? 'moved' : 'moved the mask of';
  return (
    <SurfaceGrips
      stage={stage}
      picker={picker}
      label={at === 'own' ? `Handles of the fade ${layer.name}` : `Handles of the fade that masks ${layer.name}`}
      grips={gripsOfFade(fade)}
      value={fade}
      shown={() => {
        const shown = useShown.getState().layer;
        const own = shown?.id === layer.id ? fadesOf(shown).find((one) => one.at === at)?.fade : undefined;
        return own?.shape === fade.shape ? own : fade;
      }}
      placesOf={fadePlaces}
      drag={(grip, x, y, isHeld) => {
        const on = isHeld ? picker.facing(x, y) : null;
        return draggedFade(fade, grip, picker.sight(x, y), on && [...on.place]);
      }}
      nudge={(grip, x, y, isFine) => {
        const { width, height } = stage.rects.model;
        return nudgedFade(fade, grip, x, y, isFine ? 0.01 : 0.05, [...picker.sight(width / 2, height / 2).along]);
      }}
      preview={(next) => previewLayer(withFade(layer, at, next))}
      keep={(next) => void setLayer(withFade(layer, at, next), what)}
      drop={() => show({ layer: null })}
    />
  );
}
