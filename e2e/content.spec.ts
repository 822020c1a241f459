import { expect, test, type Page } from '@playwright/test';
import { axe, fresh, signIn } from './support/hands.ts';

interface Answer {
  id: string;
}
async function api<T = Answer>(page: Page, method: 'get' | 'post' | 'put', path: string, data?: unknown): Promise<T> {
  const answer = await page.request[method](`/api${path}`, { data, headers: { origin: new URL(page.url()).origin } });
  expect(answer.ok(), `${method} ${path}: ${await answer.text()}`).toBe(true);
  return (await answer.json()) as T;
}

/** A sequence that a checkout starts, with one email that has nothing in it but the footer; its composer is open. */
async function emptyEmail(page: Page, name: string, more: object[] = []): Promise<{ id: string; name: string }> {
  const full = fresh(name);
  const { id } = await api(page, 'post', '/sequences', { name: full });
  const email = {
    sender: '',
    subject: 'About your cart',
    preview: 'It is all there.',
    blocks: [...more, { id: 'foot', kind: 'footer', reason: '' }],
  };
  const step = {
    id: `mail-${full}`,
    kind: 'email',
    on: true,
    note: '',
    name: 'Cart',
    window: null,
    forWhom: null,
    thenTag: '',
    thenPoints: 0,
    email,
  };
  await api(page, 'post', `/sequences/${id}/commands`, {
    base: 0,
    role: 'edit',
    commands: [
      { type: 'set', field: 'triggers', value: [{ kind: 'event', event: 'checkout.started', where: [] }] },
      { type: 'set', field: 'list', value: null },
      { type: 'step.insert', place: { arm: null, index: 0 }, step },
    ],
  });
  await page.goto(`/sequences/${id}/emails/${step.id}`);
  await expect(page.getByRole('complementary', { name: 'Blocks' })).toBeVisible();
  return { id, name: full };
}

const outline = (page: Page) => page.getByRole('complementary', { name: 'Blocks' });
const rows = (page: Page) => outline(page).locator('[data-block]');
const titles = (page: Page) => rows(page).locator('[aria-pressed]').allTextContents();
const settings = (page: Page) => page.getByRole('complementary', { name: 'Preview and settings' });
const phone = (page: Page) => page.frameLocator('iframe[title="The email on a phone"]');
const text = (id: string, words: string, more: object = {}) => ({
  id,
  kind: 'text',
  doc: { type: 'doc', content: [{ type: 'paragraph', content: [{ type: 'text', text: words }] }] },
  ...more,
});

test('an email about a cart is written from an empty page: by /, by plus, by dragging; its lines repeat, a note is for some', async ({
  page,
}) => {
  test.setTimeout(90_000);
  await signIn(page);
  await emptyEmail(page, 'Cart ');
  // By /, with the focus in the outline.
  await rows(page).first().locator('[aria-pressed]').focus();
  await page.keyboard.press('/');
  await page.getByLabel('Find a block').fill('text');
  await page.keyboard.press('Enter');
  await page.getByRole('textbox', { name: 'Text of the block' }).click();
  await page.keyboard.type('Your cart is still here: {{');
  await page.getByRole('dialog').getByLabel('Find a field').fill('total');
  await page.keyboard.press('Enter');
  await page.keyboard.press('ArrowLeft');
  await page.getByLabel('How total is written').selectOption({ label: '€18.00' });
  await expect(phone(page).getByText('Your cart is still here: €')).toBeVisible();
  // By clicking in the palette: the lines of the cart, their fields found by themselves.
  await outline(page).getByRole('button', { name: 'Repeat', exact: true }).click();
  await page.getByLabel('One for each of').selectOption({ label: 'lines of the event' });
  await expect(page.getByLabel('Title comes from')).toHaveValue('title');
  await expect(page.getByLabel('Price comes from')).toHaveValue('price');
  await expect(page.getByLabel('Picture comes from')).toHaveValue('image');
  await expect(
    phone(page)
      .getByText(/^€\d+\.\d\d$|× €\d+\.\d\d$/)
      .first(),
  ).toBeVisible();
  // By the plus between two blocks on the page.
  const gap = page.locator('[data-canvas]').getByRole('button', { name: 'Add a block here' }).first();
  await gap.focus();
  await page.keyboard.press('Enter');
  await page.getByLabel('Find a block').fill('heading');
  await page.keyboard.press('Enter');
  await page.getByRole('textbox', { name: 'Heading' }).click();
  await page.keyboard.type('Still open');
  await expect
    .poll(() => titles(page))
    .toEqual(['Still open', expect.stringContaining('Your cart'), 'Repeat over lines', 'Footer']);
  // By dragging from the palette onto the page, above the footer.
  const source = await outline(page).getByRole('button', { name: 'Button', exact: true }).boundingBox();
  const foot = await page.locator('[data-canvas] [data-block="foot"]').boundingBox();
  if (!source || !foot) throw new Error('There is nothing to drag.');
  await page.mouse.move(source.x + 20, source.y + 20);
  await page.mouse.down();
  await page.mouse.move(foot.x + 200, foot.y + 40, { steps: 6 });
  await page.mouse.move(foot.x + 200, foot.y, { steps: 4 });
  await page.mouse.up();
  await expect
    .poll(() => titles(page))
    .toEqual([expect.anything(), expect.anything(), 'Repeat over lines', 'Button', 'Footer']);
  await page.getByRole('textbox', { name: 'Words on the button' }).click();
  await page.keyboard.type('Back to my cart');
  // A note for those in the club, and another for everybody else.
  await outline(page).getByRole('button', { name: 'Text', exact: true }).click();
  await page.getByRole('textbox', { name: 'Text of the block' }).last().click();
  await page.keyboard.type('One parcel for club members.');
  await page.getByLabel('Who sees it').selectOption({ label: 'only if …' });
  await settings(page).getByLabel('They').selectOption({ label: 'has an attribute that …' });
  await settings(page).getByLabel('Field').selectOption({ label: 'Plan' });
  await settings(page).getByLabel('Value').fill('paper club');
  await expect(rows(page).filter({ hasText: 'One parcel' })).toContainText('if');
  await page.getByRole('button', { name: 'Who sees what' }).click();
  await expect(page.getByRole('dialog').getByRole('listitem').first()).toContainText(/of \d+|Nobody sees it/);
  await axe(page);
  await page.keyboard.press('Escape');
  await axe(page);
});

test('blocks are moved, gathered and carried from email to email by the keyboard alone', async ({ page }) => {
  await signIn(page);
  const blocks = [text('one', 'First words'), text('two', 'Second words'), text('three', 'Third words')];
  await emptyEmail(page, 'Keys ', blocks);
  const row = (words: string) => rows(page).filter({ hasText: words }).locator('[aria-pressed]');
  await row('First words').focus();
  await page.keyboard.press('Alt+ArrowDown');
  await expect.poll(() => titles(page)).toEqual(['Second words', 'First words', 'Third words', 'Footer']);
  // Two chosen at once go into a section, and come out of it again by moving up.
  await row('First words').click();
  await row('Third words').click({ modifiers: ['Shift'] });
  await expect(settings(page).getByRole('heading', { name: '2 blocks' })).toBeVisible();
  await settings(page).getByRole('button', { name: 'Put them into a section' }).click();
  await expect
    .poll(() => titles(page))
    .toEqual(['Second words', 'Section of 2', 'First words', 'Third words', 'Footer']);
  await row('First words').focus();
  await page.keyboard.press('Alt+ArrowUp');
  await expect
    .poll(() => titles(page))
    .toEqual(['Second words', 'First words', 'Section of 1', 'Third words', 'Footer']);
  // Copied here, put into another email.
  await row('Section of 1').focus();
  await page.keyboard.press('Control+c');
  const kept = await titles(page);
  await page.getByRole('link', { name: 'Back to the plan' }).click();
  await page.getByRole('group', { name: 'Plan' }).waitFor();
  await page.locator('[data-step]', { hasText: 'Cart' }).focus();
  await page.keyboard.press('e');
  await page.locator('[data-step]:focus', { hasText: 'New email' }).press('Enter');
  await expect(outline(page)).toBeVisible();
  await rows(page).first().locator('[aria-pressed]').focus();
  await page.keyboard.press('Control+v');
  await expect
    .poll(() => titles(page))
    .toEqual([expect.anything(), 'Section of 1', 'Third words', expect.anything(), 'Footer']);
  await page.keyboard.press('Control+z');
  await expect.poll(() => titles(page)).toHaveLength(3);
  expect(kept).toHaveLength(5);
});

test('a finding leads into its field, its repair mends, and undo takes the repair back', async ({ page }) => {
  await signIn(page);
  const blocks = [
    text('shout', 'Cut the papper first.'),
    { id: 'go', kind: 'button', label: 'To the shop', address: 'foldwell.example/kits' },
    { id: 'pale', kind: 'heading', text: 'Hardly there', level: 2, look: { color: '#dddddd' } },
    text('else', 'For the others', { when: { chain: 'else' } }),
  ];
  await emptyEmail(page, 'Mended ', blocks);
  const dialog = page.getByRole('dialog');
  const open = async () => {
    await page.getByRole('button', { name: /to fix$/ }).click();
    await expect(dialog).toBeVisible();
  };
  const finding = (words: string) => dialog.getByRole('listitem').filter({ hasText: words });
  for (const [words, field] of [
    ['“papper” is not in the dictionary', page.locator('[data-block="shout"] [data-part="text"]')],
    ['write it in full, with https://', settings(page).locator('[data-part="address"]')],
    ['stand out too little', settings(page).locator('[data-part="color"]')],
    ['follows no block that says “if”', settings(page).getByLabel('Who sees it')],
  ] as const) {
    await open();
    await finding(words).getByRole('button', { name: 'Go there' }).click();
    await expect(field).toBeFocused();
  }
  for (const [words, repair] of [
    ['“papper” is not in the dictionary', 'Write “paper”'],
    ['write it in full, with https://', 'Write https://foldwell.example/kits'],
    ['stand out too little', 'Back to the house style'],
    ['follows no block that says “if”', 'Show it to everyone'],
  ] as const) {
    await open();
    await finding(words).getByRole('button', { name: repair }).click();
    await expect(finding(words)).toHaveCount(0);
    await page.keyboard.press('Escape');
    await expect(dialog).toHaveCount(0);
    await page.getByRole('button', { name: 'Undo (Ctrl Z)' }).click();
    await open();
    await expect(finding(words)).toBeVisible();
    await page.keyboard.press('Escape');
    await expect(dialog).toHaveCount(0);
  }
});

test('every finding leads to where it is mended: the focus lands in the field, in the block, or in the dialog for it', async ({
  page,
}) => {
  test.setTimeout(90_000);
  await signIn(page);
  const blocks = [
    text('loud', 'Lorem ipsum papper'),
    { id: 'pic', kind: 'image', file: '', alt: '', link: 'nowhere', width: 300 },
    {
      id: 'card',
      kind: 'article',
      file: '',
      alt: '',
      title: 'One',
      summary: '',
      address: '',
      label: 'Read',
      side: 'left',
    },
    { id: 'head', kind: 'heading', text: '', level: 2 },
    { id: 'list', kind: 'list', marker: 'dash', items: [''] },
    {
      id: 'again',
      kind: 'repeat',
      list: '',
      limit: 3,
      sort: null,
      across: 1,
      link: '',
      none: '',
      button: { on: false, label: '' },
      picture: { on: false, field: '' },
      title: { on: false, field: '' },
      text: { on: false, field: '' },
      quantity: { on: false, field: '' },
      price: { on: false, field: '' },
    },
    { id: 'gone', kind: 'shared', shared: 'gone' },
    { id: 'wide', kind: 'table', head: false, rows: [['a', 'b', 'c', 'd', 'e']] },
    text('some', 'For some', { when: { chain: 'if', condition: { kind: 'tag', tag: '', has: true } } }),
    { id: 'said', kind: 'quote', doc: { type: 'doc', content: [{ type: 'paragraph' }] }, by: '{{ sender.nothing }}' },
  ];
  await emptyEmail(page, 'Jumps ', blocks);
  const composer = page.url();
  await page.getByRole('textbox', { name: 'Subject' }).click();
  await page.keyboard.press('Control+a');
  await page.keyboard.type('WHAT IS THIS?!');
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
  const dialog = page.getByRole('dialog');
  const open = async () => {
    await page.getByRole('button', { name: /to fix$/ }).click();
    await expect(dialog).toBeVisible();
  };
  await open();
  const count = await dialog.getByRole('listitem').count();
  expect(count).toBeGreaterThan(12);
  const lost: string[] = [];
  for (let i = 0; i < count; i++) {
    const row = dialog.getByRole('listitem').nth(i);
    const words = await row.locator('p').first().textContent();
    await row.getByRole('button', { name: 'Go there' }).click();
    const landed = page.locator('[data-part]:focus, [data-block] :focus, [role=dialog] :focus, [data-part] :focus');
    await expect(landed.first())
      .toBeVisible({ timeout: 3_000 })
      .catch(() => lost.push(words ?? ''));
    await page.goto(composer);
    await expect(outline(page)).toBeVisible();
    await open();
  }
  expect(lost).toEqual([]);
});

test('one shared block is changed everywhere, and a live sequence takes on that change alone', async ({ page }) => {
  await signIn(page);
  const name = fresh('Banner ');
  const blocks = [
    text('said', 'Spring hours: ten to four.'),
    { id: 'go', kind: 'button', label: 'See the shop', address: 'https://foldwell.example/shop' },
  ];
  const { id, name: sequence } = await emptyEmail(page, 'Sharing ', blocks);
  await rows(page).filter({ hasText: 'Spring hours' }).locator('[aria-pressed]').click();
  await settings(page).getByRole('button', { name: 'Into the library …' }).click();
  await page.getByRole('dialog').getByLabel('Name').fill(name);
  await page.getByRole('button', { name: 'Keep as a shared block' }).click();
  await expect(rows(page).filter({ hasText: name })).toContainText('shared');
  await page.getByRole('link', { name: 'Back to the plan' }).click();
  await page.getByRole('button', { name: 'Publish version 1' }).click();
  await page.getByRole('button', { name: 'Publish all the same' }).click();
  await expect(page.getByText('Live · version 1')).toBeVisible();
  // Taken apart, changed, and given back: the dialog says for how many places.
  await page.locator('[data-step]', { hasText: 'Cart' }).focus();
  await page.keyboard.press('Enter');
  await rows(page).filter({ hasText: name }).locator('[aria-pressed]').click();
  await settings(page).getByLabel('Where it shows').selectOption('on a phone only');
  await settings(page).getByRole('button', { name: 'Take it apart here' }).click();
  await page.getByRole('textbox', { name: 'Text of the block' }).click();
  await page.keyboard.press('Control+a');
  await page.keyboard.type('Summer hours: nine to six.');
  await rows(page)
    .filter({ hasText: `From “${name}”` })
    .locator('[aria-pressed]')
    .click();
  await settings(page).getByRole('button', { name: 'Into the library …' }).click();
  await expect(page.getByRole('dialog').getByRole('radio', { name: /Change it everywhere \(1 place\)/ })).toBeChecked();
  await axe(page);
  await page.getByRole('button', { name: 'Change it everywhere', exact: true }).click();
  await expect(phone(page).getByText('Summer hours: nine to six.')).toBeVisible();
  // What was for some is not for everyone now.
  await expect(rows(page).filter({ hasText: name }).getByRole('img', { name: 'On a phone only' })).toBeVisible();
  // The subject is edited in the draft too; only the shared block goes out.
  await page.getByRole('textbox', { name: 'Subject' }).click();
  await page.keyboard.type('NOT YET ');
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
  await page.goto('/library');
  const shared = page.getByRole('listitem').filter({ hasText: name }).first();
  await expect(shared).toContainText(sequence);
  await axe(page);
  await shared.getByRole('button', { name: 'Publish this change only' }).click();
  await expect(shared.getByText('Live', { exact: true })).toBeVisible();
  const { sequence: live } = await api<{ sequence: { steps: { email: { subject: string } }[] } }>(
    page,
    'get',
    `/sequences/${id}/versions/2`,
  );
  expect(live.steps[0]?.email.subject).toBe('About your cart');
});

test('a colleague reads, comments and approves; an earlier version is compared and brought back', async ({
  page,
  browser,
}) => {
  await signIn(page);
  const { id } = await emptyEmail(page, 'Reviewed ', [
    text('said', 'The first wording.'),
    { id: 'go', kind: 'button', label: 'Go', address: 'https://foldwell.example/' },
  ]);
  await page.getByRole('button', { name: 'Review', exact: true }).click();
  await page.getByRole('button', { name: 'Ask for approval' }).click();
  await expect(page.getByRole('dialog')).toContainText('asks for approval');
  await axe(page);
  const address = `/review/${id}/${new URL(page.url()).pathname.split('/').pop()}`;
  const other = await (await browser.newContext()).newPage();
  await other.goto('/sign-in');
  await other.getByLabel('Email').fill('adaeze@foldwell.example');
  await other.getByLabel('Password').fill('fold-along-the-grain');
  await other.getByRole('button', { name: 'Sign in' }).click();
  await expect(other.getByRole('heading', { name: 'Sequences' })).toBeVisible();
  await other.goto(address);
  await expect(other.frameLocator('iframe').getByText('The first wording.').last()).toBeVisible();
  await other.getByRole('button', { name: 'The first wording.' }).click();
  await other.getByLabel('Comment', { exact: true }).fill('Say when.');
  await other.getByRole('button', { name: 'Comment', exact: true }).click();
  await expect(other.getByRole('listitem').filter({ hasText: 'Say when.' })).toBeVisible();
  await other.getByRole('button', { name: 'Approve as it is' }).click();
  await expect(other.getByText(/^Approved by Adaeze/)).toBeVisible();
  await axe(other);
  await other.close();

  // A change after that is seen: the approval was for what stood there.
  await page.keyboard.press('Escape');
  await api(page, 'post', `/sequences/${id}/marks`, { name: 'As approved' });
  await page.getByRole('textbox', { name: 'Text of the block' }).click();
  await page.keyboard.press('Control+a');
  await page.keyboard.type('The second wording, on Friday.');
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
  await page.reload();
  await page.getByRole('button', { name: 'Review', exact: true }).click();
  await expect(page.getByRole('dialog')).toContainText('but changed since');
  await page
    .getByRole('dialog')
    .getByRole('listitem')
    .filter({ hasText: 'Say when.' })
    .getByRole('button', { name: 'Resolve' })
    .click();
  await expect(page.getByRole('button', { name: 'Open again' })).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Earlier versions' }).click();
  await page.getByRole('button', { name: /As approved/ }).click();
  await expect(page.getByRole('dialog')).toContainText('changed');
  await expect(page.frameLocator('iframe[title="Then"]').getByText('The first wording.').last()).toBeVisible();
  await axe(page);
  await page.getByRole('button', { name: 'Bring this back' }).click();
  await expect(phone(page).getByText('The first wording.').last()).toBeVisible();
  await page.getByRole('button', { name: 'Undo (Ctrl Z)' }).click();
  await expect(phone(page).getByText('The second wording, on Friday.').last()).toBeVisible();
});

test('the other ways to make an email: a letter, text only, a source; plain text by hand with its drift told', async ({
  page,
}) => {
  await signIn(page);
  await emptyEmail(page, 'Ways ', [
    text('said', 'Said across the bench.'),
    { id: 'go', kind: 'button', label: 'See how', address: 'https://foldwell.example/how' },
  ]);
  await page.getByRole('button', { name: 'Plain text', exact: true }).first().click();
  const plain = page.getByRole('dialog').getByRole('textbox', { name: 'Plain text' });
  await expect(plain).toHaveValue(/See how:\nhttps:\/\/foldwell\.example\/how[\s\S]*\{\{ links\.unsubscribe \}\}/);
  await plain.fill('Just this: https://foldwell.example/how\n\n{{ links.unsubscribe }}');
  await page.getByRole('button', { name: 'Keep this text' }).click();
  await page.getByRole('textbox', { name: 'Text of the block' }).click();
  await page.keyboard.type('And more. ');
  await page.getByRole('button', { name: 'Plain text', exact: true }).first().click();
  await expect(page.getByRole('dialog').getByRole('alert')).toContainText('has changed since this was written');
  await axe(page);
  await page.getByRole('button', { name: 'Back to automatic' }).click();
  await page.getByRole('button', { name: 'Designed' }).click();
  await page.getByLabel('How it is made').selectOption({ label: 'Text only' });
  await expect(settings(page).getByText('See how:')).toBeVisible();
  await page.getByLabel('How it is made').selectOption({ label: 'Own HTML' });
  const source = page.getByRole('textbox', { name: 'Source of the email' });
  await source.click();
  await page.keyboard.insertText(
    '<p>Hi {{ subscriber.first_name | default: "reader" }}, <a href="https://foldwell.example/">look</a></p>',
  );
  await expect(phone(page).getByText(/^Hi \S+/)).toBeVisible();
  await page.getByRole('button', { name: /to fix$/ }).click();
  await expect(page.getByRole('dialog')).toContainText('has no unsubscribe link');
  await axe(page);
});

test('a picture of the library is dragged onto a placeholder and between two blocks; links of ours are followed on request', async ({
  page,
}) => {
  await signIn(page);
  const image = { id: 'pic', kind: 'image', file: '', alt: '', width: 536, link: '' };
  const button = (id: string, address: string) => ({ id, kind: 'button', label: id, address });
  const base = new URL(page.url()).origin;
  await emptyEmail(page, 'Pictures ', [
    image,
    text('words', 'Fold it twice.'),
    button('Home', `${base}/sign-in`),
    button('Lost', `${base}/f/00000000-0000-4000-8000-000000000000`),
    button('Copied', `${base}/c/${'x'.repeat(56)}/0`),
    button('Outside', 'https://papers.foldwell.example/linen'),
  ]);
  await outline(page).getByRole('button', { name: 'Pictures', exact: true }).click();
  await axe(page);
  await outline(page).getByLabel('Find a picture').fill('nothing is called this');
  await expect(outline(page).getByText('No picture has these words.')).toBeVisible();
  await outline(page).getByLabel('Find a picture').fill('');
  const thumbs = outline(page).locator('button:has(img)');
  const name = (await thumbs.first().textContent()) ?? '';

  const drag = async (to: { x: number; y: number }) => {
    const from = (await thumbs.first().boundingBox()) ?? { x: 0, y: 0, width: 0, height: 0 };
    await page.mouse.move(from.x + from.width / 2, from.y + from.height / 2);
    await page.mouse.down();
    await page.mouse.move(to.x, to.y - 30, { steps: 4 });
    await page.mouse.move(to.x, to.y, { steps: 4 });
    await page.mouse.up();
  };
  const canvas = page.locator('[data-canvas]');
  const placeholder = await canvas.getByText('drop one here').boundingBox();
  expect(placeholder).not.toBeNull();
  if (placeholder) await drag({ x: placeholder.x + placeholder.width / 2, y: placeholder.y + placeholder.height / 2 });
  await expect(canvas.getByText('drop one here')).toHaveCount(0);
  await expect(settings(page).getByLabel('Picture', { exact: true })).toHaveValue(/^[0-9a-f-]{36}$/);
  await expect(phone(page).locator('img').first()).toBeVisible();
  const before = await rows(page).count();
  const words = await canvas.getByText('Fold it twice.').boundingBox();
  const gap = await canvas.locator('[data-block=words]').boundingBox();
  expect([words, gap]).not.toContain(null);
  if (gap) await drag({ x: gap.x + gap.width / 2, y: gap.y + gap.height });
  await expect(rows(page)).toHaveCount(before + 1);
  expect(name).not.toBe('');

  await page.getByRole('button', { name: 'Links of this email' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: 'Follow those that are ours' }).click();
  const row = (label: string) =>
    dialog.getByRole('listitem').filter({ has: page.getByRole('button', { name: label }) });
  await expect(row('Home')).toContainText('Followed: it opens.');
  await expect(row('Lost')).toContainText('Followed: there is nothing there (404).');
  await expect(row('Lost')).toContainText('Fix');
  await expect(row('Copied')).toContainText('it would count as theirs');
  await expect(row('Outside')).toContainText('Not ours: open it once yourself.');
  await axe(page);
});
