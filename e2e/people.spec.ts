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
  await pick(dialog.getByLabel(/Time zone/), 'Lisbon · Europe');
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
  await pick(page.getByLabel('Skill'), 'seasoned');
  await page.getByLabel('Add a tag').fill('teacher');
  await page.getByLabel('Add a tag').press('Enter');
  await expect(page.getByText('teacher', { exact: true })).toBeVisible();
  await page.reload();
  await expect(page.getByLabel('Skill')).toHaveText('seasoned');
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

test('many people at once: found by a condition, ordered, tagged with a way back, exported; a file brings its own in and is undone', async ({
  page,
}) => {
  const domain = `${fresh('fair')}.example`;
  await signIn(page);
  await page.goto('/people/import');
  await axe(page);
  await page.getByLabel('Choose a file of people').setInputFiles({
    name: 'fair.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from(
      `E-mail;First name;Birthday;Labels\nana@${domain};Ana;24.03.1987;kit-owner\nrui@${domain};Rui;1.2.1990;\nnobody;X;;\n`,
    ),
  });
  await expect(page.getByRole('combobox', { name: 'Birthday becomes' })).toHaveValue('Birthday');
  await axe(page);
  await page.getByRole('button', { name: 'Check the file' }).click();
  await expect(page.getByText('Say where these people agreed to get your emails')).toBeVisible();
  await page.getByLabel('Where did they agree to get your emails?').fill('Signed the card at the spring fair.');
  await page.getByLabel('Put them on a list').fill('Workshop letters');
  await page.getByLabel('Put them on a list').press('Enter');
  await page.getByRole('button', { name: 'Check the file' }).click();
  await expect(page.getByText('“nobody” is no email address: it has no @.')).toBeVisible();
  await expect(page.getByText(/2 people start “Welcome and stitch guide”/)).toBeVisible();
  await axe(page);
  await page.getByRole('button', { name: 'Bring in 2 people' }).click();
  await expect(page.getByRole('button', { name: 'Undo this import' })).toBeVisible();
  await axe(page);
  const imported = page.url();

  await page.goto(`/people?q=${domain}`);
  await expect(page.getByRole('row')).toHaveCount(3);
  await page.getByRole('button', { name: 'Person', exact: true }).click();
  await expect(page.getByRole('row').nth(1)).toContainText('Ana');
  await page.getByRole('button', { name: 'Person', exact: true }).click();
  await expect(page.getByRole('row').nth(1)).toContainText('Rui');
  await page.getByRole('button', { name: 'Choose the columns' }).click();
  await page.getByRole('checkbox', { name: 'Birthday' }).check();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('cell', { name: '1987-03-24' })).toBeVisible();
  await page.getByLabel('Choose all of this page').check();
  await page.getByRole('button', { name: 'Do with them' }).click();
  await page.getByRole('menuitem', { name: 'Add a tag' }).click();
  await page.getByRole('dialog').getByLabel('Tag', { exact: true }).fill('fair-2026');
  await page.getByRole('dialog').getByLabel('Tag', { exact: true }).press('Tab');
  await axe(page);
  await page.getByRole('dialog').getByRole('button', { name: 'Add a tag' }).click();
  await expect(page.getByRole('cell', { name: 'fair-2026' })).toHaveCount(2);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('cell', { name: 'fair-2026' })).toHaveCount(0);
  const file = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Export them' }).click();
  expect((await file).suggestedFilename()).toBe('people.csv');

  await page.getByRole('button', { name: 'Add a condition' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Only who …' }).click();
  await pick(page.getByRole('dialog').getByLabel('They'), 'has a tag');
  await page.getByRole('dialog').getByLabel('Tag', { exact: true }).fill('kit-owner');
  await page.getByRole('dialog').getByLabel('Tag', { exact: true }).press('Enter');
  await page.getByRole('button', { name: 'Show them' }).click();
  await expect(page.getByRole('row')).toHaveCount(2);
  await expect(page.getByText('Whoever has the tag “kit-owner”')).toBeVisible();
  await axe(page);

  await page.goto(imported);
  await page.getByRole('button', { name: 'Undo this import' }).click();
  await expect(page.getByText(/It was undone/)).toBeVisible();
  await page.goto(`/people?q=${domain}`);
  await expect(page.getByText('Nobody fits.')).toBeVisible();
  await page.goto('/people/lists');
  await expect(page.getByRole('heading', { name: 'Tags' })).toBeVisible();
  await axe(page);
});

test('mail that comes back ends mail, and a reader who calls one spam gets no more marketing', async ({ page }) => {
  const left = `${fresh('gone')}@left.example`;
  const cross = `${fresh('cross')}@readers.example`;
  await signIn(page);
  for (const email of [left, cross]) {
    await page.goto('/people');
    await page.getByRole('button', { name: 'Add a person' }).click();
    await page.getByRole('dialog').getByLabel('Email').fill(email);
    await pick(page.getByRole('dialog').getByLabel('Confirmed list'), 'Workshop letters');
    await page.getByRole('button', { name: 'Add this person' }).click();
    await expect(page.getByText('Joined the sequence: confirmed “Workshop letters”.')).toBeVisible();
    if (email === left)
      await expect(
        page.getByText('An email came back for good: 5.1.1, 550 5.1.1 The account does not exist.'),
      ).toBeVisible();
  }
  const person = page.url();
  await page.goto(`/outside?q=${cross}`);
  await page.getByRole('listitem').getByRole('link').first().click();
  await page.getByRole('button', { name: 'Call it spam' }).click();
  await page.goto(person);
  await expect(page.getByText('Called an email spam: all marketing has stopped.')).toBeVisible();
  await expect(page.getByText('all mail, by a complaint.')).toBeVisible();
});
