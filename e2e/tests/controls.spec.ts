import { expect, test, type Locator, type Page } from './test.ts';
import { benchReady, bunnyObj, drop, goTo, look, settled, views } from './bench.ts';

test.use({ fresh: true });

/** Everything that a control could change, in one string: the store, the eyes, and what the page says and shows. */
async function fingerprint(page: Page): Promise<string> {
  return page.evaluate(() => {
    const handle = (window as unknown as { jigPeel: { state(): Record<string, unknown>; eyes(): number[] } }).jigPeel;
    const brief = (value: unknown): unknown => {
      if (ArrayBuffer.isView(value) || value instanceof ArrayBuffer) return `array ${(value as ArrayBuffer).byteLength}`;
      if (value instanceof Map) return [...value.keys()];
      if (Array.isArray(value)) return value.map(brief);
      if (value && typeof value === 'object')
        return Object.fromEntries(Object.entries(value).map(([key, v]) => [key, key === 'ids' ? [...(v as Uint32Array)].join() : brief(v)]));
      return typeof value === 'function' ? '' : value;
    };
    const { geometry, measures, hover, savedAt, sheetIndex, figures, ...state } = handle.state();
    void [geometry, measures, hover, savedAt, sheetIndex, figures];
    const controls = [...document.querySelectorAll('button, input, [role]')].map(
      (e) =>
        `${e.getAttribute('aria-pressed')}${e.getAttribute('aria-expanded')}${e.getAttribute('aria-selected')}${(e as HTMLInputElement).value ?? ''}${(e as HTMLInputElement).checked ?? ''}`,
    );
    const words = document.body.innerText.replace(/saved .* ago|saved just now/g, '');
    return JSON.stringify([brief(state), handle.eyes(), controls, words, getComputedStyle(document.body).backgroundColor]);
  });
}

interface Control {
  name: string;
  role: string;
  disabled: boolean;
  why: string;
}

/** The controls of a region: their names, and for those that are off, the words that say why. */
async function controlsOf(region: Locator): Promise<Control[]> {
  return region.evaluate((root) =>
    [...root.querySelectorAll<HTMLElement>('button, input, [role=combobox], [role=slider], [role=switch]')]
      .filter((e) => {
        e.removeAttribute('data-walk');
        return e.offsetParent !== null && (e as HTMLInputElement).type !== 'file' && e.getAttribute('aria-hidden') !== 'true';
      })
      .map((e, k) => {
        e.setAttribute('data-walk', String(k));
        const label = e.id ? document.querySelector(`label[for="${e.id}"]`)?.textContent : null;
        const by = e.getAttribute('aria-labelledby');
        const name =
          e.getAttribute('aria-label') ||
          label ||
          (by ? by.split(' ').map((id) => document.getElementById(id)?.textContent ?? '')[0] : '') ||
          e.closest('label')?.textContent ||
          e.textContent?.trim() ||
          '';
        const disabled = (e as HTMLButtonElement).disabled || e.getAttribute('aria-disabled') === 'true';
        let why = '';
        for (let at: HTMLElement | null = e; at && at !== root && !why; at = at.parentElement) {
          const title = at.getAttribute('title') || (at !== e ? at.getAttribute('aria-label') : '');
          const described = at.getAttribute('aria-describedby');
          why = title || (described ? (document.getElementById(described)?.textContent ?? '') : '') || '';
        }
        return { name, role: e.getAttribute('role') ?? e.tagName.toLowerCase(), disabled, why };
      }),
  );
}

/** Uses one control as a person would, and tells whether anything came of it. */
async function tryControl(page: Page, region: Locator, index: number, control: Control): Promise<boolean> {
  const target = region.locator(`[data-walk="${index}"]`);
  const before = await fingerprint(page);
  let outside = false;
  const mark = () => (outside = true);
  page.on('download', mark);
  page.on('filechooser', mark);
  try {
    if (control.role === 'slider') {
      await target.focus();
      await page.keyboard.press('ArrowLeft');
      await page.keyboard.press('ArrowLeft');
    } else if (control.role === 'input' && (await target.getAttribute('type')) !== 'checkbox') {
      await target.click();
      const value = await target.inputValue();
      await target.fill(/^-?[\d.]+$/.test(value) ? String(Number(value) > 1 ? Number(value) - 1 : Number(value) + 1) : `${value} x`);
      await page.keyboard.press('Enter');
    } else {
      await target.click({ timeout: 5000 });
      if (control.role === 'combobox') await page.getByRole('option').last().waitFor({ timeout: 3000 });
    }
    // some begin with work in another thread: two seconds on a busy machine
    for (let k = 0; k < 33; k++) {
      await page.waitForTimeout(60);
      if (outside || (await fingerprint(page)) !== before) return true;
    }
    return false;
  } catch (error) {
    // gone in the meantime: absent, as it may be
    if ((await target.count()) === 0) return true;
    throw error;
  } finally {
    page.off('download', mark);
    page.off('filechooser', mark);
  }
}

const cube = (() => {
  const lines = ['o crate', 'g lid', 'usemtl wood'];
  for (let k = 0; k < 8; k++) lines.push(`v ${k & 1} ${(k >> 1) & 1} ${k >> 2}`);
  for (const f of ['1 3 4 2', '5 6 8 7', '1 2 6 5', '3 7 8 4', '1 5 7 3', '2 4 8 6']) lines.push(`f ${f}`);
  return lines.join('\n');
})();

/** A job with two parts, a layout, an image and a selection: nothing is off for want of something to act on. */
async function fullJob(page: Page) {
  await page.goto('/');
  await drop(page, [
    { name: 'a.obj', text: cube },
    { name: 'b.obj', text: cube.replace('o crate', 'o chest') },
  ]);
  await benchReady(page);
  await page.getByRole('button', { name: 'Make a first layout' }).last().click();
  await settled(page);
  await views(page).focus();
  await page.keyboard.press('3');
  await page.keyboard.press('Control+a');
  await settled(page);
}

/** Closes what a control may have opened and goes back to how things were. */
async function restore(page: Page, station: string) {
  await page.mouse.move(2, 2);
  await page.keyboard.press('Escape');
  await page.keyboard.press('Escape');
  if (!page.url().includes('/bench/')) {
    await page.goBack();
    await benchReady(page);
  }
  await expect(page.getByRole('navigation', { name: 'Stations' })).toBeVisible();
  if (await page.getByRole('button', { name: 'Both views' }).first().isVisible()) await page.getByRole('button', { name: 'Both views' }).first().click();
  await goTo(page, station);
  await page.waitForTimeout(60);
}

/** So many controls of each region are used; what each command does is tested on a session, without a browser. */
const most = 7;

/** Uses the first controls of a region, and reads all: those that do nothing, or are off without a word. */
async function walk(page: Page, region: Locator, station: string): Promise<{ seen: number; dead: string[] }> {
  const dead: string[] = [];
  const seen = new Set<string>();
  let used = 0;
  const controls = await controlsOf(region);
  for (const [k, control] of controls.entries()) {
    if (seen.has(control.name)) continue;
    seen.add(control.name);
    if (control.disabled) {
      if (!control.why) dead.push(`${control.name}: off without a word`);
      continue;
    }
    if (used >= most) continue;
    const now = await controlsOf(region);
    // a control that went meanwhile is absent, as it may be
    const at = now[k]?.name === control.name ? k : now.findIndex((c) => c.name === control.name);
    if (at < 0 || now[at]!.disabled) continue;
    // one that is chosen already is tried from another choice
    if ((await region.locator(`[data-walk="${at}"]`).getAttribute('aria-pressed')) === 'true') continue;
    used++;
    if (!(await tryControl(page, region, at, now[at]!))) dead.push(`${control.name} (${control.role})`);
    await restore(page, station);
  }
  return { seen: seen.size, dead };
}

test('controls of every station, over the views, in the top bar and the gauges do something, or say why not', async ({ page }) => {
  test.setTimeout(240_000);
  // the headless browser shows no chooser for files whose way is kept; where a browser has none, the plain one comes
  await page.addInitScript(() => delete (window as { showOpenFilePicker?: unknown }).showOpenFilePicker);
  await fullJob(page);
  const dead: string[] = [];
  let seen = 0;
  const take = async (region: Locator, station: string) => {
    const found = await walk(page, region, station);
    dead.push(...found.dead);
    seen += found.seen;
  };
  for (const station of ['Intake', 'Jigs', 'Seams', 'Pack', 'Images', 'Deliver']) {
    await goTo(page, station);
    await settled(page);
    await take(page.getByRole('region', { name: new RegExp('^Station', 'i') }), station);
  }
  for (const region of [page.locator('[data-view="model"]'), page.locator('[data-view="sheet"]'), page.getByRole('banner'), page.getByRole('contentinfo')])
    await take(region, 'Seams');
  expect(seen).toBeGreaterThan(80);
  expect(dead).toEqual([]);
});

test('a view is drawn when something in it changes: not for news of the work, nor when the other one turns', async ({ page }) => {
  await page.addInitScript(() => {
    // to the px, rounding differs with the size of the canvas
    const tens = (px: number) => Math.round(px / 10) * 10;
    const drawn: number[] = ((window as unknown as { drawn: number[] }).drawn = []);
    const proto = WebGL2RenderingContext.prototype;
    const clear = proto.clear;
    proto.clear = function (mask) {
      // the left edge of the view, in px of the page
      drawn.push(tens(((this.getParameter(this.SCISSOR_BOX) as Int32Array)[0]! * (this.canvas as HTMLCanvasElement).clientWidth) / this.canvas.width));
      clear.call(this, mask);
    };
  });
  await page.goto('/');
  await drop(page, [{ name: 'bunny.obj', text: bunnyObj() }]);
  await benchReady(page);
  await settled(page);
  const box = (await page.locator('[data-view="sheet"]').boundingBox())!;
  const left = await page.evaluate(() => (window as unknown as { jigPeel: { rect(view: string): { left: number } } }).jigPeel.rect('sheet').left);
  const drawn = async (work: () => Promise<unknown>) => {
    await page.waitForTimeout(1000);
    await page.evaluate(() => ((window as unknown as { drawn: number[] }).drawn.length = 0));
    await work();
    await page.waitForTimeout(1000);
    return page.evaluate(() => [...new Set((window as unknown as { drawn: number[] }).drawn)]);
  };
  // beside the card that says that nothing has a place yet
  await page.mouse.move(box.x + 80, box.y + 120);
  const news = (share: number) =>
    page.evaluate(
      (at) => (window as unknown as { jigPeel: { state(): { set(patch: object): void } } }).jigPeel.state().set({ progress: { share: at, text: 'Working' } }),
      share,
    );
  expect(
    await drawn(async () => {
      for (const share of [0.2, 0.4, 0.6]) await news(share);
      await expect(page.getByText('Working · 60 %')).toBeVisible();
    }),
  ).toEqual([]);
  expect(await drawn(() => page.mouse.wheel(0, -200))).toEqual([Math.round(left / 10) * 10]);
  expect(await drawn(() => look(page, 1, 0.2))).toEqual([0]);
});
