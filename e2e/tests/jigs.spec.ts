import { expect, test, type Page } from '@playwright/test';
import { benchReady, drop, gaugeValue, goTo, look, selected, settled, still, views, watchErrors } from './bench.ts';

const advice = (page: Page) => page.getByRole('list', { name: 'Advice' }).getByRole('button');
const uvs = (page: Page) =>
  page.evaluate(() => [...(window as unknown as { jigPeel: { state(): { layout: { cornerUv: Float32Array } } } }).jigPeel.state().layout.cornerUv]);

/** A bare box of 1 × 2 × 1. */
const box = (() => {
  const lines = ['o crate'];
  for (let k = 0; k < 8; k++) lines.push(`v ${(k & 1) - 0.5} ${((k >> 1) & 1) * 2 - 1} ${(k >> 2) - 0.5}`);
  for (const f of ['1 3 4 2', '5 6 8 7', '1 2 6 5', '3 7 8 4', '1 5 7 3', '2 4 8 6']) lines.push(`f ${f}`);
  return lines.join('\n');
})();

test('advice on a drum: the tube is best, one click takes it, its numbers change it, undo takes it back', async ({ page }) => {
  const errors = watchErrors(page);
  await page.goto('/');
  await page
    .getByRole('button', { name: /Beacon lens/ })
    .first()
    .click();
  await benchReady(page);
  await settled(page);
  await goTo(page, 'Intake');
  await page.getByRole('button', { name: 'Select the group drum' }).click();
  await expect(selected(page)).toHaveText('3,360 faces');
  await goTo(page, 'Jigs');
  await expect(advice(page).first()).toContainText('Tube', { timeout: 30_000 });
  await expect(page.getByText('Measured on what is selected.')).toBeVisible();
  const before = await uvs(page);
  await advice(page).first().click();
  await settled(page);
  await expect(page.getByRole('heading', { name: 'Tube, on 3,360 faces' })).toBeVisible();
  const placed = await uvs(page);
  expect(placed).not.toEqual(before);
  await page.getByLabel('Repeats in u', { exact: true }).fill('24/2');
  await page.keyboard.press('Enter');
  await settled(page);
  const more = await uvs(page);
  const widest = (list: number[]) => Math.max(...list.filter((_, k) => k % 2 === 0).filter((_, c) => placed[c * 2] !== before[c * 2]));
  expect(widest(more) / widest(placed)).toBeCloseTo(12, 1);
  await views(page).focus();
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await settled(page);
  expect(await uvs(page)).toEqual(before);
  expect(errors).toEqual([]);
});

test('a bare box: by a box at real size without stretch; flat from this view; each face', async ({ page }) => {
  await page.goto('/');
  await drop(page, [{ name: 'crate.obj', text: box }]);
  await benchReady(page);
  await settled(page);
  await goTo(page, 'Jigs');
  await expect(page.getByText('Nothing is selected: measured on the whole of crate.')).toBeVisible();
  await expect(advice(page).first()).toContainText(/Box|Regions/, { timeout: 30_000 });
  const form = (name: string) => page.getByRole('group', { name: 'Form' }).getByRole('button', { name });
  await form('Box').click();
  await page.getByRole('button', { name: 'Place on the whole part' }).click();
  await settled(page);
  expect(await gaugeValue(page, 'Islands')).toBe(6);
  await page.getByRole('switch', { name: 'The image has a real width' }).click();
  await page.getByLabel('Image width', { exact: true }).fill('0.5');
  await page.keyboard.press('Enter');
  await settled(page);
  expect(await gaugeValue(page, 'Stretch')).toBe(1);
  const span = (list: number[], d: number) => {
    const axis = list.filter((_, k) => k % 2 === d);
    return Math.max(...axis) - Math.min(...axis);
  };
  expect(span(await uvs(page), 1)).toBeCloseTo(2 / 0.5, 5);
  // flat, as it is seen from the right
  await look(page, Math.PI / 2, 0);
  await still(page);
  await form('Flat').click();
  await page.getByLabel('Direction').click();
  await page.getByRole('option', { name: 'from this view' }).click();
  await views(page).focus();
  await page.keyboard.press('Control+Enter');
  await settled(page);
  expect(span(await uvs(page), 1) / span(await uvs(page), 0)).toBeCloseTo(2, 2);
  await page.getByRole('button', { name: 'Each face' }).click();
  await page.getByRole('button', { name: 'Place on the whole part' }).click();
  await settled(page);
  const each = await uvs(page);
  expect(new Set(each.map((x) => Math.round(x * 1e6) / 1e6).filter((x) => x % 1 !== 0)).size).toBe(0);
});
