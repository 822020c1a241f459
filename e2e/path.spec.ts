import { AxeBuilder } from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';

async function signIn(page: Page): Promise<void> {
  await page.goto('/sign-in');
  await page.getByLabel('Email').fill('ines@foldwell.example');
  await page.getByLabel('Password').fill('fold-along-the-grain');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByRole('heading', { name: 'Sequences' })).toBeVisible();
}

const axe = async (page: Page) =>
  expect((await new AxeBuilder({ page }).analyze()).violations.map((v) => `${v.id}: ${v.nodes[0]?.html}`)).toEqual([]);

test('a new sequence is laid out by mouse and by key, and saves itself', async ({ page }) => {
  await signIn(page);
  await expect(page.getByRole('link', { name: 'Welcome and stitch guide' })).toBeVisible();

  await page.getByRole('button', { name: 'New sequence' }).click();
  await page.getByLabel('What is it called?').fill('Hello from the bench');
  await page.getByRole('button', { name: 'Begin the plan' }).click();
  await page.getByLabel('Which list').selectOption({ label: 'Course' });
  await page.getByLabel('It mails').selectOption({ label: 'people on “Course”' });
  await page.getByRole('button', { name: 'Add the first email' }).click();
  const focused = (step: RegExp) => expect(page.locator('[data-step]:focus')).toHaveText(step);
  await focused(/New email/);
  await page.keyboard.press('w');
  await focused(/1 day later/);
  await page.keyboard.press('e');
  await focused(/New email/);
  await expect(page.getByText('Day 1', { exact: true })).toBeVisible();
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
  await page.reload();
  await expect(page.getByText('Day 1', { exact: true })).toBeVisible();
});

test('no screen has an accessibility fault that axe finds', async ({ page }) => {
  await signIn(page);
  for (const path of ['/sequences', '/people', '/people/events', '/library', '/outside']) {
    await page.goto(path);
    await expect(page.locator('h1')).toBeVisible();
    await page.waitForLoadState('networkidle');
    await axe(page);
  }
});
