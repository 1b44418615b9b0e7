import { readFileSync } from 'node:fs';
import { expect, test, type Page } from './test.ts';
import { benchReady, choosePart, drop, gaugeValue, goTo, openForm, selected, settled, views, watchErrors } from './bench.ts';

interface Handle {
  state(): {
    summary: { activePart: string; selection: { kind: string; ids: Uint32Array }; versions: { name: string }[]; parts: { id: string; name: string }[] };
    layout: { islands: unknown[] };
  };
  shownUvs(): number[];
}

const crates = ['crate', 'lid']
  .map(
    (name, k) =>
      `o ${name}\n` +
      [0, 1, 2, 3, 4, 5, 6, 7].map((p) => `v ${(p & 1 ? 1 : -1) + k * 4} ${p & 2 ? 1 : -1} ${p & 4 ? 1 : -1}\n`).join('') +
      ['1 3 4 2', '5 6 8 7', '1 2 6 5', '3 7 8 4', '1 5 7 3', '2 4 8 6']
        .map(
          (face) =>
            `f ${face
              .split(' ')
              .map((p) => Number(p) + k * 8)
              .join(' ')}\n`,
        )
        .join(''),
  )
  .join('');

async function open(page: Page) {
  await page.goto('/');
  await drop(page, [{ name: 'crates.obj', text: crates }]);
  await benchReady(page);
  await settled(page);
}
const state = <T>(page: Page, read: (h: Handle) => T) => page.evaluate(`(${read.toString()})(window.jigPeel)`) as Promise<T>;
const uvs = (page: Page) => state(page, (h) => [...h.shownUvs()]);
const limit = (page: Page, name: string) => page.getByRole('list', { name: 'Limits' }).getByRole('listitem').filter({ hasText: name });

test('limits: what breaks one is stepped through in both views, mended and reported', async ({ page }) => {
  const errors = watchErrors(page);
  await open(page);
  await goTo(page, 'Check');
  await expect(limit(page, 'Faces without UVs').getByRole('img', { name: 'not kept' })).toBeAttached();
  await limit(page, 'Faces without UVs').getByRole('button', { name: 'Faces without UVs: the next place' }).click();
  await settled(page);
  // both parts have none: the other one's are next
  const first = await state(page, (h) => h.state().summary.activePart);
  expect(await state(page, (h) => [h.state().summary.selection.kind, h.state().summary.selection.ids.length])).toEqual(['faces', 6]);
  await limit(page, 'Faces without UVs').getByRole('button', { name: 'Faces without UVs: the next place' }).click();
  await settled(page);
  expect(await state(page, (h) => h.state().summary.activePart)).not.toBe(first);
  await expect(limit(page, 'Faces without UVs')).toContainText('2 of 2');
  for (const name of ['crate', 'lid']) {
    await choosePart(page, name);
    await settled(page);
    await goTo(page, 'Seams');
    const make = page.getByRole('button', { name: 'Make a first layout' });
    if (await make.count()) await make.first().click();
    await settled(page);
  }
  await goTo(page, 'Check');
  await expect(limit(page, 'Faces without UVs').getByRole('img', { name: 'kept', exact: true })).toBeAttached();
  // a limit that is not kept until it is changed
  const islands = limit(page, 'Islands').getByLabel('At most');
  await islands.fill('3');
  await islands.press('Enter');
  await settled(page);
  await expect(limit(page, 'Islands').getByRole('img', { name: 'not kept' })).toBeAttached();
  const [file] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'JSON' }).click()]);
  const report = JSON.parse(readFileSync(await file.path(), 'utf8')) as {
    passed: boolean;
    sheets: { report: { islands: number }; verdicts: { key: string; passed: boolean }[] }[];
  };
  expect(report.passed).toBe(false);
  expect(report.sheets[0]!.report.islands).toBe(12);
  expect(report.sheets[0]!.verdicts.find(({ key }) => key === 'islands')).toMatchObject({ passed: false });
  // what the panel says is what the report says
  const missed = report.sheets[0]!.verdicts.filter(({ passed }) => !passed).length;
  await expect(page.getByRole('status').filter({ hasText: 'limits' })).toContainText(`${missed} of`);
  expect(errors).toEqual([]);
});

test('versions: kept by a key, shown on pointing, compared, taken in pieces, gone back to; still there after a reload', async ({ page }) => {
  await open(page);
  await goTo(page, 'Seams');
  await page.getByRole('button', { name: 'Make a first layout' }).first().click();
  await settled(page);
  await views(page).focus();
  await page.keyboard.press('Control+s');
  await settled(page);
  const kept = await uvs(page);
  await goTo(page, 'Check');
  const rows = page.getByRole('list', { name: 'Versions' }).getByRole('listitem');
  await expect(rows).toHaveCount(1);
  await goTo(page, 'Seams');
  await page.getByLabel('Go on from my seams').click();
  await page.getByRole('button', { name: 'Work out seams' }).click();
  const few = page.getByRole('list', { name: 'Proposed seams' }).getByRole('button').filter({ hasText: 'Few, by stretch' });
  await expect(few).toBeVisible({ timeout: 30_000 });
  await settled(page);
  await few.click();
  await settled(page);
  const other = await uvs(page);
  expect(other).not.toEqual(kept);
  await goTo(page, 'Check');
  await rows.first().hover();
  await expect.poll(() => uvs(page)).toEqual(kept);
  await page.mouse.move(700, 400);
  await expect.poll(() => uvs(page)).toEqual(other);
  await rows.first().getByRole('button', { name: 'What changed' }).click();
  await settled(page);
  await expect(rows.first().getByRole('status')).toContainText('cut or joined');
  await page.mouse.move(700, 400);
  await rows.first().getByRole('button', { name: 'Go back' }).click();
  await settled(page);
  await page.mouse.move(700, 400);
  await expect.poll(() => uvs(page)).toEqual(kept);
  await views(page).focus();
  await page.keyboard.press('Control+z');
  await settled(page);
  await expect.poll(() => uvs(page)).toEqual(other);
  await expect(page.getByText(/saved/).first()).toBeVisible();
  await page.waitForTimeout(800);
  await page.reload();
  await benchReady(page);
  await goTo(page, 'Check');
  await expect(rows).toHaveCount(1);
  await rows
    .first()
    .getByRole('button', { name: /^Remove/ })
    .click();
  await settled(page);
  await expect(rows).toHaveCount(0);
});

test('a recipe of the steps done: kept as a file, a step left out, done on the other part', async ({ page }) => {
  await open(page);
  await goTo(page, 'Seams');
  await page.getByRole('button', { name: 'Make a first layout' }).first().click();
  await settled(page);
  await goTo(page, 'Deliver');
  await page.getByRole('button', { name: 'Recipe' }).click();
  await page.getByRole('button', { name: 'Of my steps' }).click();
  const steps = page.getByRole('list', { name: 'Steps of the recipe' }).getByRole('listitem');
  await expect(steps).toHaveCount(1);
  await expect(steps.first()).toContainText('Make a first layout');
  const [file] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Keep as a file' }).click()]);
  const recipe = JSON.parse(readFileSync(await file.path(), 'utf8')) as { jigPeelRecipe: number; steps: { operation: string }[] };
  expect(recipe).toMatchObject({ jigPeelRecipe: 1, steps: [{ operation: 'firstLayout' }] });
  await page.getByRole('button', { name: 'On all parts' }).click();
  await settled(page);
  // the lid was bare before
  await expect.poll(() => state(page, (h) => h.state().summary.parts.find(({ id }) => id === h.state().summary.activePart)!.name)).toBe('lid');
  expect(await gaugeValue(page, 'Islands')).toBeGreaterThan(0);
  // a file with a step that no rule tells
  const asking = JSON.stringify({ jigPeelRecipe: 1, name: 'r', steps: [{ operation: 'cut', params: {}, asks: 'it is about chosen places of one model.' }] });
  await page.getByLabel('Recipe from a file').setInputFiles({ name: 'recipe.json', mimeType: 'application/json', buffer: Buffer.from(asking) });
  await expect(steps.first()).toContainText('Asks for a person');
  await page.getByRole('button', { name: 'Do on this part' }).click();
  await expect(page.getByText(/asks for a person: it is about chosen places/)).toBeVisible();
  await page.getByLabel('Recipe from a file').setInputFiles({ name: 'x.json', mimeType: 'application/json', buffer: Buffer.from('{}') });
  await expect(page.getByText(/no recipe/).first()).toBeVisible();
});

test('what is too close is marked all at once, until the layout changes; jumps of the picture are asked for where a part has one', async ({ page }) => {
  await openForm(page, 'Cylinder');
  await goTo(page, 'Check');
  const limits = page.getByRole('list', { name: 'Limits' });
  const gap = limits.getByRole('listitem').filter({ hasText: 'Gap between islands' });
  await gap.getByRole('textbox').fill('500');
  await page.keyboard.press('Enter');
  const before = await page.locator('[data-view="sheet"]').screenshot();
  const all = gap.getByRole('button', { name: 'All' });
  await all.click();
  await expect(all).toHaveAttribute('aria-pressed', 'true');
  await settled(page);
  expect((await page.locator('[data-view="sheet"]').screenshot()).equals(before)).toBe(false);
  // nothing was selected for it
  await expect(selected(page)).toHaveText('none selected');
  await goTo(page, 'Pack');
  await page
    .getByRole('region', { name: 'Station pack' })
    .getByRole('button', { name: /^Pack \d/ })
    .click();
  await settled(page);
  await goTo(page, 'Check');
  await expect(all).toHaveAttribute('aria-pressed', 'false');
  const jumps = limits.getByRole('listitem').filter({ hasText: 'Seams where the picture jumps' });
  await jumps.getByRole('switch').click();
  await expect(jumps.getByRole('img', { name: 'kept', exact: true })).toBeAttached();
});
