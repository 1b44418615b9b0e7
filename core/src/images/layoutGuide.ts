import { nextCorner, type Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import { islandLetter, islandsOf } from '../uv/islands.ts';
import { EdgeState } from '../uv/seamEdges.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { Canvas } from './canvas.ts';
import { notchesOf, notchPlace } from '../seams/notches.ts';
import { tilePlace } from '../uv/tiles.ts';
import { islandTint } from './islandTint.ts';
import { textSegments } from './strokeFont.ts';

export interface GuideOptions {
  /** Size of the picture in px. */
  width: number;
  height: number;
  fills: boolean;
  innerLines: boolean;
  names: boolean;
  /** Letters and ticks on both sides of every seam: what belongs together. */
  notches?: boolean;
  /** A faint net of 32 px, every fourth line stronger, and the border of the sheet. */
  grid?: boolean;
  /** Px beyond the borders that paint should reach, in the islands' tints. */
  bleed?: number;
  /** The tile that is drawn, from 0. */
  tile?: number;
}

export const defaultGuide: GuideOptions = { width: 1024, height: 1024, fills: true, innerLines: true, names: true };

/** Lines and faces of a layout guide in px, y down. */
export interface Drawing {
  /** x1 y1 x2 y2 each, px, y down. */
  borders: number[];
  inner: number[];
  labels: { text: string; x: number; y: number; height: number }[];
  triangles: { tint: readonly number[]; xy: number[] }[];
  /** Borders of each island, to be drawn twice the bleed wide under the fills. */
  rims: { tint: readonly number[]; lines: number[] }[];
  /** Ticks of notches; their letters are among the labels. */
  ticks: number[];
  /** Lines of the net: faint ones, stronger ones. */
  net: [number[], number[]];
}

export const ink = [44, 40, 38] as const;
export const plum = [122, 46, 98] as const;

/** Island letters are capitals, those of notches are small. */
export const isShown = (text: string, { names, notches }: GuideOptions) => (/^[a-z]/.test(text) ? notches === true : names);

/** Island letters are dark, those of notches have the colour of the borders. */
export const inkOf = (text: string): readonly [number, number, number] => (/^[a-z]/.test(text) ? plum : ink);

export function drawGuide(mesh: Mesh, set: UvSet, options: GuideOptions): Drawing {
  const { width, height } = options;
  const islands = islandsOf(mesh, set);
  const { cornerEdge, cornerFace, twin } = topologyOf(mesh);
  const triangles = trianglesOf(mesh);
  const [left, low] = tilePlace(options.tile ?? 0);
  const x = (id: number) => (set.uv[id * 2]! - left) * width;
  const y = (id: number) => (1 + low - set.uv[id * 2 + 1]!) * height;
  const out: Drawing = { borders: [], inner: [], labels: [], triangles: [], rims: [], ticks: [], net: [[], []] };
  if (options.grid) out.net = netLines(width, height);
  const rims: number[][] = Array.from({ length: options.bleed ? islands.count : 0 }, () => []);
  for (let c = 0; c < mesh.corners.length; c++) {
    const f = cornerFace[c]!;
    if (set.unplaced[f]) continue;
    const a = set.cornerUv[c]!;
    const b = set.cornerUv[nextCorner(mesh, c, f)]!;
    const joined = islands.states[cornerEdge[c]!] === EdgeState.joined;
    if (joined && twin[c]! < c) continue;
    (joined ? out.inner : out.borders).push(x(a), y(a), x(b), y(b));
    if (!joined) rims[islands.ofFace[f]!]?.push(x(a), y(a), x(b), y(b));
  }
  for (let i = 0; i < islands.count; i++) {
    const xy: number[] = [];
    let best = 0;
    let label: [number, number] = [0, 0];
    let total = 0;
    for (let k = islands.start[i]!; k < islands.start[i + 1]!; k++) {
      const f = islands.faces[k]!;
      if (set.unplaced[f]) continue;
      for (let t = triangles.faceStart[f]!; t < triangles.faceStart[f + 1]!; t++) {
        const ids = [0, 1, 2].map((v) => set.cornerUv[triangles.corners[t * 3 + v]!]!);
        const p = ids.flatMap((id) => [x(id), y(id)]) as [number, number, number, number, number, number];
        xy.push(...p);
        const area = Math.abs((p[2] - p[0]) * (p[5] - p[1]) - (p[4] - p[0]) * (p[3] - p[1])) / 2;
        total += area;
        if (area > best) {
          best = area;
          label = [(p[0] + p[2] + p[4]) / 3, (p[1] + p[3] + p[5]) / 3];
        }
      }
    }
    if (xy.length === 0) continue;
    const rim = rims[i];
    if (rim) out.rims.push({ tint: islandTint(i), lines: rim });
    out.triangles.push({ tint: islandTint(i), xy });
    const centre = centreInside(xy, total) ?? label;
    out.labels.push({ text: islandLetter(i), x: centre[0], y: centre[1], height: Math.max(7, Math.min(36, Math.sqrt(total) * 0.22)) });
  }
  if (options.notches) {
    // of one size in px, as they stand beside each other
    const size = Math.max(6, Math.max(width, height) / 110);
    for (const { letter, ticks, corners } of notchesOf(mesh, set))
      for (const corner of corners) {
        if (set.unplaced[cornerFace[corner]!]) continue;
        const [u, v, du, dv] = notchPlace(mesh, set, corner);
        const [px, py] = [(u - left) * width, (1 + low - v) * height];
        const long = Math.hypot(du * width, dv * height) || 1;
        const [nx, ny] = [(du * width) / long, (-dv * height) / long];
        for (let k = 0; k < ticks; k++) {
          const along = (k - (ticks - 1) / 2) * size * 0.45;
          const [sx, sy] = [px - ny * along, py + nx * along];
          out.ticks.push(sx, sy, sx + nx * size * 0.8, sy + ny * size * 0.8);
        }
        out.labels.push({ text: String.fromCharCode(97 + letter), x: px + nx * size * 1.6, y: py + ny * size * 1.6, height: size });
      }
  }
  return out;
}

/** A net of 32 px: faint lines, and every fourth with the sheet's border. */
function netLines(width: number, height: number): [number[], number[]] {
  const net: [number[], number[]] = [[], []];
  for (let k = 0; k * 32 <= width; k++) net[k % 4 === 0 ? 1 : 0].push(k * 32, 0, k * 32, height);
  for (let k = 0; k * 32 <= height; k++) net[k % 4 === 0 ? 1 : 0].push(0, height - k * 32, width, height - k * 32);
  net[1].push(width, 0, width, height, 0, 0, width, 0);
  return net;
}

/** The middle of the island's area, if it lies on the island. */
function centreInside(xy: number[], total: number): [number, number] | null {
  let cx = 0;
  let cy = 0;
  const area = (p: number) => Math.abs((xy[p + 2]! - xy[p]!) * (xy[p + 5]! - xy[p + 1]!) - (xy[p + 4]! - xy[p]!) * (xy[p + 3]! - xy[p + 1]!)) / 2;
  for (let p = 0; p < xy.length; p += 6) {
    const w = area(p) / (total || 1);
    cx += (w * (xy[p]! + xy[p + 2]! + xy[p + 4]!)) / 3;
    cy += (w * (xy[p + 1]! + xy[p + 3]! + xy[p + 5]!)) / 3;
  }
  for (let p = 0; p < xy.length; p += 6) {
    const side = (k: number, m: number) => (xy[p + m]! - xy[p + k]!) * (cy - xy[p + k + 1]!) - (cx - xy[p + k]!) * (xy[p + m + 1]! - xy[p + k + 1]!);
    const s = [side(0, 2), side(2, 4), side(4, 0)];
    if (s.every((v) => v >= 0) || s.every((v) => v <= 0)) return [cx, cy];
  }
  return null;
}

/** The layout guide as an SVG text, transparent ground. */
export function guideSvg(mesh: Mesh, set: UvSet, options: GuideOptions = defaultGuide): string {
  const { width, height } = options;
  const d = drawGuide(mesh, set, options);
  const n = (v: number) => String(Math.round(v * 100) / 100);
  const lines = (list: number[]) => {
    let path = '';
    for (let k = 0; k < list.length; k += 4) path += `M${n(list[k]!)} ${n(list[k + 1]!)}L${n(list[k + 2]!)} ${n(list[k + 3]!)}`;
    return path;
  };
  const hex = (c: readonly number[]) =>
    '#' +
    c
      .slice(0, 3)
      .map((v) => v.toString(16).padStart(2, '0'))
      .join('');
  const fills = options.fills
    ? d.triangles.map(({ tint, xy }) => {
        let path = '';
        for (let k = 0; k < xy.length; k += 6) path += `M${n(xy[k]!)} ${n(xy[k + 1]!)}L${n(xy[k + 2]!)} ${n(xy[k + 3]!)}L${n(xy[k + 4]!)} ${n(xy[k + 5]!)}Z`;
        return `<path fill="${hex(tint)}" stroke="${hex(tint)}" stroke-width="0.6" d="${path}"/>`;
      })
    : [];
  const names =
    options.names || options.notches
      ? d.labels
          .filter(({ text }) => isShown(text, options))
          .map((l) => `<path d="${lines(textSegments(l.text, l.x, l.y, l.height))}" stroke="${hex(inkOf(l.text))}" stroke-width="${n(l.height * 0.12)}"/>`)
      : [];
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}">`,
    `<title>Layout guide</title>`,
    options.grid
      ? `<g id="net" fill="none" stroke="${hex(ink)}" stroke-width="0.5"><path stroke-opacity="0.12" d="${lines(d.net[0])}"/><path stroke-opacity="0.28" d="${lines(d.net[1])}"/></g>`
      : '',
    d.rims.length > 0
      ? `<g id="bleed" fill="none" stroke-opacity="0.45" stroke-linecap="round" stroke-width="${n(2 * options.bleed!)}">${d.rims.map(({ tint, lines: rim }) => `<path stroke="${hex(tint)}" d="${lines(rim)}"/>`).join('')}</g>`
      : '',
    `<g id="islands">${fills.join('')}</g>`,
    options.innerLines ? `<path id="edges" fill="none" stroke="${hex(ink)}" stroke-opacity="0.35" stroke-width="0.6" d="${lines(d.inner)}"/>` : '',
    `<path id="borders" fill="none" stroke="${hex(plum)}" stroke-width="1.6" stroke-linecap="round" d="${lines(d.borders)}"/>`,
    d.ticks.length > 0 ? `<path id="notches" fill="none" stroke="${hex(plum)}" stroke-width="1.2" stroke-linecap="round" d="${lines(d.ticks)}"/>` : '',
    `<g id="names" fill="none" stroke="${hex(ink)}" stroke-linecap="round" stroke-linejoin="round">${names.join('')}</g>`,
    '</svg>',
  ]
    .filter(Boolean)
    .join('\n');
}

/** The layout guide as a picture, transparent ground. */
export function guidePicture(mesh: Mesh, set: UvSet, options: GuideOptions = defaultGuide): Canvas {
  const d = drawGuide(mesh, set, options);
  const canvas = new Canvas(options.width, options.height);
  const scale = Math.max(0.5, Math.max(options.width, options.height) / 1024);
  for (const [k, alpha] of [
    [0, 30],
    [1, 70],
  ] as const)
    for (let i = 0; i < d.net[k].length; i += 4) canvas.line(d.net[k][i]!, d.net[k][i + 1]!, d.net[k][i + 2]!, d.net[k][i + 3]!, 0.5 * scale, [...ink, alpha]);
  if (d.rims.length > 0) {
    // laid over the ground once, so that crossing strokes are not darker
    const under = new Canvas(options.width, options.height);
    for (const { tint, lines } of d.rims)
      for (let k = 0; k < lines.length; k += 4) under.line(lines[k]!, lines[k + 1]!, lines[k + 2]!, lines[k + 3]!, 2 * options.bleed!, tint);
    for (let p = 0; p < under.data.length; p += 4)
      if (under.data[p + 3]! > 0) canvas.blend((p / 4) % options.width, Math.floor(p / 4 / options.width), [...under.data.subarray(p, p + 4)], 0.45);
  }
  if (options.fills)
    for (const { tint, xy } of d.triangles)
      for (let k = 0; k < xy.length; k += 6) canvas.triangle(xy[k]!, xy[k + 1]!, xy[k + 2]!, xy[k + 3]!, xy[k + 4]!, xy[k + 5]!, tint);
  if (options.innerLines)
    for (let k = 0; k < d.inner.length; k += 4) canvas.line(d.inner[k]!, d.inner[k + 1]!, d.inner[k + 2]!, d.inner[k + 3]!, 0.6 * scale, [...ink, 90]);
  for (let k = 0; k < d.borders.length; k += 4) canvas.line(d.borders[k]!, d.borders[k + 1]!, d.borders[k + 2]!, d.borders[k + 3]!, 1.6 * scale, plum);
  for (let k = 0; k < d.ticks.length; k += 4) canvas.line(d.ticks[k]!, d.ticks[k + 1]!, d.ticks[k + 2]!, d.ticks[k + 3]!, 1.2 * scale, plum);
  if (options.names || options.notches) {
    for (const label of d.labels.filter(({ text }) => isShown(text, options))) {
      const s = textSegments(label.text, label.x, label.y, label.height);
      for (let k = 0; k < s.length; k += 4) canvas.line(s[k]!, s[k + 1]!, s[k + 2]!, s[k + 3]!, label.height * 0.12, inkOf(label.text));
    }
  }
  return canvas;
}
