import { Matrix3, Vector2, Vector3, Vector4, type IUniform } from 'three';
import {
  colourMatrix,
  leastRange,
  outsideKinds,
  parseColour,
  placementMatrix,
  type ImagePlacement,
  type Noise,
  type Outside,
  type PlannedLayer,
} from '@jig-peel/core';

const matrixOf = (placement: ImagePlacement, [across, up]: readonly [number, number] = [1, 1]): Matrix3 => {
  const [a, b, c, d, e, f] = placementMatrix(placement);
  return new Matrix3().set(a * across, b * across, c * across, d * up, e * up, f * up, 0, 0, 1);
};
const outsideOf = (u: Outside, v: Outside) => [outsideKinds.indexOf(u), outsideKinds.indexOf(v)];
const noiseOf = ({ size, seed, detail }: Noise, last = 0) => new Vector4(size, seed, detail, last);
const radians = Math.PI / 180;

/**
 * The numbers of a stack, by the names that its shader has for them.
 * @param tiles the part's own picture consists of images of tiles, side by side in one
 */
export function surfaceNumbers(layers: readonly PlannedLayer[], picture: string, tiles: { columns: number; rows: number } | null): Record<string, IUniform> {
  const out: Record<string, IUniform> = {};
  layers.forEach(({ layer, origin }, k) => {
    const l = `l${k}`;
    const put = (name: string, value: unknown) => (out[`${l}${name}`] = { value });
    const { source, driver, placement, adjust } = layer;
    const onTiles = tiles && layer.id === picture ? tiles : null;
    put('Opacity', layer.opacity);
    put('Place', matrixOf(placement, onTiles ? [1 / onTiles.columns, 1 / onTiles.rows] : [1, 1]));
    put('Outside', onTiles ? [3, 3] : outsideOf(placement.outsideU, placement.outsideV));
    const colours =
      source.kind === 'colour' ? [source.colour, source.colour] : source.kind === 'fade' || source.kind === 'noise' ? source.colours : ['#000000', '#000000'];
    put('First', new Vector3(...parseColour(colours[0]!)));
    put('Second', new Vector3(...parseColour(colours[1]!)));
    put('Levels', new Vector4(adjust.black, Math.max(leastRange, adjust.white - adjust.black), 1 / adjust.gamma, adjust.brightness));
    put('Contrast', adjust.contrast);
    put('Hues', new Matrix3().fromArray([...colourMatrix(adjust)]).transpose());
    put('Strength', layer.strength);
    if (source.kind === 'noise') put('Tri0', new Vector3(source.noise.size, source.noise.seed, source.noise.detail));
    if (source.kind === 'fade') {
      const { fade } = source;
      put('Fade0', new Vector3(...(fade.shape === 'linear' ? fade.from : fade.centre)));
      put('Fade1', fade.shape === 'linear' ? new Vector3(...fade.to) : new Vector3(fade.inner, fade.outer, 0));
    }
    if (driver.kind === 'triplanar') {
      const [x, y, z] = driver.turn.map((degrees) => [Math.cos(degrees * radians), Math.sin(degrees * radians)] as const) as [
        readonly [number, number],
        readonly [number, number],
        readonly [number, number],
      ];
      put('Tri', new Vector4(driver.offset[0] + origin[0], driver.offset[1] + origin[1], driver.offset[2] + origin[2], driver.size));
      put('TurnXY', new Vector4(...x, ...y));
      put('TurnZ', new Vector2(...z));
      put('Blend', driver.blend);
    }
    if (driver.kind === 'decal') {
      put('Centre', new Vector3(...driver.centre));
      put('Right', new Vector3(...driver.right));
      put('Up', new Vector3(...driver.up));
      put('Size', new Vector2(...driver.size));
      put('Limits', new Vector3(driver.depth, Math.cos(driver.facing * radians), driver.bend * radians));
    }
    layer.masks.forEach((mask, j) => {
      const m = (name: string, value: unknown) => put(`m${j}${name}`, value);
      if (mask.kind === 'fade') {
        const { fade } = mask;
        m('A', new Vector3(...(fade.shape === 'linear' ? fade.from : fade.centre)));
        m('B', fade.shape === 'linear' ? new Vector3(...fade.to) : new Vector3(fade.inner, fade.outer, 0));
        m('Noise', noiseOf(mask.noise, mask.ragged));
      } else if (mask.kind === 'noise') {
        m('Noise', noiseOf(mask.noise));
        m('Range', new Vector2(mask.low, mask.high));
      } else if (mask.kind === 'key') {
        m('Key', new Vector3(...parseColour(mask.colour)));
        m('Near', new Vector2(mask.near, mask.soft));
      } else if (mask.kind === 'image') {
        const own = mask.placement ?? placement;
        const isDecal = driver.kind === 'decal' && mask.placement === null;
        m('Place', matrixOf(own));
        m('Outside', isDecal ? [2, 2] : outsideOf(own.outsideU, own.outsideV));
      }
    });
  });
  return out;
}
