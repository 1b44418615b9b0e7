import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { expect, type Download, type Locator, type Page } from '@playwright/test';
import { unzipSync } from 'fflate';
import { PNG } from 'pngjs';

const require = createRequire(import.meta.url);

/** The npm package `bunny`'s mesh as OBJ text. */
export function bunnyObj(): string {
  const { positions, cells } = require('bunny') as { positions: number[][]; cells: number[][] };
  return [...positions.map((p) => `v ${p.join(' ')}`), ...cells.map((c) => `f ${c.map((k) => k + 1).join(' ')}`)].join('\n') + '\n';
}

/** Drops files on the jobs page. */
export async function drop(page: Page, files: { name: string; text?: string; bytes?: Uint8Array }[]): Promise<void> {
  await page
    .getByLabel('Model files')
    .setInputFiles(
      files.map(({ name, text, bytes }) => ({ name, mimeType: 'application/octet-stream', buffer: Buffer.from(bytes ?? new TextEncoder().encode(text)) })),
    );
}

/** Waits until the bench shows a job, measured and ready to pick. */
export async function benchReady(page: Page): Promise<void> {
  await page.waitForURL(/\/bench\//, { timeout: 60_000 });
  await page.waitForFunction(() => (window as unknown as { jigPeel?: { ready(): boolean } }).jigPeel?.ready() === true, null, { timeout: 60_000 });
}

export const views = (page: Page): Locator => page.getByRole('application', { name: 'Model and sheet views' });
export const selected = (page: Page): Locator => page.getByRole('status', { name: 'Selection' });
export const gauge = (page: Page, name: string): Locator =>
  page.getByRole('contentinfo', { name: 'Gauges' }).getByRole('button', { name: new RegExp(`^${name} `) });

/** The number that a gauge shows, once the layout has been measured. */
export async function gaugeValue(page: Page, name: string): Promise<number> {
  await settled(page);
  const label = await gauge(page, name).textContent();
  return Number(/[-\d.]+/.exec(label!.slice(name.length + 1))![0]);
}

/** Waits until nothing runs, the layout is measured and the last step is kept. */
export async function settled(page: Page): Promise<void> {
  await page.evaluate(() => (window as unknown as { jigPeel: { idle(): Promise<void> } }).jigPeel.idle());
}

export interface EdgePx {
  edge: number;
  x: number;
  y: number;
}

/** Waits until the model view stands still. */
export async function still(page: Page): Promise<void> {
  let before = '';
  for (let same = 0; same < 3;) {
    await page.waitForTimeout(100);
    const { x, y } = await placePx(page, [0, 0, 0]);
    const other = await placePx(page, [1, 1, 1]);
    const now = [x, y, other.x, other.y].map((v) => v.toFixed(2)).join();
    same = now === before ? same + 1 : 0;
    before = now;
  }
}

/** A visible edge of the model near a place in space, and where it is in the page. */
export async function edgeNear(page: Page, place: [number, number, number], along?: [number, number, number]): Promise<EdgePx> {
  await still(page);
  const found = await page.evaluate(
    ({ place: p, along: a }) => {
      const handle = (
        window as unknown as {
          jigPeel: { state(): { geometry: { edgePoints: Uint32Array; points: Float32Array } }; edge(e: number): { x: number; y: number; visible: boolean } };
        }
      ).jigPeel;
      const { edgePoints, points } = handle.state().geometry;
      const scored: [number, number][] = [];
      for (let e = 0; e < edgePoints.length / 2; e++) {
        const i = edgePoints[e * 2]! * 3;
        const j = edgePoints[e * 2 + 1]! * 3;
        let d = Math.hypot(...[0, 1, 2].map((k) => (points[i + k]! + points[j + k]!) / 2 - p[k]!));
        if (a) {
          const v = [0, 1, 2].map((k) => points[j + k]! - points[i + k]!);
          const cos = Math.abs(v[0]! * a[0] + v[1]! * a[1] + v[2]! * a[2]) / (Math.hypot(...v) * Math.hypot(...a));
          d *= 1 + 4 * (1 - cos);
        }
        scored.push([d, e]);
      }
      scored.sort((x, y) => x[0] - y[0]);
      for (const [, e] of scored.slice(0, 400)) {
        const at = handle.edge(e);
        if (at.visible) return { edge: e, x: at.x, y: at.y };
      }
      return null;
    },
    { place, along },
  );
  expect(found, 'an edge that can be seen').not.toBeNull();
  return found!;
}

/** Turns the model view. */
export async function look(page: Page, azimuth: number, elevation: number): Promise<void> {
  await page.evaluate(([a, e]) => (window as unknown as { jigPeel: { look(a: number, e: number): void } }).jigPeel.look(a!, e!), [azimuth, elevation]);
  await page.waitForTimeout(150);
}

/** Page px of a place in space. */
export async function placePx(page: Page, place: [number, number, number]): Promise<{ x: number; y: number }> {
  return page.evaluate(
    (p) => (window as unknown as { jigPeel: { place(x: number, y: number, z: number): { x: number; y: number } } }).jigPeel.place(p[0]!, p[1]!, p[2]!),
    place,
  );
}

/** Has the part at work delivered alone. */
export async function onlyThisPart(page: Page): Promise<void> {
  await page.getByRole('combobox', { name: 'Parts' }).click();
  await page.getByRole('option', { name: / only$/ }).click();
}

/** Presses Deliver and returns the files, unpacked if they came as one zip. */
export async function deliverFiles(page: Page): Promise<Map<string, Uint8Array>> {
  const download = page.waitForEvent('download');
  await page
    .getByRole('region', { name: 'Station deliver' })
    .getByRole('button', { name: /^Deliver( all \d+ parts| .* only)?$/ })
    .click();
  return filesOf(await download);
}

export async function filesOf(download: Download): Promise<Map<string, Uint8Array>> {
  const bytes = new Uint8Array(await readFile(await download.path()));
  const name = download.suggestedFilename();
  return new Map(name.endsWith('.zip') ? Object.entries(unzipSync(bytes)) : [[name, bytes]]);
}

/** Collects errors of the page; a test asserts that there were none. */
export function watchErrors(page: Page): string[] {
  const errors: string[] = [];
  page.on('pageerror', (error) => errors.push(error.message));
  page.on('console', (message) => {
    if (message.type() === 'error') errors.push(message.text());
  });
  return errors;
}

/** Colour of a place in the page, averaged over 5 × 5 px: [red, green, blue]. */
export async function colorAt(page: Page, x: number, y: number): Promise<[number, number, number]> {
  const bytes = await page.screenshot({ clip: { x: Math.round(x) - 2, y: Math.round(y) - 2, width: 5, height: 5 } });
  const { data } = PNG.sync.read(bytes);
  const sum = [0, 0, 0];
  for (let k = 0; k < data.length; k += 4) for (let c = 0; c < 3; c++) sum[c]! += data[k + c]! / (data.length / 4);
  return sum as [number, number, number];
}

/** Page px of a place on the sheet. */
export async function uvPx(page: Page, u: number, v: number): Promise<{ x: number; y: number }> {
  return page.evaluate(([a, b]) => (window as unknown as { jigPeel: { uv(u: number, v: number): { x: number; y: number } } }).jigPeel.uv(a!, b!), [u, v]);
}

/** Opens the bench with a starter form, ready. */
export async function openForm(page: Page, kind: string): Promise<void> {
  await page.goto('/');
  await page.getByRole('button', { name: kind, exact: true }).click();
  await benchReady(page);
  await settled(page);
}

/** Goes to a station by its name. */
export const goTo = (page: Page, station: string): Promise<void> =>
  page.getByRole('navigation', { name: 'Stations' }).getByRole('button', { name: station }).click();

/** Brings another part to work. */
export async function choosePart(page: Page, name: string): Promise<void> {
  await page.getByRole('button', { name: /^Part: / }).click();
  await page.getByRole('menuitem', { name }).click();
  await settled(page);
}
