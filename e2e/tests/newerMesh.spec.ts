import { expect, test, type Page } from '@playwright/test';
import { benchReady, drop, gaugeValue, goTo, selected, settled } from './bench.ts';

/** A flat sheet of 8 by 8 quads as OBJ; `lift` raises a point, `columns` are left of it only. */
function sheet(lift: (x: number, y: number) => number, columns = 8): string {
  const points = Array.from({ length: 81 }, (_, k) => [k % 9, Math.floor(k / 9)] as const).map(([x, y]) => `v ${x} ${y} ${lift(x, y)}`);
  const faces = Array.from({ length: 64 }, (_, k) => [k % 8, Math.floor(k / 8)] as const)
    .filter(([x]) => x < columns)
    .map(([x, y]) => `f ${[0, 1, 10, 9].map((d) => y * 9 + x + d + 1).join(' ')}`);
  return ['o sheet', ...points, ...faces].join('\n');
}

async function opened(page: Page): Promise<void> {
  await page.goto('/');
  await drop(page, [{ name: 'sheet.obj', text: sheet(() => 0, 6) }]);
  await benchReady(page);
  await goTo(page, 'Intake');
  await page.getByRole('button', { name: 'Make a first layout' }).first().click();
  await settled(page);
  await goTo(page, 'Intake');
}

test('a newer mesh is looked at before and after, kept or put back; the mesh that grew is laid flat beside what was there', async ({ page }) => {
  // as in browsers that keep no way to a file
  await page.addInitScript(() => {
    delete (window as { showOpenFilePicker?: unknown }).showOpenFilePicker;
  });
  await opened(page);
  const take = (text: string) =>
    page.getByLabel('A newer mesh of this part').setInputFiles({ name: 'sheet.obj', mimeType: 'text/plain', buffer: Buffer.from(text) });
  await take(sheet((x) => (x > 6 ? (x - 6) * 0.5 : 0)));
  const dialog = page.getByRole('dialog', { name: 'The newer mesh' });
  await expect(dialog).toContainText('48 faces as before, 0 carried over, 16 new (16 laid beside their neighbours)');
  await expect(dialog.getByRole('img', { name: 'Sheet, before' })).toBeVisible();
  await dialog.getByRole('button', { name: 'Back as it was' }).click();
  await settled(page);
  await expect(page.getByText('48 faces', { exact: false }).first()).toBeVisible();
  await take(sheet((x) => (x > 6 ? (x - 6) * 0.5 : 0)));
  await dialog.getByRole('button', { name: 'Go on with it' }).click();
  await settled(page);
  await expect(selected(page)).toHaveText('16 faces');
  expect([await gaugeValue(page, 'Islands'), await gaugeValue(page, 'Flips')]).toEqual([1, 0]);
  // where only points moved nothing is asked
  await take(sheet((x) => (x > 6 ? (x - 6) * 0.7 : 0)));
  await expect(page.getByText(/has moved points: no UV changed/)).toBeVisible();
  await expect(dialog).toHaveCount(0);
});

test('the file of a mesh is watched: changed, it is taken in with one click', async ({ page }) => {
  // a file that the person chose, and saves again from elsewhere
  await page.addInitScript(() => {
    const held = window as unknown as { meshText: string; meshTime: number; showOpenFilePicker: unknown };
    held.showOpenFilePicker = () =>
      Promise.resolve([{ name: 'sheet.obj', getFile: () => Promise.resolve(new File([held.meshText], 'sheet.obj', { lastModified: held.meshTime })) }]);
  });
  await opened(page);
  const saveFile = (text: string, time: number) =>
    page.evaluate(
      ([meshText, meshTime]) => {
        Object.assign(window, { meshText, meshTime });
      },
      [text, time] as const,
    );
  await saveFile(
    sheet(() => 0.5, 6),
    1000,
  );
  await page.getByRole('button', { name: 'A newer mesh of this part …' }).click();
  await expect(page.getByText(/has moved points: no UV changed/)).toBeVisible();
  // looked at again, as it is nothing is said
  await page.evaluate(() => window.dispatchEvent(new Event('focus')));
  await expect(page.getByRole('button', { name: 'Take it in' })).toHaveCount(0);
  await saveFile(
    sheet((x, y) => (x === 3 && y === 3 ? 2 : 0.5), 6),
    2000,
  );
  await page.evaluate(() => window.dispatchEvent(new Event('focus')));
  await expect(page.getByText('“sheet.obj”, the mesh of sheet, was changed')).toBeVisible();
  await page.getByRole('button', { name: 'Take it in' }).click();
  await expect(selected(page)).toHaveText('4 faces');
  await expect(page.getByRole('dialog')).toHaveCount(0);
});
