import { test, type Page } from '@playwright/test';
import { benchReady, look, settled, views } from '../tests/bench.ts';

async function shot(page: Page, name: string) {
  // nothing hovers: the pointer rests where nothing is
  await page.mouse.move(2, 2);
  await page.waitForTimeout(600);
  await page.screenshot({ path: `docs/screenshots/${name}.png` });
}

async function openDemo(page: Page) {
  await page.goto('/');
  await page.getByRole('button', { name: /Skerry Quay.*demo job/s }).click();
  await benchReady(page);
  await settled(page);
}

async function choosePart(page: Page, name: string) {
  await page.getByRole('button', { name: /^Part: / }).click();
  await page.getByRole('menuitem', { name }).click();
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
  await page.getByRole('button', { name: 'Overlay: Stretch' }).click();
  await settled(page);
  await shot(page, 'stretch');
  await views(page).focus();
  await page.keyboard.press('Shift+Digit5');
  await settled(page);
  await shot(page, 'pack');
  await page.keyboard.press('Shift+Digit8');
  await settled(page);
  await shot(page, 'deliver');
});

test('intake and selection', async ({ page }) => {
  await openDemo(page);
  await page.getByRole('button', { name: 'Intake' }).click();
  await look(page, 0.6, 0.3);
  await settled(page);
  await shot(page, 'intake');
  await page.keyboard.press('3');
  const r = (await page.locator('[data-view="model"]').boundingBox())!;
  await page.mouse.move(r.x + 60, r.y + 180);
  await page.mouse.down();
  await page.mouse.move(r.x + 250, r.y + 400, { steps: 3 });
  await page.mouse.up();
  await settled(page);
  await shot(page, 'selection');
});

test('other parts, other theme', async ({ page }) => {
  await openDemo(page);
  await choosePart(page, 'Beacon lens');
  await look(page, 0.5, 0.3);
  await page.getByRole('button', { name: 'Dark theme' }).click();
  await settled(page);
  await shot(page, 'lens-dark');
});

test('a model without UVs', async ({ page }) => {
  await page.goto('/');
  await page
    .getByRole('button', { name: /Tiled kiosk/ })
    .first()
    .click();
  await benchReady(page);
  await settled(page);
  await look(page, 0.6, 0.3);
  await shot(page, 'bare');
});
