import { expect, test } from '@playwright/test';
import { axe, signIn } from './support/hands.ts';

test('figures that are not of now say so on the page that shows them, until one looks again', async ({ page }) => {
  await signIn(page);
  // A copy of the database that is forty seconds behind, until it has caught up.
  let behind = true;
  await page.route('**/api/results?*', async (route) => {
    const answer = await route.fetch();
    // Read before it is passed on: an answer that is fetched does not outlive its page.
    const [body, headers] = [await answer.body(), answer.headers()];
    await route.fulfill({ status: answer.status(), body, headers: { ...headers, ...(behind ? { age: '40' } : {}) } });
  });
  await page.getByRole('link', { name: 'Results' }).click();
  const told = page.getByText(/^Some figures here are as of \d/);
  await expect(told).toBeVisible();
  await axe(page);
  await page.getByRole('link', { name: 'Offers' }).click();
  await expect(told).toBeHidden();
  await page.goBack();
  await expect(told).toBeVisible();
  behind = false;
  await page.getByRole('button', { name: 'Look again' }).click();
  await expect(told).toBeHidden();
  await page.unrouteAll({ behavior: 'wait' });
});
