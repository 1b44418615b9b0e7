import { expect, test, type Page } from './test.ts';
import { PNG } from 'pngjs';
import { benchReady, drop, gaugeValue, goTo, selected, settled } from './bench.ts';

test.use({ fresh: true });

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
  await dialog.getByRole('button', { name: 'Leave it' }).click();
  await settled(page);
  await expect(page.getByText('48 faces', { exact: false }).first()).toBeVisible();
  // as though it had never come
  const steps = () =>
    page.evaluate(() =>
      (window as unknown as { jigPeel: { state(): { summary: { history: { sentence: string }[] } } } }).jigPeel
        .state()
        .summary.history.map((one) => one.sentence),
    );
  expect((await steps()).some((words) => words.includes('newer mesh'))).toBe(false);
  await take(sheet((x) => (x > 6 ? (x - 6) * 0.5 : 0)));
  await dialog.getByRole('button', { name: 'Take it' }).click();
  await settled(page);
  await expect(selected(page)).toHaveText('16 faces');
  expect([await gaugeValue(page, 'Islands'), await gaugeValue(page, 'Flips')]).toEqual([1, 0]);
  // where only points moved nothing is asked
  await take(sheet((x) => (x > 6 ? (x - 6) * 0.7 : 0)));
  await expect(page.getByText(/has moved points: no UV changed/)).toBeVisible();
  await expect(dialog).toHaveCount(0);
});

/** Files that the person chose, and saves again from elsewhere: real ones, of the browser's own file system. */
async function filesElsewhere(page: Page) {
  await page.addInitScript(() => {
    const given = window as unknown as { chosen: string; showOpenFilePicker: unknown };
    given.showOpenFilePicker = async () => [await (await navigator.storage.getDirectory()).getFileHandle(given.chosen)];
  });
  return {
    save: (name: string, text: string, base64 = false) =>
      page.evaluate(
        async ([file, content, isBase64]) => {
          const bytes = isBase64 ? Uint8Array.from(atob(content), (c) => c.charCodeAt(0)) : new TextEncoder().encode(content);
          // the clock of files counts in ms
          await new Promise((next) => setTimeout(next, 5));
          const out = await (await (await navigator.storage.getDirectory()).getFileHandle(file, { create: true })).createWritable();
          await out.write(bytes);
          await out.close();
          Object.assign(window, { chosen: file });
        },
        [name, text, base64] as const,
      ),
    /** The person comes back to the window. */
    comesBack: () => page.evaluate(() => window.dispatchEvent(new Event('focus'))),
  };
}

test('the file of a mesh is watched, after a reload too: changed, it is taken in with one click, and what changed its shape is unwrapped', async ({ page }) => {
  const files = await filesElsewhere(page);
  await opened(page);
  await files.save(
    'sheet.obj',
    sheet(() => 0.5, 6),
  );
  await page.getByRole('button', { name: 'A newer mesh of this part …' }).click();
  await expect(page.getByText(/has moved points: no UV changed/)).toBeVisible();
  await expect(page.getByText('“sheet.obj” is watched: changed elsewhere, it can be taken in with one click.')).toBeVisible();
  // looked at once more, as it is nothing is said
  await files.comesBack();
  await expect(page.getByRole('button', { name: 'Take it in' })).toHaveCount(0);
  await settled(page);
  await page.reload();
  await benchReady(page);
  await files.save(
    'sheet.obj',
    sheet((x, y) => (x === 3 && y === 3 ? 2 : 0.5), 6),
  );
  await files.comesBack();
  await expect(page.getByText('“sheet.obj”, the mesh of sheet, was changed')).toBeVisible();
  await page.getByRole('button', { name: 'Take it in' }).click();
  await expect(selected(page)).toHaveText('4 faces');
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await page.getByRole('button', { name: 'Unwrap the changed' }).click();
  await settled(page);
  await expect(page.getByText('Unwrapped 1 island').first()).toBeVisible();
  await goTo(page, 'Intake');
  await page.getByRole('button', { name: 'Stop watching' }).click();
  await files.save(
    'sheet.obj',
    sheet(() => 0.7, 6),
  );
  await files.comesBack();
  await page.reload();
  await benchReady(page);
  await goTo(page, 'Intake');
  await expect(page.getByText('is watched')).toHaveCount(0);
  await expect(page.getByRole('button', { name: 'Take it in' })).toHaveCount(0);
});

test('the file of an image is watched: saved elsewhere, the picture is another one wherever it is shown', async ({ page }) => {
  const files = await filesElsewhere(page);
  await opened(page);
  const png = (side: number) =>
    PNG.sync.write(Object.assign(new PNG({ width: side, height: side }), { data: Buffer.alloc(side * side * 4, 200) })).toString('base64');
  await goTo(page, 'Images');
  await files.save('bark.png', png(8), true);
  await page.getByRole('button', { name: 'Add images' }).click();
  await expect(page.getByRole('list', { name: 'Images of the job' })).toContainText('8 × 8 px');
  await expect(page.getByText('“bark.png” is watched: changed elsewhere, it is taken in when you come back here.')).toBeVisible();
  await settled(page);
  await page.reload();
  await benchReady(page);
  await files.save('bark.png', png(16), true);
  await files.comesBack();
  await expect(page.getByText('Took in changed: “bark.png”, now 16 × 16 px instead of 8 × 8 px').first()).toBeVisible();
  await goTo(page, 'Images');
  await expect(page.getByRole('list', { name: 'Images of the job' })).toContainText('16 × 16 px');
  await expect(page.getByRole('list', { name: 'Images of the job' })).toContainText('on this part');
});

test('where the browser asks before a file is read, one press watches on, though the window comes to the front by that very press', async ({ page }) => {
  const files = await filesElsewhere(page);
  await opened(page);
  await files.save(
    'sheet.obj',
    sheet(() => 0.5, 6),
  );
  await page.getByRole('button', { name: 'A newer mesh of this part …' }).click();
  await expect(page.getByText('“sheet.obj” is watched')).toBeVisible();
  await settled(page);
  // from the next load on the browser wants to be asked, and takes its time to say so
  await page.addInitScript(() => {
    let allowed = false;
    const handle = FileSystemFileHandle.prototype as unknown as Record<string, unknown>;
    handle.queryPermission = () => new Promise((say) => setTimeout(() => say(allowed ? 'granted' : 'prompt'), 150));
    handle.requestPermission = () => {
      allowed = true;
      return Promise.resolve('granted');
    };
  });
  await page.reload();
  await benchReady(page);
  await goTo(page, 'Intake');
  await expect(page.getByText('The browser asks you before “sheet.obj” is watched on.')).toBeVisible();
  await files.save(
    'sheet.obj',
    sheet(() => 0.9, 6),
  );
  await files.comesBack();
  await page.getByRole('button', { name: 'Watch on' }).click();
  await expect(page.getByText('“sheet.obj”, the mesh of sheet, was changed')).toBeVisible();
  await expect(page.getByText('“sheet.obj” is watched')).toBeVisible();
});
