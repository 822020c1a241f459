import { expect, test } from '@playwright/test';
import { lastMail } from './support/emails.ts';
import { signIn } from './support/hands.ts';

test('the practice clock goes ahead an hour, a day and a week, and mail comes in at its own times', async ({
  page,
}) => {
  await signIn(page);
  await page.goto('/outside');
  const clock = page.getByRole('heading', { level: 2, name: /\d\d:\d\d$/ });
  const begin = await clock.textContent();
  const before = await lastMail(page);
  for (const by of ['an hour', 'a day', 'a week']) {
    const was = await clock.textContent();
    await page.getByRole('button', { name: `Ahead ${by}` }).click();
    await expect(clock).not.toHaveText(was ?? '', { timeout: 45_000 });
    await expect(page.getByRole('button', { name: `Ahead ${by}` })).toBeEnabled({ timeout: 60_000 });
  }
  expect(begin).toMatch(/09:12/);
  // An hour on top of the time of day; days and weeks keep it.
  await expect(clock).toHaveText(/10:12/);
  await expect.poll(() => lastMail(page)).toBeGreaterThan(before);
});
