import { expect, test, type Page } from './test.ts';
import { cubeSphere } from '@jig-peel/core';
import { benchReady, bunnyObj, deliverFiles, drop, gaugeValue, goTo, look, selected, settled, still, views, watchErrors } from './bench.ts';

interface Handle {
  state(): {
    summary: { selection: { ids: Uint32Array }; history: { sentence: string }[]; historyIndex: number };
    layout: {
      cornerUv: Float32Array;
      edgeStates: Uint8Array;
      pins: { point: number; corner: number }[];
      islands: { unplaced: boolean }[];
    };
    penEdges: Uint32Array;
    notchMarks: { marks: Float32Array } | null;
  };
  uv(u: number, v: number): { x: number; y: number };
  edge(e: number): { x: number; y: number; visible: boolean };
  shownUvs(): number[];
}
const handle = <T>(page: Page, read: (h: Handle) => T) => page.evaluate(`(${read.toString()})(window.jigPeel)`) as Promise<T>;
const seams = (page: Page) => handle(page, (h) => [...h.state().layout.edgeStates].filter((s) => s === 1).length);
const step = (page: Page) => handle(page, (h) => h.state().summary.historyIndex);
const uvs = (page: Page) => handle(page, (h) => [...h.state().layout.cornerUv]);

/** A ball of quads as OBJ text. */
const ball = (() => {
  const mesh = cubeSphere(1, 8);
  const lines = ['o ball'];
  for (let k = 0; k < mesh.points.length; k += 3) lines.push(`v ${[...mesh.points.subarray(k, k + 3)].join(' ')}`);
  for (let f = 0; f + 1 < mesh.faceStart.length; f++)
    lines.push(`f ${[...mesh.corners.subarray(mesh.faceStart[f], mesh.faceStart[f + 1])].map((c) => c + 1).join(' ')}`);
  return lines.join('\n');
})();

async function open(page: Page, name: string, text: string) {
  await page.goto('/');
  await drop(page, [{ name, text }]);
  await benchReady(page);
  await settled(page);
  await goTo(page, 'Seams');
}

const proposals = (page: Page) => page.getByRole('list', { name: 'Proposed seams' }).getByRole('button');

test('seams are proposed with figures, shown on the model, taken by a click and undone', async ({ page }) => {
  const errors = watchErrors(page);
  await open(page, 'bunny.obj', bunnyObj());
  expect(await seams(page)).toBe(0);
  await page.getByRole('button', { name: 'Work out seams' }).click();
  const few = proposals(page).filter({ hasText: 'Few, by stretch' });
  await expect(few).toBeVisible({ timeout: 60_000 });
  await settled(page);
  const words = (await few.textContent())!;
  // the limit is kept; they are in the order of the sum that each states
  expect(Number(/energy ([\d.]+)/.exec(words)![1])).toBeLessThanOrEqual(4.22);
  const sums = (await proposals(page).allTextContents()).map((text) => Number(/(\d+\.\d\d)/.exec(text)![1]));
  expect(sums).toEqual([...sums].sort((a, b) => a - b));
  // nothing is cut yet; the best is shown until something else is done, and what is pointed at
  expect(await seams(page)).toBe(0);
  const pen = () => handle(page, (h) => h.state().penEdges.length);
  await expect.poll(pen).toBeGreaterThan(0);
  await expect(page.getByText('This model has no UVs yet')).toBeHidden();
  // which one is shown is said: the best, or what is pointed at, and the best again after it
  const current = page.locator('[aria-label="Proposed seams"] [aria-current="true"]');
  await expect(current).toHaveText(/· best/);
  const last = proposals(page).last();
  await last.hover();
  await expect(current).toHaveText((await last.textContent())!);
  await page.getByRole('button', { name: 'What counts' }).hover();
  await expect(current).toHaveText(/· best/);
  await page.keyboard.press('Escape');
  await expect(current).toHaveCount(0);
  await expect.poll(pen).toBe(0);
  await expect(page.getByText('This model has no UVs yet')).toBeVisible();
  await few.hover();
  const shown = await handle(page, (h) => h.state().penEdges.length);
  expect(shown).toBeGreaterThan(20);
  // and the sheet shows where the pieces would be, all within it
  const inside = () => handle(page, (h) => h.shownUvs().every((x) => x > 0 && x < 1));
  await expect.poll(inside).toBe(true);
  await few.click();
  await settled(page);
  expect(await seams(page)).toBe(shown);
  // laid flat and packed with it
  await expect(page.getByText('This model has no UVs yet')).toBeHidden();
  await settled(page);
  expect(await gaugeValue(page, 'Flips')).toBe(0);
  expect(await gaugeValue(page, 'Overlap')).toBe(0);
  await views(page).focus();
  // the cuts and what came of them are one step
  await page.keyboard.press('Control+z');
  await settled(page);
  expect(await seams(page)).toBe(0);
  expect(errors).toEqual([]);
});

test('marks: faces kept whole stay whole; mirrored cuts come in pairs; the live layout follows', async ({ page }) => {
  await open(page, 'ball.obj', ball);
  await look(page, 0.35, 0.3);
  await page.getByLabel('Mirrored across').click();
  await page.getByRole('option', { name: /^x: cuts/ }).click();
  await settled(page);
  await still(page);
  const count = await handle(page, (h) => h.state().layout.edgeStates.length);
  let picked = 0;
  for (let e = 0; e < count && picked < 1; e += 7) {
    const at = await page.evaluate((k) => (window as unknown as { jigPeel: Handle }).jigPeel.edge(k), e);
    if (!at.visible) continue;
    await page.mouse.click(at.x, at.y);
    await settled(page);
    await page.keyboard.press('x');
    await settled(page);
    picked++;
  }
  expect(picked).toBe(1);
  // on the plane itself an edge is its own mirror image
  expect([1, 2]).toContain(await seams(page));
  // two slits do not open a ball far enough to lie flat: nothing half laid is left on the sheet
  await expect(page.getByText('This model has no UVs yet')).toBeVisible();
  await page.getByRole('button', { name: 'Make a first layout' }).first().click();
  await settled(page);
  await expect.poll(() => gaugeValue(page, 'Flips')).toBe(0);
  // select all, mark, and see it said
  await views(page).focus();
  await page.keyboard.press('3');
  await page.keyboard.press('Control+a');
  await settled(page);
  await page.getByRole('button', { name: 'Keep whole' }).click();
  await settled(page);
  await expect(page.getByText('384 faces are kept whole')).toBeVisible();
  await page.getByRole('button', { name: 'Clear', exact: true }).click();
  await settled(page);
  await expect(page.getByText('faces are kept whole')).toBeHidden();
});

test('pins: pinned by key, dragged on the sheet, the island follows while it moves; relaxed; undone step by step', async ({ page }) => {
  const errors = watchErrors(page);
  await open(page, 'ball.obj', ball);
  await page.getByRole('button', { name: 'Make a first layout' }).first().click();
  await settled(page);
  // three points far apart
  await page.evaluate(() => {
    const h = (window as unknown as { jigPeel: { state(): { set(patch: object): void } } }).jigPeel;
    h.state().set({ kind: 'points' });
  });
  const places = await handle(page, (h) => {
    const uv = h.state().layout.cornerUv;
    const corner = (score: (u: number, v: number) => number) => {
      let best = 0;
      for (let c = 0; c < uv.length / 2; c++) if (score(uv[c * 2]!, uv[c * 2 + 1]!) > score(uv[best * 2]!, uv[best * 2 + 1]!)) best = c;
      // a little inside: the very border may just miss
      return h.uv(uv[best * 2]! * 0.97 + 0.015, uv[best * 2 + 1]! * 0.97 + 0.015);
    };
    return [corner((u) => -u), corner((u) => u), corner((_u, v) => v)];
  });
  for (const [k, at] of places.entries()) {
    if (k > 0) await page.keyboard.down('Shift');
    await page.mouse.click(at.x, at.y);
    if (k > 0) await page.keyboard.up('Shift');
    await settled(page);
  }
  await page.keyboard.press('k');
  await settled(page);
  await expect(page.getByText(/points are pinned/)).toBeVisible();
  const pinned = await handle(page, (h) =>
    h.state().layout.pins.map(({ corner }) => h.uv(h.state().layout.cornerUv[corner * 2]!, h.state().layout.cornerUv[corner * 2 + 1]!)),
  );
  const before = await uvs(page);
  const shown = await handle(page, (h) => h.shownUvs().join());
  const at = step(page);
  const start = await at;
  // one away from the ruler, which takes the pointer at the sheet's edge
  const pin = pinned.find(({ x }) => x > 900)!;
  await page.mouse.move(pin.x, pin.y - 14);
  await page.mouse.down();
  await page.mouse.move(pin.x - 10, pin.y - 24);
  await page.mouse.move(pin.x - 22, pin.y - 40);
  // it follows before the pin is let go
  await expect.poll(() => handle(page, (h) => h.shownUvs().join())).not.toBe(shown);
  await page.mouse.up();
  await settled(page);
  expect(await step(page)).toBe(start + 1);
  const after = await uvs(page);
  expect(after).not.toEqual(before);
  expect(await gaugeValue(page, 'Flips')).toBe(0);
  await page.getByRole('button', { name: 'Take all off' }).click();
  await settled(page);
  await page.getByRole('button', { name: 'Relax', exact: true }).click();
  await settled(page);
  expect(await handle(page, (h) => h.state().summary.history.at(-1)!.sentence)).toMatch(/^Relaxed \d+ islands?: energy/);
  // the brush relaxes what it passes over, as one step
  await page.getByRole('button', { name: 'Keep angles' }).click();
  await settled(page);
  await page.getByRole('button', { name: 'Unwrap all islands' }).click();
  await settled(page);
  await page.getByRole('button', { name: 'Relaxing brush' }).click();
  const middle = await handle(page, (h) => h.uv(0.5, 0.5));
  const steps = await step(page);
  await page.mouse.move(middle.x - 40, middle.y);
  await page.mouse.down();
  await page.mouse.move(middle.x, middle.y + 20);
  await page.mouse.move(middle.x + 40, middle.y);
  await page.mouse.up();
  await settled(page);
  expect(await step(page)).toBe(steps + 1);
  await page.getByRole('button', { name: 'Relaxing brush' }).click();
  await views(page).focus();
  for (let k = 0; k < 6; k++) await page.keyboard.press('Control+z');
  await settled(page);
  expect(await uvs(page)).toEqual(before);
  expect(errors).toEqual([]);
});

test('cancel of a long unwrap keeps the layout as it was, and so does cancel of working out seams', async ({ page }) => {
  const mesh = cubeSphere(1, 70);
  const lines = ['o large'];
  for (let k = 0; k < mesh.points.length; k += 3) lines.push(`v ${[...mesh.points.subarray(k, k + 3)].map((x) => x.toFixed(6)).join(' ')}`);
  for (let f = 0; f + 1 < mesh.faceStart.length; f++)
    lines.push(`f ${[...mesh.corners.subarray(mesh.faceStart[f], mesh.faceStart[f + 1])].map((c) => c + 1).join(' ')}`);
  await open(page, 'large.obj', lines.join('\n'));
  await page.getByRole('button', { name: 'Keep angles' }).click();
  await settled(page);
  // laid flat by itself once it is open
  await page.getByRole('button', { name: /Open it along/ }).click();
  await expect(page.getByText('This model has no UVs yet')).toBeHidden({ timeout: 60_000 });
  await settled(page);
  const before = await uvs(page);
  const steps = await step(page);
  // least stretch from the conformal map of a whole ball: seconds of work
  await page.getByRole('button', { name: 'Least stretch' }).click();
  await settled(page);
  await page.getByRole('button', { name: 'Unwrap all islands' }).click();
  const cancel = page.getByRole('button', { name: 'Cancel' }).first();
  await cancel.click({ timeout: 20_000 });
  await settled(page);
  expect(await uvs(page)).toEqual(before);
  expect(await step(page)).toBe(steps + 1);
  await page.getByRole('button', { name: 'Work out seams' }).click();
  await cancel.click({ timeout: 20_000 });
  await settled(page);
  expect(await uvs(page)).toEqual(before);
  expect(await step(page)).toBe(steps + 1);
});

test('join: an island’s neighbours by shared border with the stretch they would have; a click joins; notches on the sheet', async ({ page }) => {
  await page.goto('/');
  const cube =
    'o crate\nv -1 -1 -1\nv 1 -1 -1\nv -1 1 -1\nv 1 1 -1\nv -1 -1 1\nv 1 -1 1\nv -1 1 1\nv 1 1 1\nf 1 3 4 2\nf 5 6 8 7\nf 1 2 6 5\nf 3 7 8 4\nf 1 5 7 3\nf 2 4 8 6\n';
  await drop(page, [{ name: 'crate.obj', text: cube }]);
  await benchReady(page);
  await settled(page);
  await goTo(page, 'Seams');
  await page.getByRole('button', { name: 'Make a first layout' }).first().click();
  await settled(page);
  expect(await gaugeValue(page, 'Islands')).toBe(6);
  await page.getByRole('button', { name: /^A\s*1 face/ }).click();
  await settled(page);
  const neighbours = page.getByRole('list', { name: 'Neighbours to join' }).getByRole('button');
  await expect(neighbours.first()).toContainText('energy 4.00', { timeout: 20_000 });
  expect(await neighbours.count()).toBe(4);
  await neighbours.first().click();
  await settled(page);
  expect(await gaugeValue(page, 'Islands')).toBe(5);
  expect(await gaugeValue(page, 'Stretch')).toBeCloseTo(1, 2);
  await page.getByLabel('Notches on the sheet').click();
  // eleven seams are left, two pairs of them run on round a corner: nine letters, each on both sides
  await expect.poll(() => handle(page, (h) => (h.state().notchMarks?.marks.length ?? 0) / 6)).toBe(18);
});

test('faces whose stretch counts more stretch less after unwrapping, and are found again', async ({ page }) => {
  await page.goto('/');
  await drop(page, [{ name: 'bunny.obj', text: bunnyObj() }]);
  await benchReady(page);
  await goTo(page, 'Seams');
  await page.getByRole('button', { name: 'Make a first layout' }).first().click();
  await settled(page);
  const energy = () =>
    page.evaluate(
      () =>
        (window as unknown as { jigPeel: { state(): { measures: { report: { symmetricDirichlet: number } } } } }).jigPeel.state().measures.report
          .symmetricDirichlet,
    );
  const before = await energy();
  await views(page).focus();
  await page.keyboard.press('3');
  await page.evaluate(() => {
    const ids = Uint32Array.from({ length: 40 }, (_, k) => k);
    return (window as unknown as { jigPeel: { edit(name: string, params: object): Promise<unknown> } }).jigPeel.edit('select', { kind: 'faces', ids });
  });
  await page.getByRole('combobox', { name: 'Stretch of the selected counts' }).click();
  await page.getByRole('option', { name: /^fifty times/ }).click();
  await expect(page.getByText('The stretch of 40 faces counts 50 times as much').first()).toBeVisible();
  await page.getByRole('button', { name: 'Unwrap all islands' }).click();
  await settled(page);
  // what they gain the others pay
  expect(await energy()).toBeGreaterThan(before);
  await page.evaluate(() =>
    (window as unknown as { jigPeel: { edit(name: string, params: object): Promise<unknown> } }).jigPeel.edit('select', {
      kind: 'faces',
      ids: new Uint32Array(0),
    }),
  );
  await page.getByRole('button', { name: 'Select what counts otherwise' }).click();
  await expect(selected(page)).toHaveText('40 faces');
});

test('a border kept straight: level or upright at once, in the delivered file, and after a reload', async ({ page }) => {
  const n = 12;
  const places = Array.from({ length: (n + 1) ** 2 }, (_, k) => [(k % (n + 1)) / n, Math.floor(k / (n + 1)) / n] as const);
  const lines = places.map(([u, w]) => `v ${u} ${0.35 * Math.sin(3 * u) * Math.cos(2.5 * w)} ${w}`);
  for (let j = 0; j < n; j++)
    for (let i = 0; i < n; i++) {
      const a = j * (n + 1) + i + 1;
      lines.push(`f ${a} ${a + n + 1} ${a + n + 2} ${a + 1}`);
    }
  // keys are taken by the command search before its dialog has come
  await page.route('**/FindDialog*', async (route) => {
    await new Promise((done) => setTimeout(done, 10_000));
    await route.continue();
  });
  await page.goto('/');
  await drop(page, [{ name: 'bowl.obj', text: lines.join('\n') }]);
  await benchReady(page);
  await settled(page);
  await page.keyboard.press('Shift+3');
  await page.evaluate(() => (window as unknown as { jigPeel: { edit(name: string, params: object): Promise<unknown> } }).jigPeel.edit('unwrap', {}));
  await settled(page);
  const straight = page.getByLabel('Selected edges come out');
  await expect(straight).toHaveAttribute('aria-disabled', 'true');
  // the border, all round
  await page.keyboard.press('3');
  await views(page).focus();
  await page.keyboard.press('Control+a');
  await page.keyboard.press('Control+k');
  await page.keyboard.type('border of the faces');
  await page.keyboard.press('Enter');
  await settled(page);
  await page.keyboard.press('4');
  await expect(selected(page)).toContainText(`${4 * n} edges`);
  await straight.click();
  await page.getByRole('option', { name: 'straight: level or upright' }).click();
  await expect(page.getByText(`${4 * n} edges laid level or upright`)).toBeVisible();
  await settled(page);
  // vertices on the four sides of the box of all
  const sides = (vts: (readonly [number, number])[]) =>
    [0, 1].flatMap((d) => {
      const own = vts.map((vt) => vt[d]!);
      return [Math.min(...own), Math.max(...own)].map((side) => own.filter((x) => Math.abs(x - side) < 2e-6).length);
    });
  await page.keyboard.press('Shift+8');
  const files = await deliverFiles(page);
  const obj = new TextDecoder().decode([...files].find(([name]) => name.endsWith('.obj'))![1]);
  const vts = [...obj.matchAll(/^vt (\S+) (\S+)/gm)].map((m) => [Number(m[1]), Number(m[2])] as const);
  expect(vts).toHaveLength((n + 1) ** 2);
  expect(sides(vts)).toEqual([n + 1, n + 1, n + 1, n + 1]);
  await page.reload();
  await benchReady(page);
  await settled(page);
  await page.keyboard.press('Shift+3');
  await page.getByRole('button', { name: 'Select edges kept straight' }).click();
  await settled(page);
  await expect(selected(page)).toContainText(`${4 * n} edges`);
  // they keep their length, too
  await page.getByLabel('Length of the selected edges').click();
  await page.getByRole('option', { name: 'as on the model' }).click();
  await expect(page.getByText(`${4 * n} edges as long as on the model; sides of seams differ by 0.00 % at most`)).toBeVisible();
  await expect(page.getByRole('button', { name: 'Select edges that keep their length' })).toBeVisible();
});
