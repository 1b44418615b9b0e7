import { readFile } from 'node:fs/promises';
import { expect, test, type Page } from './test.ts';
import { zipSync } from 'fflate';
import { PNG } from 'pngjs';
import { benchReady, colorAt, drop, goTo, look, openForm, placePx, settled, still, uvPx, views, watchErrors } from './bench.ts';

/** A quad facing +z whose picture lies in the lower left quarter of the sheet. */
const quad = [
  'mtllib quad.mtl',
  'v 0 0 0',
  'v 1 0 0',
  'v 1 1 0',
  'v 0 1 0',
  'vt 0 0',
  'vt 0.5 0',
  'vt 0.5 0.5',
  'vt 0 0.5',
  'usemtl face',
  'f 1/1 2/2 3/3 4/4',
].join('\n');
const mtl = 'newmtl face\nmap_Kd face.png\n';

/** Red top left, green top right, blue bottom left, see-through yellow bottom right; each of these quarters has a light corner at its own top left. */
function picture(width = 64, height = 64): Uint8Array {
  const png = new PNG({ width, height });
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const [top, left] = [y < height / 2, x < width / 2];
      const color = top ? (left ? [220, 20, 20, 255] : [20, 200, 20, 255]) : left ? [20, 20, 220, 255] : [220, 220, 20, 0];
      png.data.set(color, (y * width + x) * 4);
    }
  return PNG.sync.write(png);
}

const addImages = (page: Page, files: { name: string; bytes: Uint8Array; type?: string }[]) =>
  page.getByLabel('Image files').setInputFiles(files.map(({ name, bytes, type }) => ({ name, mimeType: type ?? 'image/png', buffer: Buffer.from(bytes) })));

type Tone = 'red' | 'green' | 'blue' | 'yellow' | 'light' | 'dark' | 'grey';
function toneOf([r, g, b]: [number, number, number]): Tone {
  if (Math.max(r, g, b) - Math.min(r, g, b) < 40) return r > 190 ? 'light' : r < 70 ? 'dark' : 'grey';
  if (r > 150 && g > 150 && b < 120) return 'yellow';
  return r > g && r > b ? 'red' : g > b ? 'green' : 'blue';
}
async function tonesOnModel(page: Page): Promise<Tone[]> {
  const out: Tone[] = [];
  for (const [x, y] of [
    [0.25, 0.75],
    [0.75, 0.75],
    [0.25, 0.25],
    [0.75, 0.25],
  ] as const) {
    const at = await placePx(page, [x, y, 0]);
    out.push(toneOf(await colorAt(page, at.x, at.y)));
  }
  return out;
}

async function openQuad(page: Page, files: { name: string; text?: string; bytes?: Uint8Array }[]) {
  await page.goto('/');
  await drop(page, files);
  await benchReady(page);
  await settled(page);
  await look(page, 0, 0);
  await goTo(page, 'Images');
  await views(page).focus();
  await page.keyboard.press('f');
  await still(page);
}
async function evenLight(page: Page) {
  await page.getByRole('button', { name: 'Light and marking' }).click();
  await page.getByRole('button', { name: 'Even' }).click();
  await page.keyboard.press('Escape');
  await still(page);
}

test('an image that a material file names is asked for, dropped later, and right way up; channels and alpha are viewable; it is kept', async ({ page }) => {
  const errors = watchErrors(page);
  // the whole picture on the face: the UVs fill the sheet
  const whole = quad.replaceAll('0.5', '1');
  await openQuad(page, [
    { name: 'quad.obj', text: whole },
    { name: 'quad.mtl', text: mtl },
  ]);
  await evenLight(page);
  await expect(page.getByText('One image named in “quad.mtl” is missing: drop it here (face.png).')).toBeVisible();
  await addImages(page, [{ name: 'face.png', bytes: picture() }]);
  await expect(page.getByText(/is missing: drop it here/)).toBeHidden();
  await expect(page.getByRole('button', { name: 'Overlay: Picture' })).toHaveAttribute('aria-pressed', 'true');
  await settled(page);
  // bottom right is see-through: the clay is seen
  expect(await tonesOnModel(page)).toEqual(['red', 'green', 'blue', 'light']);
  // the same places on the sheet
  const sheet: Tone[] = [];
  for (const [u, v] of [
    [0.25, 0.75],
    [0.75, 0.75],
    [0.25, 0.25],
  ] as const) {
    const at = await uvPx(page, u, v);
    sheet.push(toneOf(await colorAt(page, at.x, at.y)));
  }
  expect(sheet).toEqual(['red', 'green', 'blue']);
  const channel = async (name: string) => {
    await page.getByRole('group', { name: 'Channel of the picture' }).getByRole('button', { name }).click();
    await still(page);
    return tonesOnModel(page);
  };
  expect(await channel('Red')).toEqual(['light', 'dark', 'dark', 'light']);
  // what an alpha of 0 hides is still there in its channels
  expect(await channel('Green')).toEqual(['dark', 'light', 'dark', 'light']);
  expect(await channel('Alpha')).toEqual(['light', 'light', 'light', 'dark']);
  await channel('All');
  await settled(page);
  await page.reload();
  await benchReady(page);
  await settled(page);
  await look(page, 0, 0);
  await page.keyboard.press('f');
  await evenLight(page);
  await expect(page.getByRole('button', { name: 'Overlay: Picture' })).toHaveAttribute('aria-pressed', 'true');
  expect((await tonesOnModel(page)).slice(0, 3)).toEqual(['red', 'green', 'blue']);
  expect(errors).toEqual([]);
});

test('JPEG and WebP of any proportion are right way up; dropped on a view; the same picture is kept once', async ({ page }) => {
  await openQuad(page, [{ name: 'quad.obj', text: quad.replaceAll('0.5', '1').replace('mtllib quad.mtl\n', '') }]);
  await evenLight(page);
  for (const type of ['image/jpeg', 'image/webp']) {
    const bytes = await page.evaluate(async (kind) => {
      const canvas = new OffscreenCanvas(120, 40);
      const c = canvas.getContext('2d')!;
      for (const [k, color] of ['#dc1414', '#14c814', '#1414dc', '#dcdc14'].entries()) {
        c.fillStyle = color;
        c.fillRect((k % 2) * 60, Math.floor(k / 2) * 20, 60, 20);
      }
      return [...new Uint8Array(await (await canvas.convertToBlob({ type: kind, quality: 1 })).arrayBuffer())];
    }, type);
    const name = `quarters.${type.slice(6)}`;
    // dropped on the model view
    const data = await page.evaluateHandle(
      ({ list, kind, file }) => {
        const transfer = new DataTransfer();
        transfer.items.add(new File([Uint8Array.from(list)], file, { type: kind }));
        return transfer;
      },
      { list: bytes, kind: type, file: name },
    );
    await page.locator('[data-view="model"]').dispatchEvent('drop', { dataTransfer: data });
    await expect(page.getByText(`${name}`).first()).toBeVisible();
    await settled(page);
    expect(await tonesOnModel(page), type).toEqual(['red', 'green', 'blue', 'yellow']);
  }
  const list = page.getByRole('list', { name: 'Images of the job' });
  await expect(list.getByRole('listitem')).toHaveCount(2);
  await expect(list.getByText('120 × 40 px', { exact: false }).first()).toBeVisible();
  await addImages(page, [{ name: 'a.png', bytes: picture() }]);
  await expect(list.getByRole('listitem')).toHaveCount(3);
  await addImages(page, [{ name: 'copy of a.png', bytes: picture() }]);
  await expect(page.getByText('This image is in the job already').first()).toBeVisible();
  await expect(list.getByRole('listitem')).toHaveCount(3);
});

test('bad and oversized images: a clear sentence, a reduced copy; nothing lost', async ({ page }) => {
  await openQuad(page, [{ name: 'quad.obj', text: quad.replace('mtllib quad.mtl\n', '') }]);
  await addImages(page, [{ name: 'broken.png', bytes: new TextEncoder().encode('this is no picture') }]);
  await expect(page.getByText('“broken.png” is no picture that can be read.', { exact: false }).first()).toBeVisible();
  await addImages(page, [{ name: 'long.png', bytes: picture(9000, 4) }]);
  await expect(page.getByText('9000 × 4 px', { exact: false })).toBeVisible();
  await expect(page.getByText(/Shown from a copy of \d+ px/)).toBeVisible();
  // a picture whose head is whole but whose body is cut off
  await addImages(page, [{ name: 'cut.png', bytes: picture(640, 480).slice(0, 90) }]);
  await expect(page.getByText(/This image cannot be drawn/).first()).toBeVisible();
  await views(page).focus();
  await page.keyboard.press('Control+z');
  await expect(page.getByText('cut.png', { exact: true })).toBeHidden();
});

test('under the islands: picture or grid with its own opacity; removing the image brings the grid back', async ({ page }) => {
  await openQuad(page, [
    { name: 'quad.obj', text: quad },
    { name: 'quad.mtl', text: mtl },
    { name: 'face.png', bytes: picture() },
  ]);
  const bare = await uvPx(page, 0.75, 0.75);
  const before = await colorAt(page, bare.x, bare.y);
  expect(toneOf(before)).toBe('dark');
  await page.getByRole('button', { name: 'Under the islands' }).click();
  await page.getByRole('button', { name: 'Picture', exact: true }).click();
  const slider = page.getByRole('slider', { name: 'Opacity under the islands' });
  await slider.focus();
  await page.keyboard.press('End');
  await page.keyboard.press('Escape');
  await still(page);
  const full = await colorAt(page, bare.x, bare.y);
  expect(toneOf(full)).toBe('green');
  await page.getByRole('button', { name: 'Under the islands' }).click();
  await slider.focus();
  await page.keyboard.press('Home');
  await page.keyboard.press('Escape');
  await still(page);
  const faint = await colorAt(page, bare.x, bare.y);
  expect(Math.abs(faint[1] - before[1])).toBeLessThan(Math.abs(full[1] - before[1]) / 4);
  await page.getByRole('button', { name: 'Remove face.png' }).click();
  await expect(page.getByRole('button', { name: 'Overlay: Picture' })).toBeHidden();
  await expect(page.getByRole('button', { name: 'Overlay: Grid' })).toHaveAttribute('aria-pressed', 'true');
});

test('test grids: five kinds that differ on the model, any size, repeats at hand, G on and off, saved as PNG', async ({ page }) => {
  const errors = watchErrors(page);
  await openForm(page, 'Box');
  await goTo(page, 'Images');
  const model = page.locator('[data-view="model"]');
  const r = (await model.boundingBox())!;
  const seen = new Set<string>();
  for (const kind of ['Letters', 'Squares', 'Circles', 'Stripes (grain)', 'Ramp of u, v']) {
    await page.getByRole('combobox', { name: 'Test grid' }).click();
    await page.getByRole('option', { name: kind }).click();
    await settled(page);
    await still(page);
    seen.add((await page.screenshot({ clip: { x: r.x + r.width / 2 - 60, y: r.y + r.height / 2 - 60, width: 120, height: 120 } })).toString('base64'));
  }
  expect(seen.size).toBe(5);
  await page.getByRole('combobox', { name: 'Size, px', exact: true }).click();
  await page.getByRole('option', { name: '4096' }).click();
  await settled(page);
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Save this grid as PNG' }).click();
  const file = await download;
  expect(file.suggestedFilename()).toBe('test-grid-ramp-4096.png');
  const png = PNG.sync.read(await readFile(await file.path()));
  expect([png.width, png.height]).toEqual([4096, 4096]);
  await page.getByRole('button', { name: 'More repeats' }).click();
  await expect(page.getByText('grid × 4')).toBeVisible();
  await page.getByRole('button', { name: 'Overlay: Density' }).click();
  // the sheet's px over the form's units: a number, not a dash
  await expect(page.getByText(/^px per unit; point at a face/)).toBeVisible();
  await expect
    .poll(() =>
      page.evaluate(() => (window as unknown as { jigPeel: { state(): { density: { middle: number } | null } } }).jigPeel.state().density?.middle ?? 0),
    )
    .toBeGreaterThan(10);
  await page.getByRole('button', { name: 'Overlay: Stretch' }).click();
  await views(page).focus();
  await page.keyboard.press('g');
  await expect(page.getByRole('button', { name: 'Overlay: Grid' })).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.press('g');
  await expect(page.getByRole('button', { name: 'Overlay: Stretch' })).toHaveAttribute('aria-pressed', 'true');
  expect(errors).toEqual([]);
});

test('seeing while working: even light shows colours as they are, the lamp moves, outline only, far side', async ({ page }) => {
  await openForm(page, 'Sphere');
  await page.getByRole('button', { name: 'Overlay: Bare' }).click();
  await views(page).focus();
  const r = (await page.locator('[data-view="model"]').boundingBox())!;
  const left = () => colorAt(page, r.x + r.width / 2 - 70, r.y + r.height / 2);
  const right = () => colorAt(page, r.x + r.width / 2 + 70, r.y + r.height / 2);
  const apart = async () => Math.round((await right())[1] - (await left())[1]);
  await page.getByRole('button', { name: 'Light and marking' }).click();
  await page.getByRole('button', { name: 'Even' }).click();
  await still(page);
  expect(await apart()).toBe(0);
  await page.getByRole('button', { name: 'Lamp' }).click();
  await page.keyboard.press('Escape');
  await still(page);
  expect(await apart()).toBeGreaterThan(30);
  await page.getByRole('button', { name: 'Light and marking' }).click();
  await page.getByRole('slider', { name: 'Lamp: left to right' }).focus();
  await page.keyboard.press('Home');
  await page.keyboard.press('Escape');
  await still(page);
  expect(await apart()).toBeLessThan(-30);
  // outline only: the fill goes, the outline stays
  await page.keyboard.press('3');
  await page.keyboard.press('Control+a');
  await settled(page);
  const filled = await left();
  await page.keyboard.press('w');
  await still(page);
  const outlined = await left();
  expect(Math.hypot(...filled.map((x, k) => x - outlined[k]!))).toBeGreaterThan(25);
  const corner = { x: r.x + r.width - 90, y: r.y + r.height - 160 };
  const empty = await colorAt(page, corner.x, corner.y);
  await page.keyboard.press('b');
  await still(page);
  expect(Math.hypot(...(await colorAt(page, corner.x, corner.y)).map((x, k) => x - empty[k]!))).toBeGreaterThan(15);
});

test('a zip of images comes in whole, its colour on the part; one without images, or damaged, is refused by name', async ({ page }) => {
  await openQuad(page, [{ name: 'quad.obj', text: quad.replace('mtllib quad.mtl\n', '') }]);
  const wood = zipSync({ 'wood/wood_ao.png': picture(8, 8), 'wood/wood_colour.png': picture(16, 8), 'wood/read.txt': Uint8Array.of(65) });
  await addImages(page, [{ name: 'wood.zip', bytes: wood, type: 'application/zip' }]);
  const list = page.getByRole('list', { name: 'Images of the job' });
  await expect(list.getByText('wood_colour.png')).toBeVisible();
  await expect(list.getByText('wood_ao.png')).toBeVisible();
  await expect(list.getByText(/^16 × 8 px .* on this part$/)).toBeVisible();
  await addImages(page, [{ name: 'none.zip', bytes: zipSync({ 'read.txt': Uint8Array.of(65) }), type: 'application/zip' }]);
  await expect(page.getByText(/none\.zip holds no image/).first()).toBeVisible();
  await addImages(page, [{ name: 'cut.zip', bytes: wood.subarray(0, wood.length - 40), type: 'application/zip' }]);
  await expect(page.getByText(/cut\.zip is damaged or cut short/).first()).toBeVisible();
  await expect(list.getByRole('listitem')).toHaveCount(2);
});
