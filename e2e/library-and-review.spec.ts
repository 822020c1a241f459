import { expect, test } from '@playwright/test';
import { api, emptyEmail, outline, rows, settings, phone, text } from './support/emails.ts';
import { axe, fresh, signIn, pick } from './support/hands.ts';

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
  await pick(settings(page).getByLabel('Where it shows'), 'on a phone only');
  await settings(page).getByRole('button', { name: 'Change it everywhere' }).click();
  await page.getByRole('textbox', { name: 'Text of the block' }).click();
  await page.keyboard.press('Control+a');
  await page.keyboard.type('Summer hours: nine to six.');
  await rows(page)
    .filter({ hasText: `From “${name}”` })
    .locator('[aria-pressed]')
    .click();
  await settings(page).getByRole('button', { name: 'Done: change it everywhere …' }).click();
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
  const shared = page.getByRole('listitem').filter({ has: page.getByTitle(`Shared block ${name}`) });
  await expect(shared).toContainText(sequence);
  await expect(shared.getByText('Behind', { exact: true })).toBeVisible();
  await axe(page);
  // The list of sequences and the plan say so too.
  await page.goto(`/sequences/${id}`);
  await expect(page.getByRole('button', { name: 'Behind' })).toBeVisible();
  await page.goto('/sequences');
  const behind = page.getByRole('listitem').filter({ hasText: sequence });
  await expect(behind).toContainText(`Shared block “${name}”`);
  await axe(page);
  // With many of them the list is folded.
  if (!(await behind.isVisible())) await page.getByText('Which, and what changed').click();
  await behind.getByRole('button', { name: 'Publish this change only' }).click();
  await expect(behind).toHaveCount(0);
  await page.goto('/library');
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
  await expect(other.getByRole('heading', { name: 'Sequences', exact: true })).toBeVisible();
  // Each sees who else is here, and where.
  await other.goto(`/sequences/${id}`);
  await expect(other.getByTitle(/^Inês Rocha is at “/)).toBeVisible();
  await expect(page.getByTitle(/^Adaeze .* is at the plan$/)).toBeVisible();
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
  await pick(page.getByLabel('How it is made'), 'Text only');
  await expect(settings(page).getByText('See how:')).toBeVisible();
  await pick(page.getByLabel('How it is made'), 'Own HTML');
  const source = page.getByRole('textbox', { name: 'Source of the email' });
  await source.click();
  await page.keyboard.insertText(
    '<p>Hi {{ subscriber.first_name | default: "reader" }}, <a href="https://foldwell.example/">look</a></p>',
  );
  await expect(phone(page).getByText(/^Hi \S+/)).toBeVisible();
  await page.getByRole('button', { name: /(errors?|to look at)$/ }).click();
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
  await expect(canvas.locator('img').first()).toHaveJSProperty('complete', true);
  await expect(phone(page).locator('img').first()).toBeVisible();
  const before = await rows(page).count();
  const words = await canvas.getByText('Fold it twice.').boundingBox();
  // Where it stands once nothing moves any more: what is dropped meanwhile lands beside it.
  let gap = await canvas.locator('[data-block=words]').boundingBox();
  await expect
    .poll(async () => {
      const was = JSON.stringify(gap);
      gap = await canvas.locator('[data-block=words]').boundingBox();
      return JSON.stringify(gap) === was;
    })
    .toBe(true);
  expect([words, gap]).not.toContain(null);
  // One need not hit the line itself: let go over a block, it lands at the nearer edge.
  if (gap) await drag({ x: gap.x + gap.width / 2, y: gap.y + gap.height - 10 });
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
