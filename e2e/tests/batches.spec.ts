import { expect, test } from './test.ts';
import { readFileSync } from 'node:fs';
import { unzipSync } from 'fflate';
import { benchReady, drop, goTo } from './bench.ts';

const recipe = {
  jigPeelRecipe: 1,
  name: 'Crates, by creases',
  steps: [
    { operation: 'firstLayout', params: { by: 'crease' } },
    { operation: 'pack', params: {} },
  ],
};
const box = (size: number) =>
  `v 0 0 0\nv ${size} 0 0\nv ${size} 1 0\nv 0 1 0\nv 0 0 1\nv ${size} 0 1\nv ${size} 1 1\nv 0 1 1\nf 1 4 3 2\nf 5 6 7 8\nf 1 2 6 5\nf 2 3 7 6\nf 3 4 8 7\nf 4 1 5 8\n`;
const file = (name: string, text: string) => ({ name, mimeType: 'text/plain', buffer: Buffer.from(text) });

test('many models through one recipe: given, followed, fetched, tried again, removed', async ({ page }, { retry }) => {
  // what a try before left on the server is not counted
  const name = `Crates of test ${retry + 1}`;
  await page.goto('/');
  await page.getByRole('link', { name: 'Many models at once' }).click();
  await expect(page.getByRole('button', { name: 'Work them' })).toBeDisabled();
  await page.getByLabel('Recipe file').setInputFiles(file('other.json', '{"a":1}'));
  await expect(page.getByRole('alert')).toContainText('This file is no recipe');
  // all at once: the recipe is found among the models
  await page
    .getByLabel('Models of the batch')
    .setInputFiles([file('recipe.json', JSON.stringify(recipe)), file('one.obj', box(1)), file('two.obj', box(2)), file('bad.ply', 'ply\nx')]);
  await page.getByLabel('Written as').click();
  await page.getByRole('option', { name: 'GLB' }).click();
  await page.getByLabel('Name', { exact: true }).fill(name);
  await page.getByRole('button', { name: 'Work 3 models' }).click();

  const batch = page.getByRole('region', { name: `Batch ${name}` });
  // the server's threads start with the first batch
  await expect(batch.getByText('2 of 3 done · 1 failed')).toBeVisible({ timeout: 60_000 });
  await expect(batch.getByRole('listitem').filter({ hasText: 'bad.ply' })).toContainText('failed');
  const single = page.waitForEvent('download');
  await batch.getByRole('link', { name: 'two.glb' }).click();
  expect(
    readFileSync(await (await single).path())
      .subarray(0, 4)
      .toString(),
  ).toBe('glTF');
  const whole = page.waitForEvent('download');
  await batch.getByRole('link', { name: 'All as a zip' }).click();
  expect(Object.keys(unzipSync(readFileSync(await (await whole).path())))).toEqual(
    expect.arrayContaining(['one/one.glb', 'one/one.report.json', 'two/two.glb', 'batch.json']),
  );
  // what failed is tried again by itself, and fails again; the page is the same after a reload
  await batch.getByRole('button', { name: 'Work bad.ply again' }).click();
  await expect(batch.getByText('2 of 3 done · 1 failed')).toBeVisible();
  await page.reload();
  await expect(batch.getByText('2 of 3 done · 1 failed')).toBeVisible();
  await batch.getByRole('button', { name: 'Remove', exact: true }).click();
  await page.getByRole('alertdialog').getByRole('button', { name: 'Remove' }).click();
  await expect(page.getByRole('region', { name: 'Batches on the server' })).toBeVisible();
  await expect(page.getByRole('link', { name: new RegExp(name) })).toHaveCount(0);
});

test('a recipe made of the steps of a job is handed over; without a server the page says so', async ({ page }) => {
  await page.goto('/');
  await drop(page, [{ name: 'one.obj', text: box(1) }]);
  await benchReady(page);
  await goTo(page, 'Deliver');
  await page.getByRole('button', { name: 'Recipe' }).click();
  await page.getByRole('button', { name: 'From a file' }).click();
  await page.getByLabel('Recipe from a file').setInputFiles(file('recipe.json', JSON.stringify(recipe)));
  await page.getByRole('button', { name: 'On many files …' }).click();
  await expect(page.getByText('Crates, by creases, 2 steps')).toBeVisible();
  await page.route('**/api/**', (route) => route.fulfill({ status: 404, body: 'Not found' }));
  await page.reload();
  await expect(page.getByRole('alert')).toContainText('no server for batches');
});

test('a step of a recipe has its numbers changed by the form of its operation', async ({ page }) => {
  await page.goto('/');
  await drop(page, [{ name: 'one.obj', text: box(1) }]);
  await benchReady(page);
  await goTo(page, 'Deliver');
  await page.getByRole('button', { name: 'Recipe' }).click();
  await page.getByLabel('Recipe from a file').setInputFiles(file('recipe.json', JSON.stringify(recipe)));
  const steps = page.getByRole('list', { name: 'Steps of the recipe' });
  await page.getByRole('button', { name: 'Change the numbers of step 2' }).click();
  const form = page.getByRole('region', { name: 'Numbers of step 2' });
  await form.getByLabel('Gap', { exact: true }).fill('-1');
  await form.getByRole('button', { name: 'Change' }).click();
  await expect(form).toContainText('At least 0.');
  await form.getByLabel('Gap', { exact: true }).fill('4*3');
  await form.getByRole('button', { name: 'Change' }).click();
  await expect(steps.getByRole('listitem').nth(1)).toContainText('gap 12');
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Keep as a file' }).click();
  expect(JSON.parse(readFileSync(await (await download).path(), 'utf8'))).toMatchObject({ steps: [{ params: { by: 'crease' } }, { params: { gap: 12 } }] });
  await expect(page.getByRole('link', { name: 'JSON Schema of recipes' })).toBeVisible();
});
