import { defineConfig } from '@playwright/test';
import base, { withPower } from './playwright.config.ts';

/** Makes docs/screenshots from the demo job, drawn in full: npm run build && npm run shots */
export default defineConfig({ ...base, testDir: './pictures', testMatch: '*.shots.ts', use: { ...base.use, storageState: withPower('off') } });
