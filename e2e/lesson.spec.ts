import { expect, test, type Page } from '@playwright/test';
import { axe, beginSequence, closeDialog, fresh, signIn } from './support/hands.ts';

const rows = (page: Page) => page.getByRole('complementary', { name: 'Blocks' }).locator('[data-block]');
const phone = (page: Page) => page.frameLocator('iframe[title="The email on a phone"]');

/** Adds a block behind the one that has the focus in the outline, and writes into its first field, by keys alone. */
async function add(page: Page, kind: string, words: string | null): Promise<void> {
  await page.keyboard.press('/');
  await page.getByLabel('Find a block').waitFor();
  await page.keyboard.type(kind);
  await page.keyboard.press('Enter');
  const row = rows(page).locator('[aria-pressed=true]');
  // What is new has the focus where it is written; what has nothing to be written, in the outline.
  const field = page.locator('[data-canvas] [contenteditable=true]:focus, [data-settings] [data-part]:focus');
  await expect(field.or(row).and(page.locator(':focus'))).toBeVisible();
  if (words !== null) {
    await expect(field).toBeVisible();
    await page.keyboard.type(words);
  }
  // Back to the outline, where the next block goes in behind this one.
  await row.focus();
}

test('a lesson is written from an empty page by the keyboard alone, and reads well on the phone', async ({ page }) => {
  await signIn(page);
  const name = fresh('Evening ');
  await beginSequence(page, name);
  await page.getByRole('button', { name: 'Add the first email' }).focus();
  await page.keyboard.press('Enter');
  await page.locator('[data-step]:focus', { hasText: 'New email' }).waitFor();
  await page.keyboard.press('Enter');
  await page.getByRole('textbox', { name: 'Subject' }).focus();
  await page.keyboard.type('Evening 1: paper has a direction');
  await page.keyboard.press('Tab');
  await page.getByRole('textbox', { name: 'Preview text' }).focus();
  await page.keyboard.type('A quarter of an hour is enough.');
  await rows(page).first().locator('[aria-pressed]').focus();
  await page.keyboard.press('Shift+Enter');
  await page.locator('[contenteditable=true]:focus').waitFor();
  await page.keyboard.type('Good evening {{');
  await page.getByLabel('Find a field').waitFor();
  await page.keyboard.type('first');
  await page.keyboard.press('Enter');
  await page.keyboard.type(', tear a sheet in both directions.');
  await rows(page).locator('[aria-pressed=true]').focus();
  await add(page, 'heading', 'What you need tonight');
  await add(page, 'list', 'One sheet of paper');
  await add(page, 'quote', 'One tear runs straight, the other wanders.');
  // The button is there already, and waits for its words.
  await rows(page).filter({ hasText: 'Button' }).locator('[aria-pressed]').focus();
  await page.keyboard.press('Shift+Enter');
  await expect(page.getByRole('textbox', { name: 'Words of the button' })).toBeFocused();
  await page.keyboard.type('Open the first lesson');
  // Alt Enter goes from the page into the settings; Tab through them: words, what it opens, its address.
  await page.keyboard.press('Alt+Enter');
  await expect(page.getByRole('textbox', { name: 'Words on the button' })).toBeFocused();
  const address = page.getByRole('textbox', { name: 'Address' });
  for (let i = 0; i < 8 && !(await address.evaluate((e) => e === document.activeElement)); i++)
    await page.keyboard.press('Tab');
  await expect(address).toBeFocused();
  await page.keyboard.type('https://foldwell.example/course/1');
  await rows(page).locator('[aria-pressed=true]').focus();
  await add(page, 'signature', 'Until tomorrow,');
  await expect
    .poll(() => rows(page).locator('[aria-pressed]').allTextContents())
    .toEqual([
      expect.stringContaining('Good evening'),
      'What you need tonight',
      expect.stringContaining('One sheet'),
      expect.stringContaining('One tear'),
      'Open the first lesson',
      'Signature',
      'Footer',
    ]);
  const sheet = phone(page);
  for (const words of [
    'What you need tonight',
    'One sheet of paper',
    'One tear runs straight, the other wanders.',
    'Open the first lesson',
    'Until tomorrow,',
  ])
    await expect(sheet.getByText(words)).toBeVisible();
  // The button is moved above the quote, and back again.
  await rows(page).filter({ hasText: 'Open the first lesson' }).locator('[aria-pressed]').focus();
  await page.keyboard.press('Alt+ArrowUp');
  await expect
    .poll(async () => (await rows(page).locator('[aria-pressed]').allTextContents())[3])
    .toBe('Open the first lesson');
  await page.keyboard.press('Control+z');
  await expect
    .poll(async () => (await rows(page).locator('[aria-pressed]').allTextContents())[4])
    .toBe('Open the first lesson');
  // What is left: nobody has read it in an inbox yet. The field that was picked brought its fallback along.
  await page.getByRole('button', { name: /(errors?|to look at)$/ }).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('dialog')).toContainText('never sent as a test');
  await closeDialog(page);
  await axe(page);
});
