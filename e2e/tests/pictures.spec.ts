import { expect, test } from './test.ts';
import { readFileSync } from 'node:fs';
import { encode } from 'fast-png';
import { PNG } from 'pngjs';
import { deliverFiles, filesOf, goTo, look, openForm, selected, settled, watchErrors } from './bench.ts';

test('own views are kept with the job, pictures are taken of them at any size, all round, too', async ({ page }) => {
  await openForm(page, 'Cone');
  await goTo(page, 'Check');
  const panel = page.getByRole('region', { name: 'Station check' });
  await panel.getByRole('button', { name: 'Views and pictures' }).click();
  await look(page, 1.2, 0.6);
  await panel.getByLabel('Name of the view').fill('From the bow');
  await page.keyboard.press('Enter');
  await expect(panel.getByRole('button', { name: 'From the bow', exact: true })).toBeVisible();
  await settled(page);
  await page.reload();
  await goTo(page, 'Check');
  await panel.getByRole('button', { name: 'From the bow', exact: true }).click();
  const azimuth = await page.evaluate(() => (window as unknown as { jigPeel: { eye(): { azimuth: number } } }).jigPeel.eye().azimuth);
  expect(azimuth).toBeCloseTo(1.2, 9);

  const take = async (button: string) => {
    const download = page.waitForEvent('download');
    await panel.getByRole('button', { name: button }).click();
    return download;
  };
  await panel.getByLabel('Longer side').click();
  await page.getByRole('option', { name: '4096 px' }).click();
  await panel.getByRole('combobox', { name: 'Shape' }).click();
  await page.getByRole('option', { name: 'square' }).click();
  const large = PNG.sync.read(readFileSync(await (await take('Picture, PNG')).path()));
  expect([large.width, large.height]).toEqual([4096, 4096]);
  const alphas = [0, 0, 0];
  for (let k = 3; k < large.data.length; k += 4) alphas[large.data[k] === 0 ? 0 : large.data[k] === 255 ? 1 : 2]!++;
  // the ground is clear, the cone is not, and pieces meet without a line between them
  expect(large.data[3]).toBe(0);
  expect(alphas[1]).toBeGreaterThan(0.1 * 4096 * 4096);
  expect(alphas[0]).toBeGreaterThan(0.1 * 4096 * 4096);
  await panel.getByLabel('Longer side').click();
  await page.getByRole('option', { name: '512 px' }).click();
  const small = PNG.sync.read(readFileSync(await (await take('Picture, PNG')).path()));
  // the same picture, coarser: mean of eight by eight px
  let difference = 0;
  for (let y = 16; y < 512; y += 16)
    for (let x = 16; x < 512; x += 16) {
      let alpha = 0;
      for (let j = 0; j < 8; j++) for (let i = 0; i < 8; i++) alpha += large.data[((8 * y + j) * 4096 + 8 * x + i) * 4 + 3]! / 64;
      difference += Math.abs(alpha - small.data[(y * 512 + x) * 4 + 3]!) / (31 * 31);
    }
  expect(difference).toBeLessThan(6);
  await panel.getByLabel('Turntable').click();
  await page.getByRole('option', { name: '12 pictures' }).click();
  const round = await filesOf(await take('All round, zip'));
  expect(round.size).toBe(12);
  const [first, quarter] = [...round.values()].map((bytes) => PNG.sync.read(Buffer.from(bytes)));
  expect(Buffer.from(first!.data).equals(Buffer.from(quarter!.data))).toBe(false);
  await expect(panel.getByRole('progressbar')).toHaveCount(0);
});

test('versions are compared under a wipe and by their figures', async ({ page }) => {
  await openForm(page, 'Cylinder');
  await page.keyboard.press('Control+s');
  await page.keyboard.press('Control+a');
  await goTo(page, 'Seams');
  await page.getByRole('button', { name: 'Keep angles' }).click();
  await page.getByRole('button', { name: 'Unwrap all islands' }).click();
  await settled(page);
  await goTo(page, 'Pack');
  await page.getByRole('button', { name: 'Pack', exact: true }).last().click();
  await settled(page);
  await goTo(page, 'Check');
  const panel = page.getByRole('region', { name: 'Station check' });
  await panel.getByRole('button', { name: 'Compare …' }).click();
  const dialog = page.getByRole('dialog', { name: 'Compare' });
  await expect(dialog.getByRole('columnheader', { name: 'Version 1' })).toBeVisible();
  await expect(dialog.getByRole('columnheader', { name: 'as it is now' })).toBeVisible();
  const pictures = () =>
    dialog
      .locator('canvas')
      .evaluateAll((list) => list.map((canvas) => (canvas as HTMLCanvasElement).toDataURL().length * ((canvas as HTMLCanvasElement).width > 100 ? 1 : 0)));
  await expect.poll(async () => (await pictures()).every((length) => length > 2000)).toBe(true);
  const drawn = await dialog.locator('canvas').evaluateAll((list) => list.map((canvas) => (canvas as HTMLCanvasElement).toDataURL()));
  expect(drawn).toHaveLength(4);
  expect(new Set(drawn).size).toBeGreaterThanOrEqual(3);
  await dialog.getByRole('slider', { name: 'Wipe' }).focus();
  await page.keyboard.press('ArrowRight');
  await expect(dialog.getByRole('slider', { name: 'Wipe' })).toHaveValue('51');
  // the same pictures side by side; of one view alone they are larger
  await dialog.getByRole('button', { name: 'Side by side' }).click();
  await expect(dialog.getByRole('slider', { name: 'Wipe' })).toHaveCount(0);
  const stills = dialog.getByRole('img');
  await expect(stills).toHaveCount(4);
  const wide = (await stills.first().boundingBox())!.width;
  await dialog.getByRole('button', { name: 'Model', exact: true }).click();
  await expect(stills).toHaveCount(2);
  const [one, other] = [(await stills.nth(0).boundingBox())!, (await stills.nth(1).boundingBox())!];
  expect(other.x).toBeGreaterThanOrEqual(one.x + one.width);
  expect(other.y).toBe(one.y);
  expect(one.width).toBeGreaterThanOrEqual(wide);
  await page.keyboard.press('Escape');
  await expect(dialog).toHaveCount(0);
});

test('what was seen is kept and compared with what came after, from the same eye; another UV set beside it', async ({ page }) => {
  const errors = watchErrors(page);
  await openForm(page, 'Cylinder');
  await goTo(page, 'Images');
  const region = page.getByRole('region', { name: 'Station images' });
  await expect(region.getByRole('button', { name: 'Compare …' })).toBeDisabled();
  await region.getByRole('button', { name: 'Keep what I see' }).click();
  await expect(page.getByText(/^Both views are kept as “seen at/)).toBeVisible();
  // something else is changed, and the model looked at from elsewhere
  await page.evaluate(() =>
    (window as unknown as { jigPeel: { edit(name: string, params: object): Promise<unknown> } }).jigPeel.edit('settings', { gridKind: 'circles' }),
  );
  await page.evaluate(() =>
    (window as unknown as { jigPeel: { edit(name: string, params: object): Promise<unknown> } }).jigPeel.edit('uvSets', { what: 'copy' }),
  );
  await settled(page);
  await look(page, 2.5, -0.4);
  const eye = () => page.evaluate(() => JSON.stringify((window as unknown as { jigPeel: { eye(): object } }).jigPeel.eye()));
  const before = await eye();
  await region.getByRole('button', { name: 'Compare …' }).click();
  const dialog = page.getByRole('dialog', { name: 'Compare' });
  await expect(dialog.getByRole('img', { name: /^Model, seen at/ })).toBeVisible();
  const now = dialog.getByRole('img', { name: 'Model, as it is now' });
  await expect(now).toBeVisible();
  // from the same eye: the shadow of the model covers the same px, its picture is another one
  const px = (name: RegExp | string) =>
    dialog.getByRole('img', { name }).evaluate((canvas) => {
      const { width, height } = canvas as HTMLCanvasElement;
      return [...(canvas as HTMLCanvasElement).getContext('2d')!.getImageData(0, 0, width, height).data];
    });
  const [a, b] = [await px(/^Model, seen at/), await px('Model, as it is now')];
  expect(a.length).toBe(b.length);
  const ground = a.slice(0, 3);
  const isGround = (data: number[], k: number) => [0, 1, 2].every((d) => Math.abs(data[k + d]! - ground[d]!) < 12);
  let [other, outline] = [0, 0];
  for (let k = 0; k < a.length; k += 4) {
    if (isGround(a, k) !== isGround(b, k)) outline++;
    else if ([0, 1, 2].some((d) => Math.abs(a[k + d]! - b[k + d]!) > 24)) other++;
  }
  expect(outline).toBeLessThan((a.length / 4) * 0.01);
  expect(other).toBeGreaterThan((a.length / 4) * 0.005);
  await dialog.getByRole('combobox', { name: 'Right' }).click();
  await page.getByRole('option', { name: /^UV set/ }).click();
  await expect(dialog.getByRole('img', { name: /^Model, UV set/ })).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(dialog).toHaveCount(0);
  expect(await eye()).toBe(before);
  expect(errors).toEqual([]);
});

test('a picture is seen three times each way', async ({ page }) => {
  await openForm(page, 'Cylinder');
  await goTo(page, 'Images');
  const png = new PNG({ width: 16, height: 8 });
  for (let k = 0; k < png.data.length; k += 4) png.data.set([k % 64 < 32 ? 200 : 20, 40, 40, 255], k);
  await page.getByLabel('Image files').setInputFiles({ name: 'stripes.png', mimeType: 'image/png', buffer: PNG.sync.write(png) });
  await settled(page);
  await page.getByRole('button', { name: 'See it three times each way' }).click();
  const dialog = page.getByRole('dialog', { name: 'stripes.png, three times each way' });
  const nine = dialog.getByRole('img', { name: 'Nine copies of stripes.png' });
  await expect(nine).toHaveCSS('background-size', /^33\.3333% 33\.3333%$/);
  await expect.poll(() => nine.evaluate((box) => getComputedStyle(box).backgroundImage)).toContain('blob:');
  const box = (await nine.boundingBox())!;
  expect(box.width / box.height).toBeCloseTo(2, 1);
  await page.keyboard.press('Escape');
  await expect(dialog).toHaveCount(0);
});

test('a picture is pinned over the model at every station: moved, sized, hidden by one key, kept for the job; never on the model or in a picture of it', async ({
  page,
}) => {
  const errors = watchErrors(page);
  await openForm(page, 'Cone');
  await goTo(page, 'Images');
  const png = new PNG({ width: 60, height: 40 });
  for (let k = 0; k < 60 * 40; k++) png.data.set([210, k % 60 < 30 ? 60 : 180, 60, 255], k * 4);
  await page.getByLabel('Image files').setInputFiles({ name: 'wanted.png', mimeType: 'image/png', buffer: PNG.sync.write(png) });
  const pin = page.getByRole('button', { name: 'Pin wanted.png over the model' });
  await pin.click();
  const pinned = page.getByRole('group', { name: 'Pinned picture wanted.png' });
  await expect(pinned.getByRole('img')).toBeVisible();
  await settled(page);
  const at = async () => (await pinned.boundingBox())!;
  const before = await at();
  expect(before.width / before.height).toBeCloseTo(1.5, 1);
  await page.mouse.move(before.x + 40, before.y + 40);
  await page.mouse.down();
  await page.mouse.move(before.x + 90, before.y - 60, { steps: 4 });
  await page.mouse.up();
  await expect.poll(async () => Math.round((await at()).y)).toBe(Math.round(before.y - 100));
  // in the middle of a drag Escape takes it back
  await page.mouse.down();
  await page.mouse.move(before.x + 120, before.y - 160, { steps: 3 });
  await page.keyboard.press('Escape');
  await page.mouse.up();
  expect(Math.round((await at()).y)).toBe(Math.round(before.y - 100));
  await page.keyboard.press('+');
  await expect.poll(async () => (await at()).width).toBeGreaterThan(before.width * 1.08);
  const kept = await at();

  await goTo(page, 'Seams');
  await expect(pinned).toBeVisible();
  await page.getByRole('application', { name: 'Model and sheet views' }).focus();
  await page.keyboard.press('p');
  await expect(pinned).toBeHidden();
  await page.keyboard.press('p');
  await expect(pinned).toBeVisible();
  await page.reload();
  await expect(pinned.getByRole('img')).toBeVisible({ timeout: 30_000 });
  expect(await at()).toEqual(kept);
  // pinning is no step of the job
  const history = await page.evaluate(() =>
    (window as unknown as { jigPeel: { state(): { summary: { history: { sentence: string }[] } } } }).jigPeel
      .state()
      .summary.history.map(({ sentence }) => sentence),
  );
  expect(history.at(-1)).toContain('Added 1 image');
  // removed from the job it is gone, and back with undo
  await goTo(page, 'Images');
  await page.getByRole('button', { name: 'Remove wanted.png', exact: true }).click();
  await expect(pinned).toBeHidden();
  await page.keyboard.press('Control+z');
  await expect(pinned).toBeVisible();
  await pinned.getByRole('button', { name: 'Unpin wanted.png' }).click();
  await expect(pinned).toBeHidden();
  expect(errors).toEqual([]);
});

test('a set of images is put on a part by one press, moves as one, and goes into the GLB with what is unseen', async ({ page }) => {
  await openForm(page, 'Cylinder');
  await goTo(page, 'Images');
  const grey = (value: number) => {
    const image = new PNG({ width: 8, height: 8 });
    for (let k = 0; k < 64; k++) image.data.set([value, value, value, 255], k * 4);
    return PNG.sync.write(image);
  };
  const named = ['brick_color.png', 'brick_height.png', 'brick_normal.png', 'rough one.png'];
  await page.getByLabel('Image files').setInputFiles(named.map((name, k) => ({ name, mimeType: 'image/png', buffer: grey(60 + 40 * k) })));
  await settled(page);
  // what its name does not say is said by hand
  await page.getByRole('button', { name: 'Say what each image is of' }).click();
  await page.getByLabel('Set of rough one.png').fill('brick');
  await page.keyboard.press('Enter');
  await page.getByRole('listitem', { name: 'rough one.png' }).getByRole('combobox', { name: 'Is its' }).click();
  await page.getByRole('option', { name: 'roughness', exact: true }).click();
  await expect(page.locator('.MuiMenu-root')).toHaveCount(0);
  await page.getByRole('dialog').getByRole('button', { name: 'Close' }).click();
  const set = page.getByRole('group', { name: 'Set brick' });
  await set.getByRole('button', { name: 'Put on' }).click();
  await expect(set).toContainText('on this part, normal, roughness unseen');
  // nothing of the set counts as unused
  await expect(page.getByRole('button', { name: /not used/ })).toHaveCount(0);
  await expect(page.getByRole('list', { name: 'Layers, the topmost first' })).toContainText('moves with the picture');
  const repeats = page.getByRole('textbox', { name: 'Repeats across' });
  await repeats.fill('3');
  await page.keyboard.press('Enter');
  await settled(page);
  const { layers } = await page.evaluate(() => {
    const { summary } = (
      window as unknown as { jigPeel: { state(): { summary: { parts: { layers: { placement: { repeats: number[] } }[] }[] } } } }
    ).jigPeel.state();
    return summary.parts[0]!;
  });
  expect(layers[0]!.placement.repeats[0]).toBe(3);
  await goTo(page, 'Deliver');
  const glb = [...(await deliverFiles(page))].find(([name]) => name.endsWith('.glb'))![1];
  const { byteLength } = glb;
  const json = JSON.parse(
    Buffer.from(glb.buffer, glb.byteOffset + 20, new DataView(glb.buffer, glb.byteOffset, byteLength).getUint32(12, true)).toString(),
  ) as {
    materials: { normalTexture: { extensions: Record<string, { scale: number[] }> }; pbrMetallicRoughness: { metallicRoughnessTexture: object } }[];
  };
  expect(json.materials[0]!.normalTexture.extensions['KHR_texture_transform']!.scale[0]).toBeCloseTo(3);
  expect(json.materials[0]!.pbrMetallicRoughness.metallicRoughnessTexture).toBeDefined();
});

test('seams are compared by what is seen; where the sheet is too coarse for the screen is told and selected', async ({ page }) => {
  await openForm(page, 'Cylinder');
  await goTo(page, 'Images');
  await page.getByRole('button', { name: 'By what is seen' }).click();
  await page.getByRole('button', { name: 'Measure the seams' }).click();
  const list = page.getByRole('list', { name: 'Seams where the picture jumps, worst first' });
  await expect(list.getByRole('listitem')).toHaveCount(2);
  await expect(list).toContainText(/colours \d+ of 255 apart/);
  // the other comparison keeps its own list
  await page.getByRole('button', { name: 'By its place' }).click();
  await expect(list).toContainText('px off');
  await page.getByRole('button', { name: 'Sharp enough from where it is seen' }).click();
  const words = page.getByRole('status', { name: 'Sharpness' });
  await expect(words).toContainText('too coarse on 100 %');
  const distance = page.getByRole('textbox', { name: 'Looked at from' });
  await distance.fill('400');
  await page.keyboard.press('Enter');
  await expect(words).toContainText('sharp enough everywhere');
  await distance.fill('1');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Select the 194 faces' }).click();
  await expect(selected(page)).toContainText('194');
});

test('a bake of a sheet of two tiles gives a picture each', async ({ page }) => {
  await openForm(page, 'Cylinder');
  const edit = (name: string, params: object) =>
    page.evaluate(
      ([n, p]) => (window as unknown as { jigPeel: { edit(name: string, params: object): Promise<unknown> } }).jigPeel.edit(n as string, p as object),
      [name, params] as const,
    );
  await edit('sheets', { do: 'change', sheet: 'sheet-1', tiles: 2 });
  await edit('select', { kind: 'islands', ids: [1] });
  await edit('transform', { move: [1, 0] });
  await goTo(page, 'Images');
  await page.getByLabel('A picture of').click();
  await page.getByRole('option', { name: 'Islands', exact: true }).click();
  await page.getByLabel('Picture size, px').click();
  await page.getByRole('option', { name: '256', exact: true }).click();
  await settled(page);
  await page.getByRole('button', { name: 'Bake to a new image' }).click();
  await expect(page.getByRole('list', { name: 'Images of the job' }).getByRole('listitem')).toHaveCount(2);
});

test('islands on which the picture leans are listed, worst first, and selected', async ({ page }) => {
  await openForm(page, 'Cylinder');
  const edit = (name: string, params: object) =>
    page.evaluate(
      ([name, params]) =>
        (window as unknown as { jigPeel: { edit(name: string, params: object): Promise<unknown> } }).jigPeel.edit(name as string, params as object),
      [name, params] as const,
    );
  await goTo(page, 'Images');
  await page.getByRole('button', { name: 'How the picture stands' }).click();
  const words = page.getByRole('status', { name: 'How the picture stands' });
  await expect(words).toHaveText('The picture stands upright on all islands.');
  await edit('select', { kind: 'islands', ids: [0] });
  await edit('transform', { turn: 30 });
  await expect(words).toContainText('It leans on 1 of 1 islands');
  const list = page.getByRole('list', { name: 'Islands on which the picture leans, worst first' });
  await expect(list).toContainText('30° to the right');
  await list.getByRole('button').click();
  await expect(selected(page)).toContainText('1 island');
});

test('a jump of the picture offers what would help, measured; a seam is faded over; a picture is looked up on another part', async ({ page }) => {
  await openForm(page, 'Cylinder');
  await goTo(page, 'Images');
  await page.getByLabel('Image files').setInputFiles([{ name: 'checks.png', mimeType: 'image/png', buffer: checks() }]);
  const images = page.getByRole('list', { name: 'Images of the job' });
  await images.getByRole('button', { name: /^checks/ }).click();
  await settled(page);
  // what it looks like stands beside its name
  await expect
    .poll(() => images.locator('canvas').evaluate((canvas: HTMLCanvasElement) => new Set(canvas.getContext('2d')!.getImageData(0, 0, 64, 64).data).size))
    .toBeGreaterThan(1);
  await expect(page.getByText(/^This part shows one image: .* of graphics memory/)).toBeVisible();
  // round the wall it runs no whole number of times: there it does not meet itself
  await page.evaluate(() =>
    (window as unknown as { jigPeel: { edit(name: string, params: object): Promise<unknown> } }).jigPeel.edit('placeImage', {
      placement: { repeats: [1.3, 1] },
    }),
  );
  await page.getByRole('button', { name: 'Measure the seams' }).click();
  const seams = page.getByRole('list', { name: 'Seams where the picture jumps, worst first' });
  const history = () => page.evaluate(() => (window as unknown as { jigPeel: { state(): State } }).jigPeel.state().summary.history.at(-1)!.sentence);
  await seams.getByRole('button', { name: / to / }).first().click();
  const help = page.getByRole('list', { name: 'What would help' });
  await expect(help.getByRole('listitem')).toHaveCount(6);
  await expect(help.getByRole('button', { name: /goes on from A/ })).toContainText('left here; seams that jump:');
  // the lid's seam goes all round: it cannot be moved, and says so
  await expect(help.getByRole('listitem').filter({ hasText: 'Move it out of sight' })).toContainText('goes all round');
  // the wall of the tube meets itself without a crease: from three sides it looks the same on both sides there
  await seams.getByRole('button', { name: /^within/ }).click();
  await expect(help.getByRole('listitem')).toHaveCount(4);
  const fade = help.getByRole('button', { name: /^Fade over it/ });
  await expect(fade).toContainText(/colours here \d+ → \d/);
  const [before, after] = /(\d+(?:\.\d)?) → (\d+(?:\.\d)?)/
    .exec((await fade.textContent())!)!
    .slice(1)
    .map(Number) as [number, number];
  expect(after).toBeLessThan(before / 3);
  await fade.click();
  await expect.poll(history).toMatch(/^Covered the seam on \d+ faces/);
  await page.getByRole('button', { name: 'By what is seen' }).click();
  await expect(seams.getByRole('listitem').first()).toBeVisible();

  await page.evaluate(() =>
    (window as unknown as { jigPeel: { edit(name: string, params: object): Promise<unknown> } }).jigPeel.edit('makeForm', { kind: 'cylinder' }),
  );
  await settled(page);
  await page.getByRole('combobox', { name: 'Looked up on' }).click();
  await page.getByRole('option', { name: 'Cylinder', exact: true }).click();
  await expect(page.getByRole('textbox', { name: 'No farther away than' })).toBeVisible();
  await page.getByRole('combobox', { name: 'Picture size, px' }).click();
  await page.getByRole('option', { name: '256', exact: true }).click();
  await page.getByRole('button', { name: 'Bake and show' }).click();
  await expect(images.getByRole('listitem')).toHaveCount(2);
  // it was taken from the other part: this one shows nothing of its own
  await expect.poll(history).toContain('Baked colour');
});

interface State {
  summary: { history: { sentence: string }[] };
}

/** A picture of black and white squares. */
const checks = () =>
  Buffer.from(
    encode({
      width: 64,
      height: 64,
      channels: 1,
      depth: 8,
      data: Uint8Array.from({ length: 4096 }, (_, k) => (((k & 8) === 0) !== ((k & 512) === 0) ? 255 : 0)),
    }),
  );
