import { expect, test } from '@playwright/test';
import { axe, fresh, signIn, pick } from './support/hands.ts';

test('a person is added, edited, put on a list, and their page tells what happened and why', async ({ page }) => {
  await signIn(page);
  const email = `${fresh('jonas')}@readers.example`;
  await page.getByRole('link', { name: 'People' }).click();
  await page.getByRole('button', { name: 'Add a person' }).click();
  const dialog = page.getByRole('dialog');
  await axe(page);
  await dialog.getByLabel('Email').fill(email);
  await dialog.getByLabel('First name').fill('Jonas');
  // A zone is found by its place; there is no way to write a wrong one.
  await dialog.getByLabel(/Time zone/).fill('Nowhere');
  await expect(page.getByText('Nothing is called that.')).toBeVisible();
  await pick(dialog.getByLabel(/Time zone/), 'Europe/Lisbon');
  await pick(dialog.getByLabel('Confirmed list'), 'Workshop letters');
  await page.getByRole('button', { name: 'Add this person' }).click();
  await expect(page.getByRole('heading', { name: 'Jonas' })).toBeVisible();
  await expect(page.getByText('Joined the sequence: confirmed “Workshop letters”.')).toBeVisible();
  await expect(page.getByText(/^Email sent|was sent|Sent/).first()).toBeVisible();
  await page.getByRole('button', { name: 'As it was sent' }).first().click();
  await expect(page.frameLocator('iframe').getByText(/Jonas/).first()).toBeVisible();
  await axe(page);
  await page.keyboard.press('Escape');

  await page.getByLabel('Orders').fill('many');
  await page.getByLabel('Orders').blur();
  await expect(page.getByText(/“orders” is a number/)).toBeVisible();
  await page.getByLabel('Skill').fill('seasoned');
  await page.getByLabel('Skill').blur();
  await page.getByLabel('Add a tag').fill('teacher');
  await page.getByLabel('Add a tag').press('Enter');
  await expect(page.getByText('teacher', { exact: true })).toBeVisible();
  await page.reload();
  await expect(page.getByLabel('Skill')).toHaveValue('seasoned');
  await expect(page.getByLabel('Orders')).toHaveValue('');
  await axe(page);

  await page.goto(`/people?q=${email}`);
  await expect(page.getByRole('row', { name: email })).toBeVisible();
});

test('a kind of event is declared, a key is made and shown once, and the intake takes an event with it', async ({
  page,
  request,
}) => {
  await signIn(page);
  await page.goto('/people/events');
  const name = `${fresh('lesson')}.opened`;
  await page.getByLabel('Called').fill('Lesson opened');
  await page.getByLabel('Name', { exact: true }).fill(name);
  await page.getByLabel(/^Fields/).fill('number: number');
  await page.getByRole('button', { name: 'Declare' }).click();
  await expect(page.getByRole('cell', { name, exact: true })).toBeVisible();
  // Declared again it stays as it is; it is changed in its place.
  await page.getByLabel('Called').fill('Something else');
  await page.getByLabel('Name', { exact: true }).fill(name);
  await page.getByRole('button', { name: 'Declare' }).click();
  await expect(page.getByText(`There is already a kind “${name}”: change it in its place.`)).toBeVisible();
  await page.getByRole('row', { name }).getByRole('button', { name: 'Change Lesson opened' }).click();
  const dialog = page.getByRole('dialog', { name });
  await expect(dialog.getByText('used nowhere')).toBeVisible();
  await dialog.getByRole('button', { name: 'Add a field' }).click();
  await dialog.getByLabel('Name of field 2').fill('title');
  await dialog.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('row', { name })).toContainText('title: text');
  await page.getByLabel('Name of a new key').fill(fresh('Course pages '));
  await page.getByRole('button', { name: 'Make a key' }).click();
  const key = await page.getByLabel('New API key').inputValue();
  const event = {
    specversion: '1.0',
    id: name,
    source: 'https://foldwell.example/course',
    type: name,
    subject: `${name}@readers.example`,
    data: { number: 1 },
  };
  const send = (data: object, bearer = key) =>
    request.post('/intake/events', {
      headers: { Authorization: `Bearer ${bearer}`, 'Content-Type': 'application/cloudevents+json' },
      data,
    });
  expect((await send(event)).status()).toBe(202);
  expect(await (await send(event)).json()).toMatchObject({ stored: 0, repeated: 1 });
  expect((await send({ ...event, id: 'x', data: { number: 'one' } })).status()).toBe(422);
  expect((await send(event, 'wrong')).status()).toBe(401);
  await page.reload();
  await expect(page.getByLabel('New API key')).toHaveCount(0);
});

test('an attribute is made, named anew, moved and deleted with a way back; people leave as a file', async ({
  page,
}) => {
  await signIn(page);
  await page.goto('/people/attributes');
  const name = fresh('Folding style ');
  await page.getByRole('button', { name: 'New attribute' }).click();
  await page.getByLabel('What is it called?').fill(name);
  const key = await page.getByLabel(/^Key/).inputValue();
  expect(key).toMatch(/^folding_style_[a-z0-9]+$/);
  await axe(page);
  await page.getByRole('button', { name: 'Make this attribute' }).click();
  const row = page.getByRole('row').filter({ hasText: key });
  await expect(row).toContainText('nowhere');
  await row.getByRole('textbox').fill(`${name}, again`);
  await row.getByRole('textbox').press('Enter');
  await row.getByRole('button', { name: `Move ${name}, again up` }).click();
  await expect(page.getByRole('row').last()).not.toContainText(key);
  await row.getByRole('button', { name: `Delete ${name}, again` }).click();
  await expect(row).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(row.getByRole('textbox')).toHaveValue(`${name}, again`);
  // What is used is not deleted: it says where.
  await page.getByRole('button', { name: 'Delete First name' }).click();
  await expect(page.getByText(/^It is used in “/)).toBeVisible();
  await page.goto('/people?q=readers.example');
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Export these' }).click();
  expect((await download).suggestedFilename()).toBe('people.csv');
});
