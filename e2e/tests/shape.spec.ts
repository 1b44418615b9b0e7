import { expect, test, type Page } from './test.ts';
import { benchReady, choosePart, deliverFiles, drop, gaugeValue, look, placePx, selected, settled, still, views, watchErrors } from './bench.ts';

interface Island {
  u: number;
  v: number;
  width: number;
  height: number;
}
interface Handle {
  state(): {
    layout: { cornerUv: Float32Array; islands: Island[] };
    sheetParts: Map<string, { part: string; islands: Island[] }>;
    summary: { activePart: string; parts: { id: string; name: string }[]; sheets: { id: string; name: string; tiles: number }[]; historyIndex: number };
  };
  uv(u: number, v: number): { x: number; y: number };
  edit(name: string, params: object): Promise<{ ok: boolean; sentence: string }>;
}
type Bench = { jigPeel: Handle };

/** Two plates of 2 × 2 quads that share a material, each a quarter of the sheet, side by side. */
function plates(): string {
  const lines = ['mtllib none.mtl'];
  [0, 1].forEach((k) => {
    lines.push(`o plate ${k + 1}`);
    for (let j = 0; j <= 2; j++) for (let i = 0; i <= 2; i++) lines.push(`v ${k * 3 + i} ${j} 0`, `vt ${0.1 + k * 0.4 + i * 0.1} ${0.1 + j * 0.1}`);
    lines.push('usemtl paint');
    for (let j = 0; j < 2; j++)
      for (let i = 0; i < 2; i++) {
        const a = k * 9 + j * 3 + i + 1;
        lines.push(`f ${[a, a + 1, a + 4, a + 3].map((p) => `${p}/${p}`).join(' ')}`);
      }
  });
  return lines.join('\n') + '\n';
}

/** A flat bend of 20 × 2 quads, laid out as it is. */
function bend(): string {
  const lines: string[] = ['o bend'];
  for (let j = 0; j <= 2; j++)
    for (let i = 0; i <= 20; i++) {
      const [r, a] = [1 + 0.15 * j, (Math.PI / 2) * (1 - i / 20)];
      lines.push(`v ${r * Math.cos(a)} ${r * Math.sin(a)} 0`, `vt ${0.2 + 0.3 * r * Math.cos(a)} ${0.2 + 0.3 * r * Math.sin(a)}`);
    }
  for (let j = 0; j < 2; j++)
    for (let i = 0; i < 20; i++) {
      const p = j * 21 + i + 1;
      lines.push(`f ${[p, p + 21, p + 22, p + 1].map((k) => `${k}/${k}`).join(' ')}`);
    }
  return lines.join('\n') + '\n';
}

const at = (page: Page, u: number, v: number) => page.evaluate(([x, y]) => (window as unknown as Bench).jigPeel.uv(x!, y!), [u, v]);
/** Boxes of the islands of each part: left, bottom, right, top. */
const boxes = (page: Page): Promise<Record<string, number[]>> =>
  page.evaluate(() => {
    const { state } = (window as unknown as Bench).jigPeel;
    const { layout, summary, sheetParts } = state();
    const boxOf = (uv: ArrayLike<number>) => {
      const box = [Infinity, Infinity, -Infinity, -Infinity];
      for (let k = 0; k < uv.length; k++) {
        box[k % 2] = Math.min(box[k % 2]!, uv[k]!);
        box[2 + (k % 2)] = Math.max(box[2 + (k % 2)]!, uv[k]!);
      }
      return box.map((x) => Math.round(x * 1e4) / 1e4);
    };
    const out: Record<string, number[]> = { [summary.activePart]: boxOf(layout.cornerUv) };
    for (const [part, view] of sheetParts) if (part !== summary.activePart) out[part] = boxOf((view as unknown as { cornerUv: Float32Array }).cornerUv);
    return out;
  });

async function openOn(page: Page, name: string, text: string): Promise<void> {
  await page.goto('/');
  await drop(page, [{ name, text }]);
  await benchReady(page);
  await settled(page);
  await views(page).focus();
  await page.keyboard.press('Shift+4');
  await settled(page);
}

async function dragTo(page: Page, from: { x: number; y: number }, to: { x: number; y: number }): Promise<void> {
  await page.mouse.move(from.x, from.y);
  await page.mouse.down();
  await page.mouse.move((from.x + to.x) / 2, (from.y + to.y) / 2, { steps: 3 });
  await settledMove(page);
  await page.mouse.move(to.x, to.y, { steps: 3 });
  await settledMove(page);
}
/** What a press takes hold of is asked of the session. */
const settledMove = (page: Page) => page.waitForTimeout(150);

test('islands of two parts on one sheet are selected, moved, turned and sized together by pointer; Escape puts back, undo takes back', async ({ page }) => {
  const errors = watchErrors(page);
  await openOn(page, 'plates.obj', plates());
  await page.getByRole('button', { name: 'Catch at' }).click();
  await page.getByRole('switch', { name: 'Other islands' }).uncheck();
  await page.getByRole('switch', { name: 'Sheet and tiles' }).uncheck();
  const [one, two] = ['part-1', 'part-2'];
  expect(await boxes(page)).toEqual({ [one]: [0.1, 0.1, 0.3, 0.3], [two]: [0.5, 0.1, 0.7, 0.3] });
  // the measures are of the whole sheet
  expect(await gaugeValue(page, 'Coverage')).toBeCloseTo(8, 1);

  let p = await at(page, 0.17, 0.17);
  await page.mouse.click(p.x, p.y);
  p = await at(page, 0.57, 0.17);
  await page.keyboard.down('Shift');
  await page.mouse.click(p.x, p.y);
  await page.keyboard.up('Shift');
  await settled(page);
  await expect(selected(page)).toHaveText('2 islands');

  // dropped in the middle of a drag, all is as it was
  const to = await at(page, 0.57, 0.57);
  await dragTo(page, p, to);
  await page.keyboard.press('Escape');
  await page.mouse.up();
  await settled(page);
  expect((await boxes(page))[two]).toEqual([0.5, 0.1, 0.7, 0.3]);

  const steps = await page.evaluate(() => (window as unknown as Bench).jigPeel.state().summary.historyIndex);
  await dragTo(page, p, to);
  await page.mouse.up();
  await settled(page);
  const moved = await boxes(page);
  for (const [part, left] of [
    [one, 0.1],
    [two, 0.5],
  ] as const) {
    expect(moved[part]![0]).toBeCloseTo(left, 2);
    expect(moved[part]![1]).toBeCloseTo(0.5, 2);
  }
  expect(await page.evaluate(() => (window as unknown as Bench).jigPeel.state().summary.historyIndex)).toBe(steps + 1);

  // a quarter turn round the middle of both, by key; a nudge; all back
  await page.keyboard.press(',');
  await settled(page);
  const turned = await boxes(page);
  expect(turned[one]![2]! - turned[one]![0]!).toBeCloseTo(0.2, 4);
  expect(Math.abs(turned[one]![0]! - turned[two]![0]!)).toBeLessThan(1e-3);
  await page.keyboard.press('Shift+ArrowRight');
  await settled(page);
  expect((await boxes(page))[one]![0]! - turned[one]![0]!).toBeCloseTo(10 / 2048, 3);
  for (let k = 0; k < 3; k++) await page.keyboard.press('Control+z');
  await settled(page);
  expect(await boxes(page)).toEqual({ [one]: [0.1, 0.1, 0.3, 0.3], [two]: [0.5, 0.1, 0.7, 0.3] });

  // a corner of the frame sizes both from the corner across
  const corner = await at(page, 0.7, 0.3);
  await dragTo(page, corner, await at(page, 0.4, 0.2));
  await page.mouse.up();
  await settled(page);
  const sized = await boxes(page);
  expect(sized[one]!.slice(0, 2)).toEqual([0.1, 0.1]);
  expect(sized[two]![2]! - sized[two]![0]!).toBeCloseTo(0.1, 2);
  expect(errors).toEqual([]);
});

test('a point taken on the sheet moves there alone; what overlaps across parts is a fault; a packed sheet has none', async ({ page }) => {
  await openOn(page, 'plates.obj', plates());
  await page.keyboard.press('5');
  const p = await at(page, 0.2, 0.2);
  await page.mouse.click(p.x, p.y);
  await settled(page);
  await expect(selected(page)).toHaveText('1 point');
  await page.keyboard.press('Shift+ArrowUp');
  await settled(page);
  expect((await boxes(page))['part-1']).toEqual([0.1, 0.1, 0.3, 0.3]);
  await page.keyboard.press('Control+z');
  // the second plate's island over the first one's
  await page.keyboard.press('2');
  const other = await at(page, 0.57, 0.17);
  await page.mouse.click(other.x, other.y);
  await settled(page);
  await dragTo(page, other, await at(page, 0.22, 0.22));
  await page.mouse.up();
  await settled(page);
  expect(await gaugeValue(page, 'Overlap')).toBeGreaterThan(0);
  await page.keyboard.press('Shift+5');
  await page.getByRole('button', { name: /^Pack 2 islands of 2 parts/ }).click();
  await settled(page);
  expect(await gaugeValue(page, 'Overlap')).toBe(0);
  expect(await gaugeValue(page, 'Coverage')).toBeGreaterThan(40);
});

test('a bend is shown straight before it is taken; L takes it, and it is delivered so', async ({ page }) => {
  await openOn(page, 'bend.obj', bend());
  const p = await at(page, 0.2 + 0.3 * 1.1 * Math.SQRT1_2, 0.2 + 0.3 * 1.1 * Math.SQRT1_2);
  await page.mouse.click(p.x, p.y);
  await settled(page);
  await page.keyboard.press('l');
  const ways = page.getByRole('listbox', { name: 'Ways to straighten' });
  await expect(ways.getByRole('option').first()).toContainText('Middle line');
  expect((await boxes(page))['part-1']![3]).toBeGreaterThan(0.55);
  // left as it is by Escape, and asked again
  await page.keyboard.press('Escape');
  await expect(ways).toBeHidden();
  await page.keyboard.press('l');
  await ways
    .getByRole('option', { name: /Longer border/ })
    .first()
    .click();
  // twice as long, and back
  const typed = page.getByRole('textbox', { name: /^Length of the kept line/ });
  const own = Number(await typed.inputValue());
  await typed.fill(`${own} * 2`);
  await typed.press('Enter');
  await page.getByRole('button', { name: 'Straighten so' }).click();
  await settled(page);
  const sides = ([left, bottom, right, top]: number[]) => [right! - left!, top! - bottom!].sort((a, b) => a - b) as [number, number];
  const [, twice] = sides((await boxes(page))['part-1']!);
  expect(twice * 2048).toBeCloseTo(2 * own, 0);
  await page.keyboard.press('Control+z');
  await settled(page);
  await page.keyboard.press('l');
  await ways
    .getByRole('option', { name: /Longer border/ })
    .first()
    .click();
  await page.getByRole('button', { name: 'Straighten so' }).click();
  await settled(page);
  // 20 chords of a quarter circle of radius 1.3, 0.3 as large on the sheet: by hand
  const length = 0.3 * 20 * 2 * 1.3 * Math.sin(Math.PI / 80);
  const [left, bottom, right, top] = (await boxes(page))['part-1'] as [number, number, number, number];
  const [long, short] = [Math.max(right - left, top - bottom), Math.min(right - left, top - bottom)];
  // the island keeps its size by area: a scale common to both sides
  expect(long / short).toBeCloseTo(length / (0.3 * 0.3), 1);
  await page.keyboard.press('Shift+8');
  const files = await deliverFiles(page);
  const obj = new TextDecoder().decode([...files].find(([name]) => name.endsWith('.obj'))![1]);
  const vs = [...obj.matchAll(/^vt (\S+) (\S+)/gm)].map((m) => [Number(m[1]), Number(m[2])] as const);
  const axis = right - left > top - bottom ? 1 : 0;
  expect(new Set(vs.map((vt) => vt[axis].toFixed(5))).size).toBe(3);
});

test('the planks of the deck: like ones found, stacked, packed as three, moved as one, taken apart; the layout of a rail post for the others', async ({
  page,
}) => {
  const errors = watchErrors(page);
  await page.goto('/');
  await page.getByRole('button', { name: /Skerry Quay.*demo job/s }).click();
  await benchReady(page);
  await choosePart(page, 'Jetty deck');
  await settled(page);
  await views(page).focus();
  await page.keyboard.press('Shift+Digit4');
  await page.getByRole('button', { name: 'Like islands and stacks' }).click();
  await page.getByRole('button', { name: 'Find on the sheet' }).click();
  const groups = page.getByRole('list', { name: 'Groups of like islands' });
  await expect(groups.getByRole('listitem')).toHaveText([/24 × A/, /12 × C/, /4 × AK/]);
  await page.getByRole('button', { name: 'Stack all 3 groups' }).click();
  await expect(page.getByText('3 stacks, 40 islands.')).toBeVisible();
  await settled(page);
  await expect.poll(() => gaugeValue(page, 'Overlap')).toBe(0);
  const deck = await page.evaluate(() => (window as unknown as Bench).jigPeel.state().summary.parts.find(({ name }) => name === 'Jetty deck')!.id);
  const start = (await boxes(page))[deck]!;

  // dragged by one of its islands, the stack goes as one; undone it is back
  const drag = async () => {
    const from = await at(page, 0.06, 0.066);
    const to = await at(page, 0.3, 0.3);
    await page.mouse.click(from.x, from.y);
    await expect(selected(page)).toContainText('1 ');
    await settled(page);
    await page.mouse.move(from.x, from.y);
    await page.mouse.down();
    await page.mouse.move(to.x, to.y, { steps: 5 });
    await page.mouse.up();
    await settled(page);
  };
  await drag();
  await expect(page.getByText('3 stacks, 40 islands.')).toBeVisible();
  expect((await boxes(page))[deck]).not.toEqual(start);
  await page.keyboard.press('Control+z');
  await settled(page);
  expect((await boxes(page))[deck]).toEqual(start);

  await page.getByRole('button', { name: 'Take apart' }).click();
  await settled(page);
  await expect(page.getByText('2 stacks, 16 islands.')).toBeVisible();
  await expect.poll(() => gaugeValue(page, 'Overlap')).toBe(0);

  await choosePart(page, 'Rail post 1');
  await page.evaluate(() => (window as unknown as Bench).jigPeel.edit('firstLayout', {}));
  await settled(page);
  await page.getByRole('button', { name: 'Copy the layout to like parts' }).click();
  await page.getByLabel('Mirrored ones too').last().check();
  await page.getByRole('button', { name: 'On one another' }).click();
  await expect(page.getByText(/Copied the layout to 3 parts/)).toBeVisible();
  expect(errors).toEqual([]);
});

test('in the model view, too, hovering, clicks, boxes and the seam pen take of all parts of the sheet', async ({ page }) => {
  const errors = watchErrors(page);
  await openOn(page, 'plates.obj', plates());
  const [one, two] = ['part-1', 'part-2'];
  const active = () => page.evaluate(() => (window as unknown as Bench).jigPeel.state().summary.activePart);
  const islands = () =>
    page.evaluate(() => {
      const { layout, sheetParts, summary } = (window as unknown as Bench).jigPeel.state();
      const beside = [...sheetParts.values()].filter(({ part }) => part !== summary.activePart);
      return [layout.islands.length, ...beside.map((view) => view.islands.length)];
    });
  await page.keyboard.press('Shift+3');
  await look(page, 0, 0.2);
  // both come into view
  const here = await placePx(page, [1, 1, 0]);
  await page.mouse.move(here.x, here.y);
  await page.mouse.wheel(0, 120);
  for (let k = 0; k < 9; k++) await page.mouse.wheel(0, 60);
  await still(page);

  // an edge of the other part is pointed at, in both views
  await page.keyboard.press('4');
  const edge = await placePx(page, [4, 0.5, 0]);
  await page.mouse.move(edge.x, edge.y);
  const pointed = () =>
    page.evaluate(() => {
      const { hoverMarks } = (
        window as unknown as { jigPeel: { state(): { hoverMarks: { part: string; model: Float32Array; sheet: Uint32Array } | null } } }
      ).jigPeel.state();
      return hoverMarks && [hoverMarks.part, hoverMarks.model.length, hoverMarks.sheet.length];
    });
  await expect.poll(pointed).toEqual([two, 6, 2]);
  await page.mouse.move(edge.x, edge.y - 200);
  await expect.poll(pointed).toBeNull();

  // a box in the model view takes the edges of both
  await page.getByRole('button', { name: 'Drag draws a box' }).click();
  const [from, to] = [await placePx(page, [-0.5, 2.5, 0]), await placePx(page, [5.5, -0.5, 0])];
  await page.mouse.move(from.x, from.y);
  await page.mouse.down();
  await page.mouse.move((from.x + to.x) / 2, (from.y + to.y) / 2);
  await page.mouse.move(to.x, to.y);
  await page.mouse.up();
  await settled(page);
  await expect(selected(page)).toHaveText('24 edges');

  // an island of the other part is selected beside; a face of it brings that part to work
  await page.keyboard.press('2');
  const middle = await placePx(page, [3.5, 0.5, 0]);
  await page.mouse.click(middle.x, middle.y);
  await expect(selected(page)).toHaveText('1 island');
  expect(await active()).toBe(one);
  await page.keyboard.press('3');
  await page.mouse.click(middle.x, middle.y);
  await expect(selected(page)).toHaveText('1 face');
  expect(await active()).toBe(two);

  // all that is on the sheet, and what is not selected of it
  await page.keyboard.press('Control+a');
  await expect(selected(page)).toHaveText('8 faces');

  // the pen, begun on the part that is not at work
  await page.getByRole('button', { name: 'Seam pen' }).click();
  const stroke = [await placePx(page, [0.97, 0.03, 0]), await placePx(page, [0.98, 1, 0]), await placePx(page, [0.97, 1.97, 0])];
  await page.mouse.move(stroke[0]!.x, stroke[0]!.y);
  await page.mouse.down();
  for (const { x, y } of stroke.slice(1)) await page.mouse.move(x, y, { steps: 8 });
  await page.mouse.up();
  await settled(page);
  await expect.poll(active).toBe(one);
  await expect.poll(islands).toEqual([2, 1]);

  // a drag takes hold of another part's island that was not selected before
  await page.keyboard.press('Shift+4');
  await page.keyboard.press('2');
  await page.keyboard.press('Escape');
  await page.keyboard.press('d');
  await dragTo(page, await at(page, 0.57, 0.17), await at(page, 0.57, 0.57));
  await page.mouse.up();
  await settled(page);
  await expect(selected(page)).toHaveText('1 island');
  expect((await boxes(page))[two]![1]).toBeCloseTo(0.5, 1);
  expect(errors).toEqual([]);
});

test('islands align with the one selected first, and are sized in units at the density of the sheet', async ({ page }) => {
  await openOn(page, 'plates.obj', plates());
  const first = await at(page, 0.57, 0.17);
  await page.mouse.click(first.x, first.y);
  await expect(selected(page)).toHaveText('1 island');
  const move = await page.evaluate(() => (window as unknown as Bench).jigPeel.edit('transform', { move: [0, 0.3] }));
  expect(move.ok).toBe(true);
  const second = await at(page, 0.17, 0.17);
  await page.keyboard.down('Shift');
  await page.mouse.click(second.x, second.y);
  await page.keyboard.up('Shift');
  await expect(selected(page)).toHaveText('2 islands');
  await page.getByRole('button', { name: 'Align and distribute islands' }).click();
  await page.getByLabel('Align with').click();
  await page.getByRole('option', { name: 'the one selected first' }).click();
  await page.getByRole('button', { name: 'Bottom', exact: true }).click();
  await settled(page);
  const aligned = await boxes(page);
  // the first stays, though it is the higher one
  expect([aligned['part-1']![1], aligned['part-2']![1]]).toEqual([expect.closeTo(0.4, 4), expect.closeTo(0.4, 4)]);
  // 2048 px a sheet side, 512 px a unit: both together are 0.6 of 4 units wide
  const lengths = page.getByRole('group', { name: 'Lengths in' });
  await expect(lengths.getByRole('button', { name: 'u' })).toBeDisabled();
  await page.evaluate(() => (window as unknown as Bench).jigPeel.edit('sheets', { do: 'change', density: 512 }));
  await lengths.getByRole('button', { name: 'u, at 512 px/u' }).click();
  const width = page.getByLabel('Width', { exact: true });
  await expect(width).toHaveValue('2.4');
  await width.fill('1.2');
  await width.press('Enter');
  await settled(page);
  const sized = await boxes(page);
  expect(sized['part-2']![2]! - sized['part-1']![0]!).toBeCloseTo(0.3, 4);
});

test('points, edges and faces of two parts on one sheet are boxed, moved and cut together', async ({ page }) => {
  const errors = watchErrors(page);
  await openOn(page, 'plates.obj', plates());
  await page.getByRole('button', { name: 'Catch at' }).click();
  await page.getByRole('switch', { name: 'Other islands' }).uncheck();
  await page.getByRole('switch', { name: 'Sheet and tiles' }).uncheck();
  await page.keyboard.press('Escape');
  const [one, two] = ['part-1', 'part-2'];
  const boxed = async (...[u0, v0, u1, v1]: [number, number, number, number]) => {
    await page.getByRole('button', { name: 'Drag draws a box' }).click();
    await dragTo(page, await at(page, u0, v0), await at(page, u1, v1));
    await page.mouse.up();
    await settled(page);
  };

  // the columns of points that face one another
  await page.keyboard.press('5');
  await boxed(0.27, 0.05, 0.53, 0.35);
  await expect(selected(page)).toHaveText('6 points');
  await page.keyboard.press('d');
  // within the frame, off its handles and its pivot
  await dragTo(page, await at(page, 0.45, 0.15), await at(page, 0.45, 0.25));
  await page.mouse.up();
  await settled(page);
  const moved = await boxes(page);
  for (const part of [one, two]) {
    expect(moved[part]![3]).toBeCloseTo(0.4, 2);
    expect(moved[part]![1]).toBeCloseTo(0.1, 4);
  }
  await page.keyboard.press('Control+z');
  await settled(page);
  expect(await boxes(page)).toEqual({ [one]: [0.1, 0.1, 0.3, 0.3], [two]: [0.5, 0.1, 0.7, 0.3] });

  // all edges of both: the inner ones are cut, in one step
  await page.keyboard.press('4');
  await boxed(0.05, 0.05, 0.75, 0.35);
  await expect(selected(page)).toHaveText('24 edges');
  await expect(page.getByLabel('Figures of the selection')).toContainText('24 u');
  const steps = () => page.evaluate(() => (window as unknown as Bench).jigPeel.state().summary.historyIndex);
  const islands = () =>
    page.evaluate(() => {
      const { layout, sheetParts } = (window as unknown as Bench).jigPeel.state();
      return [layout.islands.length, ...[...sheetParts.values()].map((view) => view.islands.length)];
    });
  const before = await steps();
  await page.keyboard.press('x');
  await settled(page);
  await expect.poll(islands).toEqual([4, 4]);
  expect(await steps()).toBe(before + 1);
  await page.keyboard.press('Control+z');
  await settled(page);
  await expect.poll(islands).toEqual([1, 1]);

  // a face of each, the second with Shift: that part comes to work, the first face stays selected
  await page.keyboard.press('3');
  const face = await at(page, 0.15, 0.15);
  await page.mouse.click(face.x, face.y);
  await expect(selected(page)).toHaveText('1 face');
  const other = await at(page, 0.55, 0.15);
  await page.keyboard.down('Shift');
  await page.mouse.click(other.x, other.y);
  await page.keyboard.up('Shift');
  await expect(selected(page)).toHaveText('2 faces');
  expect(await page.evaluate(() => (window as unknown as Bench).jigPeel.state().summary.activePart)).toBe(two);
  await page.keyboard.down('Control');
  await page.mouse.click(face.x, face.y);
  await page.keyboard.up('Control');
  await expect(selected(page)).toHaveText('1 face');
  expect(errors).toEqual([]);
});

test('keys alone: islands of two parts are walked, taken with Space, said aloud; a brush pushes points; grain is drawn and met', async ({ page }) => {
  const errors = watchErrors(page);
  await page.goto('/');
  await drop(page, [{ name: 'plates.obj', bytes: Buffer.from(plates()) }]);
  await benchReady(page);
  await settled(page);
  await views(page).focus();
  await page.keyboard.press('2');
  await page.keyboard.press('n');
  const said = page.getByRole('status', { name: 'Walk' });
  await expect(said).toHaveText(/^Island A, 4 faces, at \d+, \d+ px, 1 of 2 islands/);
  await page.keyboard.press('Space');
  await expect(said).toHaveText(/selected$/);
  await page.keyboard.press('Alt+ArrowRight');
  await expect(said).toHaveText(/^Island A of plate 2/);
  await page.keyboard.press('Shift+Space');
  await expect(selected(page)).toContainText('2 ');
  await page.keyboard.press('Alt+ArrowRight');
  await expect(said).toHaveText('Nothing further right.');

  // pushed with the brush: live, then one step; Escape in the middle puts it back
  const before = await boxes(page);
  const place = await at(page, 0.29, 0.2);
  await page.keyboard.press('r');
  const stroke = async (end: () => Promise<void>) => {
    await page.mouse.move(place.x, place.y);
    await page.mouse.down();
    await page.mouse.move(place.x + 12, place.y + 4, { steps: 4 });
    await page.mouse.move(place.x + 24, place.y + 8, { steps: 4 });
    await end();
    await page.mouse.up();
    await settled(page);
  };
  await stroke(() => page.keyboard.press('Escape'));
  expect(await boxes(page)).toEqual(before);
  await stroke(async () => {});
  expect(await boxes(page)).not.toEqual(before);
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+z');
  await settled(page);
  expect(await boxes(page)).toEqual(before);

  // an arrow drawn on the model, the island turned to it: the gauge says so
  await page.keyboard.press('Shift+Digit4');
  await page.evaluate(() => (window as unknown as Bench).jigPeel.edit('grain', { face: 0, direction: [1, 1, 0], faces: 'part' }));
  await settled(page);
  await expect.poll(() => gaugeValue(page, 'Grain')).toBe(45);
  await page.evaluate(() => (window as unknown as Bench).jigPeel.edit('turnIslands', { to: 'grain' }));
  await settled(page);
  await expect.poll(() => gaugeValue(page, 'Grain')).toBe(0);
  expect(errors).toEqual([]);
});

test('a layout copied to a like part: an edge of each says which of the ways is meant', async ({ page }) => {
  const crate = (name: string, x: number) => {
    const lines = [`o ${name}`];
    for (let k = 0; k < 8; k++) lines.push(`v ${x + (k & 1)} ${(k >> 1) & 1} ${k >> 2}`);
    for (const f of ['1 3 4 2', '5 6 8 7', '1 2 6 5', '3 7 8 4', '1 5 7 3', '2 4 8 6']) lines.push(`f ${f}`);
    return lines.join('\n');
  };
  await page.goto('/');
  await drop(page, [
    { name: 'a.obj', text: crate('crate', 0) },
    { name: 'b.obj', text: crate('chest', 3) },
  ]);
  await benchReady(page);
  await settled(page);
  const edit = (name: string, params: object) =>
    page.evaluate(([n, p]) => (window as unknown as { jigPeel: { edit(n: unknown, p: unknown): Promise<unknown> } }).jigPeel.edit(n, p), [
      name,
      params,
    ] as const);
  /** Where an edge of the part at work is on the sheet, once for each island that it borders. */
  const placesOf = (edge: number) =>
    page.evaluate((e) => {
      type State = { layout: { cornerUv: Float32Array }; geometry: { cornerEdge: Uint32Array; faceStart: Uint32Array } };
      const { layout, geometry } = (window as unknown as { jigPeel: { state(): State } }).jigPeel.state();
      const at = (c: number) => [0, 1].map((d) => layout.cornerUv[c * 2 + d]!.toFixed(5)).join();
      return [...geometry.cornerEdge.keys()]
        .filter((c) => geometry.cornerEdge[c] === e)
        .map((c) => [at(c), at(c % 4 === 3 ? c - 3 : c + 1)].sort().join(' '))
        .sort();
    }, edge);
  await choosePart(page, 'crate');
  await edit('unwrap', { seams: 'crease' });
  await page.keyboard.press('Shift+4');
  await page.keyboard.press('4');
  await edit('select', { kind: 'edges', ids: [2] });
  await settled(page);
  const own = await placesOf(2);
  await page.getByRole('button', { name: 'Copy the layout to like parts' }).click();
  await page.getByRole('button', { name: 'Remember the selected edge' }).click();
  await choosePart(page, 'chest');
  await settled(page);
  for (const edge of [7, 4]) {
    await page.keyboard.press('4');
    await edit('select', { kind: 'edges', ids: [edge] });
    await settled(page);
    await expect(page.getByText('From crate to chest, its edge on the selected one')).toBeVisible();
    await page.getByRole('button', { name: 'On one another' }).click();
    await settled(page);
    expect(await placesOf(edge)).toEqual(own);
  }
});
