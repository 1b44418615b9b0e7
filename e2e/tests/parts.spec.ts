import { expect, test, type Page } from './test.ts';
import {
  benchReady,
  choosePart,
  deliverFiles,
  drop,
  gauge,
  gaugeValue,
  goTo,
  look,
  openForm,
  placePx,
  selected,
  settled,
  still,
  views,
  watchErrors,
} from './bench.ts';

/** Boxes of the given places, each an object of its own with a group and a material. */
function boxes(places: [number, number, number][]): string {
  const lines: string[] = [];
  places.forEach(([x, y, z], n) => {
    lines.push(`o crate ${n + 1}`, `g lid ${n + 1}`, `usemtl wood ${n % 3}`);
    for (let k = 0; k < 8; k++) lines.push(`v ${x + (k & 1)} ${y + ((k >> 1) & 1)} ${z + (k >> 2)}`);
    const b = n * 8 + 1;
    for (const f of [
      [0, 2, 3, 1],
      [4, 5, 7, 6],
      [0, 1, 5, 4],
      [2, 6, 7, 3],
      [0, 4, 6, 2],
      [1, 3, 7, 5],
    ])
      lines.push(`f ${f.map((k) => k + b).join(' ')}`);
  });
  return lines.join('\n');
}
async function open(page: Page, places: [number, number, number][]) {
  await page.goto('/');
  await drop(page, [{ name: 'yard.obj', text: boxes(places) }]);
  await benchReady(page);
  await settled(page);
  await look(page, 0, 0);
  await views(page).focus();
  await page.keyboard.press('f');
  await still(page);
}
const part = (page: Page, name: string) => page.getByRole('button', { name: `Part: ${name}` });
const tree = (page: Page) => page.getByRole('tree', { name: 'Parts, groups and materials' });

test('parts as a kind: other parts are drawn faintly, a click works on one, Shift adds, Ctrl takes away, H hides, A shows', async ({ page }) => {
  const errors = watchErrors(page);
  await open(page, [
    [-1.6, 0, 0],
    [0, 0, 0],
    [1.6, 0, 0],
  ]);
  await expect(part(page, 'crate 1')).toBeVisible();
  // further away, so that all three are in sight
  const r = (await page.locator('[data-view="model"]').boundingBox())!;
  await page.mouse.move(r.x + r.width / 2, r.y + r.height / 2);
  for (let k = 0; k < 8; k++) await page.mouse.wheel(0, 120);
  await still(page);
  await page.keyboard.press('1');
  const click = async (x: number, keys: 'Shift' | 'Control' | null = null) => {
    const at = await placePx(page, [x, 0.5, 1]);
    if (keys) await page.keyboard.down(keys);
    await page.mouse.click(at.x, at.y);
    if (keys) await page.keyboard.up(keys);
    await settled(page);
    await still(page);
  };
  await click(0.5);
  await expect(part(page, 'crate 2')).toBeVisible();
  await expect(selected(page)).toHaveText('1 part');
  await click(2.1, 'Shift');
  await expect(selected(page)).toHaveText('2 parts');
  await expect(part(page, 'crate 3')).toBeVisible();
  await click(0.5, 'Control');
  await expect(selected(page)).toHaveText('1 part');
  await page.keyboard.press('Control+i');
  await expect(selected(page)).toHaveText('2 parts');
  await page.keyboard.press('h');
  await settled(page);
  await expect(part(page, 'crate 3')).toBeVisible();
  await goTo(page, 'Intake');
  await expect(page.getByRole('button', { name: 'Show all parts (2 hidden)' })).toBeVisible();
  await views(page).focus();
  await page.keyboard.press('a');
  await expect(page.getByRole('button', { name: /Show all parts/ })).toBeHidden();
  // rules for elements say why they do not apply to parts
  await page.getByRole('button', { name: 'More ways to select' }).click();
  await expect(page.getByRole('menuitem', { name: /Flat region.*choose one of these kinds/ })).toBeVisible();
  await page.keyboard.press('Escape');
  expect(errors).toEqual([]);
});

test('the tree: groups and materials select, hide, show alone and are renamed', async ({ page }) => {
  await open(page, [
    [0, 0, 0],
    [2, 0, 0],
  ]);
  await goTo(page, 'Intake');
  await page.getByRole('button', { name: 'Open crate 1' }).click();
  await page.getByRole('button', { name: 'Select the group lid 1' }).click();
  await expect(selected(page)).toHaveText('6 faces');
  await page.getByRole('button', { name: 'More for wood 0' }).click();
  await page.getByRole('menuitem', { name: 'Rename' }).click();
  await page.getByLabel('Name of the material').fill('larch');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('button', { name: 'Select the material larch' })).toBeVisible();
  // a name that is taken is told, and nothing is lost
  await page.getByRole('button', { name: 'Hide crate 1' }).click();
  await expect(part(page, 'crate 2')).toBeVisible();
  await expect(tree(page).getByText('hidden')).toBeVisible();
  await page.getByRole('button', { name: 'Show crate 1' }).click();
  await expect(tree(page).getByText('hidden')).toBeHidden();
  // hiding a whole group of the only part with it would hide the part: said in words
  await page.getByRole('button', { name: 'Work on crate 1' }).click();
  await page.getByRole('button', { name: 'Hide lid 1' }).click();
  await expect(page.getByText('That would hide the whole part.', { exact: false }).first()).toBeVisible();
});

test('a hundred parts: the tree draws only what is in sight, any part is worked on, the rest stays as context', async ({ page }) => {
  const errors = watchErrors(page);
  const places = Array.from({ length: 100 }, (_, k): [number, number, number] => [(k % 10) * 1.5, Math.floor(k / 10) * 1.5, 0]);
  await open(page, places);
  await goTo(page, 'Intake');
  await expect(page.getByText('100 parts', { exact: true })).toBeVisible();
  expect(await tree(page).getByRole('treeitem').count()).toBeLessThan(40);
  await page.getByRole('button', { name: 'Part: crate 1' }).click();
  await page.getByRole('menuitem', { name: /crate 97/ }).click();
  await expect(part(page, 'crate 97')).toBeVisible();
  // it comes into sight in the tree
  await expect(tree(page).getByRole('button', { name: 'Work on crate 97' })).toBeVisible();
  await settled(page);
  await page.waitForFunction(() => (window as unknown as { jigPeel: { state(): { contexts: Map<string, unknown> } } }).jigPeel.state().contexts.size >= 99);
  await views(page).focus();
  await page.keyboard.press('1');
  await page.keyboard.press('Control+a');
  await expect(selected(page)).toHaveText('100 parts');
  expect(errors).toEqual([]);
});

test('done marks: islands are ticked off, what is left is counted and shown alone', async ({ page }) => {
  await openForm(page, 'Cylinder');
  await page.keyboard.press('2');
  const command = async (name: string) => {
    await page.keyboard.press('Control+k');
    await page.keyboard.type(name);
    await page
      .getByRole('option', { name: new RegExp(`^${name}`) })
      .first()
      .click();
    await settled(page);
  };
  await page.getByRole('button', { name: 'Select islands' }).click();
  const r = (await page.locator('[data-view="model"]').boundingBox())!;
  await page.mouse.click(r.x + r.width / 2, r.y + r.height / 2);
  await expect(selected(page)).toHaveText('1 island');
  await command('Mark the selected as done');
  await expect(gauge(page, 'To do')).toContainText('2 of 3');
  await gauge(page, 'To do').click();
  await settled(page);
  // the side is gone: a click there reaches no side face
  await expect(gauge(page, 'To do')).toHaveAttribute('aria-pressed', 'true');
  await gauge(page, 'To do').click();
  await settled(page);
  await expect(gauge(page, 'To do')).toHaveAttribute('aria-pressed', 'false');
  await page.reload();
  await benchReady(page);
  await settled(page);
  await expect(gauge(page, 'To do')).toContainText('2 of 3');
});

test('a mesh of two materials: a sheet for each, each packed by itself, the file has the whole; put together again', async ({ page }) => {
  // two boxes in one object, their layouts on one another as each fills the image of its material
  const points: string[] = [];
  const faces: string[] = [];
  for (const [k, name] of ['wood', 'iron'].entries()) {
    faces.push(`usemtl ${name}`);
    for (let p = 0; p < 8; p++) points.push(`v ${k * 2 + (p & 1)} ${(p >> 1) & 1} ${p >> 2}`);
    for (const face of [
      [1, 3, 4, 2],
      [5, 6, 8, 7],
      [1, 2, 6, 5],
      [3, 7, 8, 4],
      [1, 5, 7, 3],
      [2, 4, 8, 6],
    ])
      faces.push(`f ${face.map((p, c) => `${p + k * 8}/${c + 1}`).join(' ')}`);
  }
  await page.goto('/');
  await drop(page, [{ name: 'crate.obj', text: [...points, 'vt 0 0', 'vt 1 0', 'vt 1 1', 'vt 0 1', ...faces].join('\n') }]);
  await benchReady(page);
  await settled(page);
  await goTo(page, 'intake');
  await page.getByRole('button', { name: 'A sheet for each material' }).click();
  await expect(page.getByText('Split 1 part into 2, by material, on 2 sheets')).toBeVisible();
  await goTo(page, 'pack');
  await expect(page.getByRole('group', { name: 'Sheet wood, shown' })).toBeVisible();
  await expect(page.getByRole('group', { name: 'Sheet iron' })).toContainText('crate · iron');
  await expect(page.getByRole('button', { name: 'A sheet for each material' })).toHaveCount(0);
  // each sheet is packed by itself
  for (const part of ['crate · wood', 'crate · iron']) {
    await choosePart(page, part);
    await goTo(page, 'pack');
    await page.getByRole('button', { name: /^Pack \d+ islands?/ }).click();
    await settled(page);
    expect(await gaugeValue(page, 'Overlap')).toBe(0);
  }
  await goTo(page, 'deliver');
  const files = await deliverFiles(page);
  const obj = new TextDecoder().decode([...files].find(([name]) => name.endsWith('.obj'))![1]);
  expect(obj.match(/^v .*/gm)).toEqual(points);
  expect(obj.match(/^(usemtl|f) /gm)).toHaveLength(14);
  expect(obj.match(/^o .*/gm) ?? []).toHaveLength(1);
  await page.keyboard.press('Shift+1');
  await page.getByRole('button', { name: 'More for crate · iron' }).click();
  await page.getByRole('menuitem', { name: /^Put together again/ }).click();
  await expect(page.getByText('Put 2 pieces together again: 1 part')).toBeVisible();
  await expect(page.getByRole('button', { name: 'A sheet for each material' })).toBeVisible();
});
