import { expect, test } from '@playwright/test';
import { beginSequence, fresh, pick, signIn, startsWithList } from './support/hands.ts';

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

test('what is taken from a colleague’s template carries one’s own name, photo and phone', async ({ page, browser }) => {
  const name = fresh('Evening ');
  const atTomasz = await (await browser.newContext()).newPage();
  await signIn(atTomasz, 'tomasz@foldwell.example');
  await atTomasz.goto('/library');
  await atTomasz.getByRole('button', { name: 'New template' }).click();
  await atTomasz.getByLabel('Name', { exact: true }).fill(name);
  await atTomasz
    .getByRole('dialog')
    .getByRole('button', { name: /A lesson/ })
    .click();
  await atTomasz.getByRole('button', { name: 'Write it' }).click();
  await pick(atTomasz.getByLabel('From'), 'Tomasz at Foldwell');
  await atTomasz
    .getByRole('complementary', { name: 'Blocks' })
    .getByRole('button', { name: 'Signature' })
    .first()
    .click();
  await atTomasz.getByRole('checkbox', { name: 'Phone' }).check();
  const theirs = atTomasz.frameLocator('iframe[title="The email on a phone"]');
  await expect(theirs.getByText('+351 210 000 001')).toBeVisible();
  await expect(atTomasz.getByText('Saved', { exact: true })).toBeVisible();

  await signIn(page);
  await beginSequence(page, fresh('Course '));
  await startsWithList(page, 'Course');
  await page.getByRole('button', { name: 'Add the first email' }).click();
  await page.locator('[data-step]:focus').press('Enter');
  await page.getByRole('button', { name: 'Templates' }).click();
  const dialog = page.getByRole('dialog', { name: 'Templates' });
  await dialog.getByRole('button', { name: new RegExp(name) }).click();
  await dialog.getByRole('button', { name: /^Begin anew from/ }).click();
  const hers = page.frameLocator('iframe[title="The email on a phone"]');
  await expect(hers.getByText('+351 210 000 000')).toBeVisible();
  await expect(hers.getByText('+351 210 000 001')).toBeHidden();
  await expect(hers.getByRole('img', { name: /^Inês/ })).toBeVisible();
  await atTomasz.context().close();
});
