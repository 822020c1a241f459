import { expect, test } from '@playwright/test';
import { axe, beginSequence, fresh, signIn, startsWithList, pick } from './support/hands.ts';

test('checks name what is wrong, lead to the place, and go away once it is mended', async ({ page }) => {
  await signIn(page);
  await beginSequence(page, fresh('Checked '));
  await page.getByRole('button', { name: 'Add the first email' }).click();
  await page.getByRole('button', { name: /(errors?|to look at)$/ }).click();
  const dialog = page.getByRole('dialog');
  const finding = (text: string | RegExp) => dialog.getByRole('listitem').filter({ hasText: text });
  await expect(finding('Nothing starts this sequence.')).toContainText('Fix first');
  await expect(finding('has no subject')).toContainText('Fix first');
  await axe(page);

  await finding('Nothing starts this sequence.').getByRole('button', { name: 'Go there' }).click();
  await startsWithList(page, 'Course');
  await page.getByRole('button', { name: /(errors?|to look at)$/ }).click();
  await expect(finding('has no subject')).toBeVisible();
  await expect(finding('Nothing starts this sequence.')).toHaveCount(0);
  await finding('has no subject').getByRole('button', { name: 'Go there' }).click();

  // An unknown field is an error, a field without a fallback a warning, a placeholder link an error.
  await expect(page.getByRole('textbox', { name: 'Subject' })).toBeFocused();
  await page.keyboard.type('For you, {{');
  await page.getByRole('dialog').getByLabel('Find a field').fill('skill');
  await page.keyboard.press('Enter');
  await page.getByRole('complementary', { name: 'Blocks' }).getByRole('button', { name: 'Button' }).last().click();
  await page.getByRole('textbox', { name: 'Address' }).click();
  await page.keyboard.type('https://example.com/');
  await page.getByRole('complementary', { name: 'Blocks' }).getByRole('button', { name: 'Image' }).last().click();
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: /(errors?|to look at)$/ }).click();
  await expect(finding('has no fallback')).toContainText('Look at');
  await expect(finding(/link/i).first()).toContainText('Fix first');
  await expect(finding('has no picture')).toBeVisible();
  await finding('has no picture').getByRole('button', { name: 'Go there' }).click();
  await expect(page.getByLabel('Picture', { exact: true })).toBeFocused();
});

test('publishing is warned, not refused, on warnings alone; the next version tells what changes', async ({ page }) => {
  await signIn(page);
  await beginSequence(page, fresh('Warned '));
  await startsWithList(page, 'Course');
  await page.getByRole('button', { name: 'Add the first email' }).click();
  await page.locator('[data-step]:focus').press('Enter');
  await page.getByRole('textbox', { name: 'Subject' }).click();
  await page.keyboard.type('For you, {{');
  await page.getByRole('dialog').getByLabel('Find a field').fill('skill');
  await page.keyboard.press('Enter');
  await page.getByRole('textbox', { name: 'Text of the block' }).click();
  await page.keyboard.type('Fold along the grain.');
  const outline = page.getByRole('complementary', { name: 'Blocks' });
  await outline.locator('[aria-pressed]', { hasText: 'Button' }).focus();
  await page.keyboard.press('Enter');
  await page.keyboard.press('Delete');
  await expect(page.getByRole('button', { name: /(errors?|to look at)$/ })).toBeVisible();
  await page.getByRole('link', { name: 'Back to the plan' }).click();
  await page.getByRole('button', { name: 'Publish version 1' }).click();
  await expect(page.getByRole('dialog')).toContainText('has no fallback');
  await axe(page);
  await page.getByRole('button', { name: 'Publish all the same' }).click();
  await expect(page.getByText('Live · version 1')).toBeVisible();
  const plan = new URL(page.url()).pathname;
  // A change is told in plain words before the next version goes live, and what becomes of people inside is asked.
  await page.goto('/people');
  await page.getByRole('button', { name: 'Add a person' }).click();
  await page
    .getByRole('dialog')
    .getByLabel('Email')
    .fill(`${fresh('inside')}@readers.example`);
  await pick(page.getByRole('dialog').getByLabel('Confirmed list'), 'Course');
  await page.getByRole('button', { name: 'Add this person' }).click();
  await expect(page.getByText('Joined the sequence: confirmed “Course”.').first()).toBeVisible();
  await page.goto(plan);
  await page.locator('[data-step]', { hasText: 'New email' }).focus();
  await page.keyboard.press('w');
  await expect(page.getByText('Edits not published')).toBeVisible();
  await page.locator('[data-step]', { hasText: 'New email' }).click();
  await page.getByLabel('Internal name').fill('Skill letter');
  await page.getByLabel('Internal name').blur();
  await page.getByRole('button', { name: 'Publish version 2' }).click();
  const changes = page.getByRole('list', { name: 'What changes' }).getByRole('listitem');
  await expect(changes.filter({ hasText: '1 day later' })).toContainText('New');
  await expect(changes.filter({ hasText: 'Skill letter' })).toContainText('Name: “New email” became “Skill letter”.');
  await axe(page);
  await page.getByRole('button', { name: 'Publish all the same' }).click();
  await expect(page.getByText('Live · version 2')).toBeVisible();
  await expect(page.getByText('Edits not published')).toBeHidden();
  await page.getByRole('button', { name: 'More about this sequence' }).click();
  await page.getByRole('menuitem', { name: 'Pause' }).click();
  await expect(page.getByText('Paused · version')).toBeVisible();
  await page.getByRole('button', { name: 'Resume' }).click();
  const resuming = page.getByRole('dialog', { name: 'Resume this sequence' });
  await expect(resuming).toContainText('inside');
  // Nothing is chosen beforehand: what becomes of people is somebody's decision.
  await expect(resuming.getByRole('button', { name: 'Choose what becomes of it' })).toBeDisabled();
  await resuming.getByText('Send all that is overdue').click();
  await resuming.getByRole('button', { name: 'Resume' }).click();
  await expect(page.getByText('Live · version 2')).toBeVisible();
});
