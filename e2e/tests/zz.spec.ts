import { test, type Page } from './test.ts';
import { withPower } from '../playwright.config.ts';
import { benchReady, choosePart, goTo, settled } from './bench.ts';
test.use({ fresh: true, storageState: withPower('off') });
const edit = (page: Page, n: string, p: object) => page.evaluate(([n, p]) => (window as any).jigPeel.edit(n, p), [n, p] as const);
test('zz order', async ({ page }) => {
  test.setTimeout(180000);
  await page.setViewportSize({ width: 1280, height: 800 });
  await page.goto('/');
  await page.getByRole('button', { name: /Skerry Quay/i }).first().click();
  await benchReady(page);
  await settled(page);
  await choosePart(page, 'kiosk');
  await edit(page, 'firstLayout', {});
  await settled(page);
  await goTo(page, 'Images');
  await page.evaluate(() => (window as any).jigPeel.state().set({ overlay: 'picture' }));
  await page.waitForTimeout(4000);
  const ids = await page.evaluate(() => { const s = (window as any).jigPeel.state().summary; const p = s.parts.find((x: any) => x.id === s.activePart); return (p.layers ?? []).map((l: any) => l.id); });
  console.log(ids);
  console.log(await page.evaluate(() => { const c = document.createElement('canvas').getContext('webgl2')!; return c.getSupportedExtensions()!.includes('KHR_parallel_shader_compile'); }));
  for (let k = 0; k < 8; k++) {
    const found = await page.evaluate(async (order) => {
      const gaps: number[] = []; let last = performance.now(); let on = true;
      const tasks: number[] = [];
      const po = new PerformanceObserver((l) => l.getEntries().forEach((e) => tasks.push(Math.round(e.duration))));
      po.observe({ entryTypes: ['longtask'] });
      const tick = () => { const n = performance.now(); gaps.push(n - last); last = n; if (on) requestAnimationFrame(tick); };
      requestAnimationFrame(tick);
      const t = performance.now();
      let o: any = { ok: 1 }; if (order) o = await (window as any).jigPeel.edit('orderLayers', { order }); else { const s = (window as any).jigPeel.state().summary; const p = s.parts.find((x: any) => x.id === s.activePart); (window as any).jigPeel.showLayer({ ...p.layers[0], opacity: Math.random() }); }
      const took = performance.now() - t;
      await new Promise((r) => setTimeout(r, 1500));
      on = false; po.disconnect();
      return { ok: o.ok, took, max: Math.max(...gaps), tasks };
    }, k >= 4 ? null : k % 2 === 0 ? [...ids].reverse() : ids);
    console.log(JSON.stringify(found));
  }
});
