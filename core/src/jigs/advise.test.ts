import { describe, expect, it } from 'vitest';
import { box, cubeSphere, cylinder, plane, sphere } from '../mesh/starterForms.ts';
import { faceCount, type Mesh } from '../mesh/mesh.ts';
import { adviceSteps, adviseJigs, evenRepeats } from './advise.ts';
import { makeJig, repeatsOf } from './jig.ts';

const all = (mesh: Mesh) => Uint32Array.from({ length: faceCount(mesh) }, (_, f) => f);
const kinds = (mesh: Mesh) => adviseJigs(mesh, all(mesh)).map((advice) => advice.parts.map((p) => p.jig.kind).join('+'));

describe('advice is measured, and right where the answer is known', () => {
  it.each([
    ['a flat piece', plane(2, 1, 8, 4), 'planar'],
    ['a cube: a box, not a cylinder (at its upright edges a turn is twice as dense)', box(1, 1, 1), 'box'],
    ['a tube with lids', cylinder(1, 2, 32, 4, true), 'cylindrical'],
    ['a ball of even quads', cubeSphere(1, 16), 'spherical'],
  ] as const)('%s', (_, mesh, kind) => expect(kinds(mesh)[0]).toBe(kind));

  it('a ball of rings: by a ball, its poles by planes where that is better', () => {
    expect(kinds(sphere(1, 32, 16))[0]).toMatch(/^spherical/);
  });

  it('what serves half of a form badly does not go before what serves it well', () => {
    // a blob with two arms: a tube round it stretches the arms, a box parts it but serves nearly all
    const ball = cubeSphere(1, 14);
    const points = ball.points.map((x, k) => (k % 3 === 0 ? x + Math.sign(x) * 1.6 * Math.exp(-((1 - Math.abs(x)) ** 2) / 0.06) : x));
    const mesh = { ...ball, points };
    const faces = Array.from({ length: faceCount(mesh) }, (_, f) => f);
    const list = adviseJigs(mesh, faces);
    const bad = list.map(({ figures }) => figures.badly.length / faces.length);
    expect(Math.min(...bad)).toBeLessThan(0.05);
    expect(Math.max(...bad)).toBeGreaterThan(0.3);
    expect(bad[0]!).toBeLessThan(0.2);
  });

  it('figures: a tube lies without stretch, a planar one through it doubles and flips half of it', () => {
    const mesh = cylinder(1, 2, 64, 4, true);
    const list = adviseJigs(mesh, all(mesh));
    const tube = list.find((a) => a.parts.length === 1 && a.parts[0]!.jig.kind === 'cylindrical')!;
    expect(tube.figures.energy).toBeCloseTo(4, 2);
    expect(tube.figures.badly).toHaveLength(0);
    expect(tube.figures.well).toHaveLength(faceCount(mesh));
    const flat = list.find((a) => a.parts.length === 1 && a.parts[0]!.jig.kind === 'planar')!;
    // from the front or from above: what looks the other way lies turned over on it
    expect(flat.figures.flipped + flat.figures.overlap).toBeGreaterThan(0.5);
    expect(flat.cost).toBeGreaterThan(tube.cost + 1);
    // costs rise down the list
    for (let k = 1; k < list.length; k++) expect(list[k]!.cost).toBeGreaterThanOrEqual(list[k - 1]!.cost);
  });

  it('the parted length: once down a tube of height 2; twelve edges of a cube between its six sides', () => {
    const tube = cylinder(1, 2, 64, 4, false);
    const alone = adviseJigs(tube, all(tube)).find((a) => a.parts.length === 1 && a.parts[0]!.jig.kind === 'cylindrical')!;
    expect(alone.figures.partedLength).toBeCloseTo(2, 9);
    const cube = box(1, 1, 1);
    const sides = adviseJigs(cube, all(cube)).find((a) => a.parts[0]!.jig.kind === 'box')!;
    expect(sides.figures.partedLength).toBeCloseTo(12, 9);
  });

  it('step by step the same as in one go, and it can be left between', () => {
    const mesh = cylinder(1, 2, 24, 3, true);
    const steps = adviceSteps(mesh, all(mesh));
    let pauses = 0;
    let step = steps.next();
    for (; !step.done; step = steps.next()) pauses++;
    expect(pauses).toBeGreaterThan(4);
    expect(step.value).toEqual(adviseJigs(mesh, all(mesh)));
  });

  it('every combination covers the faces asked for, each once', () => {
    for (const mesh of [sphere(1, 24, 12), cylinder(1, 1, 16, 2, true), box(1, 3, 1)]) {
      const chosen = all(mesh).filter((f) => f % 7 !== 3);
      for (const { parts, figures } of adviseJigs(mesh, chosen)) {
        const placed = parts.flatMap((p) => [...p.faces]).sort((a, b) => a - b);
        expect(placed).toEqual([...chosen]);
        expect(figures.well.length + figures.badly.length).toBeLessThanOrEqual(chosen.length);
      }
    }
  });

  it('even repeats keep the image’s proportions: a square of the image is square on the tube', () => {
    const jig = evenRepeats(makeJig({ kind: 'cylindrical', size: [2, 5, 2] }));
    const [u, v] = repeatsOf(jig);
    expect((Math.PI * 2) / u).toBeCloseTo(5 / v, 12);
  });
});
