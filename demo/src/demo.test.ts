import { describe, expect, it } from 'vitest';
import {
  activeSet,
  adviseJigs,
  checkLayout,
  emptyUvSet,
  facesWith,
  islandFacts,
  joinParts,
  newJob,
  partOf,
  runOperation,
  shapeFacts,
  topologyOf,
  triangleStretch,
  trianglesOf,
  type Mesh,
  type ReportOf,
  type Part,
  type Job,
} from '@jig-peel/core';
import {
  demoJob,
  flagOutlines,
  flagsPicture,
  glazedTiles,
  harbourLamp,
  letteredGrid,
  netPicture,
  partFrom,
  prismPattern,
  props,
  sealFigurehead,
  puntHull,
  signalFlags,
} from './props.ts';

const faceSides = (mesh: Mesh) => Array.from({ length: mesh.faceStart.length - 1 }, (_, f) => mesh.faceStart[f + 1]! - mesh.faceStart[f]!);

describe('the harbour props', () => {
  it.each(
    props()
      .slice(0, 3)
      .map((prop) => [prop.name, prop] as const),
  )('%s is closed, in one piece, without faults', (_name, { mesh }) => {
    const topology = topologyOf(mesh);
    expect(shapeFacts(mesh)).toEqual({ components: 1, euler: 2, borderLoops: 0, genus: 0 });
    expect([topology.nonManifoldEdges, topology.windingEdges]).toEqual([0, 0]);
    // wound outward: the enclosed volume is positive
    const t = trianglesOf(mesh);
    let volume = 0;
    for (let k = 0; k < t.count; k++) {
      const [a, b, c] = [0, 1, 2].map((i) => mesh.points.subarray(mesh.corners[t.corners[k * 3 + i]!]! * 3, mesh.corners[t.corners[k * 3 + i]!]! * 3 + 3)) as [
        Float64Array,
        Float64Array,
        Float64Array,
      ];
      volume += a[0]! * (b[1]! * c[2]! - b[2]! * c[1]!) + a[1]! * (b[2]! * c[0]! - b[0]! * c[2]!) + a[2]! * (b[0]! * c[1]! - b[1]! * c[0]!);
    }
    expect(volume).toBeGreaterThan(0);
  });

  it('the seal: about 12k quads, the same left and right', () => {
    const { mesh } = props()[0]!;
    expect(faceSides(mesh).every((n) => n === 4)).toBe(true);
    expect(mesh.faceStart.length - 1).toBeGreaterThan(11_000);
    expect(mesh.faceStart.length - 1).toBeLessThan(13_000);
    const places = new Set<string>();
    const key = (x: number, y: number, z: number) => [x, y, z].map((v) => (Math.round(v * 1e4) + 0).toString()).join();
    for (let p = 0; p < mesh.points.length; p += 3) places.add(key(mesh.points[p]!, mesh.points[p + 1]!, mesh.points[p + 2]!));
    let lonely = 0;
    for (let p = 0; p < mesh.points.length; p += 3) if (!places.has(key(-mesh.points[p]!, mesh.points[p + 1]!, mesh.points[p + 2]!))) lonely++;
    expect(lonely / (mesh.points.length / 3)).toBeLessThan(0.01);
  });

  it('the lens: 24 panels; its drum goes exactly once round the sheet, no strip runs backwards', () => {
    const { mesh, set } = props()[1]!;
    const drum = mesh.groups.indexOf('drum');
    let [least, most] = [Infinity, -Infinity];
    for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
      if (mesh.faceGroup[f] !== drum) continue;
      const us = Array.from(set.cornerUv.slice(mesh.faceStart[f], mesh.faceStart[f + 1]), (id) => set.uv[id * 2]!);
      expect(Math.max(...us) - Math.min(...us)).toBeLessThan(1 / 24);
      least = Math.min(least, ...us);
      most = Math.max(most, ...us);
    }
    expect([least, most]).toEqual([expect.closeTo(0, 9), expect.closeTo(1, 9)]);
    expect(checkLayout(mesh, set, 2048, 2048).report.flippedTriangles).toBe(0);
    expect(triangleStretch(mesh, set, 2048, 2048).pxArea.filter((a) => a < 0).length).toBe(0);
  });

  it('the kiosk: quads but for floor and roof top, walls of 20 cm tiles', () => {
    const { mesh } = props()[2]!;
    expect(faceSides(mesh).filter((n) => n !== 4).length).toBe(2);
    const walls = mesh.groups.indexOf('walls');
    const p = mesh.points;
    for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
      if (mesh.faceGroup[f] !== walls) continue;
      const [a, b] = [mesh.corners[mesh.faceStart[f]!]! * 3, mesh.corners[mesh.faceStart[f]! + 1]! * 3];
      const length = Math.hypot(p[a]! - p[b]!, p[a + 1]! - p[b + 1]!, p[a + 2]! - p[b + 2]!);
      expect([0.2, 0.2 * Math.SQRT2].some((want) => Math.abs(length - want) < 1e-6)).toBe(true);
    }
  });
});

describe('the punt hull', () => {
  const limits = { width: 2048, height: 2048, stretch: 1.5, gapPx: 8, angle: 45 };

  it('has every fault it is there for, each found on the faces that have it', () => {
    const { mesh, set } = puntHull();
    const groupsOf = (faces: Uint8Array) => [...new Set([...faces.keys()].filter((f) => faces[f]).map((f) => mesh.groups[mesh.faceGroup[f]!]!))];
    expect(groupsOf(facesWith('noUv', mesh, set, limits))).toEqual(['thwart 1', 'thwart 2']);
    expect(groupsOf(facesWith('shrunk', mesh, set, limits))).toEqual(['strake 8']);
    expect(groupsOf(facesWith('mirrored', mesh, set, limits))).toContain('strake 5');
    expect(groupsOf(facesWith('overlapping', mesh, set, limits))).toEqual(expect.arrayContaining(['strake 1', 'strake 3', 'strake 12']));
    const turned = groupsOf(facesWith('turned', mesh, set, limits));
    expect(turned).toContain('strake 12');
    expect(turned).not.toContain('strake 1');
    expect(topologyOf(mesh).windingEdges).toBeGreaterThan(20);
  });

  it('repair makes the winding agree and keeps the UVs at their corners', async () => {
    const job = newJob('j', 'punt', [
      partFrom(
        props().find((prop) => prop.name === 'Punt hull')!,
        0,
      ),
    ]);
    const repaired = partOf((await runOperation(job, 'repair', {})).job);
    expect(topologyOf(repaired.mesh).windingEdges).toBe(0);
    const places = (part: typeof repaired) =>
      new Set(
        Array.from(part.mesh.corners, (p, c) =>
          [
            part.mesh.points[p * 3],
            part.mesh.points[p * 3 + 1],
            part.mesh.points[p * 3 + 2],
            ...activeSet(part).uv.subarray(activeSet(part).cornerUv[c]! * 2, activeSet(part).cornerUv[c]! * 2 + 2),
          ].join(),
        ),
      );
    expect(places(repaired)).toEqual(places(partOf(job)));
  });
});

describe('the signal flags', () => {
  it('nine pieces on one picture, hung without stretch: folds keep the length of the cloth', () => {
    const { mesh, set } = signalFlags();
    expect(islandFacts(mesh, set).map((fact) => fact.shape)).toEqual(Array(9).fill('disk'));
    const { report } = checkLayout(mesh, set, 2048, 2048);
    expect(report.stretchL2!).toBeLessThan(1.01);
    expect([report.flippedTriangles, report.mirroredIslands, report.outsideArea]).toEqual([0, 0, 0]);
    expect(report.overlapArea).toBeLessThan(1e-9);
  });

  it('the picture is see-through outside the outlines and solid on the cloth', () => {
    const { mesh, set } = signalFlags();
    const size = 768;
    const { data } = flagsPicture(size);
    const alpha = (u: number, v: number) => data[(Math.floor((1 - v) * size) * size + Math.floor(u * size)) * 4 + 3];
    // middles of faces lie on cloth
    let bare = 0;
    for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
      let [u, v] = [0, 0];
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
        u += set.uv[set.cornerUv[c]! * 2]! / 4;
        v += set.uv[set.cornerUv[c]! * 2 + 1]! / 4;
      }
      if (alpha(u, v) !== 255) bare++;
    }
    expect(bare).toBe(0);
    // the streamer's field is mostly empty
    const streamer = flagOutlines.findIndex((outline) => outline.name === 'streamer');
    expect(alpha((streamer % 3) / 3 + 0.16, 1 - Math.floor(streamer / 3) / 3 - 0.02)).toBe(0);
  });
});

describe('the harbour lamp', () => {
  it('is an assembly of six parts: some closed, one open, three with a tunnel', () => {
    const facts = harbourLamp().map(({ name, mesh }) => ({ name, ...shapeFacts(mesh), winding: topologyOf(mesh).windingEdges }));
    expect(facts.map(({ genus, borderLoops, winding }) => [genus, borderLoops, winding])).toEqual([
      [1, 0, 0],
      [0, 0, 0],
      [0, 2, 0],
      [0, 0, 0],
      [1, 0, 0],
      [1, 0, 0],
    ]);
  });
});

describe('advice on the props', () => {
  const named = (mesh: Mesh, ...names: string[]) => Uint32Array.from(faceSides(mesh).keys()).filter((f) => names.includes(mesh.groups[mesh.faceGroup[f]!]!));
  const best = (mesh: Mesh, faces: Uint32Array) => adviseJigs(mesh, faces)[0]!.parts.map((p) => p.jig.kind);
  const prop = (name: string) => props().find((p) => p.name === name)!.mesh;

  it('a cylinder for the lens drum, planes first for its cap', () => {
    expect(best(prop('Beacon lens'), named(prop('Beacon lens'), 'drum'))).toEqual(['cylindrical']);
    expect(best(prop('Beacon lens'), named(prop('Beacon lens'), 'cap'))[0]).toBe('planar');
  });

  it('a ball for the net float’s glass; wrapped by it nothing is turned over or overlaps', () => {
    const mesh = prop('Net float');
    const glass = named(mesh, 'glass');
    const [first] = adviseJigs(mesh, glass);
    expect(first!.parts[0]!.jig.kind).toBe('spherical');
    expect([first!.figures.flipped, first!.figures.overlap < 0.002]).toEqual([0, true]);
  });

  it('box or flat regions for the kiosk', () => {
    const mesh = prop('Tiled kiosk');
    expect(['box', 'flat-regions']).toContain(best(mesh, Uint32Array.from(faceSides(mesh).keys()))[0]);
  });

  it.each([0, 3, 6, 8])('planar for flag %i, hung in folds', (k) => {
    const mesh = prop('Signal flags');
    expect(best(mesh, named(mesh, mesh.groups[k]!))).toEqual(['planar']);
  });
});

describe('the demo job', () => {
  it('opens with the seal half seamed and laid out, the lens with its pattern, the kiosk bare', async () => {
    const job = await demoJob();
    const [seal, lens, kiosk] = job.parts;
    expect(islandFacts(seal!.mesh, activeSet(seal!)).map((f) => f.shape)).toEqual(['disk', 'disk', 'disk']);
    expect(lens!.imageId).toBe('prism-pattern');
    expect(activeSet(kiosk!).unplaced.every((x) => x === 1)).toBe(true);
    const { mesh, set } = joinParts([seal!]);
    const { report } = checkLayout(mesh, set, 2048, 2048);
    expect(report.stretchL2!).toBeLessThan(1.3);
    expect(report.outsideArea).toBe(0);
  });
});

describe('the pictures', () => {
  it('the prism pattern and the tiles join with themselves on all sides', () => {
    for (const picture of [prismPattern(480), glazedTiles(400)]) {
      const { width, height, data } = picture;
      const jump = (a: number, b: number) => [0, 1, 2].reduce((s, c) => s + Math.abs(data[a * 4 + c]! - data[b * 4 + c]!), 0) / 3;
      let [seam, inside] = [0, 0];
      for (let y = 0; y < height; y++) {
        seam += jump(y * width, y * width + width - 1);
        inside += jump(y * width + (width >> 1), y * width + (width >> 1) - 1);
      }
      expect(seam / height).toBeLessThan(Math.max(24, (3 * inside) / height));
    }
  });

  it('the net goes on at its borders and is see-through between the twine', () => {
    const { width, height, data } = netPicture(256);
    let through = 0;
    for (let k = 3; k < data.length; k += 4) if (data[k] === 0) through++;
    expect(through / (width * height)).toBeGreaterThan(0.7);
    // neighbours across the border differ no more than neighbours inside
    const jump = (a: number, b: number) => {
      let sum = 0;
      for (let y = 0; y < height; y++) sum += Math.abs(data[(y * width + a) * 4 + 3]! - data[(y * width + b) * 4 + 3]!);
      return sum;
    };
    const inside = Array.from({ length: width - 1 }, (_, x) => jump(x, x + 1));
    expect(jump(width - 1, 0)).toBeLessThanOrEqual(Math.max(...inside));
  });

  it('the prism pattern has exactly 24 columns', () => {
    const { width, data } = prismPattern(960);
    const warm = Array.from({ length: width }, (_, x) => data[x * 4]! > data[x * 4 + 2]! + 20);
    let starts = 0;
    for (let x = 0; x < width; x++) if (warm[x] && !warm[(x + width - 1) % width]) starts++;
    expect(starts).toBe(24);
  });

  it('the lettered grid is right way up: each cell has its up mark above its letter, none below', () => {
    const { width, data } = letteredGrid();
    const cell = width / 8;
    const ink = (from: number, to: number) => {
      let count = 0;
      for (let y = Math.round(from * cell); y < to * cell; y++)
        for (let x = Math.round(0.35 * cell); x < 0.65 * cell; x++) if (data[(y * width + x) * 4]! < 110) count++;
      return count;
    };
    expect(ink(0.08, 0.26)).toBeGreaterThan(20);
    expect(ink(0.78, 0.95)).toBe(0);
  });
});

describe('the kerbs', () => {
  it('lie as they bend in the demo job, and straighten to bands that chevrons run along: as long as their middle line', async () => {
    let job = await demoJob();
    const kerbs = job.parts.filter(({ name }) => name.startsWith('Quay kerb'));
    expect(kerbs).toHaveLength(2);
    // both in one go, each a strip of quads
    const [one, two] = kerbs as [Part, Part];
    ({ job } = await runOperation(job, 'select', { part: one.id, kind: 'islands', ids: [0], also: [{ part: two.id, ids: [0] }] }));
    const { job: laid, report } = await runOperation(job, 'straighten', { lay: 'level' });
    expect(report).toMatchObject({ islands: 2, flips: 0, left: [], first: { grid: true } });
    for (const part of kerbs) {
      const set = activeSet(laid.parts.find(({ id }) => id === part.id)!);
      // seven rows of points, each level
      expect(new Set([...set.cornerUv].map((p) => set.uv[p * 2 + 1]!.toFixed(9))).size).toBe(7);
      expect(checkLayout(part.mesh, set, 2048, 2048).report).toMatchObject({ flippedTriangles: 0, overlapArea: 0 });
    }
  });
});

describe('the jetty', () => {
  const run = (job: Job, name: string, params: Record<string, unknown>) => runOperation(job, name, params);

  it('40 planks of three kinds, each flat without stretch; stacked they are three, and pack as three', async () => {
    const all = await demoJob();
    const deck = all.parts.find(({ name }) => name === 'Jetty deck')!;
    let job: Job = { ...all, activePart: deck.id };
    const { mesh } = deck;
    const before = checkLayout(mesh, activeSet(deck), 2048, 2048).report;
    expect(before).toMatchObject({ islands: 40, flippedTriangles: 0, mirroredIslands: 0, overlapArea: 0, outsideArea: 0 });
    expect(before.symmetricDirichlet).toBeCloseTo(4, 4);
    expect(before.coverage).toBeLessThan(0.25);
    const found = await run(job, 'stack', { which: 'sheet' });
    expect(found.report).toMatchObject({ stacks: 3, islands: 40, largest: 24 });
    job = (await run(found.job, 'pack', { parts: 'sheet', margin: 8 })).job;
    const after = checkLayout(mesh, activeSet(job.parts.find(({ id }) => id === deck.id)!), 2048, 2048).report;
    expect(after.overlapArea).toBe(0);
    // three planks instead of forty: several times as sharp
    expect(after.densityMedian! / before.densityMedian!).toBeGreaterThan(2.5);
  });

  it('the layout of one post goes to the other, and mirrored to those across', async () => {
    const all = await demoJob();
    const posts = all.parts.filter(({ name }) => name.startsWith('Rail post'));
    let job: Job = { ...all, activePart: posts[0]!.id };
    job = (await run(job, 'unwrap', { part: posts[0]!.id, seams: 'crease' })).job;
    const stretchOf = (one: Job, k: number) => {
      const part = one.parts.find(({ id }) => id === posts[k]!.id)!;
      return checkLayout(part.mesh, activeSet(part), 2048, 2048).report.symmetricDirichlet!;
    };
    const to = posts.map(({ id }) => id);
    // by connections alone a round post also fits the wrong way round, but its flat side then is elsewhere
    const plain = await run(job, 'copyLayout', { from: posts[0]!.id, to });
    expect(plain.report).toMatchObject({ parts: 3, left: [], mirrored: 0 });
    expect(stretchOf(plain.job, 1)).toBeCloseTo(stretchOf(job, 0), 9);
    expect(stretchOf(plain.job, 2)).toBeGreaterThan(stretchOf(job, 0) + 1e-5);
    const mirrored = await run(job, 'copyLayout', { from: posts[0]!.id, to, mirrored: true });
    expect(mirrored.report).toMatchObject({ parts: 3, left: [], mirrored: 2 });
    // quads wound the other way are measured along their other diagonals: equal but for that
    for (const k of [2, 3]) {
      expect(stretchOf(mirrored.job, k)).toBeCloseTo(stretchOf(job, 0), 3);
      expect(stretchOf(mirrored.job, k)).toBeLessThan(stretchOf(plain.job, k) - 1e-4);
    }
  });
});

describe('the seal', () => {
  const mesh = sealFigurehead();
  const faces = Array.from({ length: mesh.faceStart.length - 1 }, (_, f) => f);
  const bare = () => newJob('j', 'j', [{ id: 'seal', name: 'Seal', mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' } }]);

  it('a projection that spoils half of it does not go before a box that serves nearly all', () => {
    const [first] = adviseJigs(mesh, faces);
    expect(first!.figures.badly.length / faces.length).toBeLessThan(0.05);
  });

  it('by limbs: body, head and four flippers, alike on both sides, mostly out of plain sight', async () => {
    const job = bare();
    const { report } = await runOperation(job, 'propose', { by: 'limbs', symmetry: 'auto' });
    const proposal = report as ReportOf<'propose'>;
    expect(proposal).toMatchObject({ islands: 6, limbs: 5, met: true, symmetry: 'x' });
    // "few" at the time before: 66 % of its seams where an upright figure is seen
    expect(proposal.seamInSight / proposal.seamLength).toBeLessThan(0.5);
    const { job: taken } = await runOperation(job, 'laySeams', { edges: proposal.cuts, symmetry: 'x' });
    const { mesh: all, set } = joinParts(taken.parts);
    expect(checkLayout(all, set, 2048, 2048).report).toMatchObject({ islands: 6, flippedTriangles: 0, outsideArea: 0 });
  }, 60_000);

  it('looked at from the front, its face has no seam', async () => {
    const job = bare();
    const { report } = await runOperation(job, 'propose', { by: 'limbs', symmetry: 'auto', seenFrom: 'front' });
    const { cuts } = report as ReportOf<'propose'>;
    const { edgePoints } = topologyOf(mesh);
    const [, low, , , high] = boundsOf(mesh.points);
    const across = cuts.filter((e) =>
      [0, 1].every((k) => {
        const p = edgePoints[e * 2 + k]! * 3;
        // the upper quarter's front third: where its face is
        return mesh.points[p + 1]! > low! + 0.75 * (high! - low!) && mesh.points[p + 2]! > faceFrom(mesh.points, low!, high!);
      }),
    );
    expect(across).toEqual([]);
  }, 60_000);
});

function boundsOf(points: Float64Array): number[] {
  const out = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
  points.forEach((x, k) => {
    out[k % 3] = Math.min(out[k % 3]!, x);
    out[(k % 3) + 3] = Math.max(out[(k % 3) + 3]!, x);
  });
  return out;
}

/** The depth from which on the upper quarter of a form is its face: the front third of that quarter. */
function faceFrom(points: Float64Array, low: number, high: number): number {
  let [back, front] = [Infinity, -Infinity];
  for (let p = 0; p < points.length; p += 3)
    if (points[p + 1]! > low + 0.75 * (high - low)) {
      back = Math.min(back, points[p + 2]!);
      front = Math.max(front, points[p + 2]!);
    }
  return back + ((front - back) * 2) / 3;
}
