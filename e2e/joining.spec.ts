import { expect, test } from '@playwright/test';
import { axe, fresh, pick, signIn } from './support/hands.ts';

test('a form is made, opened and walked from outside: form, mailbox, confirmation, page, file, welcome, second email', async ({
  page,
  browser,
}) => {
  const name = fresh('Five stitches ');
  const zoe = `${fresh('zoe')}@readers.example`;
  await signIn(page);
  await page.goto('/library/forms');
  await page.getByRole('button', { name: 'New form' }).click();
  await page.getByLabel('What do they sign up for?').fill(name);
  await page.getByRole('button', { name: 'Make this form' }).click();
  await expect(page.getByRole('heading', { name: 'Its words' })).toBeVisible();
  await axe(page);

  // Nothing is open before its list is chosen: what is missing is said.
  await page.getByRole('button', { name: 'Open this form' }).click();
  await expect(page.getByText('Choose the list that they join.').first()).toBeVisible();
  await page.getByLabel('Put them on a list').click();
  await page.getByRole('option', { name: 'Workshop letters' }).click();
  await page.getByRole('button', { name: 'Add a choice' }).click();
  const label = page.getByLabel('Label of field 2');
  await label.fill('Have you bound a book before?');
  await label.press('Enter');
  await page.getByLabel('Option 1').fill('Never');
  await page.getByLabel('Option 1').press('Enter');
  await pick(page.getByLabel('What Never does'), 'adds the tag');
  await page.getByLabel('Tag of Never').fill('beginner');
  await page.getByLabel('Tag of Never').press('Enter');
  await pick(page.getByLabel('The file that was promised'), 'Five stitches.pdf');
  await expect(page.frameLocator('iframe').getByText('Have you bound a book before?')).toBeVisible();
  await page.getByRole('button', { name: 'Open this form' }).click();
  await expect(page.getByText('Open', { exact: true })).toBeVisible();
  await axe(page);
  const address = (await page.getByRole('link', { name: 'Walk it from outside' }).getAttribute('href')) ?? '';

  // Somebody outside, on a phone, without a script.
  const outside = await browser.newContext({ viewport: { width: 390, height: 800 }, javaScriptEnabled: false });
  const phone = await outside.newPage();
  await phone.goto(new URL(address).pathname);
  // As fast as one types: what is filled in faster is a program's, and does nothing.
  await phone.getByLabel('Email address').pressSequentially(zoe, { delay: 50 });
  await phone.getByLabel('First name').pressSequentially('Zoë', { delay: 50 });
  await phone.getByLabel('Never').check();
  await phone.getByRole('checkbox').check();
  await phone.getByRole('button', { name: 'Sign up' }).click();
  await expect(phone.getByText('Look into your mailbox')).toBeVisible();
  const mails = async () =>
    ((await (await page.request.get(`/api/outside/mailbox?q=${zoe}`)).json()) as { messages: unknown[] }).messages
      .length;
  await expect.poll(mails).toBe(1);

  await page.goto(`/outside?q=${zoe}`);
  await page.getByRole('link', { name: /Is this your address/ }).click();
  const confirming = page.context().waitForEvent('page');
  await page.frameLocator('iframe').getByRole('link', { name: 'Yes, this is my address' }).click();
  const tab = await confirming;
  await expect(tab.getByRole('heading', { name: 'One more press' })).toBeVisible();
  await axe(tab);
  await phone.goto(new URL(tab.url()).pathname);
  await phone.getByRole('button', { name: 'Yes, I signed up' }).click();
  await expect(phone.getByRole('heading', { name: 'You are on the list' })).toBeVisible();
  expect(
    (
      await phone.request.get((await phone.getByRole('link', { name: /Fetch it here/ }).getAttribute('href')) ?? '')
    ).headers()['content-type'],
  ).toContain('pdf');
  await outside.close();

  // The welcome is there whatever the hour; the second email once the clock has gone on.
  await page.goto(`/people?q=${zoe}`);
  await page.getByRole('link', { name: 'Zoë' }).click();
  await expect(page.getByText('Downloaded “Five stitches.pdf”.')).toBeVisible();
  await expect(page.getByText(new RegExp(`by the form ${name}`)).first()).toBeVisible();
  await expect(page.getByText('beginner', { exact: true })).toBeVisible();
  await axe(page);
  await expect.poll(mails).toBe(2);
  await page.goto('/outside');
  await page.getByRole('button', { name: 'Ahead a week' }).click();
  await expect.poll(mails, { timeout: 60_000 }).toBeGreaterThan(2);
  // The clock arrives before anybody else reads it.
  await expect(page.getByRole('button', { name: 'Ahead a week' })).toBeEnabled({ timeout: 60_000 });
});
