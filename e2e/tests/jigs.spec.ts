import { expect, test, type Page } from './test.ts';
import { benchReady, choosePart, drop, gaugeValue, goTo, look, openForm, placePx, selected, settled, still, views, watchErrors } from './bench.ts';

const advice = (page: Page) => page.getByRole('list', { name: 'Advice' }).getByRole('button');
const jigList = (page: Page) => page.getByRole('list', { name: 'Jigs', exact: true });
const uvs = (page: Page) =>
  page.evaluate(() => [...(window as unknown as { jigPeel: { state(): { layout: { cornerUv: Float32Array } } } }).jigPeel.state().layout.cornerUv]);

/** A bare box of 1 × 2 × 1. */
const box = (() => {
  const lines = ['o crate'];
  for (let k = 0; k < 8; k++) lines.push(`v ${(k & 1) - 0.5} ${((k >> 1) & 1) * 2 - 1} ${(k >> 2) - 0.5}`);
  for (const f of ['1 3 4 2', '5 6 8 7', '1 2 6 5', '3 7 8 4', '1 5 7 3', '2 4 8 6']) lines.push(`f ${f}`);
  return lines.join('\n');
})();

test('advice on a drum: the tube is best, one click takes it, its numbers change it, undo takes it back', async ({ page }) => {
  const errors = watchErrors(page);
  await page.goto('/');
  await page
    .getByRole('button', { name: /Beacon lens/ })
    .first()
    .click();
  await benchReady(page);
  await settled(page);
  await goTo(page, 'Intake');
  await page.getByRole('button', { name: 'Select the group drum' }).click();
  await expect(selected(page)).toHaveText('3,360 faces');
  await goTo(page, 'Jigs');
  await expect(advice(page).first()).toContainText('Tube', { timeout: 30_000 });
  await expect(page.getByText('Measured on what is selected.')).toBeVisible();
  const before = await uvs(page);
  await advice(page).first().click();
  await settled(page);
  await expect(page.getByRole('heading', { name: 'Tube 1: tube' })).toBeVisible();
  await expect(jigList(page)).toContainText('live: drives 3,360 faces of Beacon lens');
  const placed = await uvs(page);
  expect(placed).not.toEqual(before);
  await page.getByLabel('Repeats in u', { exact: true }).fill('24/2');
  await page.keyboard.press('Enter');
  await settled(page);
  const more = await uvs(page);
  const widest = (list: number[]) => Math.max(...list.filter((_, k) => k % 2 === 0).filter((_, c) => placed[c * 2] !== before[c * 2]));
  expect(widest(more) / widest(placed)).toBeCloseTo(12, 1);
  await views(page).focus();
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await settled(page);
  expect(await uvs(page)).toEqual(before);
  expect(errors).toEqual([]);
});

test('a bare box: by a box at real size without stretch; flat from this view; each face', async ({ page }) => {
  await page.goto('/');
  await drop(page, [{ name: 'crate.obj', text: box }]);
  await benchReady(page);
  await settled(page);
  await goTo(page, 'Jigs');
  await expect(page.getByText('Nothing is selected: measured on the whole of crate.')).toBeVisible();
  await expect(advice(page).first()).toContainText(/Box|Flat regions/, { timeout: 30_000 });
  const form = (name: string) => page.getByRole('group', { name: 'Form' }).getByRole('button', { name });
  await form('Box').click();
  await page.getByRole('button', { name: 'Place on the whole part' }).click();
  await settled(page);
  expect(await gaugeValue(page, 'Islands')).toBe(6);
  await page.getByRole('switch', { name: 'A real width' }).click();
  await page.getByLabel('Image width', { exact: true }).fill('0.5');
  await page.keyboard.press('Enter');
  await settled(page);
  expect(await gaugeValue(page, 'Stretch')).toBe(1);
  const span = (list: number[], d: number) => {
    const axis = list.filter((_, k) => k % 2 === d);
    return Math.max(...axis) - Math.min(...axis);
  };
  expect(span(await uvs(page), 1)).toBeCloseTo(2 / 0.5, 5);
  // flat, as it is seen from the right
  await look(page, Math.PI / 2, 0);
  await still(page);
  await form('Flat').click();
  await page.getByLabel('Direction').click();
  await page.getByRole('option', { name: 'from this view' }).click();
  await views(page).focus();
  await page.keyboard.press('Control+Enter');
  await settled(page);
  expect(span(await uvs(page), 1) / span(await uvs(page), 0)).toBeCloseTo(2, 2);
  await page.getByRole('button', { name: 'Each face' }).click();
  await page.getByRole('button', { name: 'Place on the whole part' }).click();
  await settled(page);
  const each = await uvs(page);
  expect(new Set(each.map((x) => Math.round(x * 1e6) / 1e6).filter((x) => x % 1 !== 0)).size).toBe(0);
});

/** A sheet of 2 × 1 that stands in the xy plane, 8 × 4 quads, in a file that nobody prepared. */
const card = (() => {
  const lines = ['o card'];
  for (let y = 0; y <= 4; y++) for (let x = 0; x <= 8; x++) lines.push(`v ${x / 4 - 1} ${y / 4 - 0.5} 0`);
  for (let y = 0; y < 4; y++)
    for (let x = 0; x < 8; x++) lines.push(`f ${[y * 9 + x, y * 9 + x + 1, y * 9 + x + 10, y * 9 + x + 9].map((k) => k + 1).join(' ')}`);
  return lines.join('\n');
})();
const job = (page: Page) =>
  page.evaluate(() => {
    const { summary } = (
      window as unknown as {
        jigPeel: { state(): { summary: { jigs: { name: string; state: string; jig: Record<string, unknown> }[]; historyIndex: number } } };
      }
    ).jigPeel.state();
    return { jigs: summary.jigs, step: summary.historyIndex };
  });

async function openCard(page: Page) {
  await page.goto('/');
  await drop(page, [{ name: 'card.obj', text: card }]);
  await benchReady(page);
  await settled(page);
  await goTo(page, 'Jigs');
  await look(page, 0, 0);
  await still(page);
  await page.getByRole('button', { name: 'Place on the whole part' }).click();
  await settled(page);
}

test('handles: move, turn, size and even by pointer and by keys; each drag is one step; Escape and undo bring the old place back', async ({ page }) => {
  const errors = watchErrors(page);
  await openCard(page);
  await expect(jigList(page)).toContainText('live: drives 32 faces of card');
  const handle = (name: string) => page.getByRole('group', { name: 'Handles of Flat 1' }).getByRole('button', { name, exact: true });
  const jig = async () => (await job(page)).jigs[0]!.jig as { origin: number[]; size: number[]; right: number[] };
  const drag = async (name: string, dx: number, dy: number, held?: string) => {
    await still(page);
    const at = (await handle(name).boundingBox())!;
    const [x, y] = [at.x + at.width / 2, at.y + at.height / 2];
    await page.mouse.move(x, y);
    await page.mouse.down();
    if (held) await page.keyboard.down(held);
    await page.mouse.move(x + dx / 2, y + dy / 2);
    await page.mouse.move(x + dx, y + dy);
    if (held) await page.keyboard.up(held);
    return { up: () => page.mouse.up() };
  };
  const first = await uvs(page);
  const start = await job(page);
  // moved: the image goes along while the handle moves, before it is let go
  const moving = await drag('Move the jig', 60, -30);
  await expect(page.getByRole('status').filter({ hasText: /^moved 0\.\d+/ })).toBeVisible();
  const drawn = () => page.evaluate(() => (window as unknown as { jigPeel: { shownUvs(): number[] } }).jigPeel.shownUvs());
  await expect.poll(async () => (await drawn())[0]).not.toBe(first[0]);
  await page.waitForTimeout(400);
  const previewed = await drawn();
  await moving.up();
  await settled(page);
  // what was shown while it moved is what was kept
  const kept = await drawn();
  expect(kept.length).toBe(previewed.length);
  kept.forEach((x, k) => expect(Math.abs(x - previewed[k]!)).toBeLessThan(1e-6));
  const moved = await jig();
  expect(moved.origin[0]).toBeGreaterThan(0.05);
  expect(moved.origin[1]).toBeGreaterThan(0.02);
  expect((await job(page)).step).toBe(start.step + 1);
  const second = await uvs(page);
  // every corner by the same: the image slid as a whole
  const by = second[0]! - first[0]!;
  expect(by).toBeLessThan(-0.02);
  for (let k = 0; k < first.length; k += 2) expect(second[k]! - first[k]!).toBeCloseTo(by, 6);
  // one side: the other stays
  await (await drag('Size: the right side', 40, 0)).up();
  await settled(page);
  const wide = await jig();
  expect(wide.size[0]).toBeGreaterThan(moved.size[0]! + 0.05);
  expect(wide.origin[0]! - wide.size[0]! / 2).toBeCloseTo(moved.origin[0]! - moved.size[0]! / 2, 6);
  // the image is widened now: said, and put even by one click
  await expect(page.getByText(/The image is widened 1\.\d+ times/)).toBeVisible();
  await page.getByRole('button', { name: 'Even size' }).first().click();
  await settled(page);
  await expect(page.getByText(/The image is widened/)).toBeHidden();
  // turned in steps of 15° with Ctrl
  await (await drag('Turn in its plane', 70, 40, 'Control')).up();
  await settled(page);
  const turned = await jig();
  const degrees = (Math.atan2(turned.right[1]!, turned.right[0]!) * 180) / Math.PI;
  expect(Math.abs(degrees)).toBeGreaterThan(10);
  expect(degrees / 15).toBeCloseTo(Math.round(degrees / 15), 4);
  // Escape in the middle of a drag leaves all as it was
  const before = await job(page);
  const dropped = await drag('Move the jig', 50, 50);
  await page.keyboard.press('Escape');
  await dropped.up();
  await settled(page);
  expect((await job(page)).jigs).toEqual(before.jigs);
  // by keys
  await handle('Move the jig').focus();
  await page.keyboard.press('ArrowRight');
  await settled(page);
  expect(await jig()).not.toEqual(turned);
  await handle('Turn in its plane').focus();
  await page.keyboard.press('ArrowUp');
  await settled(page);
  const after = (await jig()).right;
  expect(((Math.atan2(after[1]!, after[0]!) * 180) / Math.PI - degrees + 360) % 360).toBeCloseTo(15, 4);
  // undo, drag by drag
  await views(page).focus();
  for (let k = (await job(page)).step; k > start.step; k--) await page.keyboard.press('Control+z');
  await settled(page);
  expect((await job(page)).jigs).toEqual(start.jigs);
  expect(await uvs(page)).toEqual(first);
  expect(errors).toEqual([]);
});

test('tube, ball and box: a side drawn out by its handle sizes that side alone, the start line turns by its own', async ({ page }) => {
  await page.goto('/');
  await drop(page, [{ name: 'crate.obj', text: box }]);
  await benchReady(page);
  await settled(page);
  await goTo(page, 'Jigs');
  await look(page, 0.5, 0.4);
  const across = 'Size: the right side';
  for (const [form, kind] of [
    ['Tube', 'cylindrical'],
    ['Ball', 'spherical'],
    ['Box', 'box'],
  ] as const) {
    await page.getByRole('group', { name: 'Form' }).getByRole('button', { name: form }).click();
    await page.getByRole('button', { name: 'Place on the whole part' }).click();
    // it takes the place of the one before
    await expect.poll(async () => (await job(page)).jigs.at(-1)?.jig.kind).toBe(kind);
    await settled(page);
    const handles = page.getByRole('group', { name: /^Handles of/ });
    const jig = async () => (await job(page)).jigs.at(-1)!.jig as { origin: number[]; size: number[]; start: number };
    const drag = async (name: string, dx: number, dy: number) => {
      await still(page);
      const at = (await handles.getByRole('button', { name, exact: true }).boundingBox())!;
      await page.mouse.move(at.x + at.width / 2, at.y + at.height / 2);
      await page.mouse.down();
      await page.mouse.move(at.x + at.width / 2 + dx / 2, at.y + at.height / 2 + dy / 2);
      await page.mouse.move(at.x + at.width / 2 + dx, at.y + at.height / 2 + dy);
      await page.mouse.up();
      await settled(page);
    };
    const first = await jig();
    const uv = await uvs(page);
    await drag(across, 50, 0);
    const wide = await jig();
    expect(wide.size[0]).toBeGreaterThan(first.size[0]! + 0.02);
    // the other side stays where it was
    expect(wide.origin[0]! - wide.size[0]! / 2).toBeCloseTo(first.origin[0]! - first.size[0]! / 2, 6);
    expect(wide.size[1]).toBe(first.size[1]);
    expect(await uvs(page)).not.toEqual(uv);
    if (form === 'Box') continue;
    await drag('Start line', 40, 0);
    expect((await jig()).start).not.toBe(wide.start);
  }
});

test('drawing a jig, laying it on the surface, and the switch between jig and part', async ({ page }) => {
  await openCard(page);
  const view = (await page.locator('[data-view="model"]').boundingBox())!;
  const [cx, cy] = [view.x + view.width / 2, view.y + view.height / 2];
  const drag = async (from: [number, number], to: [number, number]) => {
    await page.mouse.move(cx + from[0], cy + from[1]);
    await page.mouse.down();
    await page.mouse.move(cx + (from[0] + to[0]) / 2, cy + (from[1] + to[1]) / 2);
    await page.mouse.move(cx + to[0], cy + to[1]);
    await page.mouse.up();
    await settled(page);
  };
  const jig = async () => (await job(page)).jigs[0]!.jig as { origin: number[]; size: number[] };
  // the pointer takes the part: a drag beside the handles selects
  await page.keyboard.press('3');
  await drag([-150, -60], [-100, 60]);
  await expect(selected(page)).toHaveText(/^[1-9]\d* faces?$/);
  const placed = await jig();
  // it takes the jig: the same drag slides it, and selects nothing
  await page.getByRole('button', { name: 'Take the jig' }).click();
  const chosen = await selected(page).textContent();
  await drag([-30, 20], [60, 20]);
  expect((await jig()).origin[0]).toBeGreaterThan(placed.origin[0]! + 0.05);
  await expect(selected(page)).toHaveText(chosen!);
  await page.getByRole('button', { name: 'Take the part' }).click();
  // drawn: as large as the rectangle, in the proportions of the view
  await page.getByRole('button', { name: 'Draw it' }).click();
  await drag([-80, -40], [80, 40]);
  const drawn = await jig();
  expect(drawn.size[0]! / drawn.size[1]!).toBeCloseTo(2, 1);
  expect(Math.abs(drawn.origin[0]!)).toBeLessThan(0.05);
  expect((await job(page)).jigs.length).toBe(1);
  await page.getByRole('button', { name: 'On the surface' }).click();
  await drag([0, 0], [90, 0]);
  expect((await jig()).origin[0]).toBeGreaterThan(0.2);
  // hidden: neither frame nor handles
  await page.getByRole('switch', { name: 'Frame' }).click();
  await expect(page.getByRole('group', { name: /^Handles of/ })).toBeHidden();
});

test('states in words: an edit of live faces asks first; written, off, live again; copied, matched, removed', async ({ page }) => {
  await openCard(page);
  const menu = async (item: string | RegExp) => {
    await page
      .getByRole('button', { name: /^More of / })
      .first()
      .click();
    await page.getByRole('menuitem', { name: item }).click();
    await settled(page);
  };
  // an edit by hand of what a live jig drives
  await page.getByRole('button', { name: 'UV table' }).click();
  await page.getByRole('gridcell').filter({ hasText: /^0$/ }).first().click();
  await settled(page);
  await page.getByLabel('Value for all selected').fill('0.31');
  await page.getByRole('button', { name: 'Set u' }).click();
  await expect(page.getByText(/driven by the live jig “Flat 1”/)).toBeVisible();
  await expect(jigList(page)).toContainText('live: drives 32 faces');
  await page.getByRole('button', { name: 'Write and go on' }).click();
  await settled(page);
  await expect(jigList(page)).toContainText('written to UV set 1');
  expect(await uvs(page)).toContain(Math.fround(0.31));
  await page.getByRole('button', { name: 'Close the table' }).click();
  await menu('Make live');
  await expect(jigList(page)).toContainText('live: drives 32 faces of card');
  expect(await uvs(page)).not.toContain(Math.fround(0.31));
  await menu('Switch off');
  await expect(jigList(page)).toContainText('switched off: would drive 32 faces of card');
  await menu('Make live');
  // a second jig takes some of its faces, and is made to go on from it
  await page.keyboard.press('3');
  await page.mouse.click((await page.locator('[data-view="model"]').boundingBox())!.x + 140, 420);
  await expect(selected(page)).toHaveText('1 face');
  await page.getByRole('button', { name: 'Place on the selected faces' }).click();
  await settled(page);
  await expect(jigList(page)).toContainText('drives 31 faces');
  await expect(jigList(page)).toContainText('Flat 2');
  await page.getByRole('button', { name: 'All', exact: true }).click();
  await settled(page);
  const [one, two] = (await job(page)).jigs.map(({ jig }) => jig as { size: number[]; repeats: number[] });
  expect(two!.size[0]! / two!.repeats[0]!).toBeCloseTo(one!.size[0]! / one!.repeats[0]!, 4);
  // names hold, jigs are kept with the job
  await page.getByLabel('Name', { exact: true }).fill('Label');
  await page.keyboard.press('Enter');
  await settled(page);
  await page.reload();
  await benchReady(page);
  await goTo(page, 'Jigs');
  await expect(jigList(page)).toContainText('Label');
  await menu('Remove, UVs stay');
  await expect(jigList(page)).not.toContainText('Flat 1');
});

test('an image laid apart from the UVs: by numbers and by hand, delivered to glTF, opened again', async ({ page }) => {
  await page.goto('/');
  await page
    .getByRole('button', { name: /Skerry Quay/ })
    .first()
    .click();
  await benchReady(page);
  await settled(page);
  await goTo(page, 'Images');
  await choosePart(page, 'Beacon lens');
  await settled(page);
  await expect(page.getByText('prism-pattern.png is driven by UV set 1.')).toBeVisible();
  const before = await uvs(page);
  const placement = () =>
    page.evaluate(() => {
      const { summary } = (
        window as unknown as {
          jigPeel: {
            state(): { summary: { activePart: string; parts: { id: string; placement: { repeats: number[]; offset: number[]; turn: number } | null }[] } };
          };
        }
      ).jigPeel.state();
      return summary.parts.find(({ id }) => id === summary.activePart)!.placement;
    });
  await page.getByLabel('Image turned by', { exact: true }).fill('30');
  await page.keyboard.press('Enter');
  await settled(page);
  expect((await placement())!.turn).toBe(30);
  await page.getByRole('button', { name: 'Slide it' }).click();
  const view = (await page.locator('[data-view="model"]').boundingBox())!;
  const [cx, cy] = [view.x + view.width / 2, view.y + view.height / 2];
  await look(page, 0.3, 0.1);
  await still(page);
  await page.mouse.move(cx - 10, cy);
  await page.mouse.down();
  await page.mouse.move(cx, cy + 10);
  await page.mouse.move(cx + 20, cy + 20);
  await page.mouse.up();
  await settled(page);
  expect(Math.hypot(...(await placement())!.offset)).toBeGreaterThan(0.005);
  expect(await uvs(page)).toEqual(before);
  // the old value back
  await page.getByRole('button', { name: 'Image turned by: back to 0 °' }).click();
  await settled(page);
  expect((await placement())!.turn).toBe(0);
  await page.getByRole('button', { name: 'Back to the whole UV square' }).click();
  await settled(page);
  expect(await placement()).toBeNull();
});

test('clicks in one place step through the jigs that stand there, and move none', async ({ page }) => {
  await openForm(page, 'Cylinder');
  await goTo(page, 'Jigs');
  const faces = Array.from({ length: 8 }, (_, f) => f);
  for (const name of ['first', 'second'])
    await page.evaluate(
      async ([name, faces]) => {
        const { jigPeel } = window as unknown as { jigPeel: { edit(name: string, params: object): Promise<{ ok: boolean; sentence: string }> } };
        const { ok, sentence } = await jigPeel.edit('addJigs', { items: [{ faces, name, jig: { kind: 'cylindrical', size: [1, 1, 1] } }] });
        if (!ok) throw new Error(sentence);
      },
      [name, faces] as const,
    );
  await settled(page);
  const jigs = () =>
    page.evaluate(() => (window as unknown as { jigPeel: { state(): { summary: { jigs: { name: string; jig: object }[] } } } }).jigPeel.state().summary.jigs);
  const before = await jigs();
  expect(before).toHaveLength(2);
  await jigList(page).getByRole('button').first().click();
  await page.getByRole('group', { name: 'The pointer takes' }).getByRole('button', { name: 'Take the jig' }).click();
  const { x, y } = await placePx(page, [0.1, 0.1, 0.5]);
  const said = page.getByText(/is in hand, \d of 2 here/).last();
  await page.mouse.click(x, y);
  await expect(said).toHaveText(/1 of 2 here/);
  await page.mouse.click(x + 1, y);
  await expect(said).toHaveText(/2 of 2 here/);
  await settled(page);
  expect(await jigs()).toEqual(before);
});
