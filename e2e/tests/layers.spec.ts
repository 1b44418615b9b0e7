import { expect, test, type Page } from './test.ts';
import { encode } from 'fast-png';
import { benchReady, choosePart, colorAt, drop, goTo, look, placePx, settled } from './bench.ts';
import { blendColours } from '../../core/src/images/surface/blend.ts';
import { blendModes, mostLayers } from '../../core/src/images/surface/names.ts';
import { withPower } from '../playwright.config.ts';

test.use({ storageState: withPower('off') });

interface Handle {
  edit(name: string, params: object): Promise<{ ok: boolean; report?: Record<string, unknown>; sentence?: string }>;
  compared(points: [number, number][]): Promise<{ drawn: number[]; core: number[]; shares: number[] }[]>;
  rect(view: 'model'): { width: number; height: number };
  state(): { setLook(look: object): void; set(patch: object): void };
}
const edit = (page: Page, name: string, params: object) =>
  page.evaluate(
    async ([name, params]) => {
      const outcome = await (window as unknown as { jigPeel: Handle }).jigPeel.edit(name as string, params as object);
      if (!outcome.ok) throw new Error(outcome.sentence);
      return outcome.report!;
    },
    [name, params] as const,
  );

interface Difference {
  /** What 99 of 100 channels stay within: lines are drawn over a few. */
  most: number;
  mean: number;
  count: number;
}

/** Differences between what is drawn and what core says is there, 0 to 255, over places away from the edges of triangles. */
async function difference(page: Page, apart = 6): Promise<Difference> {
  return page.evaluate(async (apart) => {
    const { jigPeel } = window as unknown as { jigPeel: Handle };
    const { width, height } = jigPeel.rect('model');
    const points: [number, number][] = [];
    for (let y = 8; y < height - 8; y += apart) for (let x = 8; x < width - 8; x += apart) points.push([x, y]);
    const found = await jigPeel.compared(points);
    const all: number[] = [];
    for (const { drawn, core, shares } of found) {
      if (Math.min(shares[1]!, shares[2]!, shares[3]!) < 0.1 || core[3]! < 0.999) continue;
      for (let c = 0; c < 3; c++) all.push(Math.abs(drawn[c]! - core[c]! * 255));
    }
    all.sort((a, b) => a - b);
    return { most: all[Math.floor(all.length * 0.99)]!, mean: all.reduce((sum, d) => sum + d, 0) / all.length, count: all.length / 3 };
  }, apart);
}

/** A cube with a corner cut off, so that not all faces look along an axis; each face with the whole UV square. */
const cube = `v -0.5 -0.5 0.5
v 0.5 -0.5 0.5
v 0.5 0.5 0.1
v -0.5 0.5 0.1
v -0.5 -0.5 -0.5
v 0.5 -0.5 -0.5
v 0.5 0.5 -0.5
v -0.5 0.5 -0.5
vt 0 0
vt 1 0
vt 1 1
vt 0 1
f 1/1 2/2 3/3 4/4
f 2/1 6/2 7/3 3/4
f 6/1 5/2 8/3 7/4
f 5/1 1/2 4/3 8/4
f 4/1 3/2 7/3 8/4
f 5/1 6/2 2/3 1/4
`;

/** A smooth picture, small, so that it is drawn enlarged: graphics reduce pictures by copies of their own. */
function picture(): number[] {
  const [width, height] = [9, 6];
  const data = new Uint8Array(width * height * 3);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) data.set([128 + 100 * Math.sin(x * 2), 128 + 90 * Math.cos(y * 1.6), 20 + 24 * x], (y * width + x) * 3);
  return [...encode({ width, height, data, channels: 3, depth: 8 })];
}

async function start(page: Page): Promise<string> {
  page.on('console', (message) => {
    if (message.text().includes('Shader Error')) console.log(message.text().slice(0, 3000));
  });
  // faces so large that their edges take up little of what is seen
  await page.goto('/');
  await drop(page, [{ name: 'cube.obj', text: cube }]);
  await benchReady(page);
  await settled(page);
  await page.evaluate((bytes) => {
    const { jigPeel } = window as unknown as { jigPeel: Handle };
    jigPeel.state().setLook({ light: 'even' });
    return jigPeel.edit('addImages', { images: [{ name: 'smooth.png', bytes: Uint8Array.from(bytes) }], show: false });
  }, picture());
  const image = await page.evaluate(
    () => (window as unknown as { jigPeel: { state(): { summary: { images: { id: string }[] } } } }).jigPeel.state().summary.images[0]!.id,
  );
  await edit(page, 'addLayer', { layer: { name: 'under', source: { kind: 'image', image } } });
  await page.evaluate(() => (window as unknown as { jigPeel: Handle }).jigPeel.state().set({ overlay: 'picture' }));
  await settled(page);
  return image;
}

test('the graphics draw each blend mode and each driver as core has it', async ({ page }) => {
  test.setTimeout(400_000);
  // a shader is the same however many px it is drawn for, and the processor draws them here
  await page.setViewportSize({ width: 900, height: 640 });
  const image = await start(page);
  await page.getByRole('button', { name: 'Model view alone' }).click();
  const noise = { kind: 'noise', noise: { seed: 2, size: 0.3, detail: 2 }, colours: ['#203060', '#f0d080'] };
  const over = (more: object) => ({ id: 'layer-2', name: 'over', source: noise, opacity: 0.7, ...more });
  const { id: _, ...first } = over({});
  await edit(page, 'addLayer', { layer: first });
  const found: Record<string, Difference> = {};
  const look = async (name: string, layer: object) => {
    await edit(page, 'setLayer', { layer });
    await settled(page);
    found[name] = await difference(page);
  };
  for (const blend of blendModes) await look(blend, over({ blend }));
  const image2 = { kind: 'image', image, channel: 'all' };
  await look('triplanar', over({ source: image2, driver: { kind: 'triplanar', size: 0.7, blend: 0.6, offset: [0.1, 0.2, 0.3], turn: [20, 40, 60] } }));
  await look(
    'decal',
    over({
      source: image2,
      driver: { kind: 'decal', centre: [0.5, 0, 0], right: [0, 0, -1], up: [0, 1, 0], size: [1.6, 1.2], depth: 2, facing: 100, bend: 40 },
    }),
  );
  await look(
    'placed',
    over({
      source: image2,
      placement: { repeats: [1.2, 0.8], turn: 25, offset: [0.2, 0.1], pivot: [0.5, 0.5], mirrorU: true, mirrorV: false, outsideU: 'mirror', outsideV: 'edge' },
    }),
  );
  await look('adjusted', over({ adjust: { black: 0.1, white: 0.8, gamma: 1.4, brightness: 1.2, contrast: 0.8, saturation: 1.5, hue: 70 } }));
  await look('channel', over({ source: { kind: 'image', image, channel: 'green' } }));
  const fade = { kind: 'fade', fade: { shape: 'linear', from: [0, 0.5, 0], to: [0, -0.5, 0] }, ragged: 0.4, noise: { seed: 5, size: 0.2, detail: 3 } };
  await look('masks', over({ masks: [fade, { kind: 'faces', faces: [0, 1, 2], how: 'or' }, { kind: 'noise', isInverted: true }, { kind: 'image', image }] }));
  // of two faces beside each other, one of them large: each has border edges of its own
  await look('soft edge', over({ masks: [{ kind: 'faces', faces: [0, 1], soft: 0.3 }] }));
  await look('by chance', over({ masks: [{ kind: 'each', by: 'island', seed: 7, low: 0.2, high: 0.9 }] }));
  await look('key', over({ source: image2, masks: [{ kind: 'key', colour: '#c08040', near: 0.1, soft: 0.4 }] }));
  await look('brush', over({ masks: [{ kind: 'brush', dabs: [0.5, 0, 0.2, 0.4, 1, 0.5, 0.2, 0.1, 0.3, -0.5] }] }));
  // as many layers as there may be, each brushed: more than the graphics have places for textures
  for (let k = 3; k <= mostLayers; k++) {
    const dabs = [0.5, 0.4 - k * 0.05, (k % 5) * 0.2 - 0.4, 0.3, 0.6];
    const source = k % 3 === 0 ? image2 : { kind: 'colour', colour: `#${((k * 1234567) & 0xffffff).toString(16).padStart(6, '0')}` };
    await edit(page, 'addLayer', { layer: { name: `many ${k}`, source, opacity: 0.5, blend: blendModes[k], masks: [{ kind: 'brush', dabs }] } });
  }
  await settled(page);
  found['sixteen layers'] = await difference(page);
  for (const [name, { most, mean, count }] of Object.entries(found)) {
    expect(count, name).toBeGreaterThan(1000);
    expect(most, `${name}: drawn and core differ by so much`).toBeLessThanOrEqual(2);
    expect(mean, name).toBeLessThan(0.6);
  }
});

test('blend modes are those of the browser’s own canvas', async ({ page }) => {
  await page.goto('/');
  const pairs = Array.from({ length: 40 }, (_, k) => [0, 1, 2, 3, 4, 5].map((c) => (k * 37 + c * 71 + k * k * 13) % 256));
  const modes = blendModes.filter((mode) => mode !== 'normal');
  const theirs = await page.evaluate(
    ([modes, pairs]) => {
      const c = new OffscreenCanvas(1, 1).getContext('2d', { willReadFrequently: true })!;
      return modes.map((mode) =>
        pairs.map(([r, g, b, x, y, z]) => {
          c.globalCompositeOperation = 'source-over';
          c.fillStyle = `rgb(${r} ${g} ${b})`;
          c.fillRect(0, 0, 1, 1);
          c.globalCompositeOperation = mode as GlobalCompositeOperation;
          c.fillStyle = `rgb(${x} ${y} ${z})`;
          c.fillRect(0, 0, 1, 1);
          return [...c.getImageData(0, 0, 1, 1).data.slice(0, 3)];
        }),
      );
    },
    [modes, pairs] as const,
  );
  const own = new Float64Array(3);
  modes.forEach((mode, m) =>
    pairs.forEach((pair, k) => {
      blendColours(
        mode,
        pair.slice(0, 3).map((x) => x / 255),
        pair.slice(3).map((x) => x / 255),
        own,
      );
      for (let c = 0; c < 3; c++) expect(Math.abs(own[c]! * 255 - theirs[m]![k]![c]!), `${mode} of ${pair.join()}`).toBeLessThanOrEqual(2);
    }),
  );
});

interface Seen {
  summary: {
    parts: {
      id: string;
      imageId: string | null;
      layers:
        { name: string; isOn: boolean; opacity: number; driver: { kind: string; centre?: number[]; bend?: number }; masks: { dabs?: number[] }[] }[] | null;
    }[];
    activePart: string;
    images: { name: string }[];
    history: { sentence: string }[];
  };
}
const seen = (page: Page) => page.evaluate(() => (window as unknown as { jigPeel: { state(): Seen } }).jigPeel.state());
const layersOf = async (page: Page) => {
  const { summary } = await seen(page);
  return summary.parts.find(({ id }) => id === summary.activePart)!.layers ?? [];
};

test.describe('by hand', () => {
  test.use({ storageState: withPower('on') });

  test('an image dragged from the list onto the model is a decal there; its handles move, size and turn it, by pointer and keys', async ({ page }) => {
    await page.goto('/');
    await drop(page, [{ name: 'cube.obj', text: cube }]);
    await benchReady(page);
    await goTo(page, 'Images');
    await page.getByLabel('Image files').setInputFiles([{ name: 'stamp.png', mimeType: 'image/png', buffer: Buffer.from(picture()) }]);
    await settled(page);
    const model = page.locator('[data-view="model"]');
    const view = (await model.boundingBox())!;
    await page
      .getByRole('list', { name: 'Images of the job' })
      .getByText('stamp.png')
      .dragTo(model, { targetPosition: { x: view.width / 2, y: view.height / 2 } });
    await expect.poll(async () => (await layersOf(page)).map(({ name }) => name)).toEqual(['Decal stamp']);
    await settled(page);
    const decal = async () =>
      (await layersOf(page))[0]!.driver as unknown as { size: [number, number]; centre: [number, number, number]; up: [number, number, number] };
    const put = await decal();
    const handles = page.getByRole('group', { name: 'Handles of Decal stamp' });
    const middleOf = async (name: string | RegExp) => {
      const box = (await handles.getByRole('button', { name }).boundingBox())!;
      return [box.x + box.width / 2, box.y + box.height / 2] as const;
    };
    const dragBy = async (name: string | RegExp, share: number, drops = false) => {
      const [x, y] = await middleOf(name);
      const [cx, cy] = await middleOf(/^Move the decal/);
      await page.mouse.move(x, y);
      await page.mouse.down();
      await page.mouse.move(x + (x - cx) * share, y + (y - cy) * share, { steps: 4 });
      if (drops) await page.keyboard.press('Escape');
      await page.mouse.up();
      await settled(page);
    };
    // Escape in the middle of it puts it back
    await dragBy('Size of the decal', 0.5, true);
    expect(await decal()).toEqual(put);
    await dragBy('Size of the decal', 0.5);
    const larger = await decal();
    expect(larger.size[0] / put.size[0]).toBeGreaterThan(1.3);
    expect(larger.size[0] / larger.size[1]).toBeCloseTo(put.size[0] / put.size[1], 6);
    await dragBy('Width of the decal', -0.4);
    const narrower = await decal();
    expect(narrower.size[0]).toBeLessThan(larger.size[0] * 0.8);
    expect(narrower.size[1]).toBeCloseTo(larger.size[1], 9);
    await handles.getByRole('button', { name: /^Turn the decal/ }).focus();
    await page.keyboard.press('ArrowRight');
    await settled(page);
    const turned = await decal();
    const along = turned.up.reduce((sum, x, d) => sum + x * put.up[d]!, 0);
    expect((Math.acos(along) * 180) / Math.PI).toBeCloseTo(15, 4);
    await handles.getByRole('button', { name: /^Move the decal/ }).focus();
    await page.keyboard.press('ArrowUp');
    await settled(page);
    const moved = await decal();
    expect(Math.hypot(...moved.centre.map((x, d) => x - turned.centre[d]!))).toBeCloseTo(turned.size[1] * 0.05, 6);
    // each is one step
    for (let k = 0; k < 4; k++) {
      await page.getByLabel('Undo').click();
      await settled(page);
    }
    expect(await decal()).toEqual(put);
    // over the sheet the part shows it
    await page.getByRole('list', { name: 'Images of the job' }).getByText('stamp.png').dragTo(page.locator('[data-view="sheet"]'));
    await expect(page.getByRole('list', { name: 'Images of the job' })).toContainText('on this part');
  });

  test('layers by hand: added, reordered by keys, a decal dragged and wrapped, a mask brushed, baked, shown, undone', async ({ page }) => {
    test.setTimeout(120_000);
    await page.goto('/');
    await drop(page, [{ name: 'cube.obj', text: cube }]);
    await benchReady(page);
    await goTo(page, 'Images');
    await page.getByLabel('Image files').setInputFiles([{ name: 'stamp.png', mimeType: 'image/png', buffer: Buffer.from(picture()) }]);
    await settled(page);
    const add = async (name: string) => {
      await page.getByRole('button', { name: 'Add a layer' }).click();
      await page.getByRole('menuitem', { name }).click();
      await settled(page);
    };
    await add('A colour');
    await add('Noise, by the place in space');
    expect((await layersOf(page)).map(({ name }) => name)).toEqual(['Colour', 'Noise']);
    // the topmost is told first; taken with Space, moved with an arrow, put down with Space
    await page.getByRole('button', { name: 'Move Noise', exact: true }).focus();
    await page.keyboard.press('Space');
    await page.waitForTimeout(300);
    await page.keyboard.press('ArrowDown');
    await page.waitForTimeout(300);
    await page.keyboard.press('Space');
    await expect.poll(async () => (await layersOf(page)).map(({ name }) => name)).toEqual(['Noise', 'Colour']);
    // what is here: the topmost layer first, the picture under them last; nothing beside the model; the one selected face without a pointer
    await page.getByRole('button', { name: 'What is here' }).click();
    const here = page.getByRole('list', { name: 'What is here' });
    const model = page.locator('[data-view="model"]');
    const whole = (await model.boundingBox())!;
    await page.mouse.move(whole.x + whole.width / 2 - 2, whole.y + whole.height / 2);
    await page.mouse.move(whole.x + whole.width / 2, whole.y + whole.height / 2);
    await expect(here.getByRole('listitem')).toHaveText([
      /^All together#[\da-f]{6}/,
      /^Colour#[\da-f]{6} 50 %/,
      /^Noise#[\da-f]{6} 60 %/,
      /^stamp\.png#[\da-f]{6} 100 %/,
    ]);
    await page.mouse.move(whole.x + 4, whole.y + whole.height / 2);
    await expect(here).toBeHidden();
    await page.evaluate(() =>
      (window as unknown as { jigPeel: { edit(n: string, p: object): Promise<unknown> } }).jigPeel.edit('select', { kind: 'faces', ids: [0] }),
    );
    await page.keyboard.press('3');
    await expect(here).toContainText('In the middle of the selected face');
    await page.getByRole('button', { name: 'What is here' }).click();
    // by keys on the slider: one step for each press
    const opacity = page.getByRole('slider', { name: 'Opacity' });
    await opacity.focus();
    await page.keyboard.press('ArrowLeft');
    await expect.poll(async () => (await layersOf(page)).find(({ name }) => name === 'Noise')!.opacity).toBeCloseTo(0.59, 6);

    await page.getByRole('button', { name: 'Put a decal' }).click();
    await page.getByRole('menuitem', { name: 'stamp.png' }).click();
    // the menu takes its time to go, and the press would be its own
    await expect(page.locator('.MuiBackdrop-root')).toHaveCount(0);
    const view = (await page.locator('[data-view="model"]').boundingBox())!;
    const [cx, cy] = [view.x + view.width / 2, view.y + view.height / 2];
    await page.mouse.click(cx, cy);
    await expect.poll(async () => (await layersOf(page)).length).toBe(3);
    const put = (await layersOf(page)).at(-1)!;
    expect(put).toMatchObject({ name: 'Decal stamp', driver: { kind: 'decal' } });
    await page.mouse.move(cx, cy);
    await page.mouse.down();
    await page.mouse.move(cx + 20, cy - 10, { steps: 3 });
    // Escape in the middle of it puts it back
    await page.keyboard.press('Escape');
    await page.mouse.up();
    await settled(page);
    expect((await layersOf(page)).at(-1)!.driver.centre).toEqual(put.driver.centre);
    await page.mouse.move(cx, cy);
    await page.mouse.down();
    await page.mouse.move(cx + 30, cy - 12, { steps: 4 });
    await page.mouse.up();
    await expect.poll(async () => (await layersOf(page)).at(-1)!.driver.centre).not.toEqual(put.driver.centre);
    await page.getByRole('button', { name: 'Drag over the model moves it' }).click();
    await page.getByRole('slider', { name: 'Wrapped round' }).focus();
    await page.keyboard.press('ArrowRight');
    await expect.poll(async () => (await layersOf(page)).at(-1)!.driver.bend).toBe(5);

    await page.getByRole('button', { name: 'Mask it' }).click();
    await page.getByRole('menuitem', { name: 'Brushed on the model' }).click();
    await settled(page);
    await page.getByRole('button', { name: 'Brush it' }).click();
    await page.mouse.move(cx - 20, cy);
    await page.mouse.down();
    await page.mouse.move(cx + 40, cy, { steps: 6 });
    await page.mouse.up();
    await expect.poll(async () => (await layersOf(page)).at(-1)!.masks[0]!.dabs!.length).toBeGreaterThan(5);
    await page.getByRole('button', { name: 'A drag over the model brushes' }).click();
    // the mask alone is white on black; the layer alone is the stamp; then everything again
    await settled(page);
    const spread = (rgb: readonly number[]) => Math.max(...rgb) - Math.min(...rgb);
    expect(spread(await colorAt(page, cx + 10, cy))).toBeGreaterThan(12);
    await page.getByRole('button', { name: 'Show this mask alone' }).click();
    await expect(page.getByText('Only a mask of “Decal stamp” is shown.')).toBeVisible();
    await expect.poll(async () => spread(await colorAt(page, cx + 10, cy))).toBeLessThan(12);
    await page.getByRole('button', { name: 'Show this layer alone' }).click();
    await expect(page.getByText('Only “Decal stamp” is shown.')).toBeVisible();
    await page.getByRole('button', { name: 'Show all' }).click();
    await expect.poll(async () => spread(await colorAt(page, cx + 10, cy))).toBeGreaterThan(12);

    const before = await seen(page);
    await page.getByRole('combobox', { name: 'Picture size, px' }).click();
    await page.getByRole('option', { name: '256', exact: true }).click();
    await page.getByRole('button', { name: 'Bake and show' }).click();
    await expect.poll(async () => (await seen(page)).summary.images.length, { timeout: 20_000 }).toBe(before.summary.images.length + 1);
    expect((await layersOf(page)).every(({ isOn }) => !isOn)).toBe(true);
    await page.getByRole('button', { name: 'Undo', exact: true }).click();
    await settled(page);
    expect((await layersOf(page)).every(({ isOn }) => isOn)).toBe(true);

    // the image comes back changed: whatever shows it shows the new one
    const changed = encode({ width: 8, height: 8, data: new Uint8Array(192).fill(200), channels: 3, depth: 8 });
    await page.getByLabel('Image files').setInputFiles([{ name: 'stamp.png', mimeType: 'image/png', buffer: Buffer.from(changed) }]);
    await expect.poll(async () => (await seen(page)).summary.history.at(-1)!.sentence).toContain('now 8 × 8 px instead of 9 × 6 px');
    expect((await seen(page)).summary.images).toHaveLength(1);
  });

  test('seams where the picture jumps are listed, shown, and mended by going on', async ({ page }) => {
    await page.goto('/');
    await drop(page, [{ name: 'cube.obj', text: cube }]);
    await benchReady(page);
    await goTo(page, 'Images');
    await page.getByRole('button', { name: 'Measure the seams' }).click();
    const list = page.getByRole('list', { name: 'Seams where the picture jumps, worst first' });
    const first = list.getByRole('button').first();
    await first.click();
    await settled(page);
    const count = await list.getByRole('button').count();
    expect(count).toBeGreaterThan(2);
    await page
      .getByRole('button', { name: /goes on from/ })
      .first()
      .click();
    await settled(page);
    await expect.poll(async () => (await seen(page)).summary.history.at(-1)!.sentence).toContain('The picture goes on');
    await page.getByRole('button', { name: 'Let all islands go on' }).click();
    await expect.poll(async () => (await seen(page)).summary.history.at(-1)!.sentence).toMatch(/^Placed \d+ islands so that the picture goes on/);
  });
});

test('a decal goes on over the part beside its own, is told there, and moves on both', async ({ page }) => {
  // two squares side by side, facing the eye
  const half = (name: string, x: number, first: number) =>
    `o ${name}\n${[0, 1, 2, 3].map((k) => `v ${x + (k === 1 || k === 2 ? 1 : 0)} ${k > 1 ? 0.5 : -0.5} 0\n`).join('')}f ${[0, 1, 2, 3].map((k) => first + k).join(' ')}\n`;
  await page.goto('/');
  await drop(page, [{ name: 'two.obj', text: half('left', -1, 1) + half('right', 0, 5) }]);
  await benchReady(page);
  await settled(page);
  await goTo(page, 'Images');
  await page.evaluate(() => {
    const { jigPeel } = window as unknown as { jigPeel: Handle };
    jigPeel.state().setLook({ light: 'even' });
    jigPeel.state().set({ overlay: 'picture' });
  });
  await look(page, 0, 0);
  const decal = { kind: 'decal', centre: [0, 0, 0], right: [1, 0, 0], up: [0, 1, 0], size: [0.8, 0.4], depth: 0.1 };
  await edit(page, 'addLayer', { layer: { name: 'stripe', source: { kind: 'colour', colour: '#ff0000' }, driver: decal } });
  await settled(page);
  const isRed = async (x: number) => {
    const { x: px, y: py } = await placePx(page, [x, 0.05, 0]);
    const [red, green] = await colorAt(page, px, py);
    return red - green > 100;
  };
  await expect.poll(() => isRed(-0.2)).toBe(true);
  const other = page.getByText(/^Over them, from other parts/);
  await choosePart(page, 'right');
  await expect(other).toHaveCount(0);
  expect(await isRed(0.2)).toBe(false);
  await choosePart(page, 'left');
  await page.getByRole('button', { name: /^stripe / }).click();
  await page.getByRole('switch', { name: 'On other parts that it reaches, too' }).click();
  await settled(page);
  await choosePart(page, 'right');
  await expect(other).toHaveText('Over them, from other parts, where it is changed: “stripe” of left.');
  await look(page, 0, 0);
  await expect.poll(() => isRed(0.2)).toBe(true);
  // undone while the other part is at work
  await page.keyboard.press('Control+z');
  await expect.poll(() => isRed(0.2)).toBe(false);
  await page.keyboard.press('Control+Shift+z');
  await expect.poll(() => isRed(0.2)).toBe(true);
});

test('a fade is placed by its handles: dragged, let go by Escape, moved by arrow keys, taken back; a round one by its circles', async ({ page }) => {
  await page.goto('/');
  await drop(page, [{ name: 'wall.obj', text: 'v -1 -1 0\nv 1 -1 0\nv 1 1 0\nv -1 1 0\nf 1 2 3 4\n' }]);
  await benchReady(page);
  await settled(page);
  await goTo(page, 'Images');
  await page.evaluate(() => {
    const { jigPeel } = window as unknown as { jigPeel: Handle };
    jigPeel.state().setLook({ light: 'even' });
    jigPeel.state().set({ overlay: 'picture' });
  });
  await look(page, 0, 0);
  const fade = { shape: 'linear', from: [-0.5, 0, 0], to: [0, 0, 0] };
  await edit(page, 'addLayer', { layer: { name: 'wash', source: { kind: 'colour', colour: '#ff0000' }, masks: [{ kind: 'fade', fade }] } });
  await settled(page);
  await page.getByRole('button', { name: /^wash / }).click();
  const isRed = async (x: number, y = 0.3) => {
    const at = await placePx(page, [x, y, 0]);
    const [red, green] = await colorAt(page, at.x, at.y);
    return red - green > 100;
  };
  const fadeNow = async () => ((await layersOf(page))[0]!.masks[0] as unknown as { fade: { from: number[]; to: number[]; outer: number } }).fade;
  await expect.poll(() => isRed(-0.8)).toBe(true);
  expect(await isRed(0.3)).toBe(false);
  const handles = page.getByRole('group', { name: 'Handles of the fade that masks wash' });
  const drag = async (grip: string, x: number, y: number, isLetGo = true) => {
    const box = (await handles.getByRole('button', { name: grip }).boundingBox())!;
    const to = await placePx(page, [x, y, 0]);
    await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
    await page.mouse.down();
    await page.mouse.move((box.x + to.x) / 2, (box.y + to.y) / 2);
    await page.mouse.move(to.x, to.y);
    if (isLetGo) await page.mouse.up();
  };
  await drag('Where it ends', 0.9, 0);
  await expect.poll(async () => (await fadeNow()).to[0]).toBeCloseTo(0.9, 1);
  await drag('Where it is full', 0.6, 0);
  await expect.poll(async () => (await fadeNow()).from[0]).toBeCloseTo(0.6, 1);
  await expect.poll(() => isRed(0.3)).toBe(true);
  const kept = await fadeNow();

  // in the middle of a drag: seen at once, and gone again by Escape
  await drag('Where it is full', 0.6, 0.8, false);
  await page.mouse.move(...(Object.values(await placePx(page, [-0.7, 0, 0])) as [number, number]));
  await page.keyboard.press('Escape');
  await page.mouse.up();
  await settled(page);
  expect(await fadeNow()).toEqual(kept);
  await expect.poll(() => isRed(0.3)).toBe(true);

  await handles.getByRole('button', { name: 'Move the fade' }).focus();
  await page.keyboard.press('ArrowUp');
  await expect.poll(async () => (await fadeNow()).from[1]! - kept.from[1]!).toBeGreaterThan(0.005);
  await page.keyboard.press('Control+z');
  await expect.poll(fadeNow).toEqual(kept);

  await edit(page, 'setLayer', {
    layer: { ...(await layersOf(page))[0]!, masks: [{ kind: 'fade', fade: { shape: 'radial', centre: [0, 0, 0], inner: 0.2, outer: 0.3 } }] },
  });
  await settled(page);
  expect(await isRed(0.7, 0)).toBe(false);
  await drag('Ends at', 0.95, 0);
  await expect.poll(async () => (await fadeNow()).outer).toBeCloseTo(0.95, 1);
  await drag('Full within', 0, 0.85);
  await expect.poll(() => isRed(0.7, 0)).toBe(true);
});
