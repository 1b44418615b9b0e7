import { expect, test, type Page } from './test.ts';
import { benchReady, bunnyObj, choosePart, drop, gaugeValue, goTo, selected, settled, uvPx, views, watchErrors } from './bench.ts';

const edit = (page: Page, name: string, params: object) =>
  page.evaluate(
    ([n, p]) => (window as unknown as { jigPeel: { edit(name: string, params: object): Promise<unknown> } }).jigPeel.edit(n as string, p as object),
    [name, params],
  );
const packButton = (page: Page) => page.getByRole('button', { name: /^Pack \d+ islands?/ });
const packedNote = (page: Page) => page.getByText(/^Packed \d+ islands? on/).last();

/** A bunny cut at its creases and laid flat, at Pack. */
async function openCreased(page: Page) {
  await page.goto('/');
  await drop(page, [{ name: 'bunny.obj', text: bunnyObj() }]);
  await benchReady(page);
  await goTo(page, 'Seams');
  await page.getByRole('button', { name: 'Cut creases' }).click();
  await settled(page);
  await page.getByRole('button', { name: 'Unwrap all islands' }).click();
  await settled(page);
  await goTo(page, 'Pack');
}

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
  await openCreased(page);
  const region = page.getByRole('region', { name: 'Station pack' });
  await region.getByRole('button', { name: /^Pack \d/ }).click();
  await expect(page.getByText(/^Packed \d+ islands? on 2048/)).toBeVisible({ timeout: 60_000 });
  await settled(page);
  interface View {
    islands: { left: number; bottom: number; width: number; height: number }[];
  }
  const islands = () =>
    page.evaluate(() =>
      (window as unknown as { jigPeel: { state(): { layout: View } } }).jigPeel
        .state()
        .layout.islands.map(({ left, bottom, width, height }) => [left, bottom, width, height]),
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
  expect(left / 2048).toBeCloseTo(Math.max(0, Math.min(...before.slice(0, 2).map(([least]) => least!))), 3);
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
  for (const [least, bottom, width, height] of after.slice(0, 2) as [number, number, number, number][]) {
    expect(least).toBeGreaterThanOrEqual(0.5);
    expect(least + width).toBeLessThanOrEqual(1);
    expect(bottom).toBeGreaterThanOrEqual(0);
    expect(bottom + height).toBeLessThanOrEqual(0.25);
  }
});

test('islands go into a polygon that is drawn on the sheet by clicks; it can be changed, left by Escape, and is asked to be closed first', async ({ page }) => {
  await openCreased(page);
  const region = page.getByRole('region', { name: 'Station pack' });
  const packs = region.getByRole('button', { name: /^Pack / });
  await region.getByRole('combobox', { name: 'Into' }).click();
  await page.getByRole('option', { name: 'A polygon of it' }).click();
  // the menu takes its time to go, and presses would be its own
  await expect(page.locator('.MuiBackdrop-root')).toHaveCount(0);
  await expect(packs).toBeDisabled();
  const click = async (u: number, v: number) => {
    const { x, y } = await uvPx(page, u, v);
    await page.mouse.click(x, y);
  };
  const corners = [
    [0.05, 0.05],
    [0.95, 0.05],
    [0.5, 0.9],
  ] as const;
  for (const [u, v] of corners) await click(u, v);
  await expect(region.getByText('3 corners; the first one again closes it.')).toBeVisible();
  await click(...corners[0]);
  await expect(region.getByText(/^3 corners\./)).toBeVisible();
  await expect(packs).toHaveText(/into the polygon/);
  await packs.click();
  await expect(page.getByText(/^Packed \d+ islands? into a polygon of 2048 px/)).toBeVisible({ timeout: 60_000 });
  await settled(page);
  const outside = await page.evaluate(() => {
    const { layout } = (window as unknown as { jigPeel: { state(): { layout: { cornerUv: Float32Array } } } }).jigPeel.state();
    let most = 0;
    for (let k = 0; k < layout.cornerUv.length; k += 2) {
      const [u, v] = [layout.cornerUv[k]!, layout.cornerUv[k + 1]!];
      // below, and beyond either slanted side
      most = Math.max(most, 0.05 - v, (v - 0.05) * 0.45 - (u - 0.05) * 0.85, (v - 0.05) * 0.45 - (0.95 - u) * 0.85);
    }
    return most;
  });
  expect(outside).toBeLessThan(0.003);
  // drawn once more, and left in the middle
  await region.getByRole('button', { name: 'Draw another' }).click();
  await click(0.2, 0.2);
  await views(page).focus();
  await page.keyboard.press('Escape');
  await click(0.4, 0.2);
  await expect(region.getByText(/^1 corner;/)).toBeVisible();
  await region.getByRole('combobox', { name: 'Into' }).click();
  await page.getByRole('option', { name: 'The whole sheet' }).click();
  await expect(packs).toBeEnabled();
});

/** Nine cells across and nine down, and four planks: with UVs, on one sheet. */
function crossObj(): string {
  const lines: string[] = [];
  const vt: string[] = [];
  const faces: string[] = [];
  let n = 0;
  const quad = (x: number, y: number, w: number, h: number, shared: Map<string, number>) => {
    const ids = [
      [x, y],
      [x + w, y],
      [x + w, y + h],
      [x, y + h],
    ].map(([a, b]) => {
      const key = `${a} ${b}`;
      if (!shared.has(key)) {
        shared.set(key, ++n);
        lines.push(`v ${a} ${b} 0`);
        vt.push(`vt ${a! / 20} ${b! / 20}`);
      }
      return shared.get(key)!;
    });
    faces.push(`f ${ids.map((id) => `${id}/${id}`).join(' ')}`);
  };
  const cross = new Map<string, number>();
  for (let k = 0; k < 9; k++) quad(k, 4, 1, 1, cross);
  for (let k = 0; k < 9; k++) if (k !== 4) quad(4, k, 1, 1, cross);
  for (let k = 0; k < 4; k++) quad(11 + k * 2, 1, 1, 3, new Map());
  return [...lines, ...vt, ...faces].join('\n') + '\n';
}

test('an island that is spread out is cut at its necks; islands made a block stay together, also after the page is opened again', async ({ page }) => {
  const errors = watchErrors(page);
  await page.goto('/');
  await drop(page, [{ name: 'cross.obj', text: crossObj() }]);
  await benchReady(page);
  await goTo(page, 'Pack');
  await settled(page);
  await expect(page.getByText(/fills 35 % of its hull and packs badly/)).toBeVisible();
  await page.getByRole('button', { name: 'Cut', exact: true }).click();
  await expect(page.getByText('Cut 1 island at its necks into 3 pieces: 35 → 100 % of the hull filled')).toBeVisible();
  await settled(page);
  await expect(packButton(page)).toHaveText('Pack 7 islands');
  await expect(page.getByText(/packs badly/)).toBeHidden();

  await edit(page, 'select', { kind: 'islands', ids: [3, 4, 5] });
  await page.getByRole('button', { name: 'Block of selected' }).click();
  await expect(page.getByText('1 block, numbered on the sheet.')).toBeVisible();
  await packButton(page).click();
  await expect(packedNote(page)).toBeVisible({ timeout: 20_000 });
  await settled(page);
  const boxes = () =>
    page.evaluate(() =>
      (window as unknown as { jigPeel: { state(): { layout: { islands: { left: number; bottom: number; width: number; height: number }[] } } } }).jigPeel
        .state()
        .layout.islands.map(({ left, bottom, width, height }) => [left, bottom, left + width, bottom + height]),
    );
  const packed = await boxes();
  const block = packed.slice(3, 6).reduce((a, b) => [Math.min(a[0]!, b[0]!), Math.min(a[1]!, b[1]!), Math.max(a[2]!, b[2]!), Math.max(a[3]!, b[3]!)]);
  for (const [left, low, right, high] of [...packed.slice(0, 3), packed[6]!])
    expect(left! < block[2]! && block[0]! < right! && low! < block[3]! && block[1]! < high!).toBe(false);
  await page.reload();
  await benchReady(page);
  await goTo(page, 'Pack');
  await settled(page);
  await expect(page.getByText('1 block, numbered on the sheet.')).toBeVisible();
  expect(await boxes()).toEqual(packed);
  expect(errors).toEqual([]);
});
