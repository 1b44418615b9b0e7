import { expect, test, type Page } from './test.ts';
import { checkLayout, joinParts, openFiles } from '@jig-peel/core';
import { benchReady, colorAt, deliverFiles, drop, goTo, look, placePx, settled, still, watchErrors } from './bench.ts';

/** Is the model drawn at a place in space? The ground of the view is the colour of a corner of it. */
async function isDrawnAt(page: Page, place: [number, number, number]): Promise<boolean> {
  const { x, y } = await placePx(page, place);
  const view = (await page.locator('[data-view="model"]').boundingBox())!;
  const [here, ground] = [await colorAt(page, x, y), await colorAt(page, view.x + 8, view.y + view.height - 8)];
  return Math.hypot(...here.map((value, k) => value - ground[k]!)) > 20;
}

const choose = async (page: Page, form: string) => {
  await page.getByRole('button', { name: 'Light and marking' }).click();
  await page.getByRole('group', { name: 'Form' }).getByRole('button', { name: form }).click();
};

const cube =
  [0, 1, 2, 3, 4, 5, 6, 7].map((p) => `v ${p & 1 ? 1 : -1} ${p & 2 ? 1 : -1} ${p & 4 ? 1 : -1}\n`).join('') +
  ['1 3 4 2', '5 6 8 7', '1 2 6 5', '3 7 8 4', '1 5 7 3', '2 4 8 6'].map((face) => `f ${face}\n`).join('');

test('the form is looked at smoothed and with rounded edges, the layout with it; it follows edits, and is delivered where asked for', async ({ page }) => {
  const errors = watchErrors(page);
  await page.goto('/');
  await drop(page, [{ name: 'cube.obj', text: cube }]);
  await benchReady(page);
  await settled(page);
  await look(page, 0.6, 0.5);
  await still(page);
  // close to the corner that points at the eye's left, where a smoothed box is no more
  const corner: [number, number, number] = [-0.96, 0.96, 0.96];
  const middle: [number, number, number] = [0, 0, 1];
  expect([await isDrawnAt(page, corner), await isDrawnAt(page, middle)]).toEqual([true, true]);

  await choose(page, 'Smoothed');
  const told = page.getByRole('status').filter({ hasText: 'faces' });
  await expect(told).toHaveText('96 faces');
  await page.keyboard.press('Escape');
  await expect.poll(() => isDrawnAt(page, corner)).toBe(false);
  expect(await isDrawnAt(page, middle)).toBe(true);

  // what is done to the layout is measured on it a moment later
  await goTo(page, 'Seams');
  await page.getByRole('button', { name: 'Make a first layout' }).first().click();
  await settled(page);
  await page.getByRole('button', { name: 'Light and marking' }).click();
  await expect(told).toHaveText(/^96 faces; stretch 4\.[1-9]\d+, cage 4\.000$/);
  await page.keyboard.press('Escape');
  await expect.poll(() => isDrawnAt(page, corner)).toBe(false);

  await choose(page, 'Rounded');
  await page.keyboard.press('Escape');
  await expect.poll(() => isDrawnAt(page, corner)).toBe(true);
  await page.getByRole('button', { name: 'To the cage' }).click();
  await expect(page.getByRole('button', { name: 'To the cage' })).toHaveCount(0);

  await goTo(page, 'Deliver');
  const panel = page.getByRole('region', { name: 'Station deliver' });
  await panel.getByRole('combobox', { name: 'Form of the models' }).click();
  await page.getByRole('option', { name: 'smoothed twice' }).click();
  const files = await deliverFiles(page);
  const name = [...files.keys()].find((one) => one.endsWith('.obj'))!;
  const { mesh, set } = joinParts((await openFiles([{ name, bytes: files.get(name)! }], 'again')).parts);
  expect(mesh.faceStart.length - 1).toBe(6 * 16);
  const { report } = checkLayout(mesh, set, 1024, 1024);
  expect([report.facesWithoutUv, report.flippedTriangles]).toEqual([0, 0]);
  expect(errors).toEqual([]);
});

test('relief is raised to real height, follows its layer, and goes where there is none', async ({ page }) => {
  const errors = watchErrors(page);
  await page.goto('/');
  await drop(page, [{ name: 'cube.obj', text: cube }]);
  await benchReady(page);
  await settled(page);
  await page.getByRole('button', { name: 'Light and marking' }).click();
  await expect(page.getByRole('group', { name: 'Form' }).getByRole('button', { name: 'Raised' })).toBeDisabled();
  await page.keyboard.press('Escape');
  const edit = (name: string, params: object) =>
    page.evaluate(
      ([step, given]) =>
        (window as unknown as { jigPeel: { edit(name: string, params: object): Promise<unknown> } }).jigPeel.edit(step as string, given as object),
      [name, params] as const,
    );
  const layer = { name: 'raised', to: 'relief', source: { kind: 'colour', colour: '#ffffff' }, strength: 0.5 };
  await edit('addLayer', { layer });
  await settled(page);
  await look(page, 0, 0);
  await still(page);
  // beside the cage, where only a side that stands out further is seen
  const beside: [number, number, number] = [1.35, 0, 0.3];
  expect(await isDrawnAt(page, beside)).toBe(false);
  await choose(page, 'Raised');
  await expect(page.getByRole('status').filter({ hasText: 'faces' })).toHaveText('1,536 faces');
  await page.keyboard.press('Escape');
  await expect.poll(() => isDrawnAt(page, beside)).toBe(true);
  await edit('setLayer', { layer: { ...layer, id: 'layer-1', strength: 0.1 } });
  await expect.poll(() => isDrawnAt(page, beside)).toBe(false);
  await edit('setLayer', { layer: { ...layer, id: 'layer-1', strength: 0.5 } });
  await expect.poll(() => isDrawnAt(page, beside)).toBe(true);
  await edit('removeLayer', { layer: 'layer-1' });
  await expect(page.getByText('No layer of this part goes to relief: the cage is shown.')).toBeVisible();
  await expect.poll(() => isDrawnAt(page, beside)).toBe(false);
  await expect(page.getByRole('button', { name: 'To the cage' })).toHaveCount(0);
  expect(errors).toEqual([]);
});
