import { expect, test } from '@playwright/test';
import { axe, fresh, pick, signIn } from './support/hands.ts';

test('one person is written to: from a template, read as them, sent once, kept in their story', async ({ page }) => {
  const name = fresh('Ada');
  const email = `${name.toLowerCase()}@readers.example`;
  await signIn(page);
  const headers = { origin: new URL(page.url()).origin };
  const { lists } = (await (await page.request.get('/api/surroundings')).json()) as {
    lists: { id: string; name: string }[];
  };
  const letters = lists.find((l) => l.name === 'Workshop letters')?.id ?? '';
  const made = await page.request.post('/api/people', {
    data: { email, attributes: { first_name: name }, zone: null, lists: [letters] },
    headers,
  });
  const { id } = (await made.json()) as { id: string };
  await page.goto(`/people/${id}`);
  await page.getByRole('button', { name: 'Write to them' }).click();
  const dialog = page.getByRole('dialog');
  await pick(dialog.getByLabel('Begin with'), 'A plain letter');
  await axe(page);
  await dialog.getByRole('button', { name: 'Write it' }).click();
  await page.getByRole('textbox', { name: 'Subject' }).fill('About your parcel');
  await page.getByRole('textbox', { name: 'Subject' }).blur();
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
  await axe(page);
  await page.getByRole('button', { name: `Send it to ${name}` }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Send it' }).click();
  await expect(page).toHaveURL(new RegExp(`/people/${id}$`));
  const mail = async () =>
    (
      (await (await page.request.get(`/api/outside/mailbox?q=${email}`)).json()) as { messages: { subject: string }[] }
    ).messages.map((m) => m.subject);
  await expect.poll(mail).toContain('About your parcel');
  await expect(page.getByText(/^“A letter” went out/)).toBeVisible();
});

test('who gets no mail is seen, put in by hand, found again and taken off; points, pages and the way out are set', async ({
  page,
}) => {
  const email = `${fresh('never')}@elsewhere.example`;
  await signIn(page);
  await page.goto('/people/no-mail');
  await page.getByRole('button', { name: 'End mail to some addresses' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Addresses, one on each line').fill(`${email}, marked as spam\nnobody`);
  await expect(dialog.getByText('There is no email address in “nobody”')).toBeVisible();
  await axe(page);
  await dialog.getByRole('button', { name: 'End mail to 1 address' }).click();
  await page.getByLabel('Part of an address').fill(email);
  const row = page.getByRole('row').filter({ hasText: email });
  await expect(row).toContainText('Complained');
  await axe(page);
  await page.getByRole('button', { name: `Take ${email} off the list` }).click();
  await expect(row).toHaveCount(0);

  await page.goto('/people/attributes');
  const points = page.getByLabel(/^Points for: Opens an email/);
  await points.fill('11');
  await points.press('Enter');
  await page.reload();
  await expect(points).toHaveValue('11');
  await points.press('ArrowDown');
  await expect(points).toHaveValue('10');
  await axe(page);

  await page.goto('/people/events');
  await expect(page.getByLabel('Put this into the head of every page')).toHaveValue(/site\.js" data-site=/);
  const hosts = page.getByLabel('Hosts of your site', { exact: true });
  const before = await hosts.inputValue();
  await hosts.fill('https://wrong.example/x');
  await hosts.press('Enter');
  await expect(page.getByText(/Write a host as foldwell\.example/)).toBeVisible();
  await page.reload();
  await expect(hosts).toHaveValue(before);
  await axe(page);

  await page.goto('/people/import');
  const archive = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Everything as one archive' }).click();
  expect((await archive).suggestedFilename()).toMatch(/^Foldwell Bindery \d{4}-\d\d-\d\d\.zip$/);
});

test('a segment asks about dates, all mail, how somebody joined and where they stand, and says so in one sentence', async ({
  page,
}) => {
  await signIn(page);
  await page.goto('/people/segments');
  await page.getByRole('button', { name: 'New segment' }).click();
  const dialog = page.getByRole('dialog');
  const name = fresh('Warm ');
  await dialog.getByLabel('What is it called?').fill(name);
  await dialog.getByLabel('Folder').fill('Spring');
  await dialog.getByLabel('Folder').press('Enter');
  const ask = async (what: string) => {
    await dialog.getByRole('button', { name: /^(Only|And) who/ }).click();
    await pick(dialog.getByLabel('They', { exact: true }).last(), what);
  };
  await ask('has a date that is near');
  await pick(dialog.getByLabel('Which date'), 'Birthday');
  await pick(dialog.getByLabel('That'), 'comes round in the next …');
  await dialog.getByLabel('How many days').fill('14');
  await ask('joined a list, and is on it');
  await pick(dialog.getByLabel('Which list'), 'Workshop letters');
  await pick(dialog.getByLabel('How', { exact: true }), 'told by a program');
  await ask('is inside, or went through, a sequence');
  await pick(dialog.getByLabel('Which sequence'), 'Welcome and stitch guide');
  await expect(dialog).toContainText(
    'has a birthday that comes round in the next 14 days and joined “Workshop letters” told by a program and is inside “Welcome and stitch guide”',
  );
  await expect(dialog.getByText(/True for \d+ of/)).toBeVisible();
  await axe(page);
  await dialog.getByRole('button', { name: 'Make this segment' }).click();
  await expect(page.getByRole('rowheader', { name: 'Spring' })).toBeVisible();
  await expect(page.getByRole('row').filter({ hasText: name })).toBeVisible();
});

test('a sequence that starts when something is done and nothing follows says so in its plan', async ({ page }) => {
  await signIn(page);
  const headers = { origin: new URL(page.url()).origin };
  const made = await page.request.post('/api/sequences', { data: { name: fresh('Left ') }, headers });
  const { id } = (await made.json()) as { id: string };
  await page.goto(`/sequences/${id}?select=trigger`);
  await pick(page.getByLabel('It starts when someone'), 'does something, and nothing follows');
  await pick(page.getByLabel('They did'), 'Reached a page (page.reached)');
  await pick(page.getByLabel('And did not, after it'), 'Ordered (order.paid)');
  await page.getByLabel('Within how many').fill('3');
  await expect(page.locator('[data-step=trigger]')).toHaveText(
    'When “Reached a page” happens and no “Ordered” follows within 3 hours',
  );
  await axe(page);
});
