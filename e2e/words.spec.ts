import { expect, test } from '@playwright/test';
import { emptyEmail, phone, rows, settings, text } from './support/emails.ts';
import { axe, pick, signIn } from './support/hands.ts';

test('a stretch of text takes colour and size of the house and its paragraph the middle, and loses them; emoji in subject and text', async ({
  page,
}) => {
  await signIn(page);
  await emptyEmail(page, 'Looks', [text('words', 'Last copies')]);
  const editor = page.getByRole('textbox', { name: 'Text of the block' });
  await editor.click();
  await page.keyboard.press('Control+a');
  await page.getByRole('button', { name: 'Colour, size and alignment' }).click();
  const looks = page.getByRole('group', { name: 'Look of the words' });
  await looks.getByRole('button', { name: 'As a title' }).click();
  await looks.getByRole('button', { name: 'In the accent colour' }).click();
  await looks.getByRole('button', { name: 'Paragraph in the middle' }).click();
  await expect(looks.getByRole('button', { name: 'As a title' })).toHaveAttribute('aria-pressed', 'true');
  await axe(page);
  const words = phone(page).getByText('Last copies');
  await expect(words).toHaveCSS('font-size', '28px');
  await expect(phone(page).locator('p', { hasText: 'Last copies' })).toHaveCSS('text-align', 'center');
  // The same once more takes one of them away; another takes all.
  await looks.getByRole('button', { name: 'As a title' }).click();
  await expect(words).not.toHaveCSS('font-size', '28px');
  await looks.getByRole('button', { name: 'Without any of it' }).click();
  await expect(phone(page).locator('p', { hasText: 'Last copies' })).not.toHaveCSS('text-align', 'center');

  await editor.click();
  await page.keyboard.press('End');
  await page.getByRole('button', { name: 'Colour, size and alignment' }).click();
  await page.getByRole('button', { name: 'Emoji', exact: true }).click();
  const picker = page.getByRole('dialog', { name: 'Emoji' });
  await picker.getByPlaceholder('Search').fill('scissors');
  await picker.getByRole('gridcell', { name: 'scissors' }).click();
  await expect(editor).toHaveText('Last copies✂️');
  await page.getByRole('button', { name: 'Emoji in subject' }).click();
  await picker.getByPlaceholder('Search').fill('books');
  await picker.getByRole('gridcell', { name: 'books', exact: true }).click();
  await expect(page.getByRole('textbox', { name: 'Subject' })).toContainText('📚');
});

test('words lead to a file, to somebody’s phone, to where a field says; a picture leads to a file too', async ({
  page,
}) => {
  await signIn(page);
  await emptyEmail(page, 'Leads', [
    text('words', 'Read the guide'),
    { id: 'picture', kind: 'image', file: '', address: '', alt: 'A book', link: '', width: 300 },
  ]);
  const editor = page.getByRole('textbox', { name: 'Text of the block' });
  const dialog = page.getByRole('dialog', { name: 'Link' });
  const link = phone(page).getByRole('link', { name: 'Read the guide' });
  const lead = async (to: string, fill: () => Promise<void>) => {
    await editor.click();
    await page.keyboard.press('Control+a');
    await page.getByRole('button', { name: 'Link', exact: true }).click();
    await pick(dialog.getByLabel('It leads to'), to);
    await fill();
    await dialog.getByRole('button', { name: 'Set the link' }).click();
  };
  await lead('a file of ours', () => pick(dialog.getByLabel('File'), /Five stitches/));
  await expect(link).toHaveAttribute('href', /^\/f\//);
  await lead('a phone call', () => dialog.getByLabel('Phone number').fill('+351 210 (000) 000'));
  await expect(link).toHaveAttribute('href', 'tel:+351210000000');
  await lead('an email to somebody', () => dialog.getByLabel('Email address').fill('hello@foldwell.example'));
  await expect(link).toHaveAttribute('href', 'mailto:hello@foldwell.example');
  await lead('an address of theirs (a merge field)', () => pick(dialog.getByLabel('Field'), /return to/));
  await expect(link).toHaveAttribute('href', /^https?:/);
  await axe(page);

  await rows(page).filter({ hasText: 'A book' }).locator('[aria-pressed]').click();
  await pick(settings(page).getByLabel('It leads to'), 'a file of ours');
  await expect(settings(page).getByLabel('File', { exact: true })).toContainText('Five stitches');
});
