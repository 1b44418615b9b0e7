import { Vector3 } from 'three';
import { describe, expect, it, vi } from 'vitest';
import { activeSet, cylinder, emptyUvSet, newJob, runOperation, type Part } from '@jig-peel/core';
import { form as makeFormView } from '../../session/pool/forms.ts';
import { makeLayoutView, partGeometry } from '../../session/partViews.ts';
import type { FormView } from '../../session/messages.ts';
import { FormMesh } from './layers/formMesh.ts';
import { Picker } from './pick.ts';
import { Stage } from './stage.ts';

vi.mock('../../worker/client.ts', () => ({}));
vi.mock('../../worker/seat.ts', () => ({}));
vi.mock('./webgl.ts', () => ({ isDrawnBySoftware: () => false, mostTexturePx: () => 4096 }));

/** A tin in the middle of the model view, and its form smoothed twice. */
async function tin() {
  const mesh = cylinder(1, 2, 12, 2, true);
  const set = emptyUvSet(mesh);
  const given: Part = { id: 'p', name: 'tin', mesh, uvSets: [set], activeUv: 0, imageId: null, origin: { kind: 'made' } };
  const { job } = await runOperation(newJob('j', 'Tin', [given]), 'firstLayout');
  const part = job.parts[0]!;
  const geometry = partGeometry(part, 1);
  const layout = makeLayoutView(part, activeSet(part), 1, 1024, 1024, null);
  const stage = new Stage();
  stage.rects.model = { left: 0, top: 0, width: 400, height: 400 };
  stage.setGeometry(geometry);
  stage.setLayout(layout);
  const look = { form: 'smoothed' as const, levels: 2, borders: 'smoothed' as const, radius: 0 };
  const view = await makeFormView({ set: activeSet(part), look, meshId: 1, relief: null }, { mesh: () => mesh, check: () => {}, progress: () => {} } as never);
  return {
    stage,
    picker: new Picker(stage),
    geometry,
    layout,
    view,
    wear: (one: FormView | null) => stage.setForm(1, one && ((cage, scene) => new FormMesh(one, cage, scene))),
  };
}

/** The first triangle that a line of sight meets, by looking at all of them (T. Möller, B. Trumbore, 1997). */
function first(positions: ArrayLike<number>, from: Vector3, along: Vector3): { triangle: number; distance: number } | null {
  let found: { triangle: number; distance: number } | null = null;
  for (let t = 0; t * 9 < positions.length; t++) {
    const [a, b, c] = [0, 3, 6].map((k) => new Vector3(positions[t * 9 + k], positions[t * 9 + k + 1], positions[t * 9 + k + 2])) as [
      Vector3,
      Vector3,
      Vector3,
    ];
    const [u, v] = [b.sub(a), c.sub(a)];
    const p = along.clone().cross(v);
    const det = u.dot(p);
    if (Math.abs(det) < 1e-12) continue;
    const s = from.clone().sub(a);
    const x = s.dot(p) / det;
    const q = s.cross(u);
    const y = along.dot(q) / det;
    const distance = v.dot(q) / det;
    if (x < 0 || y < 0 || x + y > 1 || distance <= 0 || (found && found.distance <= distance)) continue;
    found = { triangle: t, distance };
  }
  return found;
}

describe('what is under the pointer while a form is drawn', () => {
  it('is on the form: its faces, where the pointer meets it, and nothing where the cage alone would be', async () => {
    const { picker, geometry, view, wear } = await tin();
    const before = new Map<string, boolean>();
    const tried: [number, number][] = [];
    for (let y = 20; y < 400; y += 23) for (let x = 20; x < 400; x += 23) tried.push([x, y]);
    for (const [x, y] of tried) before.set(`${x} ${y}`, picker.model(x, y) !== null);
    wear(view);
    let [met, past] = [0, 0];
    for (const [x, y] of tried) {
      const { from, along } = picker.sight(x, y);
      const [eye, ray] = [new Vector3(...from), new Vector3(...along)];
      const expected = first(view.positions, eye, ray);
      const hit = picker.model(x, y);
      expect(hit === null).toBe(expected === null);
      if (before.get(`${x} ${y}`) && !hit) past++;
      if (!hit || !expected) continue;
      met++;
      expect(hit.face).toBe(view.triFace[expected.triangle]);
      expect(hit.place!.distanceTo(eye.addScaledVector(ray, expected.distance))).toBeLessThan(1e-5);
      const [triangle, ...weights] = picker.shares(x, y)!;
      expect(geometry.triFace[triangle]).toBe(hit.face);
      expect(weights.reduce((sum, w) => sum + w, 0)).toBeCloseTo(1, 6);
    }
    expect(met).toBeGreaterThan(20);
    // the smoothed tin is smaller than its cage
    expect(past).toBeGreaterThan(5);
    wear(null);
    for (const [x, y] of tried) expect(picker.model(x, y) !== null).toBe(before.get(`${x} ${y}`));
  });

  it('points and edges are found where they are drawn', async () => {
    const { stage, picker, view, wear } = await tin();
    wear(view);
    const seen = Array.from({ length: view.points!.length / 3 }, (_, p) => {
      const place = new Vector3().fromArray(view.points!, p * 3);
      const [x, y] = picker.projectPlace(place.x, place.y, place.z);
      return { p, x, y, hit: picker.model(x, y), place };
    }).filter(({ hit, place }) => hit !== null && hit.place!.distanceTo(place) < 0.02);
    expect(seen.length).toBeGreaterThan(3);
    for (const { p, hit } of seen) expect(hit!.point).toBe(p);
    // the middle of an edge as it is drawn, on the near side
    const { edges, pieces } = stage.topology.onForm!;
    let found = 0;
    for (let e = 0; e * pieces * 6 < edges!.length; e++) {
      const at = (e * pieces + pieces / 2) * 6;
      const [x, y] = picker.projectPlace(edges![at]!, edges![at + 1]!, edges![at + 2]!);
      const hit = picker.model(x, y);
      if (!hit || hit.place!.distanceTo(new Vector3(edges![at], edges![at + 1], edges![at + 2])) > 0.02) continue;
      expect(hit.edge).toBe(e);
      found++;
    }
    expect(found).toBeGreaterThan(4);
  });

  it('the place in the UV square is the one that is drawn there', async () => {
    const { picker, view, wear, layout, geometry } = await tin();
    const { x, y } = { x: 200, y: 200 };
    const [u, v] = picker.uvAt(x, y)!;
    const [t, a, b, c] = picker.shares(x, y)!;
    const at = (k: number, d: number) => layout.cornerUv[geometry.triCorner[t * 3 + k]! * 2 + d]!;
    expect([u, v]).toEqual([0, 1].map((d) => expect.closeTo(a * at(0, d) + b * at(1, d) + c * at(2, d), 6) as number));
    wear(view);
    const { from, along } = picker.sight(x, y);
    const hit = first(view.positions, new Vector3(...from), new Vector3(...along))!;
    const own = [0, 1, 2].map((k) => [view.uvAt[(hit.triangle * 3 + k) * 2]!, view.uvAt[(hit.triangle * 3 + k) * 2 + 1]!]);
    const [fu, fv] = picker.uvAt(x, y)!;
    for (const [value, d] of [
      [fu, 0],
      [fv, 1],
    ] as const) {
      expect(value).toBeGreaterThanOrEqual(Math.min(...own.map((one) => one[d]!)) - 1e-6);
      expect(value).toBeLessThanOrEqual(Math.max(...own.map((one) => one[d]!)) + 1e-6);
    }
  });
});
