import { expect, test } from '@playwright/test';
import { api } from './support/emails.ts';
import { axe, fresh, signIn } from './support/hands.ts';

test('one’s own sessions are seen and ended, and another password is taken at once', async ({ page, browser }) => {
  await signIn(page, 'adaeze@foldwell.example');
  const elsewhere = await browser.newContext({ baseURL: new URL(page.url()).origin });
  const other = await elsewhere.newPage();
  await signIn(other, 'adaeze@foldwell.example');
  await page.getByRole('button', { name: /^Adaeze Okoro/ }).click();
  await page.getByRole('menuitem', { name: 'Password and sessions' }).click();
  await expect(page.getByRole('heading', { name: 'Where you are signed in' })).toBeVisible();
  await expect(page.getByText('this one')).toBeVisible();
  await axe(page);
  await page.getByRole('button', { name: 'Sign out there' }).first().click();
  await expect(page.getByText('That one is signed out.')).toBeVisible();
  await other.goto('/sequences');
  await expect(other.getByLabel('Password')).toBeVisible();

  // What is wrong is said at its field, and nothing is changed.
  await page.getByLabel('Current password').fill('a guess');
  await page.getByLabel('New password').fill('seven threads, waxed');
  await page.getByRole('button', { name: 'Change the password' }).click();
  await expect(page.getByText('That is not your current password.')).toBeVisible();
  await page.getByLabel('Current password').fill('fold-along-the-grain');
  await page.getByRole('button', { name: 'Change the password' }).click();
  await expect(page.getByText('Your password is changed.')).toBeVisible();
  await other.getByLabel('Email').fill('adaeze@foldwell.example');
  await other.getByLabel('Password').fill('fold-along-the-grain');
  await other.keyboard.press('Enter');
  await expect(other.getByText('That address and password do not fit together.')).toBeVisible();
  await other.getByLabel('Password').fill('seven threads, waxed');
  await other.keyboard.press('Enter');
  await expect(other.getByRole('heading', { level: 1 })).toBeVisible();
  await elsewhere.close();
  // Back as it was: other tests sign in with it.
  await page.getByLabel('Current password').fill('seven threads, waxed');
  await page.getByLabel('New password').fill('fold-along-the-grain');
  await page.getByRole('button', { name: 'Change the password' }).click();
  await expect(page.getByLabel('New password')).toHaveValue('');
});

test('somebody who asks for it gets what is kept of them as a file, and is erased when their address is typed', async ({
  page,
}) => {
  await signIn(page);
  const email = `${fresh('oona').toLowerCase().replace(/\W/g, '')}@readers.example`;
  const { id } = await api(page, 'post', '/people', {
    email,
    attributes: { first_name: 'Oona' },
    zone: null,
    lists: [],
  });
  await page.goto(`/people/${id}`);
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Download as a file' }).click();
  expect((await download).suggestedFilename()).toBe('person.json');
  await page.getByRole('button', { name: 'Erase …' }).click();
  const dialog = page.getByRole('dialog', { name: 'Erase this person' });
  await axe(page);
  await expect(dialog.getByRole('button', { name: 'Erase for good' })).toBeDisabled();
  await dialog.getByLabel(`Type ${email} to go on`).fill(email);
  await dialog.getByRole('button', { name: 'Erase for good' }).click();
  await expect(page).toHaveURL(/\/people$/);
  await expect(page.getByText('They are erased.')).toBeVisible();
  await page.goto(`/people/${id}`);
  await expect(page.getByText('There is no such person.')).toBeVisible();
});

test('a key for pages is made with their address, and says what it opens', async ({ page }) => {
  await signIn(page);
  await page.goto('/people/events');
  const name = fresh('Our site');
  await page.getByLabel('Name of a new key').fill(name);
  const pages = page.getByLabel('Pages that use it from a browser (empty for servers)');
  await pages.fill('https://foldwell.example/kits');
  await page.getByRole('button', { name: 'Make a key' }).click();
  await expect(page.getByText('with nothing behind')).toBeVisible();
  await pages.fill('https://foldwell.example');
  await page.getByRole('button', { name: 'Make a key' }).click();
  await expect(page.getByLabel('New API key')).toHaveValue(/^asc_/);
  const row = page.getByRole('listitem').filter({ hasText: name });
  await expect(row).toContainText('For pages of https://foldwell.example: it sends events, and nothing else.');
});
