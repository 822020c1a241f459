import { expect, test } from '@playwright/test';
import { emptyEmail, outline, rows, titles, settings, phone, text } from './support/emails.ts';
import { axe, closeDialog, pick, signIn } from './support/hands.ts';

test('an email about a cart is written from an empty page: by /, by plus, by dragging; its lines repeat, a note is for some', async ({
  page,
}) => {
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
  await pick(page.getByLabel('How total is written'), '€18.00');
  await expect(phone(page).getByText('Your cart is still here: €')).toBeVisible();
  // By clicking in the palette: the lines of the cart, their fields found by themselves.
  await outline(page).getByRole('button', { name: 'Repeat', exact: true }).click();
  await pick(page.getByLabel('One for each of'), 'lines of the event');
  await expect(page.getByLabel('Title comes from')).toHaveText('title');
  await expect(page.getByLabel('Price comes from')).toHaveText('price');
  await expect(page.getByLabel('Picture comes from')).toHaveText('image');
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
  await page.getByRole('textbox', { name: 'Heading', exact: true }).click();
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
  await pick(page.getByLabel('Who sees it'), 'only if …');
  await pick(settings(page).getByLabel('They'), 'has an attribute that …');
  await pick(settings(page).getByLabel('Field'), 'Plan');
  await pick(settings(page).getByLabel('Value'), 'paper club');
  await expect(rows(page).filter({ hasText: 'One parcel' })).toContainText('if');
  await page.getByRole('button', { name: 'Who sees what' }).click();
  await expect(page.getByRole('dialog').getByRole('listitem').first()).toContainText(/of \d+|Nobody sees it/);
  await axe(page);
  await closeDialog(page);
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
    text('shout', 'You receieve the kit.'),
    { id: 'go', kind: 'button', label: 'To the shop', address: 'foldwell.example/kits' },
    { id: 'pale', kind: 'heading', text: 'Hardly there', level: 2, look: { color: '#dddddd' } },
    text('else', 'For the others', { when: { chain: 'else' } }),
  ];
  await emptyEmail(page, 'Mended ', blocks);
  const dialog = page.getByRole('dialog');
  const open = async () => {
    await page.getByRole('button', { name: /(errors?|to look at)$/ }).click();
    await expect(dialog).toBeVisible();
  };
  const finding = (words: string) => dialog.getByRole('listitem').filter({ hasText: words });
  for (const [words, field] of [
    ['“receieve” is not in the dictionary', page.locator('[data-block="shout"] [data-part="text"]')],
    ['write it in full, with https://', settings(page).locator('[data-part="address"]')],
    ['stand out too little', settings(page).locator('[data-part="color"]')],
    ['follows no block that says “if”', settings(page).getByLabel('Who sees it')],
  ] as const) {
    await open();
    await finding(words).getByRole('button', { name: 'Go there' }).click();
    await expect(field).toBeFocused();
  }
  for (const [words, repair] of [
    ['“receieve” is not in the dictionary', 'Write “receive”'],
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
    await closeDialog(page);
  }
});

test('every finding leads to where it is mended: the focus lands in the field, in the block, or in the dialog for it', async ({
  page,
}) => {
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
    await page.getByRole('button', { name: /(errors?|to look at)$/ }).click();
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

test('the phone is never blank while one types, keeps its place, and no script runs in it', async ({ page }) => {
  await signIn(page);
  const long = Array.from({ length: 12 }, (_, i) =>
    text(`t${i}`, `Evening ${i}. ${'Fold along the grain. '.repeat(8)}`),
  );
  const source =
    '<p id="trick">Still</p><img src="/nothing" onerror="document.getElementById(\'trick\').textContent=\'Ran\'"><script>document.title="Ran"</script>';
  await emptyEmail(page, 'Typed ', [...long, { id: 'raw', kind: 'html', source }, text('last', 'The last words: ')]);
  await expect(phone(page).getByText('The last words:')).toBeVisible();
  const frame = page.locator('iframe[title="The email on a phone"]');
  // What a browser paints is looked at in every frame, from inside it.
  await frame.evaluate((f: HTMLIFrameElement) => {
    const seen = { least: Infinity, lost: 0, frames: 0 };
    Object.assign(window, { seen });
    const doc = f.contentDocument as Document;
    doc.documentElement.scrollTop = 400;
    const look = () => {
      const now = f.contentDocument as Document;
      seen.frames++;
      seen.least = Math.min(seen.least, now.body.innerText.trim().length);
      if (now !== doc || now.documentElement.scrollTop !== 400) seen.lost++;
      requestAnimationFrame(look);
    };
    requestAnimationFrame(look);
  });
  await page.locator('[data-block="last"] [data-part="text"]').click();
  await page.keyboard.press('End');
  await page.keyboard.type('every key of them is shown here.');
  await expect(phone(page).getByText('every key of them is shown here.')).toBeVisible();
  const seen = await page.evaluate(() => (window as unknown as { seen: Record<string, number> }).seen);
  expect(seen.frames).toBeGreaterThan(10);
  expect(seen.least).toBeGreaterThan(1000);
  expect(seen.lost).toBe(0);
  await expect(phone(page).locator('#trick')).toHaveText('Still');
  expect(await frame.evaluate((f: HTMLIFrameElement) => f.contentDocument?.title)).not.toBe('Ran');
});
