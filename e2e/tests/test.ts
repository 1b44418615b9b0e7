import { test as base, type BrowserContext, type Page } from '@playwright/test';

/** What the tests before were given, with the options that it was made for. */
let kept: { context: BrowserContext; page: Page; options: string } | null = null;

/**
 * Tests of a worker that ask for the same options follow one another in one page, with nothing stored: what the browser has downloaded and compiled for one is
 * there for the next, which takes a sixth of the time away. A test that changes the page beyond a load of it (scripts that every load begins with) asks for a `fresh` one.
 */
export const test = base.extend<{ fresh: boolean }>({
  fresh: [false, { option: true }],
  context: async ({ browser, baseURL, storageState, viewport, serviceWorkers, acceptDownloads, contextOptions, fresh }, use) => {
    const options = JSON.stringify({ storageState, viewport, serviceWorkers, acceptDownloads, contextOptions });
    if (fresh || kept?.options !== options || kept.page.isClosed()) {
      await kept?.context.close();
      const context = await browser.newContext();
      kept = { context, page: await context.newPage(), options };
    } else {
      const { context, page } = kept;
      const protocol = await context.newCDPSession(page);
      await protocol.send('Storage.clearDataForOrigin', { origin: baseURL!, storageTypes: 'all' });
      await protocol.detach();
      const entries = typeof storageState === 'object' ? storageState.origins.flatMap(({ localStorage }) => localStorage) : [];
      await page.evaluate((own) => {
        sessionStorage.clear();
        for (const { name, value } of own) localStorage.setItem(name, value);
      }, entries);
    }
    const { context, page } = kept;
    await use(context);
    if (fresh) {
      await context.close();
      kept = null;
      return;
    }
    await Promise.all(context.pages().map((other) => (other === page ? null : other.close())));
    page.removeAllListeners();
    await page.unrouteAll({ behavior: 'ignoreErrors' });
    if (viewport) await page.setViewportSize(viewport);
    await context.setOffline(false);
    // away from the app, so that nothing of it goes on and writes while the next test's store is made empty
    await page.goto('/health');
  },
  page: async ({ context: _ }, use) => {
    await use(kept!.page);
  },
});
export { expect, type Download, type Locator, type Page } from '@playwright/test';
