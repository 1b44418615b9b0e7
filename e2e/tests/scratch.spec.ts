import { test } from '@playwright/test';
test('look', async ({ page }) => {
  await page.goto('file:///tmp/report.html');
  await page.waitForTimeout(800);
  await page.screenshot({ path: '/tmp/p3.png', clip: { x: 0, y: 0, width: 1280, height: 1500 }, fullPage: true });
});
