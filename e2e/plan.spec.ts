import { expect, test } from '@playwright/test';
import { axe, beginSequence, focused, fresh, signIn, startsWithList, stepsOf, pick } from './support/hands.ts';

test('a plan is laid out with the keyboard alone, and saves itself', async ({ page }) => {
  await signIn(page);
  await beginSequence(page, fresh('By key '));
  await startsWithList(page, 'Course');
  // From here on no mouse: the first email's button is reached by tabbing from the trigger.
  await page.locator('[data-step=trigger]').focus();
  await page.keyboard.press('Tab');
  await page.keyboard.press('Tab');
  await page.keyboard.press('Enter');
  await focused(page, /New email/);
  await page.keyboard.press('w');
  await focused(page, /1 day later/);
  await page.keyboard.press('b');
  await focused(page, /\?$/);
  await page.keyboard.press('e');
  await focused(page, /New email/);
  await page.keyboard.press('a');
  await focused(page, /Add the tag/);
  await page.keyboard.press('l');
  await focused(page, /Leaves the sequence/);
  const kinds = async () => (await stepsOf(page)).slice(1).map((t) => /later|email|\?|tag|Leaves/.exec(t)?.[0] ?? t);
  expect(await kinds()).toEqual(['email', 'later', '?', 'email', 'tag', 'Leaves']);

  // Up into the last arm of the branch, to the next arm, and back out of it.
  await page.keyboard.press('ArrowUp');
  await focused(page, /tag/);
  await page.keyboard.press('Control+d');
  await focused(page, /tag/);
  expect(await kinds()).toEqual(['email', 'later', '?', 'email', 'tag', 'tag', 'Leaves']);
  await page.keyboard.press('Alt+ArrowUp');
  await page.keyboard.press('Alt+ArrowUp');
  await page.keyboard.press('Alt+ArrowUp');
  expect(await kinds()).toEqual(['email', 'later', '?', 'tag', 'email', 'tag', 'Leaves']);
  await page.keyboard.press('Alt+ArrowRight');
  await page.keyboard.press('Alt+ArrowDown');
  expect(await kinds()).toEqual(['email', 'later', '?', 'tag', 'email', 'tag', 'Leaves']);

  await page.keyboard.press('Delete');
  expect(await kinds()).toEqual(['email', 'later', '?', 'email', 'tag', 'Leaves']);
  await page.getByRole('button', { name: 'Undo', exact: true }).press('Enter');
  expect(await kinds()).toEqual(['email', 'later', '?', 'tag', 'email', 'tag', 'Leaves']);
  await page.keyboard.press('Control+Shift+z');
  expect(await kinds()).toEqual(['email', 'later', '?', 'email', 'tag', 'Leaves']);

  // Enter on a wait leads to its settings, which are a sentence.
  await expect(async () => {
    // What was redone takes the focus to its place in the next frame: a hand faster than that is asked again.
    await page.locator('[data-step]', { hasText: '1 day later' }).focus();
    await page.keyboard.press('Enter');
    await expect(page.getByLabel('What it waits for')).toBeFocused({ timeout: 1_000 });
  }).toPass({ timeout: 15_000 });
  await page.keyboard.press('Tab');
  await expect(page.getByLabel('How long')).toBeFocused();
  await page.keyboard.type('3');
  await expect(page.locator('[data-step]', { hasText: '3 days later' })).toBeVisible();

  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
  await page.reload();
  await expect(page.locator('[data-step]', { hasText: '3 days later' })).toBeVisible();
  await axe(page);
});

test('a plan is laid out by mouse: an event with a filter, a branch, a step switched off', async ({ page }) => {
  await signIn(page);
  await beginSequence(page, fresh('By mouse '));
  await pick(page.getByLabel('It starts when someone'), 'does something (an event)');
  await pick(page.getByLabel('Which event'), 'Ordered (order.paid)');
  await page.getByRole('button', { name: 'Only if …' }).click();
  await pick(page.getByLabel('Field', { exact: true }), 'total');
  await pick(page.getByLabel('Comparison'), 'over');
  await page.getByLabel('Value').fill('25');
  await expect(page.locator('[data-step=trigger]')).toHaveText('When “Ordered” happens with total over 25');

  await page.getByRole('button', { name: 'Add the first email' }).click();
  await page
    .getByRole('button', { name: /^Insert after/ })
    .last()
    .click();
  await page.getByRole('menuitem', { name: /^Branch/ }).click();
  await pick(page.getByLabel('They'), 'did not do an event');
  await pick(page.getByLabel('Which event'), 'Began an order (order.begun)');
  await expect(page.getByText(/^For whoever did not do “Began an order” since joining the sequence/)).toBeVisible();
  await page
    .getByRole('button', { name: /^Insert at the start/ })
    .first()
    .click();
  await page.getByRole('menuitem', { name: /^Action/ }).click();
  await page.getByLabel('Tag', { exact: true }).fill('quiet');
  await page.getByLabel('Tag', { exact: true }).blur();
  await page.getByRole('button', { name: /^More about Add the tag “quiet”/ }).click();
  await page.getByRole('menuitem', { name: 'Switch off' }).click();
  await expect(page.locator('[data-step]', { hasText: 'quiet' })).toContainText('off');
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
  await page.reload();
  await expect(page.locator('[data-step]', { hasText: 'quiet' })).toContainText('off');
  expect(await stepsOf(page)).toHaveLength(4);
});

test('edits of two people at once: what does not touch is joined, what does is told', async ({ page, browser }) => {
  await signIn(page);
  await beginSequence(page, fresh('By two '));
  await page.getByRole('button', { name: 'Add the first email' }).click();
  await focused(page, /New email/);
  await page.keyboard.press('w');
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
  const other = await (await browser.newContext()).newPage();
  await signIn(other);
  await other.goto(page.url());
  await other.locator('[data-step]', { hasText: 'New email' }).click();
  await other.getByLabel('Internal name').fill('Guide delivery');
  await other.getByLabel('Internal name').blur();
  await expect(other.getByText('Saved', { exact: true })).toBeVisible();

  // Here the wait is changed on the old revision: both edits stand.
  await page.getByLabel('How long').fill('4');
  await expect(page.locator('[data-step]', { hasText: '4 days later' })).toBeVisible();
  await expect(page.locator('[data-step]', { hasText: 'Guide delivery' })).toBeVisible();
  // There the same wait is changed without knowing: it is set aside, and whoever made it decides.
  await expect(other.locator('[data-step]', { hasText: '4 days later' })).toBeVisible();
  await other.route('**/here', (route) => route.abort());
  await page.getByLabel('How long').fill('5');
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
  await other.locator('[data-step]', { hasText: '4 days later' }).click();
  await other.getByLabel('How long').fill('7');
  await expect(other.getByText(/Inês Rocha changed the same place/)).toBeVisible();
  await expect(other.locator('[data-step]', { hasText: '5 days later' })).toBeVisible();
  await other.getByRole('button', { name: 'Set aside: 1 edit' }).click();
  const dialog = other.getByRole('dialog');
  await expect(dialog).toContainText('Yours');
  await axe(other);
  await dialog.getByRole('button', { name: 'Take mine' }).click();
  await expect(other.locator('[data-step]', { hasText: '7 days later' })).toBeVisible();
  // And here it comes by itself.
  await expect(page.locator('[data-step]', { hasText: '7 days later' })).toBeVisible();
  await other.context().close();
});

test('conditions are built from rows, read as a sentence, and say how many people they match now', async ({ page }) => {
  await signIn(page);
  await beginSequence(page, fresh('Conditions '));
  await startsWithList(page, 'Course');
  // Who may enter: asked about people, so it can be counted.
  const entry = page.getByRole('complementary', { name: 'Settings' }).locator('section', { hasText: 'Who may enter' });
  await entry.getByRole('button', { name: 'Only who …' }).click();
  await pick(entry.getByLabel('They'), 'is on a list');
  await pick(entry.getByLabel('Which list'), 'Workshop letters');
  const count = entry.getByText(/^True for /);
  await expect(count).toHaveText(/^True for [1-9]\d* of \d+ people now\.$/);
  const one = await count.textContent();
  await entry.getByRole('button', { name: 'And who …' }).click();
  await pick(entry.getByLabel('They').nth(1), 'did an event');
  await pick(entry.getByLabel('Which event'), 'Began an order (order.begun)');
  await expect(count).not.toHaveText(one ?? '');
  await expect(
    entry.getByText(/^Only somebody who is on “Workshop letters” and did “Began an order” ever may enter\./),
  ).toBeVisible();
  await axe(page);

  // A branch with a third arm, asked about emails of the sequence: counted on the way only.
  await page.getByRole('button', { name: 'Add the first email' }).click();
  await focused(page, /New email/);
  await page.keyboard.press('w');
  await focused(page, /later/);
  await page.keyboard.press('b');
  await page.getByRole('button', { name: 'Add an arm' }).click();
  const second = page.getByRole('region', { name: 'Arm 2' });
  await pick(second.getByLabel('They'), 'clicked in an email of this sequence');
  await expect(second.getByText('Asked of each person when they get here.')).toBeVisible();
  await expect(page.locator('[data-step]')).toHaveCount(4);
  await expect(page.getByText('Clicked in “New email”', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Ask arm 2 earlier' }).click();
  await expect(
    page.getByRole('region', { name: 'Arm 1' }).getByText(/^For whoever clicked in “New email”/),
  ).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(second.getByText(/^For whoever clicked in “New email”/)).toBeVisible();

  // An email only for some.
  await page.locator('[data-step]', { hasText: 'New email' }).click();
  await page.getByRole('button', { name: 'everyone who gets here' }).click();
  await page.getByRole('button', { name: 'Only who …' }).click();
  await pick(page.getByLabel('They'), 'does not have a tag');
  await page.getByLabel('Tag', { exact: true }).fill('kit-owner');
  await page.getByLabel('Tag', { exact: true }).press('Enter');
  await page.keyboard.press('Escape');
  await expect(
    page.getByRole('button', { name: 'whoever does not have the tag “kit-owner”', exact: true }),
  ).toBeVisible();
  await axe(page);
});

test('a split and a wait for something are put in by key, and their arms filled', async ({ page }) => {
  await signIn(page);
  await beginSequence(page, fresh('Lots '));
  await startsWithList(page, 'Course');
  await page.getByRole('button', { name: 'Add the first email' }).click();
  await focused(page, /New email/);
  await page.keyboard.press('s');
  await focused(page, /Split 50% \/ 50%/);
  await page.getByLabel('Share of arm 1').fill('30');
  await page.getByRole('button', { name: 'Add an arm' }).click();
  await page.getByLabel('Share of arm 3').fill('20');
  await expect(page.locator('[data-step]', { hasText: 'Split 30% / 50% / 20%' })).toBeVisible();
  await page.getByRole('button', { name: 'Insert at the start of 20%' }).click();
  await page.getByRole('menuitem', { name: /^Wait until something happens/ }).click();
  await focused(page, /^Until whoever is here did/);
  await pick(page.getByLabel('Which event'), 'Ordered (order.paid)');
  await page.getByLabel('How long').fill('5');
  await expect(
    page.locator('[data-step]', { hasText: 'did “Ordered” since joining the sequence, at most 5 days' }),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Insert at the start of Not within 5 days' }).click();
  await page.getByRole('menuitem', { name: /^Email/ }).click();
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
  await page.reload();
  await expect(page.locator('[data-step]')).toHaveCount(5);
  await axe(page);
});

test('a wait is built as one sentence: a length of time, a weekday, a day of the year, a date of theirs', async ({
  page,
}) => {
  await signIn(page);
  await beginSequence(page, fresh('Waits '));
  await startsWithList(page, 'Paper club');
  await page.getByRole('button', { name: 'Add the first email' }).click();
  await focused(page, /New email/);
  await page.keyboard.press('w');
  await focused(page, /1 day later/);
  const wait = page.locator('[data-step]').nth(2);
  const what = page.getByLabel('What it waits for');
  await pick(what, 'until a weekday,');
  await page.getByRole('button', { name: 'Thu', exact: true }).click();
  await pick(page.getByLabel('Time of day'), '19:00');
  await expect(wait).toHaveText('Until Mon, Thu, 19:00');
  await pick(what, 'until a day of the year,');
  await pick(page.getByLabel('Month'), 'February');
  await page.getByLabel('Day', { exact: true }).fill('29');
  await expect(wait).toHaveText('Until 29 February, 9:00');
  await expect(page.getByText('In years without a 29 February, on the 28th.')).toBeVisible();
  await pick(what, 'until a date of theirs,');
  await expect(page.getByRole('button', { name: /(errors?|to look at)$/ })).toBeVisible();
  await pick(page.getByLabel('Which date'), 'Renews on');
  await page.getByLabel('How many days').fill('21');
  await expect(wait).toHaveText('Until 21 days before “renews on”, 9:00');
  await pick(page.getByLabel('If it has passed'), 'go on at once');
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
  await page.reload();
  await expect(page.locator('[data-step]').nth(2)).toHaveText('Until 21 days before “renews on”, 9:00');
  await axe(page);
});
