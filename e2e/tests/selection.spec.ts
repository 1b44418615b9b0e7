import { expect, test, type Page } from './test.ts';
import { benchReady, drop, look, selected, settled, still, views, watchErrors } from './bench.ts';

/** A box of 6 × 6 quads a side, bare. */
function crate(): string {
  const n = 6;
  const lines: string[] = [];
  const index = new Map<string, number>();
  const faces: string[] = [];
  const at = (p: number[]) => {
    const key = p.join();
    if (!index.has(key)) {
      index.set(key, index.size + 1);
      lines.push(`v ${p.map((x) => (2 * x) / n - 1).join(' ')}`);
    }
    return index.get(key)!;
  };
  for (let axis = 0; axis < 3; axis++) {
    for (const end of [0, n]) {
      for (let i = 0; i < n; i++) {
        for (let j = 0; j < n; j++) {
          const corner = (di: number, dj: number) => {
            const p = [0, 0, 0];
            p[axis] = end;
            p[(axis + 1) % 3] = i + di;
            p[(axis + 2) % 3] = j + dj;
            return at(p);
          };
          const quad = [corner(0, 0), corner(1, 0), corner(1, 1), corner(0, 1)];
          faces.push(`f ${(end === 0 ? quad.reverse() : quad).join(' ')}`);
        }
      }
    }
  }
  return [...lines, ...faces].join('\n');
}

async function open(page: Page) {
  await page.goto('/');
  await drop(page, [{ name: 'crate.obj', text: crate() }]);
  await benchReady(page);
  await settled(page);
  await look(page, 0, 0);
  await page.keyboard.press('f');
  await still(page);
  // a little further off, so that all of it is clear of the bars
  const r = (await page.locator('[data-view="model"]').boundingBox())!;
  await page.mouse.move(r.x + r.width / 2, r.y + r.height / 2);
  await page.mouse.wheel(0, 120);
  await still(page);
}

async function drag(page: Page, from: [number, number], to: [number, number]) {
  await page.mouse.move(...from);
  await page.mouse.down();
  await page.mouse.move((from[0] + to[0]) / 2, (from[1] + to[1]) / 2);
  await page.mouse.move(...to);
  await page.mouse.up();
}

test('box over the whole model: in sight takes the front, through takes all; Shift adds, Ctrl takes away', async ({ page }) => {
  const errors = watchErrors(page);
  await open(page);
  const r = (await page.locator('[data-view="model"]').boundingBox())!;
  const [from, to]: [[number, number], [number, number]] = [
    [r.x + 30, r.y + 140],
    [r.x + r.width - 12, r.y + r.height - 110],
  ];
  await page.keyboard.press('3');
  await drag(page, from, to);
  await expect(selected(page)).toHaveText('36 faces');
  await page.getByRole('button', { name: /: what a drag takes$/ }).click();
  await drag(page, from, to);
  await expect(selected(page)).toHaveText('216 faces');
  // Ctrl takes away the right half of the view, Shift brings it back
  const half: [number, number] = [r.x + r.width / 2, r.y + 140];
  await page.keyboard.down('Control');
  await drag(page, half, to);
  await page.keyboard.up('Control');
  await expect(selected(page)).toHaveText('108 faces');
  await page.keyboard.down('Shift');
  await drag(page, half, to);
  await page.keyboard.up('Shift');
  await expect(selected(page)).toHaveText('216 faces');
  // points and edges; selections are in undo
  await page.getByRole('button', { name: /: what a drag takes$/ }).click();
  await page.keyboard.press('5');
  await drag(page, from, to);
  await expect(selected(page)).toHaveText('49 points');
  await page.keyboard.press('4');
  await drag(page, from, to);
  await expect(selected(page)).toHaveText('84 edges');
  await page.keyboard.press('Control+z');
  await expect(selected(page)).toHaveText('49 points');
  expect(errors).toEqual([]);
});

test('lasso and brush take what they go round and over', async ({ page }) => {
  await open(page);
  const r = (await page.locator('[data-view="model"]').boundingBox())!;
  const [cx, cy] = [r.x + r.width / 2, r.y + r.height / 2];
  await page.keyboard.press('3');
  await page.getByRole('button', { name: 'Drag draws a lasso' }).click();
  await page.mouse.move(cx - 60, cy - 60);
  await page.mouse.down();
  for (const [dx, dy] of [
    [60, -60],
    [60, 60],
    [-60, 60],
  ])
    await page.mouse.move(cx + dx!, cy + dy!, { steps: 4 });
  await page.mouse.up();
  await expect(selected(page)).toHaveText(/^[1-9]\d* faces$/);
  const inLasso = Number((await selected(page).textContent())!.split(' ')[0]);
  expect(inLasso).toBeGreaterThan(3);
  expect(inLasso).toBeLessThan(36);
  await page.getByRole('button', { name: /Drag paints/ }).click();
  await drag(page, [cx - 100, cy], [cx + 100, cy]);
  await page.waitForTimeout(300);
  const painted = Number((await selected(page).textContent())!.split(' ')[0]);
  expect(painted).toBeGreaterThan(1);
});

test('ways to select by a rule: grow, ring, flat region, problems; hide and show; a kept selection', async ({ page }) => {
  const errors = watchErrors(page);
  await open(page);
  const r = (await page.locator('[data-view="model"]').boundingBox())!;
  const [cx, cy] = [r.x + r.width / 2, r.y + r.height / 2];
  const menu = async (name: string | RegExp) => {
    await page.getByRole('button', { name: 'More ways to select' }).click();
    await page.getByRole('menuitem', { name }).click();
    await expect(page.getByRole('menu')).toBeHidden();
  };
  await page.keyboard.press('3');
  await page.mouse.click(cx - 20, cy - 20);
  await expect(selected(page)).toHaveText('1 face');
  await page.keyboard.press('Equal');
  await expect(selected(page)).toHaveText('9 faces');
  await page.keyboard.press('Minus');
  await expect(selected(page)).toHaveText('1 face');
  await menu('Flat region');
  await expect(selected(page)).toHaveText('36 faces');
  await menu('Border of the faces');
  await expect(selected(page)).toHaveText('24 edges');
  await menu('All that is connected');
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect(selected(page)).toHaveText('36 faces');
  await menu(/Keep this selection/);
  await page.keyboard.press('h');
  await expect(selected(page)).toHaveText('none selected');
  await page.keyboard.press('Control+a');
  await expect(selected(page)).toHaveText('180 faces');
  // what was behind the hidden front can be picked now
  await page.mouse.click(cx - 20, cy - 20);
  await expect(selected(page)).toHaveText('1 face');
  await page.keyboard.press('a');
  await menu('Select “Selection 1”');
  await expect(selected(page)).toHaveText('36 faces');
  await menu('Faces without UVs');
  await expect(selected(page)).toHaveText('216 faces');
  // it is all kept over a reload
  await settled(page);
  await page.reload();
  await benchReady(page);
  await settled(page);
  await expect(selected(page)).toHaveText('216 faces');
  expect(errors).toEqual([]);
});

test('the state of the UVs at Intake: a wrapped tube’s backward strip is found, shown and put right', async ({ page }) => {
  const n = 12;
  const lines: string[] = [];
  for (let row = 0; row < 3; row++)
    for (let k = 0; k < n; k++) lines.push(`v ${Math.sin((2 * Math.PI * k) / n)} ${row - 1} ${Math.cos((2 * Math.PI * k) / n)}`);
  for (let row = 0; row < 3; row++) for (let k = 0; k < n; k++) lines.push(`vt ${k / n} ${row / 2}`);
  for (let row = 0; row < 2; row++)
    for (let k = 0; k < n; k++) {
      const m = (k + 1) % n;
      lines.push(`f ${[row * n + k, row * n + m, row * n + n + m, row * n + n + k].map((p) => `${p + 1}/${p + 1}`).join(' ')}`);
    }
  await page.goto('/');
  await drop(page, [{ name: 'tube.obj', text: lines.join('\n') }]);
  await benchReady(page);
  await settled(page);
  await page.getByRole('button', { name: 'Intake' }).click();
  const state = page.getByRole('list', { name: 'State of the UVs' });
  await expect(state.getByText('2 faces run backwards over the image where a wrap closes.')).toBeVisible();
  await state.getByRole('listitem').filter({ hasText: 'run backwards' }).getByRole('button', { name: 'Select them' }).click();
  await expect(selected(page)).toHaveText('2 faces');
  await state.getByRole('button', { name: 'Put the strip right' }).click();
  await settled(page);
  await expect(state.getByText('All faces have UVs, and nothing is wrong with them.')).toBeVisible();
  await views(page).focus();
  await page.keyboard.press('Control+z');
  await settled(page);
  await expect(state.getByText(/run backwards/)).toBeVisible();
});
