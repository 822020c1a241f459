import { expect, test } from '@playwright/test';
import { emptyEmail, outline, settings, text } from './support/emails.ts';
import { axe, signIn } from './support/hands.ts';

test('the page has room: outline, settings and blocks are put away and stay so, and come back; the phone is larger, a tablet is there', async ({
  page,
}) => {
  await signIn(page);
  await emptyEmail(page, 'Room', [text('words', 'A quiet letter')]);
  const canvas = page.getByRole('region', { name: 'The page' });
  const width = async () => (await canvas.boundingBox())?.width ?? 0;
  const narrow = await width();
  await page.getByRole('button', { name: 'Put the outline away' }).click();
  await page.getByRole('button', { name: 'Put preview and settings away' }).click();
  await expect(outline(page)).toBeHidden();
  await expect(settings(page)).toBeHidden();
  expect(await width()).toBeGreaterThan(narrow + 500);
  await axe(page);
  // Kept over a visit elsewhere.
  await page.reload();
  await expect(canvas).toBeVisible();
  await expect(settings(page)).toBeHidden();
  await page.getByRole('button', { name: 'Show the outline' }).click();
  await page.getByRole('button', { name: 'Show preview and settings' }).click();

  await page.getByRole('button', { name: /^Fold the blocks away/ }).click();
  await expect(outline(page).getByRole('button', { name: 'Divider' })).toBeHidden();
  await page.getByRole('button', { name: 'Show the blocks to add' }).click();
  await expect(outline(page).getByRole('button', { name: 'Divider' })).toBeVisible();

  const phone = page.locator('iframe[title="The email on a phone"]');
  const small = (await phone.boundingBox())?.width ?? 0;
  await settings(page).getByRole('button', { name: 'Larger' }).click();
  expect((await phone.boundingBox())?.width).toBeGreaterThan(small * 1.4);
  await settings(page).getByRole('button', { name: 'Tablet' }).click();
  await expect(page.frameLocator('iframe[title="The email on a tablet"]').getByText('A quiet letter')).toBeVisible();
  await axe(page);
});
