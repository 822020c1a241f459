import { expect, test, type Page } from '@playwright/test';
import { axe, beginSequence, fresh, signIn, pick, writeMoment } from './support/hands.ts';

const menu = async (page: Page, entry: string) => {
  await page.getByRole('button', { name: 'More about this sequence' }).click();
  await page.getByRole('menuitem', { name: entry }).click();
};
const step = (page: Page, text: string | RegExp) => page.locator('[data-step]', { hasText: text });
const idOf = (page: Page) => /sequences\/([\w-]+)/.exec(page.url())?.[1] ?? '';

/** A live sequence of two letters and a wait, begun by hand, with one person inside. */
async function liveWithSomebody(page: Page, name: string): Promise<string> {
  const email = `${fresh('inside')}@readers.example`;
  await page.request.post('/api/people', {
    data: { email, attributes: { first_name: 'Marta' }, zone: 'Europe/Lisbon', lists: [] },
  });
  await beginSequence(page, name);
  await pick(page.getByLabel('It starts when someone'), 'is added by hand');
  await pick(page.getByLabel('It mails'), 'service mail: receipts and repairs, no list needed');
  await page.getByRole('button', { name: 'Add the first email' }).click();
  await expect(step(page, 'New email')).toBeVisible();
  const id = idOf(page);
  // The words of the letters are written by the API: this test is about what comes after.
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
  const { draft, revision } = (await (await page.request.get(`/api/sequences/${id}`)).json()) as {
    draft: { steps: { id: string; email: { blocks: { id: string; kind: string }[] } }[] };
    revision: number;
  };
  const first = draft.steps[0] as (typeof draft.steps)[number];
  const button = first.email.blocks.find((b) => b.kind === 'button')?.id as string;
  const second = { ...structuredClone(first), id: `${id}-2`, name: 'Second' };
  await page.request.post(`/api/sequences/${id}/commands`, {
    data: {
      base: revision,
      edits: [
        {
          role: 'edit',
          commands: [
            { type: 'email.set', step: first.id, field: 'subject', value: 'The first letter' },
            { type: 'step.set', step: first.id, field: 'name', value: 'First' },
            { type: 'block.remove', step: first.id, block: button },
            {
              type: 'step.insert',
              place: { arm: null, index: 1 },
              step: { id: `${id}-w`, on: true, note: '', kind: 'wait', amount: 5, unit: 'days', at: null },
            },
            {
              type: 'step.insert',
              place: { arm: null, index: 2 },
              step: {
                ...second,
                email: {
                  ...second.email,
                  subject: 'The second letter',
                  blocks: second.email.blocks.filter((b) => b.kind !== 'button'),
                },
              },
            },
          ],
        },
      ],
    },
  });
  await page.reload();
  await page.getByRole('button', { name: 'Publish version 1' }).click();
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /^Publish/ })
    .click();
  await expect(page.getByText('Live · version 1')).toBeVisible();
  await menu(page, 'Add people by hand');
  const dialog = page.getByRole('dialog', { name: 'Add people by hand' });
  await dialog.getByLabel('One person, by name or address').fill(email);
  await dialog.getByRole('button', { name: `What would ${email} get?` }).click();
  // What comes is said before it is done.
  await expect(dialog.getByRole('status')).toContainText('1 person');
  await dialog.getByRole('button', { name: 'Add them' }).click();
  await expect(page.getByText('1 person entered.')).toBeVisible();
  await expect(step(page, '5 days later'))
    .toContainText('1 waiting', { timeout: 15_000 })
    .catch(async () => {
      await page.reload();
      await expect(step(page, '5 days later')).toContainText('1 waiting');
    });
  return id;
}

test('a live sequence is changed while somebody is inside: marked on the plan, told in words, published, looked at and restored', async ({
  page,
}) => {
  await signIn(page);
  await liveWithSomebody(page, fresh('Changed while live '));
  await step(page, '5 days later').click();
  await page.getByLabel('How long').fill('2');
  await step(page, 'Second').focus();
  await page.keyboard.press('a');
  await page.getByLabel('Tag', { exact: true }).fill('changed');
  await page.getByLabel('Tag', { exact: true }).press('Enter');

  // The plan shows what is new and what has changed.
  await expect(page.getByText('new', { exact: true })).toBeVisible();
  await expect(page.getByText('changed', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: /^2 changed/ }).click();
  const changed = page.getByRole('dialog', { name: 'Changed since it was published' });
  await expect(changed).toContainText('Wait: 5 days became 2 days.');
  await expect(changed).toContainText('1 person stands here');
  await axe(page);
  await page.keyboard.press('Escape');

  await page.getByRole('button', { name: 'Publish version 2' }).click();
  const dialog = page.getByRole('dialog', { name: 'Publish version 2' });
  await dialog
    .getByText('Carry on in version 2')
    .click()
    .catch(() => dialog.getByRole('radio').nth(1).check());
  await dialog.getByRole('button', { name: /^Publish/ }).click();
  await expect(page.getByText('Live · version 2')).toBeVisible();
  await expect(page.getByText('new', { exact: true })).toHaveCount(0);

  await menu(page, 'Versions');
  const versions = page.getByRole('dialog', { name: 'Versions' });
  await expect(versions.getByRole('listitem').filter({ hasText: 'Version 2' })).toContainText('1 inside');
  const old = versions.getByRole('listitem').filter({ hasText: 'Version 1' }).last();
  await old.getByRole('button', { name: 'Read', exact: true }).click();
  await expect(old.getByLabel('Plan of version 1')).toContainText('5 days later');
  await axe(page);
  await old.getByRole('button', { name: 'Restore into the draft' }).click();
  await expect(step(page, '5 days later')).toBeVisible();
  await expect(step(page, 'changed')).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo (Ctrl Z)' }).click();
  await expect(step(page, '2 days later')).toBeVisible();
});

test('paused, resumed with its counts told first, and put away; out of the archive it comes paused', async ({
  page,
}) => {
  await signIn(page);
  const name = fresh('Paused ');
  await liveWithSomebody(page, name);
  await menu(page, 'Pause');
  await expect(page.getByText('Paused · version 1')).toBeVisible();
  await page.getByRole('button', { name: 'Resume' }).click();
  const resuming = page.getByRole('dialog', { name: 'Resume this sequence' });
  await expect(resuming).toContainText('1 person inside, 0 people overdue, 0 emails in the queue.');
  await resuming.getByText('Move everything on').click();
  await axe(page);
  await resuming.getByRole('button', { name: 'Resume' }).click();
  await expect(page.getByText('Live · version 1')).toBeVisible();
  await menu(page, 'Archive');
  const dialog = page.getByRole('dialog', { name: 'Archive this sequence' });
  await expect(dialog).toContainText('The 1 person inside leave now');
  await dialog.getByRole('button', { name: 'Archive it' }).click();
  await expect(page.getByText('Archived', { exact: true })).toBeVisible();
  await page.goto('/sequences');
  await expect(page.getByRole('link', { name })).toHaveCount(0);
  await page.getByRole('button', { name: /archived$/ }).click();
  await page.getByRole('row', { name }).getByRole('button', { name: 'Take it out' }).click();
  await page
    .getByRole('button', { name: 'Back to the sequences in use' })
    .click()
    .catch(() => page.goto('/sequences'));
  await expect(page.getByRole('row', { name })).toContainText('Paused');
});

test('a sequence is exported as a file, brought in again, and is the same; a wrong file is told', async ({ page }) => {
  await signIn(page);
  await page.getByRole('table').getByRole('link', { name: 'Welcome and stitch guide' }).click();
  await expect(step(page, 'Guide reminder')).toBeVisible();
  const made = await page.request.post('/api/sequences', { data: { name: fresh('Exported '), copyOf: idOf(page) } });
  const source = ((await made.json()) as { id: string }).id;
  await page.goto(`/sequences/${source}`);
  await page.getByRole('button', { name: 'More about this sequence' }).click();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('menuitem', { name: 'Export as a file' }).click(),
  ]);
  const file = await download.path();
  await page.goto('/sequences');
  await page.getByRole('button', { name: 'New sequence' }).click();
  const input = page.getByLabel('File of an exported sequence');
  await input.setInputFiles({ name: 'wrong.json', mimeType: 'application/json', buffer: Buffer.from('{"hello":1}') });
  await expect(page.getByText('This is no exported sequence.')).toBeVisible();
  await input.setInputFiles(file);
  await expect(page.locator('[data-step=trigger]')).toBeVisible();
  const copy = idOf(page);
  expect(copy).not.toBe(source);
  const draft = async (id: string) =>
    ((await (await page.request.get(`/api/sequences/${id}`)).json()) as { draft: unknown }).draft;
  expect(await draft(copy)).toEqual(await draft(source));
});

test('a pattern is chosen by its rhythm, complete, with what to make one’s own; it cannot go out untouched', async ({
  page,
}) => {
  await signIn(page);
  await page.getByRole('button', { name: 'New sequence' }).click();
  await page.getByRole('radio', { name: 'Getting to know' }).check();
  await expect(page.getByText(/^To make your own: the list that starts it/)).toBeVisible();
  await page.getByRole('button', { name: 'Begin the plan' }).click();
  await expect(step(page, 'The question')).toBeVisible();
  await page.getByRole('button', { name: /(errors?|to look at)$/ }).click();
  await expect(page.getByRole('dialog', { name: 'Checks' })).toContainText('is a placeholder, not an address');
  await expect(page.getByRole('dialog', { name: 'Checks' })).toContainText('“[your shop]” still stands');
});

test('the calendar shows where each email lands on every way, turns its pages, and everyone’s volume by day', async ({
  page,
}) => {
  await signIn(page);
  await page.getByRole('table').getByRole('link', { name: 'Welcome and stitch guide' }).click();
  await page.getByRole('link', { name: 'Calendar' }).click();
  await writeMoment(page, /^When, in/, '2026-03-26', '12:00');
  const month = page.getByRole('table', { name: 'March 2026' });
  await expect(month.getByRole('cell', { name: /^26 starts/ })).toContainText('12:00');
  await expect(month.getByRole('cell', { name: /^27 \d/ })).toContainText(/Guide reminder|First stitch/);
  // Three days after Friday noon is Monday, on the other side of the change of clocks: still noon.
  await expect(month.getByRole('cell', { name: /^30/ })).toContainText('12:00');
  await expect(page.getByText('Ways through it')).toBeVisible();
  await axe(page);
  await page.getByRole('button', { name: 'Go to its end' }).click();
  await expect(page.getByRole('table', { name: 'April 2026' })).toContainText('Which kit to start with');
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'As a calendar file' }).click(),
  ]);
  expect(download.suggestedFilename()).toMatch(/\.ics$/);
  await page.getByRole('button', { name: 'Everyone' }).click();
  await expect(page.getByText(/to people inside now/)).toBeVisible();
  await axe(page);
});

test('a segment is made from a rule, counted, used to start a sequence, and not deleted while it is in use', async ({
  page,
}) => {
  await signIn(page);
  await page.goto('/people/segments');
  const name = fresh('Bought something ');
  await page.getByRole('button', { name: 'New segment' }).click();
  await page.getByLabel('What is it called?').fill(name);
  await page.getByRole('button', { name: 'Only who …' }).click();
  await pick(page.getByLabel('Which event'), 'Ordered (order.paid)');
  await expect(page.getByText(/^True for \d+ of \d+ people now\.$/)).toBeVisible();
  await axe(page);
  await page.getByRole('button', { name: 'Make this segment' }).click();
  const row = page.getByRole('row', { name });
  await expect(row).toContainText('did “Ordered” ever');
  const count = (await row.getByRole('link').textContent()) ?? '';
  await row.getByRole('link').click();
  await expect(page.getByText(`${count} found`)).toBeVisible();
  await expect(page.getByText(`In “${name}”`)).toBeVisible();
  await beginSequence(page, fresh('For buyers '));
  await pick(page.getByLabel('It starts when someone'), 'enters a segment');
  await pick(page.getByLabel('Which segment'), name);
  await expect(page.locator('[data-step=trigger]')).toHaveText(`When someone enters the segment “${name}”`);
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
  await page.goto('/people/segments');
  await page.getByRole('button', { name: `Delete “${name}”` }).click();
  await expect(page.getByText(/This segment is used in “For buyers/)).toBeVisible();
  await axe(page);
});

test('a large plan: lanes fold, the whole fits in, and a step is found by its name', async ({ page }) => {
  await signIn(page);
  await page.getByRole('table').getByRole('link', { name: 'Welcome and stitch guide' }).click();
  await expect(step(page, 'Guide reminder')).toBeVisible();
  await page.getByRole('button', { name: 'Fold the lane “Otherwise” up' }).click();
  await expect(step(page, 'Guide reminder')).toHaveCount(0);
  await expect(page.getByRole('button', { name: '1 step folded up' })).toBeVisible();
  await axe(page);
  const find = page.getByRole('combobox', { name: 'Find a step' });
  await find.fill('reminder');
  await page.getByRole('option', { name: 'Guide reminder' }).click();
  await expect(step(page, 'Guide reminder')).toBeFocused();
  await page.getByRole('button', { name: 'Fit the whole plan in' }).click();
  const canvas = page.getByRole('group', { name: 'Plan' });
  const fits = () => canvas.evaluate((c) => [c.scrollWidth <= c.clientWidth + 1, c.scrollHeight <= c.clientHeight + 1]);
  await expect.poll(fits).toEqual([true, true]);
});
