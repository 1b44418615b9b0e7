import { test, type Page } from '@playwright/test';
import { readFileSync } from 'node:fs';
import { benchReady, look, settled, views, choosePart } from '../tests/bench.ts';

async function shot(page: Page, name: string) {
  // nothing hovers: the pointer rests where nothing is
  await page.mouse.move(2, 2);
  await page.waitForTimeout(600);
  await page.screenshot({ path: `docs/screenshots/${name}.png` });
}

async function openDemo(page: Page) {
  // the first walk has been seen
  await page.addInitScript(() => localStorage.setItem('jig-peel first walk', 'seen'));
  await page.goto('/');
  await page.getByRole('button', { name: /Skerry Quay.*demo job/s }).click();
  await benchReady(page);
  await settled(page);
}

test('jobs page', async ({ page }) => {
  await openDemo(page);
  await page.goto('/');
  await page.getByText('Jobs kept in this browser').waitFor();
  await shot(page, 'jobs');
});

test('the bench at each station', async ({ page }) => {
  await openDemo(page);
  await look(page, 0.7, 0.25);
  await settled(page);
  await shot(page, 'seams');
  await views(page).focus();
  await page.keyboard.press('Shift+Digit7');
  await settled(page);
  await page.waitForTimeout(1500);
  await page.getByRole('button', { name: 'Seams in plain sight: the next place' }).click();
  await settled(page);
  await shot(page, 'check');
  await views(page).focus();
  await page.keyboard.press('Shift+Digit5');
  await settled(page);
  await page.keyboard.press('Shift+Digit8');
  await settled(page);
  await shot(page, 'deliver');
});

test('packing under way, density with its bars, two tiles', async ({ page }) => {
  await openDemo(page);
  await choosePart(page, 'Jetty deck');
  await page.evaluate(async () => {
    const { edit } = (window as unknown as { jigPeel: { edit(name: string, params: object): Promise<unknown> } }).jigPeel;
    await edit('settings', { effort: 5, turn: 'free' });
  });
  await settled(page);
  await views(page).focus();
  await page.keyboard.press('Shift+Digit5');
  await look(page, 0.5, 0.7);
  await page.getByRole('button', { name: /^Pack \d+ islands/ }).click();
  await page.getByRole('button', { name: 'Take it' }).waitFor();
  await page.waitForTimeout(6000);
  await shot(page, 'pack');
  await page.getByRole('button', { name: 'Take it' }).click();
  await settled(page);
  await page.evaluate(async () => {
    const { edit } = (window as unknown as { jigPeel: { edit(name: string, params: object): Promise<unknown> } }).jigPeel;
    await edit('settings', { effort: 1, turn: 'quarter' });
    await edit('select', { kind: 'islands', ids: [0, 1, 2, 3, 4] });
    await edit('weigh', { weight: 2 });
    await edit('pack', { parts: 'sheet', evenDensity: true, keepHeadings: false });
  });
  await settled(page);
  await page.getByRole('button', { name: 'Overlay: Density' }).click();
  await page.waitForTimeout(4500);
  await page.getByText('Surface by density').scrollIntoViewIfNeeded();
  await page.getByLabel('Sharpness of the selected').scrollIntoViewIfNeeded();
  await settled(page);
  await shot(page, 'density');
  await page.evaluate(async () => {
    const { edit, state } = (
      window as unknown as {
        jigPeel: { edit(name: string, params: object): Promise<unknown>; state(): { summary: { sheets: { id: string; name: string }[] } } };
      }
    ).jigPeel;
    await edit('sheets', { do: 'change', sheet: state().summary.sheets.find(({ name }) => name === 'Jetty')!.id, tiles: 3 });
    await edit('weigh', { weight: 1, of: 'part' });
    await edit('pack', { parts: 'sheet', evenDensity: true, effort: 0 });
    await edit('select', { kind: 'islands', ids: [] });
  });
  await settled(page);
  await page.getByRole('button', { name: 'Overlay: Pieces' }).click();
  await views(page).focus();
  await page.keyboard.press('Home');
  await page.waitForTimeout(4500);
  await settled(page);
  await shot(page, 'tiles');
});

test('the kerbs on their sheet', async ({ page }) => {
  await openDemo(page);
  await choosePart(page, 'Quay kerb, S-shaped');
  await settled(page);
  await page.evaluate(async () => {
    const { edit } = (window as unknown as { jigPeel: { edit(name: string, params: object): Promise<unknown> } }).jigPeel;
    await edit('placeImage', { placement: { repeats: [4, 4] }, what: 'repeats' });
    await edit('pack', { parts: 'sheet' });
    await edit('select', { kind: 'islands', ids: [0] });
  });
  await settled(page);
  await views(page).focus();
  await page.keyboard.press('Shift+Digit4');
  await settled(page);
  await look(page, 0.5, 0.6);
  await page.keyboard.press('l');
  await page.getByRole('listbox', { name: 'Ways to straighten' }).waitFor();
  await settled(page);
  await shot(page, 'shape');
  await page.keyboard.press('l');
  await settled(page);
  await page.keyboard.press('Shift+Digit5');
  await settled(page);
  await page.waitForTimeout(4500);
  await shot(page, 'sheets');
});

test('proposals and notches', async ({ page }) => {
  test.setTimeout(180_000);
  await openDemo(page);
  await look(page, 0.7, 0.25);
  await page.getByLabel('Go on from my seams').click();
  await page.getByRole('button', { name: 'Work out seams' }).click();
  const list = page.getByRole('list', { name: 'Proposed seams' }).getByRole('button');
  await list.nth(3).waitFor({ timeout: 120_000 });
  await settled(page);
  await list.filter({ hasText: 'By limbs' }).hover();
  await page.waitForTimeout(800);
  await page.screenshot({ path: 'docs/screenshots/proposals.png' });
  await list.first().click();
  await settled(page);
  await page.waitForTimeout(4000);
  await settled(page);
  await page.getByLabel('Notches on the sheet').click();
});

test('intake and selection', async ({ page }) => {
  await openDemo(page);
  await choosePart(page, 'Punt hull');
  await page.getByRole('button', { name: 'Intake' }).click();
  await look(page, 0.75, 0.2);
  await page.getByRole('listitem').filter({ hasText: 'upside down or turned' }).getByRole('button', { name: 'Select them' }).click();
  await settled(page);
  await shot(page, 'intake');
});

test('versions under a wipe', async ({ page }) => {
  await openDemo(page);
  await choosePart(page, 'Tiled kiosk');
  await page.getByRole('navigation', { name: 'Stations' }).getByRole('button', { name: 'Intake' }).click();
  await page.getByRole('button', { name: 'Make a first layout' }).first().click();
  await settled(page);
  await page.keyboard.press('Control+s');
  await settled(page);
  await page.getByRole('navigation', { name: 'Stations' }).getByRole('button', { name: 'Pack' }).click();
  await page
    .getByRole('region', { name: 'Station pack' })
    .getByRole('button', { name: /^Pack \d/ })
    .click();
  await settled(page);
  await page.getByRole('navigation', { name: 'Stations' }).getByRole('button', { name: 'Check' }).click();
  await page.getByRole('group', { name: 'What the model shows' }).getByRole('button').first().click();
  await page.getByRole('button', { name: 'Compare …' }).click();
  await page.getByRole('dialog', { name: 'Compare' }).locator('canvas').nth(3).waitFor();
  // what was said about the steps before is gone
  await page.waitForTimeout(5000);
  await shot(page, 'compare');
});

test('a batch as it is worked', async ({ page }) => {
  const samples = ['beacon-lens', 'punt-hull', 'signal-flags', 'harbour-lamp', 'net-float', 'quay-kerbs', 'jetty', 'tiled-kiosk', 'seal-figurehead'];
  const recipe = {
    jigPeelRecipe: 1,
    name: 'Props of the quay, by creases',
    steps: [
      { operation: 'firstLayout', params: { by: 'crease' } },
      { operation: 'density', params: { even: true } },
      { operation: 'pack', params: { size: '2048', gap: 8 } },
    ],
  };
  await page.goto('/batches');
  await page
    .getByLabel('Models of the batch')
    .setInputFiles([
      { name: 'props.json', mimeType: 'application/json', buffer: Buffer.from(JSON.stringify(recipe)) },
      ...samples.map((name) => ({ name: `${name}.obj`, mimeType: 'model/obj', buffer: readFileSync(`app/dist/samples/${name}.obj`) })),
      { name: 'cut-short.glb', mimeType: 'model/gltf-binary', buffer: Buffer.from('glTF\u0002\0\0\0') },
    ]);
  await page.getByRole('button', { name: 'Work 10 models' }).click();
  const batch = page.getByRole('region', { name: /^Batch/ });
  await batch.getByText(/^[3-5] of 10 done/).waitFor({ timeout: 60_000 });
  await shot(page, 'batches');
  await batch.getByRole('button', { name: 'Stop' }).click();
  await batch.getByRole('button', { name: 'Remove' }).click();
  await page.getByRole('alertdialog').getByRole('button', { name: 'Remove' }).click();
});

test('jigs', async ({ page }) => {
  await openDemo(page);
  await choosePart(page, 'Beacon lens');
  await page.getByRole('button', { name: 'Intake' }).click();
  await page.getByRole('button', { name: 'Open Beacon lens' }).click();
  await page.getByRole('button', { name: 'Select the group drum' }).click();
  await page.getByRole('button', { name: 'Jigs' }).click();
  await page.getByRole('list', { name: 'Advice' }).getByRole('button').first().click({ timeout: 30_000 });
  await page.getByLabel('Repeats in v', { exact: true }).waitFor();
  await page.keyboard.press('w');
  await look(page, 0.4, 0.25);
  await settled(page);
  await shot(page, 'jigs');
});

test('image', async ({ page }) => {
  await openDemo(page);
  await choosePart(page, 'Beacon lens');
  await page.getByRole('button', { name: 'Images', exact: true }).click();
  await page.getByRole('button', { name: 'Overlay: Picture' }).click();
  await page.getByLabel('Image turned by', { exact: true }).fill('20');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Slide it' }).click();
  await page.getByText('How the image lies').evaluate((element) => element.scrollIntoView());
  await look(page, 0.4, 0.2);
  await settled(page);
  await shot(page, 'image');
});

test('layers on the kiosk', async ({ page }) => {
  await openDemo(page);
  await choosePart(page, 'Tiled kiosk');
  await page.getByRole('button', { name: 'Images', exact: true }).click();
  await page.evaluate(() => {
    const { jigPeel } = window as unknown as { jigPeel: { state(): { setLook(look: object): void } } };
    jigPeel.state().setLook({ light: 'lamp', lampSide: -60, lampHeight: 30 });
  });
  await page.getByRole('button', { name: /^Splashes from the ground/ }).click();
  await page.getByRole('heading', { name: /^Layers/ }).evaluate((element) => element.scrollIntoView());
  await look(page, 0.5, 0.15);
  await settled(page);
  await page.waitForTimeout(1500);
  await shot(page, 'layers');
});

test('a decal, and baking', async ({ page }) => {
  await openDemo(page);
  await choosePart(page, 'Punt hull');
  await page.getByRole('button', { name: 'Images', exact: true }).click();
  await page.getByRole('button', { name: /^Inspection stamp/ }).click();
  await page.getByRole('heading', { name: /^Layers/ }).evaluate((element) => element.scrollIntoView());
  await look(page, 1.35, -0.12);
  await settled(page);
  await page.waitForTimeout(1500);
  await shot(page, 'decal');
  await choosePart(page, 'Beacon lens');
  await page.getByRole('button', { name: 'Measure the seams' }).click();
  await page.getByRole('list', { name: 'Seams where the picture jumps, worst first' }).getByRole('button').first().click();
  await page.getByRole('list', { name: 'What would help' }).waitFor();
  await page.getByRole('heading', { name: 'Where the picture jumps' }).evaluate((element) => element.scrollIntoView());
  await settled(page);
  await page.waitForTimeout(800);
  await shot(page, 'bake');
});
