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

test('from a blank sequence to a delivered, opened email', async ({ page }) => {
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
  await page.keyboard.press('Delete');
  await expect(page.getByText('Day 1', { exact: true })).toBeHidden();
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(page.getByText('Day 1', { exact: true })).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(page.getByText('Day 1', { exact: true })).toBeHidden();

  // Not ready: publishing is refused and leads to the place.
  await page.getByRole('button', { name: 'Publish version 1' }).click();
  await expect(page.getByRole('dialog')).toContainText('Not ready to publish');
  await page.getByRole('dialog').getByRole('button', { name: 'Go there' }).first().click();

  await page.getByRole('textbox', { name: 'Subject' }).click();
  await page.keyboard.type('A first fold, ');
  await page.getByRole('button', { name: 'Merge field in subject' }).click();
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /first name/ })
    .click();
  await page.getByRole('textbox', { name: 'Text of the block' }).click();
  await page.keyboard.type('Fold along the grain.');
  await page.getByRole('complementary', { name: 'Blocks' }).getByRole('button', { name: 'Button' }).first().click();
  await page.getByRole('textbox', { name: 'Words on the button' }).click();
  await page.keyboard.type('See the kits');
  await page.getByRole('textbox', { name: 'Address' }).click();
  await page.keyboard.type('https://foldwell.example/kits');
  await expect(page.frameLocator('iframe').getByText('See the kits')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Checks passed' })).toBeVisible();
  await page.getByRole('link', { name: 'Back to the plan' }).click();
  await page.getByRole('button', { name: 'Publish version 1' }).click();
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /^Publish/ })
    .click();
  await expect(page.getByText('Live · version 1')).toBeVisible();
  const sequence = new URL(page.url()).pathname;

  await page.getByRole('link', { name: 'People' }).click();
  await page.getByRole('button', { name: 'Add a person' }).click();
  await page.getByRole('dialog').getByLabel('Email').fill('marta@readers.example');
  await page.getByRole('dialog').getByLabel('First name').fill('Marta');
  await page.getByRole('dialog').getByLabel('Confirmed list').selectOption({ label: 'Course' });
  await page.getByRole('button', { name: 'Add this person' }).click();
  await expect(page.getByText('Joined the sequence: confirmed “Course”.')).toBeVisible();

  await page.goto('/outside?q=marta@');
  await page.getByRole('link', { name: /A first fold, Marta/ }).click();
  await expect(page.frameLocator('iframe').getByText('Fold along the grain.')).toBeVisible();
  await page.getByRole('button', { name: 'Ahead a day' }).click();
  await expect(page.getByText('Sat 7 Mar, 09:12').first()).toBeVisible({ timeout: 45_000 });
  await page.goto(`${sequence}/numbers`);
  await expect(page.getByRole('row', { name: /^New email 0 1 1 100% 1 100%/ })).toBeVisible();
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
