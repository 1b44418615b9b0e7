import { JigError } from '../jigError.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { DoubleList, IntList, latin1, parseDouble } from './bytes.ts';

/**
 * Reads an STL file, text or binary (the published description of stereolithography files, 1989). Every triangle states its points again:
 * those at exactly the same place become one. Each `solid` of a text file becomes a group.
 * @throws JigError `bad-file` with the line or triangle. O(bytes).
 */
export function readStl(bytes: Uint8Array): Mesh {
  if (bytes.length === 0) throw new JigError('empty-file', 'The file is empty.', '', 'Copy or export it again.');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const stated = bytes.length >= 84 ? view.getUint32(80, true) : -1;
  const isText = latin1(bytes, 0, Math.min(5, bytes.length)).toLowerCase() === 'solid';
  // a binary file may begin with "solid" too; its length tells
  if (stated >= 0 && bytes.length === 84 + stated * 50) return readBinary(view, stated);
  if (isText && /facet|endsolid/i.test(latin1(bytes, 0, Math.min(bytes.length, 2048)))) return readText(bytes);
  if (stated > 0 && bytes.length > 84)
    throw new JigError(
      'bad-file',
      `The file states ${stated.toLocaleString('en')} triangles but holds ${Math.floor((bytes.length - 84) / 50).toLocaleString('en')}: it is cut short or damaged.`,
      '',
      'Copy or export it again.',
    );
  throw new JigError('bad-file', 'The file is not an STL file, or holds no triangles.', '', 'Export it again.');
}

class Collector {
  readonly points = new DoubleList();
  readonly corners = new IntList();
  readonly faceGroup = new IntList();
  readonly groups: string[] = [];
  private readonly known = new Map<string, number>();

  point(x: number, y: number, z: number): void {
    // −0 and 0 are one place
    const key = `${x + 0},${y + 0},${z + 0}`;
    let at = this.known.get(key);
    if (at === undefined) {
      at = this.points.length / 3;
      this.known.set(key, at);
      this.points.push(x);
      this.points.push(y);
      this.points.push(z);
    }
    this.corners.push(at);
  }

  mesh(): Mesh {
    const faces = this.corners.length / 3;
    if (faces === 0) throw new JigError('bad-file', 'The file holds no triangles.', '', 'Export it again.');
    return {
      points: this.points.take(),
      faceStart: Uint32Array.from({ length: faces + 1 }, (_, f) => f * 3),
      corners: Uint32Array.from(this.corners.take()),
      faceGroup: this.faceGroup.length > 0 ? this.faceGroup.take() : new Int32Array(faces).fill(-1),
      groups: this.groups,
      faceMaterial: new Int32Array(faces).fill(-1),
      materials: [],
      faceSmooth: new Int32Array(faces).fill(-1),
    };
  }
}

function readBinary(view: DataView, triangles: number): Mesh {
  const out = new Collector();
  for (let t = 0; t < triangles; t++) {
    for (let k = 0; k < 3; k++) {
      const at = 84 + t * 50 + 12 + k * 12;
      const [x, y, z] = [view.getFloat32(at, true), view.getFloat32(at + 4, true), view.getFloat32(at + 8, true)];
      if (!Number.isFinite(x + y + z)) throw new JigError('bad-file', 'A point is not a number.', `triangle ${t + 1}`, 'Export it again.');
      out.point(x, y, z);
    }
  }
  return out.mesh();
}

function readText(bytes: Uint8Array): Mesh {
  const out = new Collector();
  let at = 0;
  let line = 0;
  /** Points of the facet that is being read; −1 outside a facet. */
  let inFace = -1;
  let closings = 0;
  let group = -1;
  while (at < bytes.length) {
    let to = at;
    while (to < bytes.length && bytes[to] !== 10) to++;
    line++;
    const words = latin1(bytes, at, Math.min(to, at + 1000))
      .trim()
      .split(/\s+/);
    const fail = (text: string) => new JigError('bad-file', text, `line ${line}`, 'Export it again.');
    at = to + 1;
    const word = words[0]!.toLowerCase();
    const closeFacet = () => {
      if (inFace !== 3) throw fail(`A facet has ${inFace} points instead of three.`);
      out.faceGroup.push(group);
      inFace = -1;
    };
    if (word === 'solid') {
      group = out.groups.push(words.slice(1).join(' ') || `solid ${out.groups.length + 1}`) - 1;
    } else if (word === 'facet') {
      // some writers leave “endfacet” out
      if (inFace >= 0) closeFacet();
      inFace = 0;
    } else if (word === 'vertex') {
      if (inFace < 0) throw fail('A point stands outside a facet.');
      const numbers = words.slice(1, 4).map((text) => {
        const raw = new TextEncoder().encode(text);
        return parseDouble(raw, 0, raw.length);
      });
      if (numbers.length < 3 || !numbers.every(Number.isFinite)) throw fail(`“${words.slice(1, 4).join(' ').slice(0, 40)}” is not a place.`);
      if (++inFace > 3) throw fail('A facet has more than three points.');
      out.point(numbers[0]!, numbers[1]!, numbers[2]!);
    } else if (word === 'endfacet') {
      closings++;
      closeFacet();
    } else if (word === 'endsolid' && inFace > 0) closeFacet();
  }
  if (inFace === 3 && closings === 0) {
    out.faceGroup.push(group);
    inFace = -1;
  }
  if (inFace > 0) throw new JigError('bad-file', 'The file ends within a facet: it is cut short.', `line ${line}`, 'Copy or export it again.');
  return out.mesh();
}
