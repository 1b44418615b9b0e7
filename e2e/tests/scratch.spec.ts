import { test, type Page } from '@playwright/test';
import { benchReady, settled, views } from './bench.ts';
async function openDemo(page: Page) {
  await page.goto('/');
  await page.getByRole('button', { name: /Skerry Quay.*demo job/s }).click();
  await benchReady(page);
  await settled(page);
}
test('look', async ({ page }) => {
  test.setTimeout(200_000);
  await openDemo(page);
  await page.getByRole('button', { name: 'Check' }).click();
  await page.waitForTimeout(1500);
  await views(page).focus();
  await page.keyboard.press('Control+s');
  await settled(page);
  await page.getByRole('button', { name: 'Seams', exact: true }).click();
  await page.getByLabel('Go on from my seams').click();
  await page.getByRole('button', { name: 'Work out seams' }).click();
  const list = page.getByRole('list', { name: 'Proposed seams' }).getByRole('button');
  await list.nth(3).waitFor({ timeout: 120_000 });
  await settled(page);
  await list.first().click();
  await settled(page);
  await page.getByRole('button', { name: 'Check', exact: true }).click();
  await page.getByLabel('Name').fill('By limbs');
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await settled(page);
  await page.waitForTimeout(700);
  await page.getByRole('button', { name: 'What changed' }).last().click();
  await settled(page);
  await page.getByRole('button', { name: 'What changed' }).last().scrollIntoViewIfNeeded();
  await page.waitForTimeout(500);
  await page.screenshot({ path: '/tmp/p1.png' });
});
