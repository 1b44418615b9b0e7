import { BufferAttribute, BufferGeometry, InterleavedBuffer, InterleavedBufferAttribute, Sphere } from 'three';

let corners = new Uint32Array();

/** Two triangles a segment, for so many segments; kept, as all lines share it. */
function cornersOf(count: number): Uint32Array {
  if (corners.length < count * 6) {
    const most = 2 ** Math.ceil(Math.log2(count));
    corners = new Uint32Array(most * 6);
    for (let k = 0; k < most; k++) corners.set([k * 4, k * 4 + 1, k * 4 + 2, k * 4 + 2, k * 4 + 1, k * 4 + 3], k * 6);
  }
  return corners.subarray(0, count * 6);
}

/**
 * Segments as boxes of two triangles for lineMaterial, each with corners of its own instead of as an instance of one box: a processor that draws in place of a
 * graphics card goes through instances one by one, some 2 ms each, where all triangles of a thousand boxes take it 2 ms.
 * @param segments 6 numbers a segment
 * @param isDashed whether the dashes need the length up to each end
 */
export function segmentBoxes(segments: Float32Array, isDashed: boolean): BufferGeometry {
  const count = segments.length / 6;
  const geometry = new BufferGeometry();
  const ends = new Float32Array(count * 24);
  for (let k = 0; k < count; k++) for (let c = 0; c < 24; c++) ends[k * 24 + c] = segments[k * 6 + (c % 6)]!;
  const buffer = new InterleavedBuffer(ends, 6);
  geometry.setAttribute('start', new InterleavedBufferAttribute(buffer, 3, 0));
  geometry.setAttribute('end', new InterleavedBufferAttribute(buffer, 3, 3));
  geometry.setIndex(new BufferAttribute(cornersOf(count), 1));
  // is asked for in sorting, and would be worked out from a place that no corner has
  geometry.boundingSphere = new Sphere();
  if (!isDashed) return geometry;
  const distances = new Float32Array(count * 8);
  let at = 0;
  for (let k = 0; k < count; k++) {
    const s = k * 6;
    const next = at + Math.hypot(segments[s + 3]! - segments[s]!, segments[s + 4]! - segments[s + 1]!, segments[s + 5]! - segments[s + 2]!);
    for (let c = 0; c < 4; c++) distances[k * 8 + c * 2] = at;
    for (let c = 0; c < 4; c++) distances[k * 8 + c * 2 + 1] = next;
    at = next;
  }
  geometry.setAttribute('distances', new BufferAttribute(distances, 2));
  return geometry;
}
