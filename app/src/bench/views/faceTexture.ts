import { DataTexture, NearestFilter, RGBAFormat, UnsignedByteType } from 'three';
import { energyOf, islandTint } from '@jig-peel/core';
import { densityScale, grainScale, oneWayScale, rgb, stretchScale } from '../../theme/palette.ts';
import type { LayoutView, Measures } from '../../session/messages.ts';
import type { BenchState, Density } from '../../store/bench.ts';

export const faceFlags = { selected: 1, flipped: 2, overlapping: 4, outside: 8, unplaced: 16, hidden: 32, badly: 64, mayGo: 128 } as const;
const rowLength = 1024;

/** One texel a face: the overlay's colour and a byte of flags. Both views read it, so a change of overlay or selection is one upload. */
export class FaceTexture {
  texture: DataTexture;
  private data: Uint8Array<ArrayBuffer>;

  constructor(readonly faces: number) {
    const rows = Math.max(1, Math.ceil(faces / rowLength));
    this.data = new Uint8Array(rowLength * rows * 4);
    this.texture = new DataTexture(this.data, rowLength, rows, RGBAFormat, UnsignedByteType);
    this.texture.minFilter = this.texture.magFilter = NearestFilter;
    this.texture.needsUpdate = true;
  }

  fill(
    layout: LayoutView,
    measures: Measures | null,
    overlay: BenchState['overlay'],
    stretchMap: BenchState['stretchMap'],
    fault: BenchState['fault'],
    selectedFaces: Uint8Array | null,
    hidden: Uint8Array | null,
    clay: string,
    density: Density | null,
    badly: ArrayLike<number> | null = null,
    marks: Uint8Array | null = null,
    grain: Float32Array | null = null,
  ): void {
    const { data } = this;
    const plain = rgb(clay);
    for (let f = 0; f < this.faces; f++) {
      let color: readonly number[] = plain;
      if (overlay === 'islands') color = islandTint(layout.faceIsland[f]!);
      else if (overlay === 'stretch') color = stretchColor(stretchMap, layout.faceSize[f]!, layout.faceShape[f]!, plain);
      else if (overlay === 'density' && density) color = densityColor(density.faces[f]!, density.middle, plain);
      else if (overlay === 'grain' && grain) color = grainColor(grain[f]!, plain);
      const k = f * 4;
      data[k] = color[0]!;
      data[k + 1] = color[1]!;
      data[k + 2] = color[2]!;
      let flags = 0;
      if (selectedFaces && selectedFaces[f]) flags |= faceFlags.selected;
      if (hidden && hidden[f]) flags |= faceFlags.hidden;
      if (layout.unplaced[f]) flags |= faceFlags.unplaced;
      if (measures) {
        if (measures.flipped[f] && (fault === 'flipped' || overlay === 'stretch')) flags |= faceFlags.flipped;
        if (measures.overlapping[f] && fault === 'overlapping') flags |= faceFlags.overlapping;
        if (measures.outside[f] && fault === 'outside') flags |= faceFlags.outside;
      }
      // looked at: both
      if (marks && marks[f]! > 0) flags |= marks[f] === 1 ? faceFlags.badly : marks[f] === 2 ? faceFlags.mayGo : faceFlags.badly | faceFlags.mayGo;
      data[k + 3] = flags;
    }
    if (badly) for (let k = 0; k < badly.length; k++) data[badly[k]! * 4 + 3]! |= faceFlags.badly;
    this.texture.needsUpdate = true;
  }

  dispose(): void {
    this.texture.dispose();
  }
}

const steps = stretchScale.map(rgb);
const grainSteps = grainScale.map(rgb);

/** Colour of an angle to the grain, full at 90 degrees. */
const grainColor = (degrees: number, plain: readonly number[]): readonly number[] => (Number.isNaN(degrees) ? plain : between(grainSteps, degrees / 90));

const densitySteps = densityScale.map(rgb);

/** Colour of a density: the scale's middle is the layout's, its ends half and twice as dense. */
export function densityColor(value: number, middle: number, plain: readonly number[]): readonly number[] {
  if (Number.isNaN(value)) return plain;
  return between(densitySteps, (Math.log2(value / middle) + 1) / 2);
}

function between(scale: (readonly number[])[], share: number): readonly number[] {
  const t = Math.max(0, Math.min(1, share)) * (scale.length - 1);
  const i = Math.min(scale.length - 2, Math.floor(t));
  return [0, 1, 2].map((c) => Math.round(scale[i]![c]! + (scale[i + 1]![c]! - scale[i]![c]!) * (t - i)));
}

/** Colour of a face in one of the maps of stretch: size is full at half and double, shape at twice as long as wide, energy at 8. */
export function stretchColor(map: BenchState['stretchMap'], size: number, shape: number, plain: readonly number[]): readonly number[] {
  if (Number.isNaN(size)) return plain;
  if (map === 'size') return between(steps, (size + 1) / 2);
  return between(oneWay, map === 'shape' ? shape : Math.log2(energyOf(size, shape) / 4));
}

const oneWay = oneWayScale.map(rgb);
