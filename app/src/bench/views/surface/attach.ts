import type { Texture } from 'three';
import { mostFields, type GridKind } from '@jig-peel/core';
import type { SurfaceView } from '../../../session/surfaceView.ts';
import { useBench, type BenchState } from '../../../store/bench.ts';
import { useShown } from '../../../store/shown.ts';
import { coreApi } from '../../../worker/client.ts';
import { layersOfOthers } from '../../surfaceLayers.ts';
import { inOwnWorker } from '../../../worker/seat.ts';
import { awaited, imageTexture, upright } from '../pictures.ts';
import type { Stage } from '../stage.ts';
import { aloneLayer, aloneOf } from './alone.ts';
import { mostDrivers, structureKey, surfaceCode } from './code.ts';
import { SurfaceSkin } from './skin.ts';

/** Textures of layers that the graphics take beside the part's own. */
const mostPictures = 12;

/** So many skins are kept beside the one that is shown. */
const mostEarlier = 4;

const layerGrids = new Map<GridKind, Promise<Texture>>();

/** A test grid as layers show it; each kind is made once. */
function keptGrid(kind: GridKind): Promise<Texture> {
  const made = layerGrids.get(kind) ?? inOwnWorker('grid', { kind, size: 1024 }).then((data) => upright(data, 1024));
  layerGrids.set(kind, made);
  return made;
}

const textureOf = (key: string): Promise<Texture | null> => (key.startsWith('grid:') ? keptGrid(key.slice(5) as GridKind) : imageTexture(key));

const activeOf = (s: BenchState) => s.summary?.parts.find((part) => part.id === s.summary?.activePart);

/** What the layers that are drawn depend on. */
const watched = (s: BenchState): unknown[] => {
  const part = activeOf(s);
  return [
    part?.id,
    part?.layers,
    ...layersOfOthers(s),
    part?.imageId,
    part?.placement,
    s.summary?.materialLayers,
    s.summary?.jigs,
    s.summary?.images,
    s.layout,
    s.geometry,
  ];
};

/** Shows the layers of the part at work on the stage, as they change. @returns ends it */
export function attachSurface(stage: Stage): () => void {
  let skin: SurfaceSkin | null = null;
  let arrays = { key: 0, meshId: -1 };
  let kept: Pick<SurfaceView, 'drivers' | 'fields'> = { drivers: null, fields: null };
  let asked = 0;
  let told = '';

  /** Skins that were shown before, the newest first: going back to one, as undo and “alone” do, makes no shader again. */
  let earlier: SurfaceSkin[] = [];

  const drop = () => {
    stage.setSkin(null);
    for (const one of [skin, ...earlier]) one?.dispose();
    skin = null;
    earlier = [];
    arrays = { key: 0, meshId: -1 };
  };

  const refresh = (): void => void awaited(showNewest());

  async function showNewest(): Promise<void> {
    const mine = ++asked;
    const view = await coreApi()
      .surface(arrays.key)
      .catch(() => null);
    if (mine !== asked) return;
    if (!view) {
      drop();
      return;
    }
    if (view.meshId !== stage.geometry?.meshId) return;
    const { alone } = useShown.getState();
    const layers = (alone && aloneOf(view.layers, alone)) ?? view.layers;
    if (view.drivers) kept = { drivers: view.drivers, fields: view.fields };
    const changed = view.drivers !== null || arrays.meshId !== view.meshId;
    arrays = { key: view.key, meshId: view.meshId };
    const whole = { ...view, ...kept, layers };
    if (skin && !changed && structureKey(layers) === skin.key) {
      skin.update(whole, stage.pictureTiles);
      stage.setSkin(skin);
      return;
    }
    const { images } = surfaceCode(layers);
    const refused =
      kept.drivers!.length > mostDrivers
        ? `These layers are driven by ${kept.drivers!.length} UV sets and jigs; ${mostDrivers} can be drawn at once.`
        : kept.fields!.length > mostFields
          ? `The masks of faces of these layers need ${kept.fields!.length} numbers a corner (a soft edge several); ${mostFields} can be drawn at once.`
          : images.length > mostPictures
            ? `These layers show ${images.length} images; ${mostPictures} can be drawn at once.`
            : '';
    if (refused) {
      if (refused !== told) useBench.getState().notice(`${refused} Bake some of them into one picture.`, 'warning');
      told = refused;
      drop();
      return;
    }
    const textures = (await Promise.all(images.map(textureOf))).map((texture) => texture ?? stage.blank);
    if (mine !== asked) return;
    const key = structureKey(layers);
    const known = [skin, ...earlier].find((one) => one?.key === key);
    const next = known ?? new SurfaceSkin(whole, stage.pictureTiles, textures, (shaders, uniforms) => stage.materialsWith(shaders, uniforms));
    if (known) {
      known.show(textures);
      known.update(whole, stage.pictureTiles);
    } else {
      // what was shown stays until then
      await stage.madeReady(next);
      if (mine !== asked) {
        next.dispose();
        return;
      }
    }
    const [before, others] = [skin, earlier.filter((one) => one !== next)];
    earlier = before && before !== next ? [before, ...others] : others;
    for (const old of earlier.splice(mostEarlier)) old.dispose();
    skin = next;
    stage.setSkin(next);
  }

  refresh();
  const endBench = useBench.subscribe((s, before) => {
    if (s === before) return;
    const [now, then] = [watched(s), watched(before)];
    if (now.length !== then.length || now.some((one, k) => one !== then[k])) refresh();
  });
  const endShown = useShown.subscribe((now, before) => {
    if (now.alone !== before.alone) {
      refresh();
      return;
    }
    if (!skin || (now.layer === before.layer && now.placement === before.placement)) return;
    const images = useBench.getState().summary?.images ?? [];
    const { alone, layer, placement } = now;
    const seen = layer && alone?.layer === layer.id ? aloneLayer(layer, alone.mask) : layer;
    if (seen ? skin.preview(seen, images, stage.pictureTiles) : placement && skin.previewPicture(placement, images, stage.pictureTiles)) stage.invalidate();
    else if (!layer && !placement) refresh();
  });
  return () => {
    asked++;
    endBench();
    endShown();
    drop();
  };
}
