import { defineConfig } from '@playwright/test';
import { launchOptions } from './scripts/lib/browser.mjs';

const bases = (process.env.BASE_URLS ?? '').split(' ');

export default defineConfig({
  testDir: 'e2e',
  // Beside the reports of the other stages, which are not its own to sweep away.
  outputDir: 'test-results/browser',
  // A machine may be slow: each wait has its own limit, and the whole of a test only one against standing still.
  timeout: 600_000,
  expect: { timeout: 20_000 },
  // A file of tests runs in one installation, and each installation has one browser.
  workers: bases.length,
  fullyParallel: false,
  reporter: [['./scripts/lib/progress-playwright.mjs'], ['json', { outputFile: 'test-results/e2e.json' }]],
  use: {
    locale: 'en-GB',
    baseURL: bases[Number(process.env.TEST_PARALLEL_INDEX ?? 0)] ?? '',
    actionTimeout: 20_000,
    viewport: { width: 1280, height: 800 },
    launchOptions,
    contextOptions: { reducedMotion: 'reduce' },
    screenshot: 'only-on-failure',
  },
});
