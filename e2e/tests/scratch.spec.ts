import { test } from '@playwright/test';
import { encode } from 'fast-png';
import { benchReady, settled, views, drop } from './bench.ts';
function plate(): string {
  const lines = ['o plate'];
  for (let j = 0; j <= 2; j++) for (let i = 0; i <= 6; i++) lines.push(`v ${i/2} ${j/2} 0`, `vt ${i * 0.5} ${j * 0.5}`);
  for (let j = 0; j < 2; j++) for (let i = 0; i < 6; i++) { const a = j * 7 + i + 1; lines.push(`f ${[a, a + 1, a + 8, a + 7].map((p) => `${p}/${p}`).join(' ')}`); }
  return lines.join('\n') + '\n';
}
const png = (r: number, g: number, b: number) => { const data = new Uint8Array(64 * 64 * 4); for (let k = 0; k < 64 * 64; k++) data.set([Math.floor(k / 64) < 8 ? 0 : r, g, k % 64 < 8 ? 255 : b, 255], k * 4); return Buffer.from(encode({ width: 64, height: 64, data, channels: 4 })); };
test('look', async ({ page }) => {
  await page.setViewportSize({ width: 1280, height: 800 });
  await page.goto('/');
  await drop(page, [{ name: 'plate.obj', bytes: Buffer.from(plate()) }]);
  await benchReady(page);
  await settled(page);
  const files = [['deck.1001.png', png(220, 60, 60)], ['deck.1002.png', png(60, 200, 60)], ['deck.1003.png', png(80, 80, 240)]] as const;
  const [chooser] = await Promise.all([page.waitForEvent('filechooser'), page.getByRole('button', { name: 'Add images' }).click()]);
  await chooser.setFiles(files.map(([name, buffer]) => ({ name, mimeType: 'image/png', buffer })));
  await settled(page);
  await page.waitForTimeout(1500);
  await views(page).focus();
  await page.getByRole('button', { name: 'Look from: front' }).click();
  await page.waitForTimeout(900);
  await page.screenshot({ path: '/tmp/s6.png' });
});
