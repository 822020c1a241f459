import path from 'node:path';
import { root, say } from './lib/run.mjs';
import { ensureBuilt, ensureChromium, ensurePackages } from './lib/setup.mjs';

// Takes the pictures in docs/screenshots from the demo data: npm run screenshots, or npm run screenshots -- plan person.
const wanted = process.argv.slice(2);
await ensurePackages();
await ensureBuilt();
await ensureChromium();
const { startApp, stopAll } = await import('./lib/app.mjs');
const { launchOptions } = await import('./lib/browser.mjs');
const { chromium } = await import('@playwright/test');
process.on('SIGINT', () => void stopAll().then(() => process.exit(1)));

// Anew each time: what earlier pictures left behind is no demo data.
const app = await startApp('screenshots', { fresh: true, report: say });
const browser = await chromium.launch(launchOptions);
const page = await browser.newPage({
  baseURL: app.base,
  viewport: { width: 1280, height: 800 },
  reducedMotion: 'reduce',
});

const open = async (name) => {
  await page.goto('/sequences');
  await page.getByRole('link', { name }).click();
  await page.locator('[data-step=trigger]').waitFor();
};
const openEmail = async (name, email) => {
  await open(name);
  await page.locator('[data-step]', { hasText: email }).first().click();
  await page.locator('[data-step]:focus').press('Enter');
  await page.getByRole('textbox', { name: 'Subject' }).waitFor();
};
const views = {
  sequences: () => page.goto('/sequences'),
  plan: async () => {
    await open('Welcome and stitch guide');
    await page.locator('[data-step]', { hasText: '· Day' }).first().click();
  },
  rehearsal: async () => {
    await open('Welcome and stitch guide');
    await page.getByRole('button', { name: 'Rehearse' }).click();
    await page.getByRole('region', { name: 'Timeline of the rehearsal' }).getByRole('listitem').first().waitFor();
    await page.getByLabel(/^When, in.*: day$/).fill('2026-03-06');
    await page.keyboard.press('Tab');
    await page.getByLabel(/^When, in.*: time$/).fill('12:00');
    await page.keyboard.press('Tab');
  },
  offers: async () => {
    await page.goto('/offers');
    await page.getByRole('table').waitFor();
  },
  offer: async () => {
    await page.goto('/offers');
    await page.getByRole('link', { name: 'Kit offer' }).click();
    await page.getByText('What came back').waitFor();
  },
  timer: async () => {
    await openEmail('Welcome and stitch guide', 'Kit offer');
    await page
      .getByRole('button', { name: /^Closes on/ })
      .first()
      .click();
    await page.getByRole('group', { name: 'Faces' }).getByRole('img').first().waitFor({ state: 'attached' });
    await page.getByLabel('Counts to').scrollIntoViewIfNeeded();
  },
  calendar: async () => {
    await open('Seven evenings to a first book');
    await page.getByRole('link', { name: 'Calendar' }).click();
    await page.getByRole('table').waitFor();
  },
  composer: async () => {
    await openEmail('Left at checkout', 'Still in the cart');
    await page
      .getByRole('complementary', { name: 'Blocks' })
      .getByRole('button', { name: 'Repeat over lines' })
      .click();
    await page.frameLocator('iframe[title="The email on a phone"]').getByText(/€/).first().waitFor();
  },
  'who-sees-what': async () => {
    await openEmail('Left at checkout', 'Still in the cart');
    await page.getByRole('button', { name: 'Who sees what' }).click();
    await page
      .getByRole('dialog')
      .getByText(/ of [\d,]+$/)
      .first()
      .waitFor();
  },
  numbers: async () => {
    await open('Welcome and stitch guide');
    await page.getByRole('link', { name: 'Numbers' }).click();
  },
  results: async () => {
    await page.goto('/results?joined=90');
    await page.getByRole('img', { name: /^Money over time/ }).waitFor();
  },
  outgoing: async () => {
    await page.goto('/results/out');
    await page.getByRole('table', { name: 'What goes out, by day' }).waitFor();
  },
  'one-off': async () => {
    await page.goto('/sequences');
    await page.getByRole('link', { name: 'The bench is open in March' }).click();
    await page.getByText(/^[\d,]+ people get it$/).waitFor();
  },
  person: async () => {
    // Somebody who has been here for a while, so that there is a story to tell.
    await page.goto('/people?from=600');
    await page.getByRole('row').nth(5).getByRole('link').first().click();
  },
  people: () => page.goto('/people'),
  mailbox: async () => {
    await page.goto('/outside');
    await page.getByRole('listitem').getByRole('link').first().click();
    await page.frameLocator('iframe').getByRole('img').last().waitFor();
  },
  library: () => page.goto('/library'),
  import: async () => {
    const data = [
      'E-mail;First name;Born;Orders;Labels',
      'ana.lopes@readers.example;Ana;24.03.1987;3;kit-owner, teacher',
      'rui.costa@readers.example;Rui;1.2.1990;0;',
      'zoe@readers.example;Zoë;31.12.1979;12;kit-owner',
    ].join('\n');
    const headers = { 'Content-Type': 'text/csv' };
    const kept = await page.request.post('/api/imports?name=spring%20fair.csv', { data, headers });
    await page.goto(`/people/import/${(await kept.json()).id}`);
    await page.getByRole('heading', { name: 'How it is written' }).waitFor();
  },
  form: async () => {
    const made = await page.request.post('/api/forms', { data: { name: 'Five stitches, the guide' } });
    await page.goto(`/library/forms/${(await made.json()).id}`);
    await page.frameLocator('iframe').getByRole('button').waitFor();
  },
};

await page.goto('/sign-in');
await page.getByLabel('Email').fill('ines@foldwell.example');
await page.getByLabel('Password').fill('fold-along-the-grain');
await page.getByRole('button', { name: 'Sign in' }).click();
await page.getByRole('heading', { name: 'Sequences' }).waitFor();
for (const [name, show] of Object.entries(views)) {
  if (wanted.length > 0 && !wanted.includes(name)) continue;
  await show();
  // Not until the network is idle: files that a worker was fetching when its page was left are counted there for ever.
  await page.waitForFunction(() => document.fonts.status === 'loaded' && [...document.images].every((i) => i.complete));
  await page.waitForTimeout(1500);
  await page.screenshot({ path: path.join(root, 'docs/screenshots', `${name}.png`) });
  say(`docs/screenshots/${name}.png`);
}
await browser.close();
await stopAll();
process.exit(0);
