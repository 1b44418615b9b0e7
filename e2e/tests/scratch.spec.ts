import { test, type Page } from '@playwright/test';
import { benchReady, settled, goTo } from './bench.ts';
async function openDemo(page: Page) {
  await page.goto('/');
  await page.getByRole('button', { name: /Skerry Quay.*demo job/s }).click();
  await benchReady(page);
  await settled(page);
}
test('look', async ({ page }) => {
  test.setTimeout(200_000);
  await openDemo(page);
  await goTo(page, 'Seams');
  await page.getByLabel('Go on from my seams').click();
  await page.getByRole('button', { name: 'Work out seams' }).click();
  const list = page.getByRole('list', { name: 'Proposed seams' }).getByRole('button');
  await list.nth(3).waitFor({ timeout: 120_000 });
  await settled(page);
  await list.first().hover();
  await page.waitForTimeout(900);
  await page.screenshot({ path: '/tmp/p1.png' });
  await list.nth(1).hover();
  await page.waitForTimeout(900);
  await page.getByRole('button', { name: 'What counts' }).click();
  await page.waitForTimeout(600);
  await page.screenshot({ path: '/tmp/p2.png' });
  await list.first().click();
  await settled(page);
  await page.waitForTimeout(1500);
  await page.screenshot({ path: '/tmp/p3.png' });
});
