import { expect, test, type Page } from '@playwright/test';
import { axe, focused, fresh, signIn, stepsOf, pick, writeMoment } from './support/hands.ts';

/** Presses Tab until the focus is on what is called so: nothing is reached that a keyboard cannot reach. */
async function tabTo(page: Page, name: string | RegExp, most = 60): Promise<void> {
  for (let i = 0; i < most; i++) {
    await page.keyboard.press('Tab');
    const here = await page.evaluate(() => {
      const e = document.activeElement as HTMLElement;
      const label = (e as HTMLInputElement).labels?.[0]?.textContent;
      return (e.getAttribute('aria-label') ?? label ?? e.textContent ?? '').trim();
    });
    if (typeof name === 'string' ? here === name : name.test(here)) return;
  }
  throw new Error(`Tab does not reach “${String(name)}”.`);
}
/** Chooses in the select that has the focus, by typing the beginning of what it says. */
async function choose(page: Page, text: string): Promise<void> {
  await page.keyboard.press('ArrowDown');
  await page.keyboard.type(text);
  await expect(page.getByRole('option', { name: text }).first()).toBeVisible();
  await page.keyboard.press('Enter');
}

test('Seven evenings to a first book is built from nothing with the keyboard alone, rehearsed and published', async ({
  page,
}) => {
  await signIn(page);
  // The shop's own event, declared as its developer would.
  await page.request.put('/api/event-kinds', {
    data: {
      name: 'lesson.opened',
      label: 'Lesson opened',
      fields: [{ name: 'lesson', type: 'number' }],
      sample: { lesson: 1 },
    },
  });
  await page.goto('/sequences');
  const name = fresh('Seven evenings to a first book ');
  await tabTo(page, 'New sequence');
  await page.keyboard.press('Enter');
  await expect(page.getByLabel('What is it called?')).toBeFocused();
  await page.keyboard.type(name);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('group', { name: 'Plan' })).toBeVisible();

  // What starts it: a list, by Enter on the trigger and the settings behind it.
  await tabTo(page, 'Choose what starts it');
  await page.keyboard.press('Enter');
  await expect(page.getByLabel('It starts when someone')).toBeFocused();
  await page.keyboard.press('Tab');
  await choose(page, 'Course');
  await expect(page.locator('[data-step=trigger]')).toHaveText('When someone confirms “Course”');

  // The first lesson, written in the composer.
  await page.goto(page.url());
  await tabTo(page, 'Add the first email');
  await page.keyboard.press('Enter');
  await focused(page, /New email/);
  await page.keyboard.press('Shift+Enter');
  await tabTo(page, 'Internal name');
  await page.keyboard.press('Control+a');
  await page.keyboard.type('Lesson 1');
  await page.keyboard.press('Enter');
  await tabTo(page, 'Open in composer', 60).catch(() => page.keyboard.press('Shift+Tab'));
  await expect(page.locator('[data-step]', { hasText: 'Lesson 1' })).toBeVisible();
  await page.locator('[data-step]', { hasText: 'Lesson 1' }).focus();
  await page.keyboard.press('Enter');
  await tabTo(page, 'Subject');
  await page.keyboard.type('Evening 1: paper has a direction');
  await tabTo(page, 'Preview text');
  await page.keyboard.type('A quarter of an hour is enough.');
  await tabTo(page, /^Text$|^Text block|New text|^Text /);
  await page.keyboard.press('Enter');
  await tabTo(page, /Button/);
  await page.keyboard.press('Delete');
  await tabTo(page, 'Back to the plan', 120);
  await page.keyboard.press('Enter');

  // Until it was opened, two days at most; then the next weekday evening at seven.
  await page.locator('[data-step]', { hasText: 'Lesson 1' }).focus();
  await page.keyboard.press('u');
  await focused(page, /Until whoever is here/);
  await page.keyboard.press('Enter');
  await expect(page.getByLabel('Name of the wait')).toBeFocused();
  await tabTo(page, 'Which event');
  await choose(page, 'Lesson opened');
  await tabTo(page, 'How long');
  await page.keyboard.type('2');
  await expect(page.locator('[data-step]', { hasText: 'at most 2 days' })).toBeVisible();
  await page.locator('[data-step]', { hasText: 'at most 2 days' }).focus();
  // W puts a wait after the step that has the focus, behind its arms.
  await page.keyboard.press('w');
  await focused(page, /1 day later/);
  await page.keyboard.press('Enter');
  await expect(page.getByLabel('What it waits for')).toBeFocused();
  await choose(page, 'until a weekday');
  for (const day of ['Tue', 'Wed', 'Thu']) {
    await tabTo(page, day);
    await page.keyboard.press('Space');
  }
  await tabTo(page, 'Time of day');
  await choose(page, '19:00');
  await expect(page.locator('[data-step]', { hasText: 'Until Mon to Thu, 19:00' })).toBeVisible();

  // Six more evenings by copying: the wait for the opening, the evening, the email, each put at the end.
  const order = async () => (await stepsOf(page)).slice(1).map((t) => /^Lesson|at most|19:00/.exec(t)?.[0] ?? t);
  const append = async (text: RegExp) => {
    await page.locator('[data-step]', { hasText: text }).first().focus();
    await page.keyboard.press('Control+c');
    await page.locator('[data-step]').last().focus();
    await page.keyboard.press('Control+v');
    await focused(page, text);
  };
  for (let evening = 2; evening <= 7; evening++) {
    if (evening > 2) {
      await append(/at most 2 days/);
      await append(/19:00/);
    }
    await append(/^Lesson 1/);
    await page.keyboard.press('Shift+Enter');
    await tabTo(page, 'Internal name');
    await page.keyboard.press('Control+a');
    await page.keyboard.type(`Lesson ${evening}`);
    await page.keyboard.press('Enter');
    await expect(page.locator('[data-step]', { hasText: `Lesson ${evening}` })).toBeVisible();
  }
  expect(await order()).toEqual([...Array.from({ length: 6 }, () => ['Lesson', 'at most', '19:00']).flat(), 'Lesson']);
  await axe(page);

  // As somebody who never opens anything would live through it.
  await page.keyboard.press('Escape');
  await tabTo(page, 'Rehearse', 120);
  await page.keyboard.press('Enter');
  const dock = page.getByRole('region', { name: 'Rehearsal', exact: true });
  await tabTo(page, 'or somebody invented', 120);
  await page.keyboard.press('Enter');
  await tabTo(page, /^When, in/, 120);
  await writeMoment(dock, /^When, in/, '2026-03-06', '12:00');
  await pick(dock.getByLabel('What they do with emails'), 'never opens');
  await expect(dock.getByRole('status')).toHaveText(/^7 emails in \d+ days$/);
  const marks = await dock
    .getByRole('region', { name: 'Timeline of the rehearsal' })
    .getByRole('listitem')
    .allTextContents();
  // Friday noon at once; after two days of waiting, each on the next evening from Monday to Thursday.
  expect(marks.slice(0, 4).map((m) => m.replace(/Lesson \d/, ''))).toEqual([
    'Fri 6 Mar, 12:00',
    'Mon 9 Mar, 19:00',
    'Thu 12 Mar, 19:00',
    'Mon 16 Mar, 19:00',
  ]);

  await tabTo(page, 'Publish version 1', 200);
  await page.keyboard.press('Enter');
  const dialog = page.getByRole('dialog', { name: 'Publish version 1' });
  await expect(dialog).toBeVisible();
  await tabTo(page, /^Publish/);
  await page.keyboard.press('Enter');
  await expect(page.getByText('Live · version 1')).toBeVisible();
});
