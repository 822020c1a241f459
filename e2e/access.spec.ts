import { expect, test } from '@playwright/test';
import { answers, axe, closeDialog, signIn } from './support/hands.ts';

test('no screen has an accessibility fault that axe finds', async ({ page }) => {
  const answered = answers(page);
  await page.goto('/sign-in');
  await expect(page.getByRole('button', { name: 'Sign in' })).toBeVisible();
  await axe(page);
  await signIn(page);
  await page.getByRole('button', { name: 'New sequence' }).click();
  await expect(page.getByRole('dialog')).toBeVisible();
  await axe(page);
  await closeDialog(page);
  await page.getByRole('table').getByRole('link', { name: 'Welcome and stitch guide' }).click();
  await expect(page.locator('[data-step=trigger]')).toBeVisible();
  const plan = new URL(page.url()).pathname;
  await axe(page);
  await page.locator('[data-step]', { hasText: 'sent' }).first().click();
  await page.locator('[data-step]:focus').press('Enter');
  await expect(page.getByRole('textbox', { name: 'Subject' })).toBeVisible();
  await page.getByRole('button', { name: 'Merge field in subject' }).click();
  await expect(page.getByRole('dialog')).toBeVisible();
  await axe(page);
  await page.goto('/people');
  const person = await page.getByRole('row').nth(1).getByRole('link').first().getAttribute('href');
  for (const path of [
    '/sequences',
    `${plan}/calendar`,
    `${plan}/numbers`,
    '/people',
    person ?? '',
    '/people/attributes',
    '/people/segments',
    '/people/events',
    '/library',
    '/library/style',
    '/library/files',
    '/library/senders',
    '/outside',
    '/outside/1',
  ]) {
    await page.goto(path);
    await expect(page.locator('h1')).toBeVisible();
    await answered();
    await axe(page);
  }
});

test('a stranger sees nothing, and comes back to where they wanted to go', async ({ page }) => {
  await page.goto('/people?q=a');
  await expect(page.getByRole('button', { name: 'Sign in' })).toBeVisible();
  await page.getByLabel('Email').fill('ines@foldwell.example');
  await page.getByLabel('Password').fill('wrong');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByRole('alert')).toBeVisible();
  await page.getByLabel('Password').fill('fold-along-the-grain');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page).toHaveURL(/\/people\?q=a$/);
});
