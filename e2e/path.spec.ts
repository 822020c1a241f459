import { expect, test } from '@playwright/test';
import { beginSequence, closeDialog, focused, fresh, pick, signIn, startsWithList } from './support/hands.ts';

test('from a blank sequence to a delivered, opened and counted email', async ({ page }) => {
  const name = fresh('Hello from the bench ');
  const marta = `${fresh('marta')}@readers.example`;
  await signIn(page);
  await expect(page.getByRole('table').getByRole('link', { name: 'Welcome and stitch guide' })).toBeVisible();
  await beginSequence(page, name);
  await startsWithList(page, 'Paper club');
  await page.getByRole('button', { name: 'Add the first email' }).click();
  await focused(page, /New email/);

  // Not ready: publishing is refused and leads to the place.
  await page.getByRole('button', { name: 'Publish version 1' }).click();
  await expect(page.getByRole('dialog')).toContainText('Not ready to publish');
  const missing = page.getByRole('dialog').getByRole('listitem').filter({ hasText: 'has no subject' });
  await missing.getByRole('button', { name: 'Go there' }).click();

  await page.getByRole('textbox', { name: 'Subject' }).click();
  await page.keyboard.type(`${name}, `);
  await page.getByRole('button', { name: 'Merge field in subject' }).click();
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /first name/ })
    .click();
  await page.getByRole('textbox', { name: 'Text of the block' }).click();
  await page.keyboard.type('Fold along the grain.');
  await page.getByRole('complementary', { name: 'Blocks' }).getByRole('button', { name: 'Button' }).first().click();
  await page.getByRole('textbox', { name: 'Words on the button' }).click();
  await page.keyboard.type('See the kits');
  await page.getByRole('textbox', { name: 'Address' }).click();
  await page.keyboard.type('https://foldwell.example/kits');
  await expect(page.frameLocator('iframe').getByText('See the kits')).toBeVisible();
  // One thing is left: nobody has read it in an inbox yet.
  await page.getByRole('button', { name: '1 to look at' }).click();
  await expect(page.getByRole('dialog')).toContainText('was never sent as a test');
  await closeDialog(page);
  await page.getByRole('button', { name: 'Send a test' }).click();
  await page.getByRole('button', { name: 'Send the test' }).click();
  await expect(page.getByRole('button', { name: 'Checks passed' })).toBeVisible();
  await page.getByRole('link', { name: 'Back to the plan' }).click();
  await page.getByRole('button', { name: 'Publish version 1' }).click();
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /^Publish/ })
    .click();
  await expect(page.getByText('Live · version 1')).toBeVisible();
  const sequence = new URL(page.url()).pathname;

  await page.getByRole('link', { name: 'People' }).click();
  await page.getByRole('button', { name: 'Add a person' }).click();
  await page.getByRole('dialog').getByLabel('Email').fill(marta);
  await page.getByRole('dialog').getByLabel('First name').fill('Marta');
  await pick(page.getByRole('dialog').getByLabel('Confirmed list'), 'Paper club');
  await page.getByRole('button', { name: 'Add this person' }).click();
  await expect(page.getByText('Joined the sequence: confirmed “Paper club”.').first()).toBeVisible();

  await page.goto(`/outside?q=${marta}`);
  await page.getByRole('link', { name: new RegExp(`${name}, Marta`) }).click();
  const message = page.frameLocator('iframe');
  await expect(message.getByText('Fold along the grain.', { exact: true })).toBeVisible();
  // The reader follows the button: its address leads through the tracking door to the shop.
  const shop = page.context().waitForEvent('page');
  await message.getByRole('link', { name: 'See the kits' }).click();
  await (await shop).close();
  await page.getByRole('button', { name: 'Text', exact: true }).click();
  await expect(page.locator('pre')).toContainText('See the kits');
  await page.getByRole('button', { name: 'Source' }).click();
  await expect(page.locator('pre')).toContainText('List-Unsubscribe-Post: List-Unsubscribe=One-Click');

  await page.goto(`${sequence}/numbers`);
  const row = page.getByRole('row', { name: /^New email/ });
  await expect(row).toHaveAccessibleName(/“New email”: 1 100%.*“New email”: 1 100%.*Sent of “New email”: 1 /);
  await page.getByRole('link', { name: 'Plan' }).click();
  await expect(page.locator('[data-step]', { hasText: '1 sent' })).toContainText('100% clicked');

  // Unsubscribing takes a person and a button: the page alone changes nothing.
  await page.goBack();
  await page.goto(`/outside?q=${marta}`);
  await page.getByRole('link', { name: new RegExp(`${name}, Marta`) }).click();
  const unsubscribing = page.context().waitForEvent('page');
  await page.getByRole('link', { name: 'Unsubscribe page' }).click();
  const door = await unsubscribing;
  await expect(door.getByText(marta)).toBeVisible();
  await page.goto(`/people?q=${marta}`);
  await expect(page.getByRole('row', { name: marta })).toContainText('Gets mail');
  await door.getByRole('button', { name: 'Unsubscribe' }).click();
  await expect(door.getByText('You are unsubscribed')).toBeVisible();
  await page.reload();
  await expect(page.getByRole('row', { name: marta })).toContainText('Unsubscribed');
});
