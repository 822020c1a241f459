import { expect, test } from '@playwright/test';
import { axe, beginSequence, closeDialog, fresh, pick, signIn } from './support/hands.ts';

test('a sequence starts by a click on one link of an email, waits a day and an hour, has a goal and a way out beside it', async ({
  page,
}) => {
  await signIn(page);
  const name = fresh('From a click ');
  await beginSequence(page, name);
  const settings = page.getByRole('complementary', { name: 'Settings' });

  await page.locator('[data-step="trigger"]').click();
  await pick(settings.getByLabel('It starts when someone'), 'clicks in an email');
  await pick(settings.getByLabel('Of which sequence'), /Welcome and stitch guide/);
  await pick(settings.getByLabel('Which email'), 'Guide delivery');
  await pick(settings.getByLabel('Which link'), /guide/i);
  await expect(page.locator('[data-step="trigger"]')).toHaveText(
    /When someone clicks .* in “Guide delivery” of “Welcome and stitch guide”/,
  );

  await page.getByRole('button', { name: 'Add a goal' }).click();
  const goal = settings.locator('#entrance-goal');
  await expect(goal.getByRole('button', { name: 'Only who …' })).toBeFocused();
  await goal.getByRole('button', { name: 'Only who …' }).click();
  await pick(goal.getByLabel('Which event'), /^Ordered/);
  await expect(page.getByRole('button', { name: /^Goal: whoever did “Ordered”/ })).toBeVisible();

  const exit = settings.locator('#entrance-exit');
  await exit.getByRole('button', { name: 'Only who …' }).click();
  await pick(exit.getByLabel('Which event'), /^Let an offer close unused/);
  await expect(exit.getByText(/leaves at once, and has not reached the goal/)).toBeVisible();
  await expect(
    page.getByRole('button', { name: /^Leaves early: whoever did “Let an offer close unused”/ }),
  ).toBeVisible();
  await settings.getByLabel('What it is for').fill('Says more to those who wanted the guide');
  await axe(page);

  await page.getByRole('button', { name: 'Add the first email' }).click();
  await page.keyboard.press('w');
  await expect(page.locator('[data-step]', { hasText: '1 day later' })).toHaveText('1 day later· the next day');
  await page.keyboard.press('Enter');
  await settings.getByRole('button', { name: 'Add hours' }).click();
  await expect(page.locator('[data-step]', { hasText: '1 day and 1 hour later' })).toBeVisible();
  await settings.getByRole('button', { name: 'Take the second part out' }).click();
  await expect(page.locator('[data-step]', { hasText: '1 day later· the next day' })).toBeVisible();
  await expect(page.getByText('Straight away, to everyone')).toBeVisible();

  await page.getByRole('link', { name: 'Sequences', exact: true }).first().click();
  await expect(
    page.getByRole('row', { name: new RegExp(name) }).getByText('Says more to those who wanted'),
  ).toBeVisible();
});

test('the emails of a pattern are read before it is taken; an arm of its plan is called by hand', async ({ page }) => {
  await signIn(page);
  await page.getByRole('button', { name: 'New sequence' }).click();
  const dialog = page.getByRole('dialog', { name: 'New sequence' });
  await dialog.getByRole('radio', { name: /First welcome/ }).check();
  await dialog.getByRole('button', { name: /^Read the emails of/ }).click();
  await dialog.getByRole('list', { name: 'Its emails' }).getByRole('button').nth(1).click();
  await expect(dialog.locator('iframe').contentFrame().getByText('Unsubscribe')).toBeVisible();
  await axe(page);
  await dialog.getByRole('button', { name: 'Back to what it begins with' }).click();
  await expect(dialog.getByRole('radio', { name: /First welcome/ })).toBeVisible();
  await closeDialog(page);

  await beginSequence(page, fresh('Named arms '));
  await page.locator('[data-step=trigger]').focus();
  await page.keyboard.press('b');
  await page.getByLabel('Name of arm 1').fill('Has the guide');
  await page.getByLabel('Name of arm 1').press('Tab');
  await page.getByLabel('Name for everyone else').fill('Not yet');
  await page.getByLabel('Name for everyone else').press('Tab');
  await expect(page.getByRole('button', { name: 'Insert at the start of Has the guide' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Insert at the start of Not yet' })).toBeVisible();
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
});
