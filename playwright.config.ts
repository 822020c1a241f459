import { defineConfig } from '@playwright/test';
import { launchOptions } from './scripts/lib/browser.mjs';

export default defineConfig({
  testDir: 'e2e',
  timeout: 60_000,
  expect: { timeout: 10_000 },
  workers: 1,
  fullyParallel: false,
  reporter: [['list'], ['json', { outputFile: 'test-results/e2e.json' }]],
  use: {
    baseURL: process.env.BASE_URL ?? '',
    actionTimeout: 10_000,
    viewport: { width: 1280, height: 800 },
    launchOptions,
    contextOptions: { reducedMotion: 'reduce' },
    screenshot: 'only-on-failure',
  },
});
