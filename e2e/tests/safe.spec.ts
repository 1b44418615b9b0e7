import { expect, test, type Page } from './test.ts';
import { benchReady, drop, edgeNear, gauge, goTo, placePx, selected, settled, uvPx, views, watchErrors } from './bench.ts';

test.use({ fresh: true });

/* Where nobody walks: saves that fail, two tabs, workers and graphics that end, Escape in the middle of a stroke, damaged rows. */

interface Handle {
  jigPeel: {
    state(): {
      summary: { historyIndex: number; history: { sentence: string }[]; selection: { ids: Uint32Array; kind: string } } | null;
      looksOn: boolean;
      unsaved: unknown;
      /** Null for a moment while a mesh is sent. */
      layout: { pins: unknown[]; allUnplaced: boolean } | null;
    };
    endCore(): void;
    eyes(): number[];
  };
}
const state = <T>(page: Page, look: (s: ReturnType<Handle['jigPeel']['state']>) => T): Promise<T> =>
  page.evaluate(`(${look.toString()})(window.jigPeel.state())`);
const steps = (page: Page) => state(page, (s) => s.summary!.historyIndex);
const box = (page: Page) => page.getByRole('button', { name: 'Box', exact: true }).click();
const margin = (page: Page) => page.getByRole('textbox', { name: 'Margin' });
async function setMargin(page: Page, value: number): Promise<void> {
  await goTo(page, 'Pack');
  await margin(page).fill(String(value));
  await margin(page).press('Enter');
}
/** Rows of the browser's database, damaged by hand: fields of a job's row taken out or made null, one of its steps deleted, a row put in. */
const damage = (page: Page, id: string, how: { without?: string[]; nulls?: string[]; step?: number; put?: { id: string } }) =>
  page.evaluate(
    ([job, { without = [], nulls = [], step, put }]) =>
      new Promise<void>((done, fail) => {
        const open = indexedDB.open('jig-peel');
        open.onerror = () => fail(open.error);
        open.onsuccess = () => {
          const write = open.result.transaction(['jobs', 'steps'], 'readwrite');
          const jobs = write.objectStore('jobs');
          if (put) jobs.put(put);
          const ask = jobs.get(job);
          ask.onsuccess = () => {
            const row = ask.result as Record<string, unknown> & { steps: string[] };
            if (step !== undefined) write.objectStore('steps').delete(row.steps[step]!);
            for (const key of without) delete row[key];
            for (const key of nulls) row[key] = null;
            jobs.put(row);
          };
          write.oncomplete = () => {
            open.result.close();
            done();
          };
        };
      }),
    [id, how] as const,
  );

test('a save that fails is told until it is kept, and nothing is gone after a reload', async ({ page }) => {
  // the database refuses, as a full disk does, while this is set
  await page.route('**/coreWorker-*.js', async (route) => {
    const response = await route.fetch();
    const refusing = `let refuse = false;
      for (const name of ['put', 'add']) {
        const own = IDBObjectStore.prototype[name];
        IDBObjectStore.prototype[name] = function (...given) {
          if (refuse) throw new DOMException('full', 'QuotaExceededError');
          return own.apply(this, given);
        };
      }
      new BroadcastChannel('test-quota').onmessage = (event) => { refuse = event.data; };\n`;
    await route.fulfill({ response, body: refusing + (await response.text()) });
  });
  const refuse = (on: boolean) => page.evaluate((value) => new BroadcastChannel('test-quota').postMessage(value), on);
  await page.goto('/');
  await box(page);
  await benchReady(page);
  await setMargin(page, 5);
  await settled(page);
  await refuse(true);
  await setMargin(page, 6);
  await expect(page.getByRole('alert').filter({ hasText: 'are not kept in this browser yet: There is no room left' })).toBeVisible();
  await setMargin(page, 7);
  await settled(page);
  await expect(page.getByText(/^saved/)).toHaveCount(0);
  await refuse(false);
  await page.getByRole('button', { name: 'Try again' }).click();
  await expect(page.getByText(/are not kept in this browser yet/)).toHaveCount(0);
  const before = await steps(page);
  await page.reload();
  await benchReady(page);
  expect(await steps(page)).toBe(before);
  await goTo(page, 'Pack');
  await expect(margin(page)).toHaveValue('7');
});

test('two tabs on one job: the second looks on and sees what is done; it takes over, and the first looks on', async ({ page, context }) => {
  await page.goto('/');
  await box(page);
  await benchReady(page);
  const second = await context.newPage();
  await second.goto(page.url());
  await benchReady(second);
  const banner = (p: Page) => p.getByText('being worked on in another tab. Here it can be looked at');
  await expect(banner(second).first()).toBeVisible();
  await setMargin(page, 11);
  await goTo(second, 'Pack');
  await expect(margin(second)).toHaveValue('11');
  // it may not write
  await setMargin(second, 12);
  await expect(second.getByText('here it can be looked at.', { exact: false }).last()).toBeVisible();
  expect(await steps(second)).toBe(await steps(page));
  await second.getByRole('button', { name: 'Take over' }).first().click();
  await expect(banner(second)).toHaveCount(0);
  await expect(banner(page).first()).toBeVisible();
  await setMargin(second, 13);
  await settled(second);
  await goTo(page, 'Pack');
  await expect(margin(page)).toHaveValue('13');
  // the second is closed: the first can go on by itself
  await second.close();
  await expect(banner(page)).toHaveCount(0);
  await setMargin(page, 14);
  await settled(page);
  await page.reload();
  await benchReady(page);
  await goTo(page, 'Pack');
  await expect(margin(page)).toHaveValue('14');
});

test('a removed job waits in the bin with its size, comes back whole, or is deleted for good', async ({ page }) => {
  await page.goto('/');
  await box(page);
  await benchReady(page);
  await setMargin(page, 9);
  await settled(page);
  await page.goto('/');
  await page.getByRole('button', { name: 'Put Box into the bin' }).click();
  await page.getByRole('button', { name: 'Bin: 1 job' }).click();
  await expect(page.getByRole('region', { name: 'Bin' })).toContainText(/Box.*MB.*30 days left/s);
  await page.getByRole('button', { name: 'Put Box back' }).click();
  await page.getByRole('button', { name: /^Box.*faces/ }).click();
  await benchReady(page);
  await goTo(page, 'Pack');
  await expect(margin(page)).toHaveValue('9');
  await page.goto('/');
  await page.getByRole('button', { name: 'Put Box into the bin' }).click();
  await page.getByRole('button', { name: 'Bin: 1 job' }).click();
  await page.getByRole('button', { name: 'Delete Box for good' }).click();
  await expect(page.getByRole('region', { name: 'Bin' })).toHaveCount(0);
  await expect(page.getByText('None yet.')).toBeVisible();
});

test('a damaged row costs no other job: it is listed, and what is left of it is saved', async ({ page }) => {
  await page.goto('/');
  await box(page);
  await benchReady(page);
  const damagedUrl = page.url();
  await settled(page);
  await page.goto('/');
  await page.getByRole('button', { name: 'Cone', exact: true }).click();
  await benchReady(page);
  await settled(page);
  await page.goto('/');
  const id = damagedUrl.split('/').at(-1)!;
  await damage(page, id, { without: ['parts'], nulls: ['faces'], put: { id: 'bare' } });
  await page.reload();
  await expect(page.getByText('What is kept of this job is damaged.')).toHaveCount(2);
  await expect(page.getByRole('button', { name: /^Cone.*faces/ })).toBeVisible();
  await page.goto(damagedUrl);
  await expect(page.getByText(/What is kept of this job is damaged/)).toBeVisible();
  await expect(page.locator('main')).not.toContainText(/\{|invalid_type|undefined/);
  await page.goto('/');
  await page.getByRole('button', { name: 'Save what is left' }).first().click();
  await page.getByRole('button', { name: 'Save what is left' }).last().click();
  await page.getByRole('button', { name: /^Box/ }).first().click();
  await benchReady(page);
  expect(await steps(page)).toBe(0);
});

test('a job that opens with steps missing says so and shows what is left', async ({ page }) => {
  await page.goto('/');
  await box(page);
  await benchReady(page);
  for (const value of [3, 4, 5]) await setMargin(page, value);
  await settled(page);
  const id = page.url().split('/').at(-1)!;
  await page.goto('/');
  await damage(page, id, { step: 2 });
  await page.goto(`/bench/${id}`);
  await benchReady(page);
  await expect(page.getByText(/One step of this job could not be read any more; the other 3 are here/)).toBeVisible();
  expect(await steps(page)).toBe(2);
});

test('a core worker that ends is started again with the job as it is kept; nothing says Working for ever', async ({ page }) => {
  await page.goto('/');
  await box(page);
  await benchReady(page);
  await setMargin(page, 21);
  await settled(page);
  await page.evaluate(() => (window as unknown as Handle).jigPeel.endCore());
  await expect(page.getByText(/was ended by the browser.*opened again from what is kept/)).toBeVisible();
  await benchReady(page);
  await setMargin(page, 22);
  await settled(page);
  await page.reload();
  await benchReady(page);
  await goTo(page, 'Pack');
  await expect(margin(page)).toHaveValue('22');
});

test('lost graphics come back by themselves', async ({ page }) => {
  await page.goto('/');
  await box(page);
  await benchReady(page);
  const lit = async () => {
    const { x, y } = await placePx(page, [0, 0, 0]);
    const shot = await page.screenshot({ clip: { x: x - 4, y: y - 4, width: 8, height: 8 } });
    return shot.length;
  };
  await settled(page);
  const before = await lit();
  await page.evaluate(() => {
    const canvas = document.querySelector<HTMLCanvasElement>('#views canvas')!;
    const gl = canvas.getContext('webgl2')!;
    gl.getExtension('WEBGL_lose_context')!.loseContext();
  });
  await expect(page.getByText('The browser took the graphics away')).toBeVisible();
  await expect(page.getByText('The browser took the graphics away')).toHaveCount(0, { timeout: 15_000 });
  await expect(async () => expect(Math.abs((await lit()) - before)).toBeLessThan(60)).toPass();
});

test('Escape in the middle of a pen stroke drops it', async ({ page }) => {
  await page.goto('/');
  await drop(page, [{ name: 'bump.obj', text: grid(10) }]);
  await benchReady(page);
  await views(page).focus();
  const [a, b] = [await placePx(page, [0.2, 0.5, 0]), await placePx(page, [0.8, 0.5, 0])];
  const before = await steps(page);
  await page.keyboard.press('e');
  await page.mouse.move(a.x, a.y);
  await page.mouse.down();
  await page.mouse.move((a.x + b.x) / 2, (a.y + b.y) / 2, { steps: 5 });
  await page.keyboard.press('Escape');
  await page.mouse.move(b.x, b.y, { steps: 5 });
  await page.mouse.up();
  await settled(page);
  expect(await steps(page)).toBe(before);
});

test('letters typed while the finder opens go into it', async ({ page }) => {
  await page.goto('/');
  await box(page);
  await benchReady(page);
  await views(page).focus();
  const before = await steps(page);
  await page.keyboard.press('Control+k');
  await page.keyboard.type('pack', { delay: 0 });
  await expect(page.getByRole('combobox', { name: 'Find a command' }).or(page.getByPlaceholder('Find a command'))).toHaveValue('pack');
  expect(await steps(page)).toBe(before);
});

test('undo works from a number field once its number holds', async ({ page }) => {
  await page.goto('/');
  await box(page);
  await benchReady(page);
  await setMargin(page, 33);
  await settled(page);
  await expect(margin(page)).toBeFocused();
  await page.keyboard.press('Control+z');
  await expect(margin(page)).not.toHaveValue('33');
  await margin(page).fill('44');
  await page.keyboard.press('Control+z');
  // while something is typed, undo is the field's own
  expect(await steps(page)).toBe(0);
});

test('the kind of what a click takes outlives a reload', async ({ page }) => {
  await page.goto('/');
  await box(page);
  await benchReady(page);
  await page.getByRole('button', { name: 'Select faces' }).click();
  await page.reload();
  await benchReady(page);
  await expect(page.getByRole('button', { name: 'Select faces' })).toHaveAttribute('aria-pressed', 'true');
});

test('a view that nobody moved keeps the whole in it when the window changes; one that was moved stays', async ({ page }) => {
  await page.goto('/');
  await box(page);
  await benchReady(page);
  const across = async () => (await uvPx(page, 1, 0)).x - (await uvPx(page, 0, 0)).x;
  const small = await across();
  await page.setViewportSize({ width: 1920, height: 1080 });
  await expect(async () => expect(await across()).toBeGreaterThan(small * 1.3)).toPass();
  const corner = await uvPx(page, 0.5, 0.5);
  await page.mouse.move(corner.x, corner.y);
  await page.mouse.wheel(0, -300);
  const zoomed = await across();
  await page.setViewportSize({ width: 1280, height: 800 });
  await page.waitForTimeout(300);
  expect(await across()).toBeCloseTo(zoomed, 0);
});

test('cuts on a bare mesh are laid flat as soon as a piece can be, with Unwrap as I cut on', async ({ page }) => {
  await page.goto('/');
  await drop(page, [{ name: 'bump.obj', text: grid(8) }]);
  await benchReady(page);
  await expect.poll(() => state(page, (s) => s.layout?.allUnplaced)).toBe(true);
  const near = await edgeNear(page, [0.5, 0.5, 0]);
  await page.mouse.click(near.x, near.y);
  await page.keyboard.press('x');
  await expect.poll(() => state(page, (s) => s.layout?.allUnplaced)).toBe(false);
  await expect(gauge(page, 'Outside')).toContainText('0');
});

test('Deliver asks for islands that are not on the sheet, naming them; the gauge turns', async ({ page }) => {
  // two squares, one of them off the sheet, one in the tray
  const square = (x: number, u: number, k: number) =>
    `v ${x} 0 0\nv ${x + 1} 0 0\nv ${x + 1} 1 0\nv ${x} 1 0\nvt ${u} 0.1\nvt ${u + 0.3} 0.1\nvt ${u + 0.3} 0.4\nvt ${u} 0.4\nf ${[1, 2, 3, 4].map((i) => `${k * 4 + i}/${k * 4 + i}`).join(' ')}\n`;
  await page.goto('/');
  await drop(page, [{ name: 'away.obj', text: square(0, 0.1, 0) + square(2, 1.5, 1) + square(4, -0.6, 2) }]);
  await benchReady(page);
  // files with UVs begin where these are looked at
  await expect(page.getByRole('region', { name: 'Station intake' }).or(page.getByLabel('Station intake'))).toBeVisible();
  await settled(page);
  await expect(gauge(page, 'Outside')).toContainText('1');
  await expect(gauge(page, 'In the tray')).toContainText('1');
  await goTo(page, 'Deliver');
  await page.getByRole('region', { name: 'Station deliver' }).getByRole('button', { name: 'Deliver', exact: true }).click();
  const asked = page.getByRole('alertdialog', { name: 'Not all is on the sheet' });
  await expect(asked).toContainText(/1 island waits in the tray \(C\).*1 island is off the sheet \(B\)/);
  const download = page.waitForEvent('download');
  await asked.getByRole('button', { name: 'Deliver as it is' }).click();
  await download;
  await expect(page.getByText(/Not on the layout guide, or cut off by it/)).toBeVisible();
  await expect(page.getByText('1 island', { exact: false }).first()).toBeVisible();
  // nothing of the job was changed: there is nothing to undo
  await expect(page.getByRole('button', { name: 'Undo' }).filter({ hasText: 'Undo' })).toHaveCount(0);
});

test('a point pinned on the sheet is pinned on that island alone', async ({ page }) => {
  await page.goto('/');
  await drop(page, [
    {
      name: 'two.obj',
      text: 'v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv 2 0 0\nv 2 1 0\nvt .1 .1\nvt .4 .1\nvt .4 .4\nvt .1 .4\nvt .6 .6\nvt .9 .6\nvt .9 .9\nvt .6 .9\nf 1/1 2/2 3/3 4/4\nf 2/5 5/6 6/7 3/8\n',
    },
  ]);
  await benchReady(page);
  await settled(page);
  await page.getByRole('button', { name: 'Select points' }).click();
  const { x, y } = await uvPx(page, 0.4, 0.4);
  await page.mouse.click(x - 2, y + 2);
  await expect(selected(page)).toHaveText('1 point');
  await page.keyboard.press('k');
  await expect.poll(() => state(page, (s) => s.layout?.pins.length)).toBe(1);
});

test('forty thousand selected edges are brought into view', async ({ page }) => {
  const errors = watchErrors(page);
  await page.goto('/');
  await drop(page, [{ name: 'large.obj', text: grid(145) }]);
  await benchReady(page);
  await page.getByRole('button', { name: 'Select edges' }).click();
  await views(page).focus();
  await page.keyboard.press('Control+a');
  await expect(selected(page)).toHaveText(/42,340 edges/);
  await page.keyboard.press('f');
  await settled(page);
  expect(errors).toEqual([]);
});

/** A sheet of quads with a gentle bump, without UVs. */
function grid(n: number): string {
  const rows: string[] = [];
  for (let j = 0; j <= n; j++) for (let i = 0; i <= n; i++) rows.push(`v ${i / n} ${j / n} ${0.1 * Math.sin((3 * i) / n) * Math.sin((3 * j) / n)}`);
  const at = (i: number, j: number) => j * (n + 1) + i + 1;
  for (let j = 0; j < n; j++) for (let i = 0; i < n; i++) rows.push(`f ${at(i, j)} ${at(i + 1, j)} ${at(i + 1, j + 1)} ${at(i, j + 1)}`);
  return `${rows.join('\n')}\n`;
}
