import { randomBytes } from 'node:crypto';
import { createCanvas } from '@napi-rs/canvas';
import { expect, test, type Locator, type Page } from '@playwright/test';
import { api } from './support/emails.ts';
import { axe, beginSequence, fresh, signIn, startsWithList, pick } from './support/hands.ts';
import { openShop } from './support/shop.ts';

const blocks = (page: Page) => page.getByRole('complementary', { name: 'Blocks' });
const settings = (page: Page) => page.getByRole('complementary', { name: 'Preview and settings' });
const phone = (page: Page) => page.frameLocator('iframe[title="The email on a phone"]');

async function openFirstEmail(page: Page): Promise<void> {
  await startsWithList(page, 'Course');
  await page.getByRole('button', { name: 'Add the first email' }).click();
  await page.locator('[data-step]:focus').press('Enter');
  await expect(page.getByRole('textbox', { name: 'Subject' })).toBeVisible();
}

/** A picture of some colour that is not in the library yet, 120 by 80 px. */
function picture(): Buffer {
  const canvas = createCanvas(120, 80);
  const c = canvas.getContext('2d');
  c.fillStyle = `#${randomBytes(3).toString('hex')}`;
  c.fillRect(0, 0, 120, 80);
  return canvas.toBuffer('image/png');
}

/** A new sequence for a list, with its first email open. */
async function beginEmail(page: Page, name: string): Promise<void> {
  await beginSequence(page, name);
  await startsWithList(page, 'Workshop letters');
  await page.getByRole('button', { name: 'Add the first email' }).click();
  await page.locator('[data-step]:focus', { hasText: 'New email' }).press('Enter');
}
const savedNote = (page: Page) => page.getByRole('status').filter({ hasText: /^(Saved|Saving …|Not saved yet)/ });

test('an email is written with every block, read as a person, tested, undone and found again', async ({ page }) => {
  await signIn(page);
  const subject = fresh('Thread and wax ');
  await beginSequence(page, fresh('Written '));
  await openFirstEmail(page);

  await pick(page.getByLabel('From'), 'Tomasz at Foldwell');
  await page.getByRole('textbox', { name: 'Subject' }).click();
  await page.keyboard.type(`${subject}, {{`);
  await page.getByRole('dialog').getByLabel('Find a field').fill('first');
  await page.keyboard.press('Enter');
  await page.getByRole('textbox', { name: 'Preview text' }).click();
  await page.keyboard.type('A minute with the needle');

  await blocks(page).getByRole('button', { name: 'Heading' }).last().click();
  await page.getByRole('textbox', { name: 'Heading', exact: true }).click();
  await page.keyboard.type('Wax it twice');
  await blocks(page).getByRole('button', { name: 'Image' }).last().click();
  await page
    .getByLabel('Upload a picture')
    .setInputFiles({ name: `${fresh('wax')}.png`, mimeType: 'image/png', buffer: picture() });
  await page.getByRole('textbox', { name: 'Alt text' }).click();
  await page.keyboard.type('A block of brown wax');
  await blocks(page).getByRole('button', { name: 'Button' }).last().click();
  await page.getByRole('textbox', { name: 'Words on the button' }).click();
  await page.keyboard.type('Get the guide');
  await pick(page.getByLabel('It opens'), 'a file of ours');
  await pick(page.getByLabel('File', { exact: true }), 'Five stitches.pdf');
  await blocks(page).getByRole('button', { name: 'Divider' }).last().click();
  await expect(settings(page).getByText('Divider block')).toBeVisible();

  // The preview is made by the same compile that sends, in a worker.
  await expect(phone(page).getByRole('heading', { name: 'Wax it twice' })).toBeVisible();
  // The page one writes on has the fonts of the email, not those of the application around it.
  const fontOf = (where: Locator) => where.evaluate((e) => getComputedStyle(e).fontFamily);
  const written = await fontOf(page.getByRole('heading', { name: 'Wax it twice' }));
  expect(written).toBe(await fontOf(phone(page).getByRole('heading', { name: 'Wax it twice' })));
  await expect(phone(page).getByAltText('A block of brown wax')).toBeVisible();
  await expect(phone(page).getByRole('link', { name: 'Get the guide' })).toBeVisible();
  await expect(phone(page).getByText(/Rua das Gáveas 12/)).toBeVisible();

  // The footer is locked: it cannot be deleted, moved or doubled.
  await blocks(page)
    .getByRole('button', { name: /^Footer/ })
    .click();
  await expect(blocks(page).getByRole('button', { name: 'Move up (Alt ↑)' })).toHaveCount(0);
  await expect(page.getByRole('button', { name: 'Delete block (Del)' })).toHaveCount(0);

  // Read as one person after the other, the subject fills in anew.
  const shown = settings(page).getByText(subject).first();
  const asFirst = await shown.textContent();
  const readers = page.getByRole('combobox', { name: 'Reading as' });
  await readers.click();
  const names = await page.getByRole('option').locator('span:first-child').allTextContents();
  const other = names.find((n) => / /.test(n) && !n.includes('@') && !asFirst?.includes(n.split(' ')[0] ?? '')) ?? '';
  await readers.fill(other);
  await page.getByRole('option', { name: other }).first().click();
  await expect(shown).toContainText(other.split(' ')[0] ?? 'nobody');

  await page.getByRole('button', { name: 'Send a test' }).click();
  await page.getByRole('dialog').getByLabel('To').fill('ines@foldwell.example');
  await page.getByRole('button', { name: 'Send the test' }).click();
  await expect(page.getByText(/^Sent to ines@foldwell\.example/)).toBeVisible();

  // Undo takes back the divider, also after a reload; redo brings it back.
  const dividers = blocks(page).locator('[aria-pressed]', { hasText: 'Divider' });
  await expect(dividers).toHaveCount(1);
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
  await page.reload();
  await expect(phone(page).getByRole('heading', { name: 'Wax it twice' })).toBeVisible();
  await page.getByRole('button', { name: 'Undo (Ctrl Z)' }).click();
  await expect(dividers).toHaveCount(0);
  await page.getByRole('button', { name: 'Redo (Ctrl Shift Z)' }).click();
  await expect(dividers).toHaveCount(1);
  await axe(page);

  await page.goto('/outside?q=ines@foldwell.example');
  await page.getByRole('link', { name: new RegExp(`${subject}, ${other.split(' ')[0]}`) }).click();
  await expect(page.frameLocator('iframe').getByRole('heading', { name: 'Wax it twice' })).toBeVisible();
});

test('blocks are moved, doubled and deleted by key alone, and the next person is a key away', async ({ page }) => {
  await signIn(page);
  await beginSequence(page, fresh('Keys '));
  await openFirstEmail(page);
  const outline = () => blocks(page).locator('[aria-pressed]').allTextContents();
  const before = await outline();
  await blocks(page).locator('[aria-pressed]').first().focus();
  await page.keyboard.press('Enter');
  await page.keyboard.press('Control+d');
  await expect.poll(outline).toHaveLength(before.length + 1);
  await page.keyboard.press('Delete');
  await expect.poll(outline).toEqual(before);
  await page.keyboard.press('Control+z');
  await expect.poll(outline).toHaveLength(before.length + 1);
  const reader = await page.getByRole('combobox', { name: 'Reading as' }).inputValue();
  await page.keyboard.press('Control+Shift+p');
  await expect(page.getByRole('combobox', { name: 'Reading as' })).not.toHaveValue(reader);
});

test('an email that an event starts is read with a real event of that person', async ({ page }) => {
  await signIn(page);
  const shop = await openShop(page);
  await shop.tells('order.begun', await shop.joins(), {
    lines: [{ title: 'Pamphlet kit', price: 18, quantity: 1 }],
    total: 18,
    return_to: 'https://foldwell.example/cart/1',
  });
  await page.getByRole('table').getByRole('link', { name: 'Left at checkout' }).click();
  await page.locator('[data-step]', { hasText: '· Day' }).first().focus();
  await page.keyboard.press('Enter');
  // Who did it comes first among the readers, with their newest event.
  await page.getByLabel('With the event').click();
  await expect(page.getByRole('option').first()).toHaveText(/^Began an order, \w{3} \d/);
});

test('what is typed while an earlier edit is still being saved is not lost', async ({ page }) => {
  await signIn(page);
  await beginSequence(page, fresh('Slow line '));
  await openFirstEmail(page);
  // A slow line: every save is answered two seconds late, with the draft as it was then.
  await page.route('**/commands', async (route) => {
    const answer = await route.fetch();
    await new Promise((resolve) => setTimeout(resolve, 2_000));
    await route.fulfill({ response: answer });
  });
  await page.getByRole('textbox', { name: 'Subject' }).click();
  const saving = page.waitForRequest('**/commands');
  const saved = page.waitForResponse('**/commands');
  await page.keyboard.type('First');
  await page.getByRole('textbox', { name: 'Text of the block' }).click();
  await saving;
  // One key at a time, so that the answer comes in between two of them.
  const words = 'Fold along the grain, wax the thread twice, and press every fold flat with the bone.';
  for (const key of words) await page.keyboard.type(key, { delay: 30 });
  await saved;
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
  await page.unroute('**/commands');
  await page.reload();
  await expect(page.getByRole('textbox', { name: 'Text of the block' })).toHaveText(words);
  await expect(page.getByRole('textbox', { name: 'Subject' })).toHaveText('First');
});

test('the worker’s compile and the server’s are the same to the byte', async ({ page }) => {
  await signIn(page);
  await page.getByRole('table').getByRole('link', { name: 'Welcome and stitch guide' }).click();
  await page.locator('[data-step]', { hasText: '· Day 0' }).first().focus();
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'As sent' }).click();
  const shown = page.locator('iframe[title="The email as it is sent"]');
  await expect(shown).toBeVisible();
  const byWorker = (await shown.getAttribute('srcdoc')) ?? '';
  await page.getByRole('button', { name: 'Send a test' }).click();
  await page.getByRole('dialog').getByLabel('To').fill('bytes@foldwell.example');
  await page.getByRole('button', { name: 'Send the test' }).click();
  await expect(page.getByText(/^Sent to bytes@/)).toBeVisible();
  const { messages } = (await (await page.request.get('/api/outside/mailbox?q=bytes@')).json()) as {
    messages: { id: number }[];
  };
  const message = (await (await page.request.get(`/api/outside/mailbox/${messages[0]?.id}`)).json()) as {
    html: string;
  };
  // Addresses are moving nodes: the preview's lead nowhere. The frame's own base element is the page's, not the email's.
  const still = (html: string) =>
    html
      .replace('<base target="_blank">', '')
      .replace(/(href|src|background)="[^"]*"/g, '$1=""')
      .replace(/\r\n/g, '\n')
      .trim();
  expect(still(byWorker).length).toBeGreaterThan(5_000);
  expect(still(byWorker)).toBe(still(message.html));
});

test('an email that is opened on a slow line can be edited at once: the answer does not wipe the edit out', async ({
  page,
}) => {
  await signIn(page);
  await beginSequence(page, fresh('Slow opening '));
  await startsWithList(page, 'Course');
  await page.getByRole('button', { name: 'Add the first email' }).click();
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
  let answered = 0;
  await page.route(/\/api\/sequences\/[\w-]+$/, async (route) => {
    const answer = await route.fetch();
    await new Promise((resolve) => setTimeout(resolve, 1_500));
    await route.fulfill({ response: answer });
    answered++;
  });
  await page.locator('[data-step]', { hasText: 'New email' }).press('Enter');
  await page.getByRole('textbox', { name: 'Subject' }).click();
  await page.keyboard.type('Typed at once');
  await blocks(page).getByRole('button', { name: 'Divider' }).click();
  await expect.poll(() => answered).toBeGreaterThan(0);
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
  await expect(page.getByRole('textbox', { name: 'Subject' })).toHaveText('Typed at once');
  await expect(blocks(page).locator('[aria-pressed]', { hasText: 'Divider' })).toHaveCount(1);
});

test('while the server cannot be reached, work goes on and is kept; Ctrl S keeps a state to come back to', async ({
  page,
}) => {
  await signIn(page);
  const name = fresh('Kept ');
  await beginEmail(page, name);
  const saved = savedNote(page);
  await expect(saved).toHaveText('Saved');
  await page.route('**/api/sequences/*/commands', (route) => route.abort());
  await page.getByRole('textbox', { name: 'Subject' }).click();
  await page.keyboard.type('Written in a tunnel');
  await expect(saved).toHaveText('Not saved yet: trying again …');
  await expect(page.getByText(/cannot be reached.*Your edits are kept in this browser/)).toBeVisible();
  await axe(page);
  await page.getByRole('textbox', { name: 'Preview text' }).click();
  await page.keyboard.type('And under it');
  await page.unroute('**/api/sequences/*/commands');
  await expect(saved).toHaveText('Saved', { timeout: 40_000 });
  await expect(page.getByText(/Your edits are kept in this browser/)).toHaveCount(0);
  await page.keyboard.press('Control+s');
  await expect(page.getByText('This state is kept under Versions.')).toBeVisible();
  await page.reload();
  await expect(page.getByRole('textbox', { name: 'Subject' })).toHaveText('Written in a tunnel');
  await expect(page.getByRole('textbox', { name: 'Preview text' })).toHaveText('And under it');
  await page.getByRole('button', { name: 'Earlier versions' }).click();
  await expect(page.getByRole('dialog').getByText('Kept with Ctrl S')).toBeVisible();
});

test('a tab that is closed with edits on their way loses nothing: the next one brings them', async ({
  page,
  context,
}) => {
  await signIn(page);
  await beginEmail(page, fresh('Closed '));
  const status = savedNote(page);
  await expect(status).toHaveText('Saved');
  await page.route('**/api/sequences/*/commands', (route) => route.abort());
  await page.getByRole('textbox', { name: 'Subject' }).click();
  await page.keyboard.type('Before the lights went out');
  await page.getByRole('textbox', { name: 'Preview text' }).click();
  await expect(status).toHaveText('Not saved yet: trying again …');
  const address = page.url();
  await page.close({ runBeforeUnload: false });
  const next = await context.newPage();
  await next.goto(address);
  await expect(next.getByRole('textbox', { name: 'Subject' })).toHaveText('Before the lights went out');
  const { draft } = await api<{ draft: { steps: { email?: { subject: string } }[] } }>(
    next,
    'get',
    `/sequences/${/sequences\/([^/]+)/.exec(address)?.[1] ?? ''}`,
  );
  expect(draft.steps[0]?.email?.subject).toBe('Before the lights went out');
});

test('uploads go on while one works elsewhere, and each goes where it was meant to go', async ({ page }) => {
  await signIn(page);
  await beginEmail(page, fresh('Uploads '));
  await blocks(page).getByRole('button', { name: 'Image' }).last().click();
  const email = page.url();
  // A slow line: both files wait until we let them through.
  let through = () => undefined as void;
  const open = new Promise<void>((done) => (through = done));
  await page.route('**/api/files', async (route) => {
    if (route.request().method() === 'POST') await open;
    await route.continue();
  });
  const [photo, guide] = [`${fresh('thread')}.png`, `${fresh('guide')}.png`];
  await page.getByLabel('Upload a picture').setInputFiles({ name: photo, mimeType: 'image/png', buffer: picture() });
  await page.getByRole('textbox', { name: 'Alt text' }).click();
  await page.keyboard.type('A spool of thread');
  await page.getByRole('button', { name: /^Designed/ }).click();
  await page.getByLabel('Upload and attach').setInputFiles({ name: guide, mimeType: 'image/png', buffer: picture() });
  await pick(page.getByLabel('Attach a file', { exact: true }), /^Five stitches\.pdf/);
  await page.getByRole('link', { name: 'Sequences', exact: true }).click();
  await expect(page.getByText(`“${photo}” is still on its way.`)).toBeVisible();
  through();
  await expect(page.getByText(`“${photo}” has arrived and stands in its place.`)).toBeVisible();
  await expect(page.getByText(`“${guide}” has arrived and stands in its place.`)).toBeVisible();

  await page.goto(email);
  await expect(phone(page).getByAltText('A spool of thread')).toHaveAttribute('src', /\/f\//);
  await page.getByRole('button', { name: /^Designed/ }).click();
  await expect(page.getByRole('button', { name: `Leave out ${guide}` })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Leave out Five stitches.pdf' })).toBeVisible();
});
