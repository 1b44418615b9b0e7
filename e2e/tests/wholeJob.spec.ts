import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { expect, test, type Page } from './test.ts';
import { checkLayout, joinParts, meshFromFaces, openFiles, type Mesh } from '@jig-peel/core';
import { props } from '@jig-peel/demo';
import { benchReady, choosePart, deliverFiles, drop, gaugeValue, goTo, look, placePx, selected, settled, views, watchErrors } from './bench.ts';

test.use({ fresh: true });

/** Parts as OBJ text without UVs. */
function bare(parts: readonly { name: string; mesh: Mesh }[]): string {
  let text = '';
  let before = 1;
  for (const { name, mesh } of parts) {
    text += `o ${name}\n`;
    for (let p = 0; p < mesh.points.length; p += 3) text += `v ${[...mesh.points.subarray(p, p + 3)].join(' ')}\n`;
    for (let f = 0; f + 1 < mesh.faceStart.length; f++)
      text += `f ${[...mesh.corners.subarray(mesh.faceStart[f], mesh.faceStart[f + 1])].map((p) => p + before).join(' ')}\n`;
    before += mesh.points.length / 3;
  }
  return text;
}

/** The faces for which `keeps` says so of their middle's height. */
function facesOf(mesh: Mesh, keeps: (height: number) => boolean): Mesh {
  const faces: number[][] = [];
  for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
    const own = [...mesh.corners.subarray(mesh.faceStart[f], mesh.faceStart[f + 1])];
    if (keeps(own.reduce((sum, p) => sum + mesh.points[p * 3 + 1]!, 0) / own.length)) faces.push(own);
  }
  const used = [...new Set(faces.flat())].sort((a, b) => a - b);
  const now = new Map(used.map((p, k) => [p, k]));
  return meshFromFaces(
    used.flatMap((p) => [...mesh.points.subarray(p * 3, p * 3 + 3)]),
    faces.map((face) => face.map((p) => now.get(p)!)),
  );
}

const named = (name: string) => props().find((prop) => prop.name === name)!.mesh;
const lamp = ['Lamp flange', 'Lamp post'].map((name) => ({ name, mesh: named(name) }));
const kiosk = named('Tiled kiosk');
const tall = Math.max(...kiosk.points.filter((_, k) => k % 3 === 1));
const countOf = (mesh: Mesh) => mesh.faceStart.length - 1;
const part = (page: Page, name: string) => page.getByRole('button', { name: `Part: ${name}` });

async function onAllParts(page: Page): Promise<void> {
  const button = page.getByRole('button', { name: 'On all parts' });
  await button.click();
  await expect(button).toBeEnabled({ timeout: 60_000 });
  await settled(page);
}

async function judged(files: Map<string, Uint8Array>, name: string) {
  const job = await openFiles([{ name, bytes: files.get(name)! }], 'read-back');
  const { mesh, set } = joinParts(job.parts);
  return { job, report: checkLayout(mesh, set, 2048, 2048).report };
}

test('the whole job: bare meshes, a mesh that changes half way, two versions merged, a judged delivery, its recipe elsewhere bit for bit', async ({ page }) => {
  // the longest walk of all: on a slow machine it takes most of the two minutes that others have
  test.setTimeout(240_000);
  const errors = watchErrors(page);
  await page.addInitScript(() => {
    delete (window as { showOpenFilePicker?: unknown }).showOpenFilePicker;
  });
  await page.goto('/');
  // the kiosk comes without its roof at first
  const walls = facesOf(kiosk, (y) => y < tall * 0.8);
  expect(countOf(walls)).toBeLessThan(countOf(kiosk));
  await drop(page, [{ name: 'quay.obj', text: bare([{ name: 'Tiled kiosk', mesh: walls }, ...lamp]) }]);
  await benchReady(page);
  await expect(part(page, 'Tiled kiosk')).toBeVisible();

  await test.step('a first layout, and the roof that comes later', async () => {
    await goTo(page, 'Seams');
    await page.getByRole('button', { name: 'Cut creases' }).click();
    await settled(page);
    await page.getByRole('button', { name: 'Unwrap all islands' }).click();
    await settled(page);
    const islands = await gaugeValue(page, 'Islands');
    await goTo(page, 'Intake');
    await page
      .getByLabel('A newer mesh of this part')
      .setInputFiles({ name: 'quay.obj', mimeType: 'text/plain', buffer: Buffer.from(bare([{ name: 'Tiled kiosk', mesh: kiosk }])) });
    const dialog = page.getByRole('dialog', { name: 'The newer mesh' });
    await expect(dialog).toContainText(`${countOf(walls).toLocaleString('en')} faces as before, 0 carried over, ${countOf(kiosk) - countOf(walls)} new`);
    await dialog.getByRole('button', { name: 'Take it' }).click();
    await settled(page);
    expect(await gaugeValue(page, 'Islands')).toBeGreaterThanOrEqual(islands);
  });

  await test.step('two versions, compared, and one piece taken from the first', async () => {
    await goTo(page, 'Check');
    await page.getByLabel('Name', { exact: true }).fill('By creases');
    await page.getByLabel('Note', { exact: true }).fill('the roof came late');
    await page.getByRole('button', { name: 'Keep', exact: true }).first().click();
    const rows = page.getByRole('list', { name: 'Versions' }).getByRole('listitem');
    await expect(rows.first()).toContainText('the roof came late');
    await rows.first().getByRole('button', { name: 'Name and note of By creases' }).click();
    const form = page.getByRole('form', { name: 'Name and note of By creases' });
    await form.getByLabel('Note').fill('for the glazier');
    await form.getByRole('button', { name: 'Keep' }).click();
    await expect(rows.first()).toContainText('for the glazier');

    // the roof's creases are cut as well
    await goTo(page, 'Seams');
    await page.getByRole('button', { name: 'Cut creases' }).click();
    await settled(page);
    await page.getByRole('button', { name: 'Unwrap all islands' }).click();
    await settled(page);
    await goTo(page, 'Check');
    await page.getByLabel('Name', { exact: true }).fill('With the roof cut');
    await page.getByRole('button', { name: 'Keep', exact: true }).first().click();
    await expect(rows).toHaveCount(2);
    await page.getByRole('button', { name: 'Compare …' }).click();
    const dialog = page.getByRole('dialog', { name: 'Compare' });
    await expect(dialog.getByRole('img', { name: /^Sheet/ }).first()).toBeVisible();
    await expect(dialog.getByRole('table')).toContainText('Islands');
    await page.keyboard.press('Escape');
    await expect(dialog).toHaveCount(0);
    await look(page, 0, 0.2);
    await views(page).focus();
    await page.keyboard.press('2');
    const wall = await placePx(page, [0.9, 1, 1.4]);
    await page.mouse.click(wall.x, wall.y);
    await expect(selected(page)).toHaveText('1 island');
    await rows.filter({ hasText: 'By creases' }).getByRole('button', { name: 'Take selected' }).click();
    await expect(page.getByText(/Took|taken/).first()).toBeVisible();
    await settled(page);
  });

  const folder = mkdtempSync(join(tmpdir(), 'whole-job-'));
  try {
    const recipe = join(folder, 'recipe.json');
    await test.step('packed; the steps as a recipe, done on all parts; judged and delivered', async () => {
      await goTo(page, 'Pack');
      await page
        .getByRole('region', { name: 'Station pack' })
        .getByRole('button', { name: /^Pack \d/ })
        .click();
      await expect(page.getByText(/^Packed \d+ islands on 2048 px/)).toBeVisible({ timeout: 60_000 });
      await settled(page);
      await goTo(page, 'Deliver');
      await page.getByRole('button', { name: 'Recipe' }).click();
      await page.getByRole('button', { name: 'Of my steps' }).click();
      const steps = page.getByRole('list', { name: 'Steps of the recipe' }).getByRole('listitem');
      await expect(steps.first()).toContainText('Cut seams');
      for (let k = 0; k < (await steps.count()); k++)
        if (((await steps.nth(k).textContent()) ?? '').includes('Asks for a person')) await steps.nth(k).getByRole('checkbox').uncheck();
      const [kept] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Keep as a file' }).click()]);
      writeFileSync(recipe, readFileSync(await kept.path()));
      await onAllParts(page);
      await settled(page);
      await goTo(page, 'Check');
      await expect(page.getByRole('status').filter({ hasText: 'limits' })).toBeVisible();
      await goTo(page, 'Deliver');
      for (const name of ['Report', 'Record']) await page.getByRole('checkbox', { name }).check();
      const files = await deliverFiles(page);
      const { job, report } = await judged(files, 'quay.obj');
      expect(job.parts.map(({ name, mesh }) => [name, countOf(mesh)])).toEqual([
        ['Tiled kiosk', countOf(kiosk)],
        ...lamp.map(({ name, mesh }) => [name, countOf(mesh)]),
      ]);
      expect([report.facesWithoutUv, report.flippedTriangles, report.outsideArea]).toEqual([0, 0, 0]);
      expect(report.overlapArea).toBeLessThan(1e-9);
      const record = JSON.parse(Buffer.from(files.get('quay.delivery.json')!).toString()) as { files: { name: string }[] };
      expect(record.files.map(({ name }) => name)).toEqual(expect.arrayContaining(['quay.obj', 'quay-report.html']));
    });

    await test.step('the recipe on another model: in the app and on the command line, bit for bit', async () => {
      const text = bare(lamp);
      await page.goto('/');
      await drop(page, [{ name: 'lamp.obj', text }]);
      await benchReady(page);
      await choosePart(page, 'Lamp post');
      await choosePart(page, 'Lamp flange');
      await goTo(page, 'Deliver');
      // the card was left unfolded
      await page.getByLabel('Recipe from a file').setInputFiles(recipe);
      await onAllParts(page);
      await settled(page);
      const files = await deliverFiles(page);
      writeFileSync(join(folder, 'lamp.obj'), text);
      const jig = fileURLToPath(new URL('../../cli/bin.mjs', import.meta.url));
      execFileSync('node', [jig, 'run', recipe, join(folder, 'lamp.obj'), '-o', join(folder, 'out')], { stdio: 'pipe' });
      expect(readFileSync(join(folder, 'out/lamp.obj'), 'utf8')).toBe(Buffer.from(files.get('lamp.obj')!).toString());
    });
  } finally {
    rmSync(folder, { recursive: true });
  }
  expect(errors).toEqual([]);
});
