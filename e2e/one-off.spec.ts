import { expect, test } from '@playwright/test';
import { api } from './support/emails.ts';
import { axe, fresh, pick, signIn } from './support/hands.ts';
import { openShop } from './support/shop.ts';

test('a one-off send in the order of the work: inbox, whom, content, looked through, when; sent off, and seen going out', async ({
  page,
}) => {
  await signIn(page);
  // Two who bought a kit at least: a fresh demo may have just one.
  const shop = await openShop(page);
  for (const buyer of [await shop.joins(), await shop.joins()])
    await shop.tells('order.paid', buyer, { lines: [{ title: 'Pamphlet kit', price: 18, quantity: 1 }], total: 18 });
  // And somebody who is on no list, which a young demo may not have.
  await api(page, 'post', '/people', { email: `${fresh('nobody')}@readers.example` });
  const name = fresh('Spring papers');
  await page
    .getByRole('region', { name: 'One-off sends' })
    .getByRole('button', { name: /^(New one-off send|Make the first one)$/ })
    .click();
  await page.getByLabel('What is it called, among you?').fill(name);
  await page.getByRole('button', { name: 'Begin it' }).click();
  const part = (title: string) => page.getByRole('region', { name: title, exact: true });
  await part('In the inbox').getByRole('textbox', { name: 'Subject' }).fill('The spring papers are here');

  // Whom: a list, of it a segment, or who fits; counted, with those who fit and do not get it.
  const whom = part('Whom');
  await expect(whom.getByText('Choose the list first')).toBeVisible();
  const { lists } = await api<{ lists: { name: string; confirmed: number }[] }>(page, 'get', '/surroundings');
  const letters = lists.find((l) => l.name === 'Workshop letters');
  await pick(whom.getByLabel('It mails'), `people on “Workshop letters” (${letters?.confirmed})`);
  await expect(whom.getByText(/^\d+ people get it$/)).toBeVisible();
  await expect(whom.getByText(/^Fit, and do not get it: .*not on the list/)).toBeVisible();
  const all = Number.parseInt((await whom.getByText(/^\d+ people get it$/).textContent()) ?? '', 10);
  await whom.getByRole('button', { name: 'Bought a kit, not in the club' }).click();
  await expect(
    whom.getByText('Only somebody who is in the segment “Bought a kit, not in the club” gets it.'),
  ).toBeVisible();
  await expect
    .poll(async () => Number.parseInt((await whom.getByText(/^\d+ people get it$/).textContent()) ?? '', 10))
    .toBeLessThan(all);

  // Content by a template, looked at in place, sent as a test; what is not said yet is said.
  await part('What they read').getByRole('button', { name: 'Take a template' }).click();
  const templates = page.getByRole('dialog', { name: 'Templates' });
  await templates.getByRole('button', { name: /A plain letter/ }).click();
  for (const kept of await templates.getByRole('checkbox', { name: /^(Subject|Preview|Sender)/ }).all())
    await kept.uncheck();
  await templates.getByRole('button', { name: 'Begin anew from “A plain letter”' }).click();
  await expect(templates).toBeHidden();
  await part('Looked through').getByRole('button', { name: 'Send a test' }).click();
  await page.getByRole('button', { name: 'Send the test' }).click();
  await expect(page.getByText(/^Sent to ines@foldwell\.example, as/)).toBeVisible();
  await page.getByRole('button', { name: 'Send it off' }).click();
  await expect(page.getByText('It is not said when it goes out.')).toBeVisible();
  await axe(page);
  await page.keyboard.press('Escape');
  await axe(page);

  // Two versions on a part first, decided by a sentence; and back to one.
  await part('Two versions').getByRole('button', { name: 'Try two versions on a part first' }).click();
  const versions = part('In the inbox').getByRole('group', { name: 'Which version' });
  await expect(versions.getByRole('button', { name: 'B · ' })).toHaveAttribute('aria-pressed', 'true');
  await part('In the inbox').getByRole('textbox', { name: 'Subject' }).fill('Eleven papers, and one for you');
  await expect(part('Two versions').getByText('% take part; the others wait')).toBeVisible();
  await pick(part('Two versions').getByLabel('What it is decided by'), 'who opened its email');
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
  await axe(page);
  await versions.getByRole('button', { name: 'A · ' }).click();
  await expect(part('In the inbox').getByRole('textbox', { name: 'Subject' })).toHaveText('The spring papers are here');
  await part('Two versions')
    .getByRole('button', { name: /^No test: keep/ })
    .click();
  await expect(versions).toBeHidden();

  // On a day at each reader's hour: held before it, and let go on.
  await part('When').getByLabel('Day on which it goes out', { exact: true }).fill('1 Feb 2100');
  await part('When').getByLabel('Day on which it goes out', { exact: true }).press('Enter');
  await expect(whom.getByText(/: the first on Mon 1 Feb|: the first on Sun 31 Jan|, on Mon 1 Feb/)).toBeVisible();
  await pick(part('When').getByLabel('When it goes out'), 'as soon as it is sent off');
  await page.getByRole('button', { name: 'Send it off' }).click();
  const dialog = page.getByRole('dialog', { name: 'Send it off' });
  await expect(dialog.getByText(/^It goes to \d+ people on/)).toBeVisible();
  await dialog.getByRole('button', { name: /^Send it to \d+ people$/ }).click();
  await expect(page.getByText(/^Sent off: it goes to \d+ people/)).toBeVisible();
  // Its minute of grace is told on every screen, and it can be held in it; let go, and the clock moved on, it goes out.
  await page.getByRole('link', { name: 'People' }).click();
  await expect(page.getByText(/Nobody has got it yet\.$/)).toBeVisible();
  await axe(page);
  await page.getByRole('button', { name: 'Hold it' }).click();
  await expect(page.getByText(`“${name}” is held. Nobody has got it.`)).toBeVisible();
  await expect(page.getByText(/Nobody has got it yet\.$/)).toBeHidden();
  await page.goBack();
  await page.getByRole('button', { name: 'Let it go on' }).click();
  await page.getByRole('radio', { name: /^Send all that is overdue/ }).click();
  await page.getByRole('button', { name: 'Resume', exact: true }).click();
  await expect(page.getByText(/Nobody has got it yet\.$/)).toBeVisible();
  await api(page, 'post', '/outside/clock/ahead', { by: 'hour' });
  await expect(page.getByText(/^\d+ people got it\. \d+% opened\./)).toBeVisible({ timeout: 60_000 });
  await expect(page.getByText(/Nobody has got it yet\.$/)).toBeHidden();
  await expect(page.getByText('Edits not published')).toBeHidden();
  await expect(page.getByRole('button', { name: 'Sent off' })).toBeDisabled();
  await page.goto('/sequences');
  const row = page.getByRole('region', { name: 'One-off sends' }).getByRole('row', { name });
  await expect(row).toContainText('Sent');
  await expect(row).toContainText('The spring papers are here');
  await axe(page);
});
