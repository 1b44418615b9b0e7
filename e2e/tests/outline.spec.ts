import { encode } from 'fast-png';
import { expect, test, type Page } from './test.ts';
import { benchReady, drop, goTo, settled, uvPx, views, watchErrors } from './bench.ts';

const size = 256;
/** A card with a slanted side, as u and v of its rows and columns. */
const place = (s: number, t: number): [number, number] => [0.2 + s * (0.35 + 0.2 * t), 0.3 + 0.4 * t];

/** The card as it was cut, 4 units wide to the picture's whole, laid out turned and too small. */
function card(): string {
  const lines = ['o card'];
  const n = 6;
  for (let r = 0; r <= n; r++)
    for (let c = 0; c <= n; c++) {
      const [u, v] = place(c / n, r / n);
      const [x, y] = [u - 0.5, v - 0.5];
      lines.push(`v ${4 * u} ${4 * v} 0`, `vt ${0.55 + 0.6 * (0.9 * x - 0.44 * y)} ${0.45 + 0.6 * (0.44 * x + 0.9 * y)}`);
    }
  for (let r = 0; r < n; r++)
    for (let c = 0; c < n; c++) {
      const a = r * (n + 1) + c + 1;
      lines.push(`f ${[a, a + 1, a + n + 2, a + n + 1].map((k) => `${k}/${k}`).join(' ')}`);
    }
  return lines.join('\n') + '\n';
}

function picture(): number[] {
  const data = new Uint8Array(size * size * 4);
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++) {
      const [u, v] = [(x + 0.5) / size, 1 - (y + 0.5) / size];
      const t = (v - 0.3) / 0.4;
      if (t > 0 && t < 1 && u > 0.2 && u < 0.2 + 0.35 + 0.2 * t) data.set([190, 80 + ((60 * Math.floor(u * 10)) % 120), 60, 255], (y * size + x) * 4);
    }
  return [...encode({ width: size, height: size, data, channels: 4, depth: 8 })];
}

interface Handle {
  state(): {
    layout: { cornerUv: Float32Array };
    geometry: { corners: Uint32Array; points: Float32Array };
    summary: { jigs: { name: string; words: string }[] };
  };
  shownUvs(): Float32Array;
  edit(name: string, params: object): Promise<unknown>;
  place(x: number, y: number, z: number): { x: number; y: number };
}
type Bench = { jigPeel: Handle };

/** How far corners are from where the picture has them, px of it: mean. */
const off = (page: Page): Promise<number> =>
  page.evaluate((px) => {
    const { layout, geometry } = (window as unknown as Bench).jigPeel.state();
    let sum = 0;
    geometry.corners.forEach(
      (p, c) => (sum += Math.hypot(layout.cornerUv[c * 2]! - geometry.points[p * 3]! / 4, layout.cornerUv[c * 2 + 1]! - geometry.points[p * 3 + 1]! / 4)),
    );
    return (sum / geometry.corners.length) * px;
  }, size);

async function open(page: Page): Promise<void> {
  await page.goto('/');
  await drop(page, [{ name: 'card.obj', text: card() }]);
  await benchReady(page);
  await page.evaluate(
    (bytes) => (window as unknown as Bench).jigPeel.edit('addImages', { images: [{ name: 'card.png', bytes: Uint8Array.from(bytes) }], show: true }),
    picture(),
  );
  await settled(page);
}

test('an island is matched to the outline of its picture: shown with its figure, dropped by Escape, taken, undone; a point catches at the outline', async ({
  page,
}) => {
  const errors = watchErrors(page);
  await open(page);
  await goTo(page, 'Shape');
  expect(await off(page)).toBeGreaterThan(20);
  await page.getByRole('button', { name: 'Match to the picture' }).click();
  await page.getByRole('button', { name: 'Show it' }).click();
  const figures = page.getByRole('table', { name: 'How far borders are off' });
  await expect(figures.getByRole('row')).toHaveCount(2);
  await expect(figures).toContainText(/A\s*0\.\d\d/);
  // shown, not done
  expect(await off(page)).toBeGreaterThan(20);
  await views(page).focus();
  await page.keyboard.press('Escape');
  await expect(figures).toHaveCount(0);
  await page.getByRole('button', { name: 'Show it' }).click();
  await page.getByRole('button', { name: 'Match so' }).click();
  await settled(page);
  await expect.poll(() => off(page)).toBeLessThan(0.7);
  await page.keyboard.press('Control+z');
  await settled(page);
  expect(await off(page)).toBeGreaterThan(20);
  // with its shape: the border is on the outline, as this layout is a turned copy no stretch comes of it
  await page.getByRole('combobox', { name: 'What may change' }).click();
  await page.getByRole('option', { name: 'of each, and its shape' }).click();
  await page.getByRole('button', { name: 'Show it' }).click();
  await expect(figures).toContainText(/→ 4\.0\d/);
  await page.getByRole('button', { name: 'Match so' }).click();
  await settled(page);
  await expect.poll(() => off(page)).toBeLessThan(1);

  // a corner drawn beside the outline goes onto it
  await page.getByRole('button', { name: 'Match to the picture' }).click();
  await page.getByRole('button', { name: 'Catch at' }).click();
  for (const name of ['Other islands', 'Sheet and tiles']) await page.getByRole('switch', { name }).uncheck();
  await page.getByRole('switch', { name: 'Picture’s outline' }).check();
  await views(page).focus();
  await page.keyboard.press('5');
  const corner = await page.evaluate(() => {
    const { layout } = (window as unknown as Bench).jigPeel.state();
    let best = 0;
    for (let c = 0; c < layout.cornerUv.length / 2; c++)
      if (layout.cornerUv[c * 2]! + layout.cornerUv[c * 2 + 1]! > layout.cornerUv[best * 2]! + layout.cornerUv[best * 2 + 1]!) best = c;
    return [layout.cornerUv[best * 2]!, layout.cornerUv[best * 2 + 1]!] as const;
  });
  const from = await uvPx(page, ...corner);
  await page.mouse.click(from.x, from.y);
  await settled(page);
  // near the middle of the slanted side, some px beside it
  const to = await uvPx(page, ...place(1, 0.6));
  await page.waitForTimeout(300);
  await page.mouse.move(from.x, from.y);
  await page.mouse.down();
  await page.mouse.move((from.x + to.x) / 2, (from.y + to.y) / 2, { steps: 3 });
  await page.waitForTimeout(150);
  await page.mouse.move(to.x + 4, to.y + 1, { steps: 3 });
  await page.waitForTimeout(150);
  await page.mouse.up();
  await settled(page);
  const beside = await page.evaluate(() => {
    const { layout } = (window as unknown as Bench).jigPeel.state();
    let least = 1;
    for (let c = 0; c < layout.cornerUv.length / 2; c++) {
      const [u, v] = [layout.cornerUv[c * 2]!, layout.cornerUv[c * 2 + 1]!];
      // on the slanted side, at the height it was drawn to
      if (Math.abs(v - (0.3 + 0.4 * 0.6)) < 0.02) least = Math.min(least, Math.abs(u - (0.55 + 0.2 * ((v - 0.3) / 0.4))));
    }
    return least;
  });
  expect(beside * size).toBeLessThan(0.6);
  expect(errors).toEqual([]);
});

test('a picture in space: its place found by the outline, or by two points and where they are in it', async ({ page }) => {
  const errors = watchErrors(page);
  await open(page);
  await goTo(page, 'Jigs');
  await page.getByRole('button', { name: 'Picture in space' }).click();
  await page.getByRole('button', { name: 'Find its place' }).click();
  await settled(page);
  await expect.poll(() => off(page)).toBeLessThan(0.7);
  await expect(page.getByRole('list', { name: 'How far outlines are off' })).toContainText(/card\s*0\.\d\d px off/);
  // the same picture at a wrong width, then laid by two points
  await page.getByRole('switch', { name: 'Its width is known' }).check();
  await page.getByRole('button', { name: 'Stand it there' }).click();
  await settled(page);
  expect(await off(page)).toBeGreaterThan(20);
  await page.evaluate(() => (window as unknown as { jigPeel: { look(a: number, e: number): void } }).jigPeel.look(0, 0));
  await page.getByRole('button', { name: 'By two points' }).click();
  for (const [s, t] of [
    [0, 0],
    [1, 1],
  ] as const) {
    const [u, v] = place(s, t);
    await expect(page.getByText(/Click the (first|second) point on the model/)).toBeVisible();
    // a little inside of the corner: the mesh's own point is meant
    const inside = place(s * 0.97 + 0.015, t * 0.97 + 0.015);
    const point = await page.evaluate(([x, y]) => (window as unknown as Bench).jigPeel.place(x!, y!, 0), [4 * inside[0], 4 * inside[1]]);
    await page.mouse.click(point.x, point.y);
    await expect(page.getByText('Click where that is in the picture, on the sheet')).toBeVisible();
    const there = await uvPx(page, u, v);
    await page.mouse.click(there.x, there.y);
  }
  await settled(page);
  // to the px of the screen that was clicked
  await expect.poll(() => off(page)).toBeLessThan(1.5);
  // Escape in the middle asks no further
  await page.getByRole('button', { name: 'By two points' }).click();
  await views(page).focus();
  await page.keyboard.press('Escape');
  await expect(page.getByText(/Click the first point/)).toHaveCount(0);
  expect(errors).toEqual([]);
});
