import { expect, test } from '@playwright/test';
import { signIn } from './support/hands.ts';

test('a template is made, written, named and described without a sequence, found, and an email begins from it', async ({
  page,
}) => {
  const name = `Lesson ${Date.now().toString(36)}`;
  await signIn(page);
  await page.goto('/library');
  await page.getByRole('button', { name: 'New template' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Lesson');
  await page.getByRole('button', { name: /^A letter/ }).click();
  await page.getByRole('button', { name: 'Write it' }).click();
  await page.getByRole('textbox', { name: 'Subject' }).fill('The first fold');
  await page.getByLabel('Name of the template').fill(name);
  await page.keyboard.press('Enter');
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
  await page.getByRole('link', { name: 'Back to the library' }).click();

  // There by its new name; what it is for is written beside it, and finds it.
  await page.getByLabel(`What the template ${name} is for`).fill('For the course on folding');
  await page.keyboard.press('Tab');
  await page.getByLabel('Find a template').fill(`folding ${name}`);
  await expect(page.getByRole('link', { name: /^Open the template/ })).toHaveCount(1);
  await page.getByRole('button', { name: `Keep ${name} for yourself` }).click();
  await page.getByRole('button', { name: 'Everyone’s' }).click();
  await expect(page.getByText('None is like that.', { exact: false })).toBeVisible();
  await page.getByRole('button', { name: 'Yours alone' }).click();
  await page.getByRole('button', { name: `Share ${name} with the team` }).click();

  // Found by its name from anywhere; opened again it says what was written.
  await page.keyboard.press('Control+k');
  await page.getByRole('combobox').fill(name);
  await page.getByRole('option', { name }).click();
  await expect(page.getByRole('textbox', { name: 'Subject' })).toHaveText('The first fold');
});
