import { expect, test, type Page } from './test.ts';
import { benchReady, drop, goTo, openForm, selected, settled, still, uvPx, views, watchErrors } from './bench.ts';

const rows = (page: Page) =>
  page
    .getByRole('grid', { name: 'UV values' })
    .getByRole('row')
    .filter({ has: page.getByRole('gridcell') });
const row = (page: Page, corner: number) => rows(page).filter({ has: page.getByRole('gridcell', { name: new RegExp(`^(● )?${corner}$`) }).first() });

type Handle = { jigPeel: { state(): { layout: { cornerUv: Float32Array }; summary: { historyIndex: number } }; partner(): number[] } };
const cornerUv = (page: Page, corner: number) =>
  page.evaluate((c) => [...(window as unknown as Handle).jigPeel.state().layout.cornerUv.slice(c * 2, c * 2 + 2)], corner);

test('UV table: rows select in the views and back; values take arithmetic; undo; values stand beside points', async ({ page }) => {
  const errors = watchErrors(page);
  await openForm(page, 'Plane');
  await page.getByRole('button', { name: 'UV table' }).click();
  await expect(rows(page).first()).toBeVisible();
  await rows(page).nth(2).click();
  await expect(selected(page)).toHaveText('1 point');
  await expect(rows(page).nth(2)).toHaveAttribute('aria-selected', 'true');
  await page.keyboard.down('Shift');
  await rows(page).nth(4).click();
  await page.keyboard.up('Shift');
  await settled(page);
  expect(Number((await selected(page).textContent())!.split(' ')[0])).toBeGreaterThanOrEqual(2);
  // one value by arithmetic
  const before = await cornerUv(page, 0);
  await rows(page).nth(0).getByRole('gridcell').nth(3).dblclick();
  await page.getByLabel('u of corner 0').fill('0.5 + 1/4');
  await page.keyboard.press('Enter');
  await settled(page);
  expect((await cornerUv(page, 0))[0]).toBeCloseTo(0.75, 6);
  expect((await cornerUv(page, 0))[1]).toBe(before[1]);
  // Escape leaves it as it was, nonsense is told
  await rows(page).nth(0).getByRole('gridcell').nth(4).dblclick();
  await page.getByLabel('v of corner 0').fill('3');
  await page.keyboard.press('Escape');
  expect((await cornerUv(page, 0))[1]).toBe(before[1]);
  await rows(page).nth(0).getByRole('gridcell').nth(4).dblclick();
  await page.getByLabel('v of corner 0').fill('one half');
  await page.keyboard.press('Enter');
  await expect(page.getByText('“one half” is no number: v was left as it was.').first()).toBeVisible();
  await views(page).focus();
  await page.keyboard.press('Control+z');
  await settled(page);
  expect(await cornerUv(page, 0)).toEqual(before);
  // all selected at once
  await rows(page).nth(1).click();
  await expect(selected(page)).toHaveText('1 point');
  await page.getByLabel('Value for all selected').fill('1024/2048');
  await page.getByRole('button', { name: 'Set v' }).click();
  await settled(page);
  expect((await cornerUv(page, 1))[1]).toBeCloseTo(0.5, 6);
  // back: what is selected in a view is marked here and comes into sight
  const at = await uvPx(page, 0.98, 0.98);
  await page.getByRole('button', { name: 'Select faces' }).click();
  await page.mouse.click(at.x - 3, at.y + 3);
  await expect(selected(page)).toHaveText('1 face');
  await expect(rows(page).and(page.locator('[aria-selected=true]'))).toHaveCount(4);
  await page.getByRole('switch', { name: 'only the selected' }).click();
  await expect(rows(page)).toHaveCount(4);
  expect(errors).toEqual([]);
});

test('UV table with half a million corners: only the rows in sight exist, the last one is reached by key and by wheel', async ({ page }) => {
  const n = 354;
  const lines: string[] = [];
  for (let y = 0; y <= n; y++) for (let x = 0; x <= n; x++) lines.push(`v ${x} ${y} ${((x * 7 + y * 3) % 11) / 10}`, `vt ${x / n} ${y / n}`);
  const at = (x: number, y: number) => `${y * (n + 1) + x + 1}/${y * (n + 1) + x + 1}`;
  for (let y = 0; y < n; y++) for (let x = 0; x < n; x++) lines.push(`f ${at(x, y)} ${at(x + 1, y)} ${at(x + 1, y + 1)} ${at(x, y + 1)}`);
  await page.goto('/');
  await drop(page, [{ name: 'field.obj', text: lines.join('\n') }]);
  await benchReady(page);
  await settled(page);
  await page.getByRole('button', { name: 'UV table' }).click();
  const corners = n * n * 4;
  await expect(page.getByText(`${corners.toLocaleString('en')} corners`)).toBeVisible();
  const grid = page.getByRole('grid', { name: 'UV values' });
  await expect(grid).toHaveAttribute('aria-rowcount', String(corners + 1));
  await grid.focus();
  await page.keyboard.press('End');
  await expect(row(page, corners - 1)).toBeVisible();
  expect(await rows(page).count()).toBeLessThan(80);
  const box = (await grid.boundingBox())!;
  await page.mouse.move(box.x + 100, box.y + 100);
  await page.mouse.wheel(0, -24 * 1000);
  await expect(row(page, corners - 1)).toBeHidden();
  await expect(rows(page).first()).toBeVisible();
  expect(await rows(page).count()).toBeLessThan(80);
});

test('figures of the selection: length, area, ratio and heading, in the unit of the job', async ({ page }) => {
  await openForm(page, 'Box');
  const figures = page.getByLabel('Figures of the selection');
  await page.keyboard.press('3');
  await page.keyboard.press('Control+a');
  await expect(figures).toContainText('area');
  await expect(figures).toContainText(/size1 × 1 × 1 u/);
  await expect(figures).toContainText(/area6 u²/);
  await goTo(page, 'Intake');
  await page.getByLabel('One unit is').click();
  await page.getByRole('option', { name: 'centimetres' }).click();
  await expect(figures).toContainText(/area6 cm²/);
  await expect(figures).toContainText(/ratio[\d,.]+ px\/cm/);
  await page.keyboard.press('Escape');
});

test('a seam edge under the pointer shows its partner on the sheet, from either view; a plain edge shows none', async ({ page }) => {
  await openForm(page, 'Box');
  const partner = () => page.evaluate(() => (window as unknown as Handle).jigPeel.partner());
  await page.keyboard.press('4');
  await still(page);
  const edges = await page.evaluate(() => {
    const { jigPeel } = window as unknown as {
      jigPeel: { state(): { layout: { edgeStates: Uint8Array } }; edge(e: number): { x: number; y: number; visible: boolean } };
    };
    return [...jigPeel.state().layout.edgeStates]
      .map((state, e) => ({ e, state, ...jigPeel.edge(e) }))
      .filter(({ visible, x, y }) => visible && !document.elementFromPoint(x, y)?.closest('[data-chrome]'));
  });
  const found = { seam: 0, joined: 0 };
  for (const state of [1, 0])
    for (const edge of edges.filter((e) => e.state === state).slice(0, 8)) {
      await page.mouse.move(edge.x, edge.y);
      await page.waitForTimeout(120);
      // whole px: at the rim of the form the pointer may just miss it
      const hovered = await page.evaluate(
        () => (window as unknown as { jigPeel: { state(): { hover: { edge: number } | null } } }).jigPeel.state().hover?.edge,
      );
      if (hovered !== edge.e) continue;
      const line = await partner();
      if (state === 1) {
        found.seam++;
        expect(line).toHaveLength(6);
        // the line's ends are apart: the two sides lie in different places
        expect(Math.hypot(line[3]! - line[0]!, line[4]! - line[1]!)).toBeGreaterThan(0.001);
      } else {
        found.joined++;
        expect(line).toHaveLength(0);
      }
    }
  expect(found.seam).toBeGreaterThan(0);
  expect(found.joined).toBeGreaterThan(0);
});
