import { describe, expect, it, vi } from 'vitest';
import { activeSet, cylinder, emptyUvSet, newJob, runOperation, topologyOf, type Part } from '@jig-peel/core';
import { contextGeometry, makeLayoutView, partGeometry, sheetPartView } from '../../session/partViews.ts';
import { useBench, type BenchState } from '../../store/bench.ts';
import { palettes } from '../../theme/palette.ts';
import { PartTopology } from './layers/partTopology.ts';
import { Stage } from './stage.ts';

vi.mock('../../worker/client.ts', () => ({}));
vi.mock('../../worker/seat.ts', () => ({}));
vi.mock('./webgl.ts', () => ({ isDrawnBySoftware: () => false, mostTexturePx: () => 4096 }));

/** A tin of two rows of quads and two lids, laid flat in three islands. */
async function tin() {
  const mesh = cylinder(1, 2, 12, 2, true);
  const bare = emptyUvSet(mesh);
  const before: Part = { id: 'p', name: 'tin', mesh, uvSets: [bare], activeUv: 0, imageId: null, origin: { kind: 'made' } };
  const { job } = await runOperation(newJob('j', 'Tin', [before]), 'firstLayout');
  const part = job.parts[0]!;
  const geometry = partGeometry(part, 1);
  const layout = makeLayoutView(part, activeSet(part), 1, 1024, 1024, null);
  const none = makeLayoutView(before, bare, 1, 1024, 1024, null);
  return { mesh, part, geometry, layout, none };
}
const stateWith = (more: Partial<BenchState>): BenchState => ({ ...useBench.getState(), ...more });
const selected = (kind: string, ids: number[]) =>
  ({ activePart: 'p', parts: [{ id: 'p' }], selectedParts: [], selection: { part: 'p', kind, ids: Uint32Array.from(ids) } }) as never;

describe('the topology of what is drawn', () => {
  it('agrees with the mesh: faces and neighbours of corners, corners of edges', async () => {
    const { mesh, geometry } = await tin();
    const topology = new PartTopology(geometry);
    const { cornerFace, cornerEdge } = topologyOf(mesh);
    for (let c = 0; c < mesh.corners.length; c++) {
      expect(topology.faceOfCorner(c)).toBe(cornerFace[c]);
      expect(topology.cornersOfEdges([cornerEdge[c]!])).toContain(c);
      const next = topology.nextCorner(c, cornerFace[c]!);
      expect(cornerFace[next]).toBe(cornerFace[c]);
      expect(next).not.toBe(c);
    }
  });

  it('the outline of some faces is where they meet others, and where the layout is split', async () => {
    const { geometry, layout } = await tin();
    const topology = new PartTopology(geometry);
    const one = Uint8Array.from({ length: geometry.faces }, (_, f) => (f === 0 ? 1 : 0));
    expect(topology.outlineOf(one, layout).edges).toHaveLength(4);
    const all = new Uint8Array(geometry.faces).fill(1);
    const whole = topology.outlineOf(all, layout);
    // a closed form has no rim in space; on the sheet its seams have two sides
    expect(whole.edges).toHaveLength(0);
    expect(whole.corners).toHaveLength(2 * layout.edgeStates.filter((state) => state !== 0).length);
  });

  it('segments on the sheet leave out faces without a place', async () => {
    const { geometry, layout, none } = await tin();
    const topology = new PartTopology(geometry);
    const corners = [0, 1, 2, 3];
    expect(topology.cornerSegments(corners, layout)).toHaveLength(24);
    expect(topology.cornerSegments(corners, none)).toHaveLength(0);
    expect(topology.pointPlacesOnSheet([0], none)).toHaveLength(0);
  });

  it('an edge is hidden once all its faces are', async () => {
    const { geometry } = await tin();
    const topology = new PartTopology(geometry);
    const first = topology.cornersOfEdges([0]).map((c) => topology.faceOfCorner(c));
    const hidden = new Uint8Array(geometry.faces);
    hidden[first[0]!] = 1;
    expect(topology.isEdgeShown(0, hidden)).toBe(true);
    hidden[first[1]!] = 1;
    expect(topology.isEdgeShown(0, hidden)).toBe(false);
    expect(topology.isEdgeShown(0, null)).toBe(true);
  });
});

describe('the stage', () => {
  it('shows a part once its layout is there, its UVs as the layout has them', async () => {
    const { geometry, layout } = await tin();
    const stage = new Stage();
    stage.setGeometry(geometry);
    expect(stage.layout).toBeNull();
    stage.setLayout(layout);
    const uvs = stage.shownUvs();
    geometry.triCorner.forEach((c, k) => expect([uvs[k * 2], uvs[k * 2 + 1]]).toEqual([layout.cornerUv[c * 2], layout.cornerUv[c * 2 + 1]]));
    stage.dispose();
  });

  it('a layout of another mesh is not shown', async () => {
    const { geometry, layout } = await tin();
    const stage = new Stage();
    stage.setGeometry(geometry);
    stage.setLayout({ ...layout, meshId: 2 });
    expect(stage.layout).toBeNull();
  });

  it('a preview stands in for the layout until it ends', async () => {
    const { geometry, layout } = await tin();
    const stage = new Stage();
    stage.setGeometry(geometry);
    stage.setLayout(layout);
    const before = stage.shownUvs();
    const preview = {
      meshId: 1,
      uvAt: new Float32Array(geometry.triangles * 6).fill(0.25),
      flat: new Float32Array(geometry.corners.length * 3),
      unplaced: layout.unplaced,
    };
    stage.showPreview({ ...preview, meshId: 9 } as never);
    expect(stage.shownUvs()).toEqual(before);
    stage.showPreview(preview as never);
    expect(new Set(stage.shownUvs())).toEqual(new Set([0.25]));
    stage.endPreview();
    expect(stage.shownUvs()).toEqual(before);
    // one of a whole layout has colours of its own
    const colours = () =>
      Array.from((stage as unknown as { part: { faceTexture: { texture: { image: { data: Uint8Array } } } } }).part.faceTexture.texture.image.data);
    stage.paint(stateWith({ overlay: 'islands', layout }));
    const own = colours();
    stage.showPreview({ ...preview, faces: { ...layout, faceIsland: layout.faceIsland.map((i) => i + 1) } } as never);
    expect(colours()).not.toEqual(own);
    stage.endPreview();
    expect(colours()).toEqual(own);
  });

  it('asks to be drawn for what is seen alone: not for a picture that nothing shows', async () => {
    const { geometry, layout } = await tin();
    const stage = new Stage();
    let asked = 0;
    stage.setGeometry(geometry);
    stage.setLayout(layout);
    stage.schedule = () => asked++;
    const plain = stateWith({ overlay: 'plain' });
    stage.setLook(plain);
    asked = 0;
    stage.setPictures({ repeats: 5 });
    stage.setLook(plain);
    expect(asked).toBe(0);
    const grid = stateWith({ overlay: 'grid' });
    stage.setLook(grid);
    expect(asked).toBe(1);
    stage.setLook(grid);
    expect(asked).toBe(1);
    stage.setPictures({ repeats: 3 });
    stage.setLook(grid);
    expect(asked).toBe(2);
  });

  it('the line to a seam edge’s partner joins the middles of its two sides', async () => {
    const { geometry, layout } = await tin();
    const stage = new Stage();
    stage.setGeometry(geometry);
    stage.setLayout(layout);
    const seam = layout.edgeStates.indexOf(1);
    const joined = layout.edgeStates.indexOf(0);
    const pointed = (edge: number) =>
      stage.hover({
        hover: { view: 'model', face: 0, edge, point: 0, island: 0 },
        kind: 'edges',
        penEdges: new Uint32Array(0),
        hoverOther: null,
        hoverMarks: null,
      });
    pointed(joined);
    expect(stage.partnerShown()).toEqual([]);
    pointed(seam);
    const line = stage.partnerShown();
    expect(line).toHaveLength(6);
    const middles = stage.topology.cornersOfEdges([seam]).map((c) => {
      const n = stage.topology.nextCorner(c, stage.topology.faceOfCorner(c));
      return [0, 1].map((d) => (layout.cornerUv[c * 2 + d]! + layout.cornerUv[n * 2 + d]!) / 2);
    });
    expect([line.slice(0, 2), line.slice(3, 5)].map((p) => p.map((x) => x.toFixed(5)))).toEqual(middles.map((p) => p.map((x) => x.toFixed(5))));
    stage.hover({ hover: null, kind: 'edges', penEdges: new Uint32Array(0), hoverOther: null, hoverMarks: null });
    expect(stage.partnerShown()).toEqual([]);
  });

  it('marks what is selected, whatever the kind, and hides faces', async () => {
    const { geometry, layout } = await tin();
    const stage = new Stage();
    stage.setGeometry(geometry);
    stage.setLayout(layout);
    const { marks } = stage as unknown as {
      marks: { lines: Record<string, { top: { visible: boolean } }>; dots: Record<string, { layers: { visible: boolean }[] }> };
    };
    const shown = () => [marks.lines.modelSelected!.top.visible, marks.lines.sheetSelected!.top.visible, marks.dots.modelSelected!.layers[0]!.visible];
    const paint = (kind: string, ids: number[]) => stage.paint(stateWith({ layout, kind: kind as never, summary: selected(kind, ids) }));
    paint('faces', []);
    expect(shown()).toEqual([false, false, false]);
    paint('faces', [0]);
    expect(shown()).toEqual([true, true, false]);
    paint('edges', [0]);
    expect(shown()).toEqual([true, true, false]);
    paint('points', [0]);
    expect(shown()).toEqual([false, false, true]);
    paint('islands', [0]);
    expect(shown()[1]).toBe(true);
    stage.setHidden(Uint8Array.from({ length: geometry.faces }, () => 1));
    expect(marks.lines.modelSeam!.top.visible).toBe(false);
    stage.setHidden(null);
    expect(marks.lines.modelSeam!.top.visible).toBe(true);
  });

  it('other parts are context: never the one at work, none that is not shown', async () => {
    const { part, geometry, layout } = await tin();
    const stage = new Stage();
    stage.setGeometry(geometry);
    stage.setLayout(layout);
    const others = new Map(['p', 'q', 'r'].map((id) => [id, contextGeometry({ ...part, id })]));
    const look = { shown: new Set(['p', 'q']), selected: new Set<string>(), pointed: null, picking: false };
    stage.setContexts(others, look);
    expect(stage.shownContexts().map((one) => one.part)).toEqual(['q']);
    others.delete('q');
    stage.setContexts(others, look);
    expect(stage.shownContexts()).toEqual([]);
  });

  it('draws again for other parts only where they look different', async () => {
    const { part, geometry, layout } = await tin();
    const stage = new Stage();
    stage.setGeometry(geometry);
    stage.setLayout(layout);
    let drawn = 0;
    stage.schedule = () => drawn++;
    const asks = (act: () => void) => {
      drawn = 0;
      act();
      return drawn > 0;
    };
    const others = new Map(['p', 'q'].map((id) => [id, contextGeometry({ ...part, id })]));
    const look = { shown: new Set(['q']), selected: new Set<string>(), pointed: null, picking: false };
    const show = (more: Partial<Omit<typeof look, 'pointed'>> & { pointed?: string | null }) => asks(() => stage.setContexts(others, { ...look, ...more }));
    expect(show({})).toBe(true);
    expect(show({})).toBe(false);
    // p is the one at work
    expect(show({ selected: new Set(['p']), pointed: 'p' })).toBe(false);
    expect(show({ pointed: 'q' })).toBe(true);
    expect(show({ selected: new Set(['q']) })).toBe(true);
    expect(show({ shown: new Set() })).toBe(true);
    expect(show({ picking: true, shown: new Set() })).toBe(false);
    const beside = sheetPartView({ ...part, id: 'q' });
    const choose = (chosen: number[], views = [beside]) => asks(() => stage.setSheetParts(views, new Map([['q', new Set(chosen)]]), []));
    expect(asks(() => stage.setSheetParts([], new Map(), []))).toBe(false);
    expect(choose([])).toBe(true);
    expect(choose([])).toBe(false);
    expect(choose([1])).toBe(true);
    expect(choose([1])).toBe(false);
    expect(choose([2])).toBe(true);
    expect(choose([], [])).toBe(true);
  });

  it('colours follow the theme', () => {
    const stage = new Stage();
    const { uniforms } = stage as unknown as { uniforms: { clay: { value: { x: number } } } };
    const red = (mode: 'light' | 'dark') => parseInt(palettes[mode].clay.slice(1, 3), 16) / 255;
    expect(uniforms.clay.value.x).toBeCloseTo(red('light'), 5);
    stage.setMode('dark');
    expect(uniforms.clay.value.x).toBeCloseTo(red('dark'), 5);
  });
});
