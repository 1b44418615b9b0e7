import { expect, test, type Page } from '@playwright/test';
import { benchReady, bunnyObj, choosePart, drop, gaugeValue, goTo, selected, settled, views, watchErrors } from './bench.ts';

const edit = (page: Page, name: string, params: object) =>
  page.evaluate(
    ([n, p]) => (window as unknown as { jigPeel: { edit(name: string, params: object): Promise<unknown> } }).jigPeel.edit(n as string, p as object),
    [name, params],
  );
const packButton = (page: Page) => page.getByRole('button', { name: /^Pack \d+ islands?/ });
const packedNote = (page: Page) => page.getByText(/^Packed \d+ islands? on/).last();

async function openDeck(page: Page) {
  await page.goto('/');
  await page.getByRole('button', { name: /Skerry Quay.*demo job/s }).click();
  await benchReady(page);
  await choosePart(page, 'Jetty deck');
  await goTo(page, 'Pack');
  await settled(page);
}

test('a search shows the best so far and is taken early; cancelled, it leaves all as it was', async ({ page }) => {
  const errors = watchErrors(page);
  await openDeck(page);
  await page.getByLabel('Effort').click();
  await page.getByRole('option', { name: /^5:/ }).click();
  await settled(page);
  const before = await gaugeValue(page, 'Coverage');
  await packButton(page).click();
  await page.getByRole('button', { name: 'Take it' }).waitFor();
  await page.getByRole('button', { name: 'Cancel' }).click();
  await expect(page.getByRole('button', { name: 'Take it' })).toBeHidden();
  expect(await gaugeValue(page, 'Coverage')).toBe(before);
  await packButton(page).click();
  await expect(page.getByRole('status', { name: 'Packing' })).toContainText(/Covered so far\d/);
  await page.getByRole('button', { name: 'Take it' }).click();
  await expect(packedNote(page)).toBeVisible({ timeout: 20_000 });
  expect(await gaugeValue(page, 'Coverage')).toBeGreaterThan(70);
  expect(await gaugeValue(page, 'Gap')).toBeGreaterThanOrEqual(8);
  await views(page).focus();
  await page.keyboard.press('Control+z');
  expect(await gaugeValue(page, 'Coverage')).toBe(before);
  expect(errors).toEqual([]);
});

test('locked islands stay and are told beforehand; the selected alone go between the others; two tiles are filled', async ({ page }) => {
  await openDeck(page);
  await edit(page, 'settings', { effort: 0 });
  await edit(page, 'select', { kind: 'islands', ids: [0, 1] });
  await edit(page, 'lockIslands', { do: 'lock' });
  await settled(page);
  await expect(page.getByText(/2 locked, packed round/)).toBeVisible();
  await expect(packButton(page)).toHaveText(/^Pack 38 islands/);
  await packButton(page).click();
  await expect(page.getByText(/^Packed 38 islands/)).toBeVisible();
  await settled(page);
  expect(await gaugeValue(page, 'Overlap')).toBe(0);

  await edit(page, 'select', { kind: 'islands', ids: [5] });
  await page.getByLabel('Which islands').click();
  await page.getByRole('option', { name: /Only the selected/ }).click();
  await expect(packButton(page)).toHaveText('Pack 1 island');
  await packButton(page).click();
  await expect(page.getByText(/^Packed 1 island on/)).toBeVisible();
  await settled(page);
  expect(await gaugeValue(page, 'Overlap')).toBe(0);
  await page.getByLabel('Which islands').click();
  await page.getByRole('option', { name: 'All on the sheet' }).click();

  await edit(page, 'select', { kind: 'islands', ids: [0, 1] });
  await edit(page, 'lockIslands', { do: 'unlock' });
  const sheet = await page.evaluate(
    () =>
      (window as unknown as { jigPeel: { state(): { summary: { sheets: { id: string; name: string }[] } } } }).jigPeel
        .state()
        .summary.sheets.find(({ name }) => name === 'Jetty')!.id,
  );
  await edit(page, 'sheets', { do: 'change', sheet, tiles: 2 });
  await settled(page);
  await packButton(page).click();
  await expect(page.getByText(/^Packed 40 islands/)).toBeVisible({ timeout: 20_000 });
  await settled(page);
  expect(await gaugeValue(page, 'Outside')).toBe(0);
  expect(await gaugeValue(page, 'Overlap')).toBe(0);
});

test('density of one island is given to others; a bar of the histogram selects its islands; the map of shape has its own legend', async ({ page }) => {
  await openDeck(page);
  await edit(page, 'select', { kind: 'islands', ids: [0, 1, 2] });
  await edit(page, 'transform', { scale: [1.5, 1.5], pivot: 'each' });
  await settled(page);
  const bins = page.getByRole('group', { name: 'Surface by density' }).getByRole('button');
  await expect(bins).toHaveCount(2);
  await bins.nth(1).click();
  await expect(selected(page)).toContainText('3 islands');
  const part = await page.evaluate(
    () => (window as unknown as { jigPeel: { state(): { summary: { activePart: string } } } }).jigPeel.state().summary.activePart,
  );
  await edit(page, 'matchIslands', { what: 'density', to: { part, island: 7 } });
  await settled(page);
  expect(await gaugeValue(page, 'Spread')).toBeLessThan(0.2);
  await page.getByLabel('Sharpness of the selected').click();
  await page.getByRole('option', { name: /twice as sharp/ }).click();
  await page.getByRole('button', { name: 'Even out', exact: true }).click();
  await settled(page);
  await expect(bins).toHaveCount(2);
  expect(await gaugeValue(page, 'Spread')).toBeLessThan(0.2);

  await page.getByRole('button', { name: 'Overlay: Stretch' }).click();
  await page.getByRole('group', { name: 'Map of stretch' }).getByRole('button', { name: 'Shape' }).click();
  await expect(page.getByText('drawn out')).toBeVisible();
});

test('islands go into a rectangle of the sheet, which is drawn there; the others stay', async ({ page }) => {
  await page.goto('/');
  await drop(page, [{ name: 'bunny.obj', text: bunnyObj() }]);
  await benchReady(page);
  await goTo(page, 'Seams');
  await page.getByRole('button', { name: 'Cut creases' }).click();
  await settled(page);
  await page.getByRole('button', { name: 'Unwrap all islands' }).click();
  await settled(page);
  await goTo(page, 'Pack');
  const region = page.getByRole('region', { name: 'Station pack' });
  await region.getByRole('button', { name: /^Pack \d/ }).click();
  await expect(page.getByText(/^Packed \d+ islands? on 2048/)).toBeVisible({ timeout: 60_000 });
  await settled(page);
  interface View {
    islands: { u: number; v: number; width: number; height: number }[];
  }
  const islands = () =>
    page.evaluate(() =>
      (window as unknown as { jigPeel: { state(): { layout: View } } }).jigPeel.state().layout.islands.map(({ u, v, width, height }) => [u, v, width, height]),
    );
  const before = await islands();
  expect(before.length).toBeGreaterThan(2);
  await edit(page, 'select', { kind: 'islands', ids: [0, 1] });
  await region.getByRole('combobox', { name: 'Which islands' }).click();
  await page.getByRole('option', { name: /^Only the selected/ }).click();
  await region.getByRole('combobox', { name: 'Into' }).click();
  await page.getByRole('option', { name: 'A rectangle of it' }).click();
  await region.getByRole('button', { name: 'Round the selected' }).click();
  const left = Number(await region.getByRole('textbox', { name: 'Left' }).inputValue());
  expect(left / 2048).toBeCloseTo(Math.max(0, Math.min(...before.slice(0, 2).map(([u, , width]) => u! - width! / 2))), 2);
  for (const [label, value] of [
    ['Left', '1024'],
    ['Bottom', '0'],
    ['Wide', '1024'],
    ['High', '512'],
  ] as const) {
    await region.getByRole('textbox', { name: label }).fill(value);
    await page.keyboard.press('Enter');
  }
  await region.getByRole('button', { name: /^Pack 2 islands/ }).click();
  await expect(page.getByText(/^Packed 2 islands into a rectangle of 2048/)).toBeVisible({ timeout: 60_000 });
  await settled(page);
  const after = await islands();
  expect(after.slice(2)).toEqual(before.slice(2));
  for (const [u, v, width, height] of after.slice(0, 2) as [number, number, number, number][]) {
    expect(u - width / 2).toBeGreaterThanOrEqual(0.5);
    expect(u + width / 2).toBeLessThanOrEqual(1);
    expect(v - height / 2).toBeGreaterThanOrEqual(0);
    expect(v + height / 2).toBeLessThanOrEqual(0.25);
  }
});
