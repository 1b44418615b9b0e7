import { expect, test } from './test.ts';
import { readFileSync } from 'node:fs';
import { benchReady, drop, edgeNear, goTo, selected, settled, views } from './bench.ts';

const box = 'v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv 0 0 1\nv 1 0 1\nv 1 1 1\nv 0 1 1\nf 1 4 3 2\nf 5 6 7 8\nf 1 2 6 5\nf 2 3 7 6\nf 3 4 8 7\nf 4 1 5 8\n';

test.describe('without the server', () => {
  test.use({ serviceWorkers: 'allow' });
  test('the app works from what the browser keeps: a sample opens, a cut is done, the job is there after a reload', async ({ page, context }) => {
    await page.goto('/');
    await expect(page.getByText('they work without the server and without a network')).toBeVisible({ timeout: 60_000 });
    // the page is served by what was kept from the next load on
    await page.reload();
    await context.setOffline(true);
    await page.reload();
    await page.getByRole('button', { name: /Skerry Quay.*demo job/ }).click();
    await benchReady(page);
    await page.getByRole('button', { name: 'Leave the walk' }).click();
    await goTo(page, 'Pack');
    await page.getByRole('button', { name: 'Pack', exact: true }).last().click();
    await settled(page);
    await page.goto('/guide#pack');
    await expect(page.getByRole('heading', { name: 'Pack', exact: true })).toBeInViewport();
    await page.goto('/batches');
    await expect(page.getByRole('alert')).toContainText('The server does not answer');
    await page.goto('/');
    await page.getByRole('button', { name: /^Skerry Quay.*parts/ }).click();
    await benchReady(page);
    await context.setOffline(false);
  });
});

test('the first walk comes once with the demo job, follows what is done, and does not come back by itself', async ({ page }) => {
  await page.goto('/');
  await page.getByRole('button', { name: /Skerry Quay.*demo job/ }).click();
  await benchReady(page);
  const walk = page.getByRole('complementary', { name: 'First walk' });
  await expect(walk).toContainText('1 of 4');
  const edge = await edgeNear(page, [0, 0.5, 0]);
  await page.mouse.click(edge.x, edge.y);
  await expect(selected(page)).toContainText('1 edge');
  await views(page).press('x');
  await expect(walk).toContainText('Done.');
  await walk.getByRole('button', { name: 'Next' }).click();
  await walk.getByRole('button', { name: 'Next' }).click();
  await walk.getByRole('button', { name: 'Go to Pack' }).click();
  await expect(page.getByRole('region', { name: 'Station pack' })).toBeVisible();
  await walk.getByRole('button', { name: 'Leave the walk' }).click();
  await expect(walk).toHaveCount(0);
  await page.goto('/');
  await page.getByRole('button', { name: /Skerry Quay.*demo job/ }).click();
  await benchReady(page);
  await settled(page);
  await expect(walk).toHaveCount(0);
  // only when it is asked for
  await page.keyboard.press('Control+k');
  await page.keyboard.type('First walk');
  await page
    .getByRole('option', { name: /^First walk/ })
    .first()
    .click();
  await expect(walk).toContainText('1 of 4');
});

test('the guide opens beside the bench, at the station', async ({ page, context }) => {
  await page.goto('/');
  await drop(page, [{ name: 'box.obj', text: box }]);
  await benchReady(page);
  await goTo(page, 'Check');
  const opened = context.waitForEvent('page');
  await page.getByRole('button', { name: 'Guide' }).click();
  const guide = await opened;
  await expect(guide).toHaveURL(/\/guide#check$/);
  await expect(guide.getByRole('heading', { name: 'Check', exact: true })).toBeInViewport();
  await guide.getByRole('navigation', { name: 'Chapters' }).getByRole('link', { name: 'Recipes' }).click();
  await expect(guide.getByRole('heading', { name: 'Recipes', exact: true })).toBeInViewport();
});

test('old jobs go into archives and then into the bin', async ({ page }) => {
  await page.goto('/');
  await drop(page, [{ name: 'box.obj', text: box }]);
  await benchReady(page);
  await page.goto('/');
  await page.getByRole('button', { name: 'Put old jobs into archives' }).click();
  const card = page.getByRole('region', { name: 'Old jobs into archives' });
  // worked on today: nothing is ticked by itself
  await expect(card.getByRole('button', { name: 'Archive 0 jobs' })).toBeDisabled();
  await card.getByRole('checkbox').check();
  const download = page.waitForEvent('download');
  await card.getByRole('button', { name: 'Archive 1 job' }).click();
  expect((await download).suggestedFilename()).toBe('box.jigpeel');
  await expect(page.getByText('Bin: 1 job')).toBeVisible();
  const [chooser] = await Promise.all([page.waitForEvent('filechooser'), page.getByRole('button', { name: 'Open files' }).click()]);
  await chooser.setFiles({ name: 'box.jigpeel', mimeType: 'application/zip', buffer: readFileSync(await (await download).path()) });
  await benchReady(page);
});
