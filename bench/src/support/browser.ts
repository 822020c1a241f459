import { chromium, type Page } from 'playwright-core';
import { launchOptions } from '../../../scripts/lib/browser.mjs';

/** A small installation with its owner signed in on a page of 1280x800, for as long as `work` takes. */
export async function inBrowser(work: (page: Page, base: string) => Promise<void>): Promise<void> {
  const { startApp } = await import('../../../scripts/lib/app.mjs');
  const app = await startApp('bench-app', { fresh: true, fast: true, days: 7, people: 10 });
  const browser = await chromium.launch(launchOptions);
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    // The loader of these measurements marks named functions by a helper that the page does not have.
    await page.addInitScript('globalThis.__name = (f) => f');
    await page.goto(`${app.base}/sign-in`);
    await page.getByLabel('Email').fill('ines@foldwell.example');
    await page.getByLabel('Password').fill('fold-along-the-grain');
    await page.getByRole('button', { name: 'Sign in' }).click();
    await page.getByRole('heading', { name: 'Sequences' }).waitFor();
    await work(page, app.base);
  } finally {
    await browser.close();
    await app.stop();
  }
}
