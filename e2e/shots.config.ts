import { defineConfig } from '@playwright/test';
import base from './playwright.config.ts';

/** Makes docs/screenshots from the demo job: npm run build && npm run shots */
export default defineConfig({ ...base, testDir: './pictures', testMatch: '*.shots.ts' });
