import { expect, test } from '@playwright/test';
import { axe, beginSequence, fresh, pick, signIn, stepsOf } from './support/hands.ts';

test('anything is found by its words from everywhere; an email of another sequence is copied; a sender exchanged; a draft deleted', async ({
  page,
}) => {
  await signIn(page);
  await page.goto('/people');
  await expect(page.getByRole('button', { name: 'Find Ctrl K' })).toBeVisible();
  await page.keyboard.press('Control+k');
  const find = page.getByRole('combobox', { name: 'Find anything' });
  await expect(find).toBeFocused();
  // By words in its text, with the keys alone.
  await find.fill('five stitches, one page each');
  await expect(page.getByRole('option', { name: /^Guide delivery/ }).first()).toBeVisible();
  await axe(page);
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Guide delivery' })).toBeVisible();
  await page.keyboard.press('Control+k');
  await find.fill('one-off');
  await page.getByRole('option', { name: 'New one-off send' }).click();
  await expect(page.getByLabel('What is it called, among you?')).toBeVisible();
  await page.keyboard.press('Escape');

  const name = fresh('Reused ');
  await beginSequence(page, name);
  await page.getByRole('button', { name: 'An email of another sequence' }).click();
  const dialog = page.getByRole('dialog', { name: 'An email of another sequence' });
  await dialog.getByLabel('Its name, its subject, or words in it').fill('kit offer closes');
  await dialog.getByRole('button', { name: /^Kit offer closes Welcome/ }).click();
  await expect(dialog.getByText(/^Comes with .*the offer “Kit offer”/)).toBeVisible();
  await axe(page);
  await dialog.getByRole('button', { name: 'Put a copy here' }).click();
  await expect(page.locator('[data-step]', { hasText: 'Kit offer closes (copy)' })).toBeVisible();

  await page.getByRole('button', { name: 'More about this sequence' }).click();
  await page.getByRole('menuitem', { name: 'Exchange the sender' }).click();
  const exchange = page.getByRole('dialog', { name: 'Exchange a sender' });
  await expect(exchange.getByLabel('Kit offer closes (copy)')).toBeChecked();
  await pick(exchange.getByLabel('They are from now on from'), /^Tomasz/);
  await axe(page);
  await exchange.getByRole('button', { name: 'Exchange it in 1 email' }).click();
  await expect(page.getByText(/^1 email is from Tomasz at Foldwell now/)).toBeVisible();
  await page.locator('[data-step]', { hasText: 'Kit offer closes (copy)' }).click();
  await expect(page.getByRole('complementary', { name: 'Settings' }).getByText('Tomasz at Foldwell')).toBeVisible();

  await page.getByRole('button', { name: 'More about this sequence' }).click();
  await page.getByRole('menuitem', { name: 'Delete' }).click();
  await expect(page.getByText(`Deleted “${name}”.`)).toBeVisible();
  await expect(page.getByRole('link', { name })).toBeHidden();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('link', { name })).toBeVisible();
});

test('a whole arm and several steps are copied in one go, get names of their own, and what belonged to the old place is told', async ({
  page,
}) => {
  await signIn(page);
  await page.getByRole('link', { name: 'Left at checkout' }).click();
  const plan = page.getByRole('group', { name: 'Plan' });
  await plan.getByRole('button', { name: /^Copy the steps of “Did “Began an order”/ }).click();
  await expect(page.getByText(/^Copied “A code for the cart”/)).toBeVisible();

  const name = fresh('Second arm ');
  await beginSequence(page, name);
  const step = (text: RegExp) => page.locator('[data-step]', { hasText: text });
  await page.locator('[data-step="trigger"]').focus();
  await page.keyboard.press('Control+v');
  await expect(step(/A code for the cart/)).toHaveCount(1);
  await expect(
    page.getByText(/^They come with the offer “Finish the cart”: look whether it is meant here too/),
  ).toBeVisible();

  // Two steps by Shift and an arrow: both are copied, and the email is called by a name of its own.
  await page.keyboard.press('w');
  await step(/A code for the cart \(copy\)/).click();
  await page.keyboard.press('Shift+ArrowDown');
  await expect(page.locator('[data-step][aria-pressed=true]')).toHaveCount(2);
  await page.keyboard.press('Control+c');
  await expect(page.getByText('Copied 2 steps. Ctrl V puts them after the selected step.')).toBeVisible();
  await page.keyboard.press('Control+v');
  await expect(step(/A code for the cart \(copy 2\)/)).toHaveCount(1);
  await expect(step(/1 day later/)).toHaveCount(2);
  await axe(page);

  // By Shift and a click too: deleted together, and back by one undo.
  await step(/A code for the cart \(copy 2\)/).click();
  await step(/1 day later/)
    .last()
    .click({ modifiers: ['Shift'] });
  await page.keyboard.press('Delete');
  await expect(step(/1 day later/)).toHaveCount(1);
  await page.getByRole('button', { name: 'Undo' }).last().click();
  await expect(step(/1 day later/)).toHaveCount(2);

  // And brought to another place together: before all others, in their order, by a plus.
  await step(/A code for the cart \(copy 2\)/).click();
  await step(/1 day later/)
    .last()
    .click({ modifiers: ['Shift'] });
  await expect(page.getByRole('group', { name: 'Chosen steps' })).toContainText('2 steps');
  await page.getByRole('button', { name: 'Insert after A code for the cart (copy)', exact: true }).first().click();
  await page.getByRole('menuitem', { name: 'Bring the 2 chosen steps here' }).click();
  await expect
    .poll(async () =>
      (await stepsOf(page)).slice(1, 4).map((s) => /code for the cart(?: \(copy ?2?\))?|1 day later/.exec(s)?.[0]),
    )
    .toEqual(['code for the cart (copy)', 'code for the cart (copy 2)', '1 day later']);

  // Or dragged there by the mouse, past the other email.
  const [taken, plus] = [
    step(/1 day later/).first(),
    page.getByRole('button', { name: /^Insert after A code/ }).first(),
  ];
  await page.getByRole('button', { name: 'Choose one alone again' }).click();
  const [from, to] = [await taken.boundingBox(), await plus.boundingBox()];
  if (!from || !to) throw new Error('There is nothing to drag.');
  await page.mouse.move(from.x + 30, from.y + 10);
  await page.mouse.down();
  await page.mouse.move(from.x + 30, from.y - 10, { steps: 4 });
  await page.mouse.move(to.x + 12, to.y + 12, { steps: 8 });
  await page.mouse.up();
  await expect
    .poll(async () =>
      (await stepsOf(page)).slice(1, 4).map((s) => /code for the cart(?: \(copy ?2?\))?|1 day later/.exec(s)?.[0]),
    )
    .toEqual(['code for the cart (copy)', '1 day later', 'code for the cart (copy 2)']);
});
