import type { Layer, LayerMask, PlannedLayer } from '@jig-peel/core';
import { blendCode, surfaceFunctions } from './glsl.ts';

/* The shader of a stack of layers: its structure is in the code, its numbers are uniforms, so that dragging a number compiles nothing. */

export interface SurfaceCode {
  /** Declarations before the vertex shader's main, and lines in it. */
  vertex: { declarations: string; body: string };
  /** Declarations and functions `vec4 stackColour()`, `float stackRelief()`. */
  fragment: string;
  /** Images by id, in the order of the samplers image0, image1 …; test grids as `grid:KIND`. */
  images: string[];
  /** Brushed masks in the order of the rows of the texture of dabs: layer and mask. */
  brushes: [number, number][];
  hasRelief: boolean;
}

/** How many numbers a corner the graphics take beside what is drawn anyway: 2 drivers or 4 fields each. */
export const mostDrivers = 8;

export const imageKey = (source: Layer['source']): string | null =>
  source.kind === 'image' ? source.image : source.kind === 'grid' ? `grid:${source.grid}` : null;

/** What of a layer is in the code. */
const structureOf = ({ layer, driver, reach, fields, fieldCounts }: PlannedLayer) => [
  layer.to,
  layer.source.kind,
  layer.source.kind === 'image'
    ? [layer.source.image, layer.source.channel]
    : layer.source.kind === 'grid'
      ? layer.source.grid
      : layer.source.kind === 'fade'
        ? layer.source.fade.shape
        : '',
  layer.driver.kind,
  driver,
  reach,
  layer.to === 'colour' ? layer.blend : layer.isAdded,
  layer.masks.map((mask, k) => [
    mask.kind,
    mask.isInverted,
    mask.how,
    fields[k],
    fieldCounts[k],
    mask.kind === 'image' ? [mask.image, mask.channel] : mask.kind === 'fade' ? [mask.fade.shape, mask.ragged > 0] : '',
  ]),
];

/** Equal for stacks that one shader shows. */
export const structureKey = (layers: readonly PlannedLayer[]): string => JSON.stringify(layers.map(structureOf));

const fieldCode = (field: number) => `vField${field >> 2}.${'xyzw'[field & 3]!}`;
const driverCode = (driver: number) => `vDriver${driver >> 1}.${driver % 2 === 0 ? 'xy' : 'zw'}`;

export function surfaceCode(layers: readonly PlannedLayer[]): SurfaceCode {
  const images: string[] = [];
  const samplerOf = (key: string) => {
    if (!images.includes(key)) images.push(key);
    return `image${images.indexOf(key)}`;
  };
  const brushes: [number, number][] = [];
  const uniforms: string[] = [];
  const functions: string[] = [];
  const colour: string[] = [];
  const relief: string[] = [];
  layers.forEach((planned, k) => {
    const { layer, driver, reach, fields, fieldCounts } = planned;
    const l = `l${k}`;
    uniforms.push(`uniform float ${l}Opacity; uniform mat3 ${l}Place; uniform ivec2 ${l}Outside; uniform vec3 ${l}First; uniform vec3 ${l}Second;`);
    uniforms.push(`uniform vec4 ${l}Levels; uniform float ${l}Contrast; uniform mat3 ${l}Hues; uniform float ${l}Strength;`);
    if (layer.driver.kind === 'triplanar') uniforms.push(`uniform vec4 ${l}Tri; uniform vec4 ${l}TurnXY; uniform vec2 ${l}TurnZ; uniform float ${l}Blend;`);
    if (layer.driver.kind === 'decal')
      uniforms.push(`uniform vec3 ${l}Centre; uniform vec3 ${l}Right; uniform vec3 ${l}Up; uniform vec2 ${l}Size; uniform vec3 ${l}Limits;`);
    /** Code that gives a picture's colour at the driver's place, and `ended`. */
    const picture = (sampler: string, place: string, outside: string): string => {
      if (layer.driver.kind === 'triplanar') {
        const side = (axis: number, turn: string) => `
      {
        vec2 at = turned(sidePlace(p, vPlaceNormal, ${axis}), ${turn});
        float e;
        vec4 c = pictureAt(${sampler}, vec2(at.x, at.y / aspect) / ${l}Tri.w, ${place}, ${outside}, e);
        sum += vec4(c.rgb * c.a, c.a) * w[${axis}];
        ended += e * w[${axis}];
      }`;
        return `
      vec3 w = triplanarShares(n, ${l}Blend);
      vec3 p = vPlace - ${l}Tri.xyz;
      float aspect = float(textureSize(${sampler}, 0).y) / float(textureSize(${sampler}, 0).x);
      vec4 sum = vec4(0.0);
      ended = 0.0;
      ${side(0, `${l}TurnXY.xy`)}${side(1, `${l}TurnXY.zw`)}${side(2, `${l}TurnZ`)}
      picture = sum.a > 0.0 ? vec4(sum.rgb / sum.a, sum.a) : vec4(0.0);`;
      }
      if (layer.driver.kind === 'decal')
        return `
      vec3 d = decalPlace(vPlace, n, ${l}Centre, ${l}Right, ${l}Up, ${l}Size, ${l}Limits.x, ${l}Limits.y, ${l}Limits.z);
      picture = pictureAt(${sampler}, d.xy, ${place}, ${outside}, ended) * vec4(1.0, 1.0, 1.0, d.z);
      ended *= d.z;`;
      return `
      picture = pictureAt(${sampler}, ${driverCode(Math.max(0, driver))}, ${place}, ${outside}, ended);`;
    };
    const key = imageKey(layer.source);
    const outside = layer.driver.kind === 'decal' ? 'ivec2(2)' : `${l}Outside`;
    const maskCode = layer.masks.map((mask, j) => {
      const m = `${l}m${j}`;
      const { declare, body } =
        mask.kind === 'key'
          ? keyValue(m, picture, key === null ? null : samplerOf(key), `${l}Place`, outside)
          : maskValue(
              mask,
              m,
              Array.from({ length: fieldCounts[j]! }, (_, n) => fields[j]! + n),
              picture,
              samplerOf,
              brushes.length,
            );
      if (declare) uniforms.push(declare);
      if (mask.kind === 'brush') brushes.push([k, j]);
      const value = mask.isInverted ? '1.0 - own' : 'own';
      const joined = j === 0 ? value : mask.how === 'and' ? `all * (${value})` : `max(all, ${value})`;
      return `{ float own; ${body} all = ${joined}; }`;
    });
    functions.push(`
    float ${l}Alpha(vec3 n) {
      float all = 1.0;
      ${maskCode.join('\n      ')}
      return all * ${l}Opacity${reach >= 0 ? ` * ${fieldCode(reach)}` : ''};
    }`);
    const channel = layer.source.kind === 'image' ? ['all', 'red', 'green', 'blue', 'alpha'].indexOf(layer.source.channel) : 0;
    let shown: string;
    if (key !== null)
      shown = `
      vec4 picture;
      float ended;
      ${picture(samplerOf(key), `${l}Place`, outside)}
      vec4 own = ${channel === 0 ? 'picture' : `vec4(vec3(picture.${'rgba'[channel - 1]}), ended)`};`;
    else {
      const { source } = layer;
      const t =
        source.kind === 'noise'
          ? `noiseAt(vPlace, ${l}Tri0.x, int(${l}Tri0.y), int(${l}Tri0.z))`
          : source.kind === 'fade'
            ? source.fade.shape === 'linear'
              ? `1.0 - linearFade(vPlace, ${l}Fade0, ${l}Fade1, 0.0)`
              : `1.0 - radialFade(vPlace, ${l}Fade0, ${l}Fade1.x, ${l}Fade1.y, 0.0)`
            : '0.0';
      if (source.kind === 'noise') uniforms.push(`uniform vec3 ${l}Tri0;`);
      if (source.kind === 'fade') uniforms.push(`uniform vec3 ${l}Fade0; uniform vec3 ${l}Fade1;`);
      const alpha =
        layer.driver.kind === 'decal' ? `decalPlace(vPlace, n, ${l}Centre, ${l}Right, ${l}Up, ${l}Size, ${l}Limits.x, ${l}Limits.y, ${l}Limits.z).z` : '1.0';
      shown = `vec4 own = vec4(mix(${l}First, ${l}Second, ${t}), ${alpha});`;
    }
    functions.push(`
    vec4 ${l}Shown(vec3 n) {${shown}
      return vec4(adjusted(own.rgb, ${l}Levels, ${l}Contrast, ${l}Hues), own.a);
    }`);
    if (layer.to === 'colour')
      colour.push(
        `{ vec4 own = ${l}Shown(n); vec3 b = under.rgb; vec3 s = own.rgb; under = over(under, ${blendCode[layer.blend]}, s, own.a * ${l}Alpha(n)); }`,
      );
    else
      relief.push(
        `{ vec4 own = ${l}Shown(n); float share = own.a * ${l}Alpha(n); float h = lightnessOf(own.rgb) * ${l}Strength; height = ${layer.isAdded ? 'height + h * share' : 'mix(height, h, share)'}; }`,
      );
  });
  const driverCount = Math.ceil((Math.max(-1, ...layers.map(({ driver }) => driver)) + 1) / 2);
  const fieldCount = Math.ceil(
    (Math.max(-1, ...layers.flatMap(({ reach, fields, fieldCounts }) => [reach, ...fields.map((first, k) => first + fieldCounts[k]! - 1)])) + 1) / 4,
  );
  const varyings = [
    ...Array.from({ length: driverCount }, (_, k) => `varying vec4 vDriver${k};`),
    ...Array.from({ length: fieldCount }, (_, k) => `varying vec4 vField${k};`),
    'varying vec3 vPlace;',
    'varying vec3 vPlaceNormal;',
  ].join('\n');
  const attributes = [
    ...Array.from({ length: driverCount }, (_, k) => `attribute vec4 driver${k};`),
    ...Array.from({ length: fieldCount }, (_, k) => `attribute vec4 field${k};`),
    'attribute vec3 sunk;',
    'attribute vec3 flatNormal;',
  ].join('\n');
  const passed = [
    ...Array.from({ length: driverCount }, (_, k) => `vDriver${k} = driver${k};`),
    ...Array.from({ length: fieldCount }, (_, k) => `vField${k} = field${k};`),
    // what is raised shows what belongs to its place on the cage
    'vPlace = position + sunk;',
    'vPlaceNormal = dot(flatNormal, flatNormal) > 0.0 ? flatNormal : normal;',
  ].join('\n');
  return {
    vertex: { declarations: `${attributes}\n${varyings}`, body: passed },
    fragment: `
    ${varyings}
    uniform bool layered;
    uniform bool raised;
    ${images.map((_, k) => `uniform sampler2D image${k};`).join('\n')}
    ${brushes.length > 0 ? 'uniform sampler2D dabs;' : ''}
    ${uniforms.join('\n    ')}
    ${surfaceFunctions}
    ${functions.join('\n')}
    vec4 stackColour() {
      vec3 n = normalize(vPlaceNormal);
      vec4 under = vec4(0.0);
      ${colour.join('\n      ')}
      return under;
    }
    float stackRelief() {
      vec3 n = normalize(vPlaceNormal);
      float height = 0.0;
      ${relief.join('\n      ')}
      return height;
    }`,
    images,
    brushes,
    hasRelief: relief.length > 0,
  };
}

type PictureCode = (sampler: string, place: string, outside: string) => string;

/** The value of a key mask as code that sets `own`: from the layer's own picture, 1 where it has none. */
function keyValue(m: string, picture: PictureCode, sampler: string | null, place: string, outside: string): { declare: string; body: string } {
  if (sampler === null) return { declare: '', body: 'own = 1.0;' };
  return {
    declare: `uniform vec3 ${m}Key; uniform vec2 ${m}Near;`,
    body: `vec4 picture; float ended; ${picture(sampler, place, outside)} own = clamp((distance(picture.rgb, ${m}Key) / sqrt(3.0) - ${m}Near.x) / max(1e-4, ${m}Near.y), 0.0, 1.0);`,
  };
}

/** A mask's value as code that sets `own`. @param row that of the dabs, if it is brushed */
function maskValue(
  mask: Exclude<LayerMask, { kind: 'key' }>,
  m: string,
  fields: readonly number[],
  picture: PictureCode,
  samplerOf: (key: string) => string,
  row: number,
): { declare: string; body: string } {
  switch (mask.kind) {
    case 'faces':
    case 'material':
    case 'each':
      return { declare: '', body: `own = 1.0; ${fields.map((field) => `own = min(own, ${fieldCode(field)});`).join(' ')} own = max(own, 0.0);` };
    case 'fade': {
      const shift = mask.ragged > 0 ? `(noiseAt(vPlace, ${m}Noise.x, int(${m}Noise.y), int(${m}Noise.z)) - 0.5) * 2.0 * ${m}Noise.w` : '0.0';
      return {
        declare: `uniform vec3 ${m}A; uniform vec3 ${m}B; uniform vec4 ${m}Noise;`,
        body:
          mask.fade.shape === 'linear' ? `own = linearFade(vPlace, ${m}A, ${m}B, ${shift});` : `own = radialFade(vPlace, ${m}A, ${m}B.x, ${m}B.y, ${shift});`,
      };
    }
    case 'noise':
      return {
        declare: `uniform vec4 ${m}Noise; uniform vec2 ${m}Range;`,
        body: `own = clamp((noiseAt(vPlace, ${m}Noise.x, int(${m}Noise.y), int(${m}Noise.z)) - ${m}Range.x) / max(1e-4, ${m}Range.y - ${m}Range.x), 0.0, 1.0);`,
      };
    case 'brush':
      return { declare: `uniform int ${m}Count;`, body: `own = brushed(dabs, ${row}, ${m}Count, vPlace);` };
    case 'image': {
      const channel = ['all', 'red', 'green', 'blue', 'alpha'].indexOf(mask.channel);
      return {
        declare: `uniform mat3 ${m}Place; uniform ivec2 ${m}Outside;`,
        body: `vec4 picture; float ended; ${picture(samplerOf(mask.image), `${m}Place`, `${m}Outside`)} own = ${channel === 0 ? 'lightnessOf(picture.rgb) * picture.a' : channel === 4 ? 'picture.a' : `picture.${'rgb'[channel - 1]}`};`,
      };
    }
  }
}
