import { expect, test } from '@playwright/test';
import { emptyEmail } from './support/emails.ts';
import { axe, closeDialog, fresh, pick, signIn } from './support/hands.ts';

test('the numbers of a sequence: money first, a period, from a figure to its people and on to all of them; a file of it', async ({
  page,
}) => {
  await signIn(page);
  await page.getByRole('link', { name: 'Welcome and stitch guide' }).click();
  await page.getByRole('link', { name: 'Numbers' }).click();
  const numbers = page.getByRole('region', { name: 'Numbers of the sequence' });
  await expect(numbers.getByText(/^earned by \d+ orders?$/)).toBeVisible();
  await expect(numbers.getByRole('heading', { name: /^The climb/ })).toBeVisible();
  await axe(page);

  // Nobody joined before the first day.
  await pick(numbers.getByLabel('Who is counted'), 'Joined between …');
  await expect(page).toHaveURL(/from=.*to=/);
  await numbers.getByLabel('From', { exact: true }).fill('1 Jan 2020');
  await numbers.getByLabel('From', { exact: true }).press('Enter');
  await numbers.getByLabel('To', { exact: true }).fill('2 Jan 2020');
  await numbers.getByLabel('To', { exact: true }).press('Enter');
  await expect(numbers.getByRole('button', { name: '0 joined' })).toBeVisible();
  await pick(numbers.getByLabel('Who is counted'), 'Everybody who joined');

  // From the clicks of an email to who clicked, to one of its links, and to all of these people.
  await numbers.getByRole('button', { name: /^Clicked, of sent of “Guide delivery”/ }).click();
  const sheet = page.getByRole('dialog', { name: 'Clicked: “Guide delivery”' });
  const people = sheet.getByRole('listitem');
  await expect(people.first()).toBeVisible();
  const before = await people.count();
  await axe(page);
  const first = await sheet
    .getByRole('table', { name: 'What was clicked' })
    .getByRole('row')
    .nth(1)
    .getByRole('cell')
    .nth(1)
    .textContent();
  await sheet.getByRole('button', { name: 'Show it on the email' }).click();
  const onIt = page.getByRole('dialog', { name: 'Where it was clicked' });
  await expect(
    onIt
      .frameLocator('iframe')
      .getByText(first ?? '', { exact: true })
      .first(),
  ).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(onIt).toBeHidden();
  await sheet.getByRole('table', { name: 'What was clicked' }).getByRole('button').last().click();
  await expect.poll(() => people.count()).toBeLessThan(before);
  await expect(people.first()).toContainText(/foldwell\.example|\.pdf/);
  await page.keyboard.press('Escape');
  await expect(sheet).toBeHidden();
  await numbers.getByRole('button', { name: /^Sent of “Guide delivery”/ }).click();
  await page.getByRole('link', { name: 'Tag, list or export these people' }).click();
  await expect(page.getByText('Sent: “Guide delivery”')).toBeVisible();
  await expect(page.getByText(/^\d+ found$/)).toBeVisible();
  await page.getByRole('button', { name: 'Everybody again' }).click();
  await expect(page.getByText(/^\d+ in all$/)).toBeVisible();
  await page.goBack();
  await page.goBack();

  // What became of those between two emails leads to them, too.
  const gap = numbers.getByRole('button', { name: /^\d+ came to the end$/ });
  const ended = Number.parseInt((await gap.textContent()) ?? '', 10);
  await gap.click();
  await expect(page.getByRole('dialog', { name: `${ended} came to the end` })).toContainText(`${ended}`);
  await expect(
    page.getByRole('dialog').getByText(new RegExp(`^${ended}, the latest first|of ${ended}\\.`)),
  ).toBeVisible();
  await closeDialog(page);

  const readOn = numbers.getByRole('table', { name: 'Device' });
  await expect(readOn.getByRole('row', { name: /^A phone/ })).toBeVisible();
  await expect(numbers.getByRole('table', { name: 'Mail program or browser' }).getByRole('row').nth(1)).toBeVisible();

  // Columns of one's own are remembered.
  await numbers.getByText('Columns', { exact: true }).click();
  await numbers.getByLabel('Called spam, of sent').check();
  await expect(numbers.getByRole('columnheader', { name: 'Called spam, of sent' })).toBeVisible();
  await page.reload();
  await expect(numbers.getByRole('columnheader', { name: 'Called spam, of sent' })).toBeVisible();
  const file = page.waitForEvent('download');
  await numbers.getByRole('link', { name: 'CSV' }).click();
  expect((await file).suggestedFilename()).toBe('Welcome and stitch guide.csv');

  await numbers.getByRole('button', { name: 'How money is counted' }).click();
  const rules = page.getByRole('dialog', { name: 'How money is counted' });
  await rules.getByLabel('Days after a click').fill('7');
  await axe(page);
  await rules.getByRole('button', { name: 'Count anew' }).click();
  await expect(numbers.getByText(/last one clicked in the 7 days before/)).toBeVisible();

  // On a phone nothing is cut off.
  await page.setViewportSize({ width: 390, height: 844 });
  await expect(numbers.getByRole('heading', { name: /^The climb/ })).toBeVisible();
  const climb = numbers.locator('h2', { hasText: 'The climb' }).locator('xpath=../..');
  expect(await climb.evaluate((e) => e.scrollWidth - e.clientWidth)).toBeLessThanOrEqual(0);
});

test('results across sequences are read bar by bar with the keys, and as tables', async ({ page }) => {
  await signIn(page);
  await page.getByRole('link', { name: 'Results' }).click();
  await expect(page.getByRole('heading', { name: 'Results' })).toBeVisible();
  const money = page.getByRole('img', { name: /^Money over time/ });
  await money.focus();
  await page.keyboard.press('ArrowLeft');
  await expect(page.getByText(/^\d+ \w+ \d{4}: €/).first()).toBeVisible();
  await axe(page);
  await page.getByText('As a table').first().click();
  await expect(page.getByRole('columnheader', { name: 'By no email' })).toBeVisible();
  await pick(page.getByLabel('Which days'), 'From the first day on');
  const codes = page.getByRole('table', { name: /^Codes and offers/ });
  await expect(codes.getByRole('columnheader', { name: 'Used, of given' })).toBeVisible();
  await page.getByRole('rowheader', { name: 'Welcome and stitch guide' }).getByRole('link').click();
  await expect(page.getByRole('region', { name: 'Numbers of the sequence' })).toBeVisible();
});

test('an email is tested against another version of it, and what is known of a test is said plainly', async ({
  page,
}) => {
  await signIn(page);
  const { id } = await emptyEmail(page, 'Tested ');
  await page.goto(`/sequences/${id}`);
  await page.getByRole('button', { name: 'More about Cart' }).click();
  await page.getByRole('menuitem', { name: 'Test another version' }).click();
  await expect(page.locator('[data-step]', { hasText: 'Test of “Cart”' })).toBeVisible();
  await expect(page.locator('[data-step]', { hasText: 'Cart, another way' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Undo (Ctrl Z)' })).toBeEnabled();

  await page.goto('/sequences');
  await page.getByRole('table').getByRole('link', { name: 'Welcome and stitch guide' }).click();
  await page.getByRole('link', { name: 'Numbers' }).click();
  await expect(page.getByText(/^Not settled/).first()).toBeVisible();
  await pick(page.getByLabel('What is compared').first(), 'Opened its email');
  await expect(page.getByRole('columnheader', { name: 'Opened its email' }).first()).toBeVisible();
  await axe(page);
  await page.getByRole('button', { name: 'Decide', exact: true }).first().click();
  const dialog = page.getByRole('dialog', { name: 'Decide this test' });
  await expect(dialog.getByLabel('What was learned')).not.toHaveValue('');
  await axe(page);
  await dialog.getByRole('button', { name: 'Not yet' }).click();
  await expect(page.getByText('Edits not published')).toHaveCount(0);
  // Decided, it stands in the draft with what was learned, and is taken back like any edit.
  await page.getByRole('button', { name: 'Decide', exact: true }).first().click();
  await dialog.getByLabel('What was learned').fill('A question is opened more.');
  await dialog.getByRole('button', { name: 'Decide', exact: true }).click();
  await expect(page.getByText('Decided in the draft. A question is opened more.')).toBeVisible();
  await expect(page.getByText('Edits not published')).toBeVisible();
  await page.getByRole('button', { name: 'Undo (Ctrl Z)' }).click();
  await expect(page.getByText('Edits not published')).toHaveCount(0);
});

test('labels gather what belongs together, with sums; what goes out is one calendar of the past and the next weeks', async ({
  page,
}) => {
  await signIn(page);
  const label = fresh('Spring');
  await page.getByRole('button', { name: 'Labels of “Welcome and stitch guide”' }).click();
  await page.getByLabel('Another label').fill(label);
  await page.keyboard.press('Enter');
  await expect(page.getByLabel(label)).toBeChecked();
  await axe(page);
  await page.keyboard.press('Escape');
  await page.getByRole('group', { name: 'Labels' }).getByRole('button', { name: label }).click();
  await expect(page).toHaveURL(/label=/);
  await expect(page.getByRole('link', { name: 'Welcome and stitch guide' })).toBeVisible();
  await expect(page.getByRole('link', { name: 'Left at checkout' })).toBeHidden();
  const sum = page.getByRole('row', { name: new RegExp(`^All of “${label}”`) });
  const own = page.getByRole('row', { name: /^Welcome and stitch guide/ });
  for (const column of [4, 5])
    // Sent and opened are those of the only one that has it.
    await expect(sum.getByRole('cell').nth(column - 3)).toHaveText(
      (await own.getByRole('cell').nth(column).textContent()) ?? '',
    );
  await axe(page);

  await page.getByRole('link', { name: 'Results', exact: true }).click();
  await expect(page.getByRole('row', { name: new RegExp(`^${label} 1 sequence`) })).toBeVisible();
  await expect(
    page
      .getByRole('table', { name: /by receiving domain/ })
      .getByRole('row')
      .nth(1),
  ).toBeVisible();
  await page.getByRole('link', { name: 'What goes out' }).click();
  const calendar = page.getByRole('table', { name: 'What goes out, by day' });
  await expect(calendar.getByRole('button', { name: /: \d+ sent/ }).first()).toBeVisible();
  await calendar
    .getByRole('button', { name: /: about \d+ to come/ })
    .last()
    .click();
  await expect(page.getByText('Expected', { exact: true })).toBeVisible();
  await expect(page.getByRole('link', { name: 'Welcome and stitch guide' })).toBeVisible();
  await axe(page);

  await page.goto('/sequences');
  await page.getByRole('group', { name: 'Labels' }).getByRole('button', { name: label }).click();
  await page.getByRole('button', { name: `Delete the label “${label}”` }).click();
  await expect(page.getByRole('link', { name: 'Left at checkout' })).toBeVisible();
});
