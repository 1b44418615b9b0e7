import { test } from '@playwright/test';
import { benchReady, settled, watchErrors } from './bench.ts';
test('look', async ({ page }) => {
  test.setTimeout(120000);
  const errors = watchErrors(page);
  await page.setViewportSize({ width: 1280, height: 800 });
  await page.goto('/');
  await page.getByRole('button', { name: /Skerry Quay/ }).first().click();
  await benchReady(page);
  await settled(page);
  const ids = await page.evaluate(() => (window as any).jigPeel.state().summary.parts.map((p: any) => [p.id, p.name, p.sheet]));
  console.log(JSON.stringify(ids));
  for (const n of ['Lamp flange', 'Lamp post', 'Lamp cap', 'Lamp bracket']) {
    const id = ids.find((x: any) => x[1] === n)[0];
    const t0 = Date.now(); await page.evaluate(async (id) => { const j = (window as any).jigPeel; await j.edit('activatePart', { part: id }); const o = await j.edit('firstLayout', {}); console.log(o.sentence); }, id);
    const t1 = Date.now(); await settled(page); console.log(n, t1 - t0, Date.now() - t1);
  }
  await page.screenshot({ path: '/tmp/s1.png' });
  await page.keyboard.press('Shift+4');
  await page.waitForTimeout(800);
  await settled(page);
  const r = await page.evaluate(() => { const j = (window as any).jigPeel; const s = j.state(); const i = s.layout.islands.filter((x: any) => !x.waits)[0]; const o = [...s.sheetParts.values()].filter((p:any)=>p.part!==s.summary.activePart)[0]; const k = o.islands[0]; return { a: i ? j.uv(i.u, i.v): null, b: j.uv(k.u, k.v), t: s.layout.islands.map((x:any)=>[x.u,x.v,x.waits]), k:[k.u,k.v] }; });
  console.log(JSON.stringify(r));
  await page.mouse.click(r.b.x, r.b.y);
  await settled(page);
  if (r.a) { await page.keyboard.down('Shift'); await page.mouse.click(r.a.x, r.a.y); await page.keyboard.up('Shift'); }
  await settled(page);
  await page.waitForTimeout(500);
  await page.screenshot({ path: '/tmp/s2.png' });
  await page.mouse.move(r.b.x, r.b.y);
  await page.mouse.down();
  await page.mouse.move(r.b.x + 20, r.b.y + 10, { steps: 4 });
  await page.waitForTimeout(300);
  await page.mouse.move(r.b.x + 60, r.b.y + 30, { steps: 6 });
  await page.waitForTimeout(300);
  await page.screenshot({ path: '/tmp/s3.png' });
  await page.mouse.up();
  await settled(page);
  await page.screenshot({ path: '/tmp/s4.png' });
  console.log(errors.join('\n'));
});
