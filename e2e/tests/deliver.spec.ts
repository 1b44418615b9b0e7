import { expect, test } from './test.ts';
import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { filesOf, goTo, openForm } from './bench.ts';

test.use({ fresh: true });

test('a delivery is looked at with sizes and verdicts, written into a folder, kept as a preset, and made of a version', async ({ page }) => {
  // the browser's own private folder stands for one that the person would choose
  await page.addInitScript(() => {
    (window as unknown as { showDirectoryPicker: unknown }).showDirectoryPicker = () => navigator.storage.getDirectory();
  });
  await openForm(page, 'Cylinder');
  await page.keyboard.press('Control+s');
  await goTo(page, 'Deliver');
  const panel = page.getByRole('region', { name: 'Station deliver' });
  for (const name of ['glTF', 'Layout guide, PDF', 'Report', 'Record']) await panel.getByRole('checkbox', { name }).check();
  for (const name of ['OBJ', 'GLB', 'Layout guide, PNG']) await panel.getByRole('checkbox', { name }).uncheck();
  await panel.getByRole('checkbox', { name: 'Notches' }).check();
  await panel.getByLabel('Layout', { exact: true }).click();
  await page.getByRole('option', { name: /version “Version 1”/ }).click();

  let downloads = 0;
  page.on('download', () => downloads++);
  await panel.getByRole('button', { name: 'Look at the files first' }).click();
  const listed = panel.getByRole('button', { name: /^Save .*\.(gltf|bin|pdf|html|json)$/ });
  await expect(listed).toHaveCount(6);
  await expect(panel).toContainText(/limits (are|is) (not )?kept/);
  await expect(panel).toContainText(/kB, read back and compared/);
  expect(downloads).toBe(0);

  await panel.getByRole('button', { name: 'Into a folder …' }).click();
  await expect(page.getByText('Wrote 6 files into')).toBeVisible();
  const inFolder = () =>
    page.evaluate(async () => {
      const out: Record<string, number[]> = {};
      for await (const [name, handle] of (await navigator.storage.getDirectory()) as unknown as AsyncIterable<[string, FileSystemFileHandle]>)
        out[name] = [...new Uint8Array(await (await handle.getFile()).arrayBuffer())];
      return out;
    });
  const written = await inFolder();
  expect(Object.keys(written).sort()).toEqual(expect.arrayContaining(['Cylinder.delivery.json', 'Cylinder.gltf', 'Cylinder.bin', 'Cylinder-guide.pdf']));
  const record = JSON.parse(Buffer.from(written['Cylinder.delivery.json']!).toString()) as { version: string; files: { name: string; sha256: string }[] };
  expect(record.version).toBe('Version 1');
  for (const { name, sha256 } of record.files) expect(createHash('sha256').update(Buffer.from(written[name]!)).digest('hex')).toBe(sha256);
  // what is there is asked for before it is replaced
  await panel.getByRole('button', { name: 'Into a folder …' }).click();
  await expect(page.getByRole('alertdialog', { name: 'Files are there already' })).toContainText('6 files of these names');
  await page.getByRole('button', { name: 'Leave them' }).click();

  await panel.getByRole('button', { name: 'Keep', exact: true }).click();
  await panel.getByLabel('Name of the preset').fill('For the painter');
  await page.keyboard.press('Enter');
  await panel.getByRole('checkbox', { name: 'OBJ' }).check();
  await expect(panel.getByRole('combobox', { name: 'Preset' })).toHaveText('own choice');
  // it outlives the page and serves other jobs
  await openForm(page, 'Cone');
  await goTo(page, 'Deliver');
  await panel.getByLabel('Preset').click();
  await page.getByRole('option', { name: 'For the painter' }).click();
  await expect(panel.getByRole('checkbox', { name: 'OBJ' })).not.toBeChecked();
  await expect(panel.getByRole('checkbox', { name: 'Notches' })).toBeChecked();
  const download = page.waitForEvent('download');
  await panel.getByRole('button', { name: 'Deliver', exact: true }).click();
  const files = await filesOf(await download);
  expect([...files.keys()]).toEqual(expect.arrayContaining(['Cone.gltf', 'Cone-guide.pdf', 'Cone-report.html', 'Cone.delivery.json']));
  expect(readFileSync(await (await download).path()).length).toBeGreaterThan(1000);
});
