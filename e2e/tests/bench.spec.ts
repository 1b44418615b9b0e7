import AxeBuilder from 'axe-core';
import { expect, test, type Page } from './test.ts';
import { benchReady, bunnyObj, deliverFiles, onlyThisPart, drop, edgeNear, gauge, gaugeValue, look, selected, settled, views, watchErrors } from './bench.ts';

const cube =
  'o crate\nv -1 -1 -1\nv 1 -1 -1\nv -1 1 -1\nv 1 1 -1\nv -1 -1 1\nv 1 -1 1\nv -1 1 1\nv 1 1 1\nf 1 3 4 2\nf 5 6 8 7\nf 1 2 6 5\nf 3 7 8 4\nf 1 5 7 3\nf 2 4 8 6\n';

async function openCube(page: Page, text = cube) {
  await page.goto('/');
  await drop(page, [{ name: 'crate.obj', text }]);
  await benchReady(page);
}

/** axe-core's faults of the kinds that a rule set of WCAG A and AA finds. */
async function accessibilityFaults(page: Page): Promise<string[]> {
  await page.evaluate(AxeBuilder.source);
  return page.evaluate(async () => {
    const axe = (
      window as unknown as { axe: { run(context: Document, options: object): Promise<{ violations: { id: string; nodes: { html: string }[] }[] }> } }
    ).axe;
    const { violations } = await axe.run(document, { runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa'] });
    return violations.flatMap((v) => v.nodes.map((n) => `${v.id}: ${n.html.slice(0, 160)}`));
  });
}

test('hover and selection are linked: what is pointed at on the sheet shows on the model', async ({ page }) => {
  await openCube(page);
  await page.getByRole('button', { name: 'Make a first layout' }).last().click();
  await settled(page);
  await page.keyboard.press('3');
  const at = await page.evaluate(() => {
    const handle = (
      window as unknown as { jigPeel: { state(): { layout: { islands: { u: number; v: number }[] } }; uv(u: number, v: number): { x: number; y: number } } }
    ).jigPeel;
    const { u, v } = handle.state().layout.islands[2]!;
    return handle.uv(u, v);
  });
  await page.mouse.move(at.x, at.y);
  await expect(page.locator('#views-summary')).toHaveAttribute('data-hover-face', '2');
  await page.mouse.click(at.x, at.y);
  await expect(selected(page)).toHaveText('1 face');
  await page.keyboard.press('2');
  await page.mouse.click(at.x, at.y);
  await expect(selected(page)).toHaveText('1 island');
  await page.keyboard.press('Escape');
  await expect(selected(page)).toHaveText('none selected');
  // selections are in undo
  await page.keyboard.press('Control+z');
  await expect(selected(page)).toHaveText('1 island');
});

test('the switch turns unwrapping on cuts off; Unwrap then does it by the button', async ({ page }) => {
  await openCube(page);
  await page.getByRole('button', { name: 'Make a first layout' }).last().click();
  await settled(page);
  await page.getByRole('switch', { name: 'Unwrap as I cut' }).click();
  await expect(page.getByRole('switch', { name: 'Unwrap as I cut' })).not.toBeChecked();
  const uvs = () =>
    page.evaluate(() => [...(window as unknown as { jigPeel: { state(): { layout: { cornerUv: Float32Array } } } }).jigPeel.state().layout.cornerUv]);
  await look(page, 0.6, 0.4);
  const edge = await edgeNear(page, [1, 0, 1]);
  await page.mouse.click(edge.x, edge.y);
  await views(page).focus();
  await page.keyboard.press('Shift+x');
  await settled(page);
  expect(await gaugeValue(page, 'Islands')).toBe(5);
  const joined = await uvs();
  await page.getByRole('button', { name: 'Unwrap all islands' }).click();
  await settled(page);
  expect(await gaugeValue(page, 'Stretch')).toBeCloseTo(1, 2);
  expect((await uvs()).length).toBe(joined.length);
});

test('a gauge shows where its fault is; overlap is hatched, stretch coloured', async ({ page }) => {
  const overlapping = `${cube.replace(/^f .*$/gm, '')}vt 0.1 0.1\nvt 0.9 0.1\nvt 0.9 0.9\nvt 0.1 0.9\n${cube
    .match(/^f .*$/gm)!
    .map(
      (f) =>
        'f ' +
        f
          .slice(2)
          .split(' ')
          .map((p, k) => `${p}/${k + 1}`)
          .join(' '),
    )
    .join('\n')}\n`;
  await openCube(page, overlapping);
  await settled(page);
  await expect(gauge(page, 'Overlap')).toHaveText(/64 %.*a fault/);
  await gauge(page, 'Overlap').click();
  await expect(gauge(page, 'Overlap')).toHaveAttribute('aria-pressed', 'true');
  await gauge(page, 'Stretch').click();
  await expect(page.getByText('smaller', { exact: true })).toBeVisible();
});

test('a damaged file gives one clear sentence, and the jobs page stays as it was', async ({ page }) => {
  await page.goto('/');
  for (const [name, text, words] of [
    ['empty.obj', '', /empty\.obj: The file is empty/],
    ['cut.obj', 'v 0 0 0\nv 1 0 0\nf 1 2 3\n', /cut\.obj, line 3: The face uses point 3/],
    ['nan.obj', 'v nan 0 0\n', /“nan” is not a number/],
    ['note.txt', 'hello', /cannot be opened as a model/],
    ['a.glb', 'glTF', /cut short/],
    ['a.jigpeel', 'PK', /damaged or cut short/],
    ['points.obj', 'v 1 2 3\n'.repeat(200_000), /200000 points but no faces/],
  ] as const) {
    await drop(page, [{ name, text }]);
    await expect(page.getByRole('alert')).toHaveText(words);
  }
  await expect(page.getByText('None yet.')).toBeVisible();
  // and a good one still opens
  await drop(page, [{ name: 'crate.obj', text: cube }]);
  await benchReady(page);
});

test('a non-manifold mesh opens, says so, and can be laid flat', async ({ page }) => {
  await openCube(page, 'v 0 0 0\nv 0 1 0\nv 1 0 0\nv 1 1 0\nv -1 0 0\nv -1 1 0\nv 0 0 1\nv 0 1 1\nf 1 3 4 2\nf 1 5 6 2\nf 1 7 8 2\n');
  await page.getByRole('button', { name: 'Intake' }).click();
  await expect(page.getByText(/1 edges have more than two faces/)).toBeVisible();
  await page.getByRole('button', { name: 'Make a first layout' }).first().click();
  await settled(page);
  expect(await gaugeValue(page, 'Islands')).toBe(3);
  expect(await gaugeValue(page, 'Stretch')).toBeCloseTo(1, 3);
});

test('what has no effect says why: Cut without edges, by key', async ({ page }) => {
  await openCube(page);
  await views(page).focus();
  await page.keyboard.press('x');
  await expect(page.getByText('Cut the selected edges: select edges first.')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Cut', exact: true })).toBeDisabled();
});

test('find a command answers to other common words and shows keys', async ({ page }) => {
  await openCube(page);
  await page.keyboard.press('Control+k');
  await page.getByPlaceholder('Find a command').fill('stitch');
  await expect(page.getByRole('option', { name: /Uncut the selected edges/ })).toBeVisible();
  await page.getByPlaceholder('Find a command').fill('checker');
  await expect(page.getByRole('option', { name: /Test grid on or off.*G/ })).toBeVisible();
  await page.getByPlaceholder('Find a command').fill('make a first');
  await page.keyboard.press('Enter');
  await settled(page);
  expect(await gaugeValue(page, 'Islands')).toBe(6);
});

test('keys can be changed: the old holder goes without, hints and finder show the present one, all come back', async ({ page }) => {
  await openCube(page);
  const keys = page.getByRole('dialog', { name: 'Keys and pointer' });
  const row = (label: string) => keys.getByRole('button', { name: `Change the key of ${label}`, exact: true });
  await page.keyboard.press('Shift+Slash');
  await row('Seam pen').click();
  await page.keyboard.press('j');
  await expect(keys.getByText('Seam pen: J. Join two islands had it, and goes without it now.')).toBeVisible();
  await expect(row('Join two islands')).toHaveText('none');
  await keys.getByRole('button', { name: 'Close' }).click();
  await expect(page.getByText(/J seam pen$/)).toBeVisible();
  await page.keyboard.press('j');
  await expect(page.getByText(/Draw on the model to cut/)).toBeVisible();
  await page.keyboard.press('Escape');
  await page.reload();
  await benchReady(page);
  await page.keyboard.press('j');
  await expect(page.getByText(/Draw on the model to cut/)).toBeVisible();
  await page.keyboard.press('Shift+Slash');
  await keys.getByRole('button', { name: 'Back to the first keys' }).click();
  await expect(row('Seam pen')).toHaveText('E');
  await expect(row('Join two islands')).toHaveText('J');
});

test('rename, theme and settings hold over a reload', async ({ page }) => {
  await openCube(page);
  await page.getByRole('button', { name: 'crate' }).first().click();
  await page.getByRole('menuitem', { name: 'Rename the job' }).click();
  await page.getByLabel('Name of the job').fill('Fish crate');
  await page.getByLabel('Name of the job').press('Escape');
  await expect(page.getByRole('button', { name: 'Fish crate' })).toBeVisible();
  await page.getByRole('button', { name: 'Dark theme' }).click();
  await page.getByRole('button', { name: 'Pack' }).click();
  await page.getByLabel('Margin', { exact: true }).fill('2^4');
  await page.keyboard.press('Tab');
  await settled(page);
  await page.reload();
  await benchReady(page);
  await expect(page.getByRole('button', { name: 'Fish crate' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Light theme' })).toBeVisible();
  await page.getByRole('button', { name: 'Pack' }).first().click();
  await expect(page.getByLabel('Margin', { exact: true })).toHaveValue('16');
});

test('a job with several parts: go to another part, lay it flat, deliver it alone', async ({ page }) => {
  await page.goto('/');
  await page
    .getByRole('button', { name: /Skerry Quay/ })
    .first()
    .click();
  await benchReady(page);
  await page.getByRole('button', { name: 'Part: Seal figurehead' }).click();
  await page.getByRole('menuitem', { name: /Tiled kiosk/ }).click();
  await expect(page.getByText('This model has no UVs yet')).toBeVisible();
  await page.getByRole('button', { name: 'Make a first layout' }).last().click();
  await settled(page);
  expect(await gaugeValue(page, 'Flips')).toBe(0);
  expect(await gaugeValue(page, 'Overlap')).toBe(0);
  await page.keyboard.press('Shift+Digit8');
  await onlyThisPart(page);
  const files = await deliverFiles(page);
  const obj = new TextDecoder().decode(files.get('Skerry-Quay.obj'));
  expect(obj.match(/^o .*/gm)).toEqual(['o Tiled kiosk']);
  expect(obj.match(/^f /gm)?.length).toBe(910);
});

test('accessibility: no faults that axe finds on the jobs page and at each station, in both themes', async ({ page }) => {
  await page.goto('/');
  await expect(page.getByText('Skerry Quay').first()).toBeVisible();
  expect(await accessibilityFaults(page)).toEqual([]);
  await drop(page, [{ name: 'crate.obj', text: cube }]);
  await benchReady(page);
  await page.getByRole('button', { name: 'Make a first layout' }).last().click();
  await settled(page);
  // the divider says where it stands as soon as it has been measured
  await expect(page.getByRole('separator', { name: 'Divider between the views' })).toHaveAttribute('aria-valuenow', /./);
  for (const theme of ['light', 'dark']) {
    for (const station of ['Intake', 'Jigs', 'Seams', 'Pack', 'Images', 'Deliver']) {
      await page.getByRole('navigation', { name: 'Stations' }).getByRole('button', { name: station }).click();
      await page.waitForTimeout(400);
      expect(await accessibilityFaults(page), `${station}, ${theme}`).toEqual([]);
    }
    await page.getByRole('button', { name: theme === 'light' ? 'Dark theme' : 'Light theme' }).click();
    await page.waitForTimeout(400);
  }
});

test('the bunny: cancel gives the bench back at once', async ({ page }) => {
  const errors = watchErrors(page);
  await page.goto('/');
  await drop(page, [{ name: 'bunny.obj', text: bunnyObj() }]);
  await benchReady(page);
  await page.getByRole('button', { name: 'Make a first layout' }).last().click();
  // either it was so quick that no bar came, or it can be cancelled
  const cancel = page.getByRole('button', { name: 'Cancel' });
  // (it may be done just before the click)
  if (await cancel.isVisible().catch(() => false)) await cancel.click({ timeout: 3000 }).catch(() => {});
  await settled(page);
  expect(errors).toEqual([]);
});
