import { expect, test } from '@playwright/test';
import { api, lastMail } from './support/emails.ts';
import { axe, beginSequence, fresh, signIn, startsWithList, pick, writeMoment } from './support/hands.ts';

test('a rehearsal shows exact moments, what is held and why, and lights the way in the plan; nothing is sent', async ({
  page,
}) => {
  await signIn(page);
  await page.goto('/outside');
  // The newest person of the list is the one who is rehearsed first.
  const { lists } = await api<{ lists: { id: string; name: string }[] }>(page, 'get', '/surroundings');
  const list = lists.find((l) => l.name === 'Workshop letters')?.id;
  const email = `${fresh('lisbon')}@readers.example`;
  const first = await lastMail(page);
  await api(page, 'post', '/people', { email, attributes: {}, zone: 'Europe/Lisbon', lists: [list] });
  // Really joined, they get their guide; the rehearsal behind it sends nothing.
  await expect.poll(() => lastMail(page)).toBeGreaterThan(first);
  const before = await lastMail(page);
  await page.goto('/sequences');
  await page.getByRole('table').getByRole('link', { name: 'Welcome and stitch guide' }).click();
  await page.getByRole('button', { name: 'Rehearse' }).click();
  const dock = page.getByRole('region', { name: 'Rehearsal', exact: true });
  await expect(dock).toBeVisible();
  // Somebody in Lisbon who joins on a Friday at noon.
  const who = dock.getByRole('combobox', { name: 'Who is rehearsed' });
  await writeMoment(dock, /^When, in Europe\/Lisbon/, '2026-03-06', '12:00');
  const timeline = dock.getByRole('region', { name: 'Timeline of the rehearsal' }).getByRole('listitem');
  await expect(timeline.first()).toContainText('Guide delivery');
  await expect(dock.getByRole('status')).toHaveText(/^\d emails in \d+ days$/);
  await expect(who).not.toHaveValue('');

  // Never opening leads past the reminder; clicking the guide leads the other way.
  await pick(dock.getByLabel('What they do with emails'), 'never opens');
  await expect(timeline.filter({ hasText: 'Guide reminder' })).toBeVisible();
  await expect(timeline.filter({ hasText: 'First stitch' })).toHaveCount(0);
  await page.locator('[data-step]', { hasText: 'Guide delivery' }).click();
  await pick(page.getByLabel('In the rehearsal, with this email they'), 'click “Five stitches.pdf”');
  await expect(timeline.filter({ hasText: 'First stitch' })).toBeVisible();
  await expect(timeline.filter({ hasText: 'Guide reminder' })).toHaveCount(0);
  await dock.getByRole('button', { name: 'Reasons' }).click();
  await expect(dock.getByText(/^Took the arm “Downloaded it”/)).toBeVisible();
  await expect(
    dock.getByText(/is held until .*, its window was closed|is held until .*: its window was closed/).first(),
  ).toBeVisible();
  await axe(page);

  // The wait's label says on which day and hour it ends for them.
  await expect(page.locator('[data-step]', { hasText: '1 day later' })).toContainText('Sat 7 Mar, 12:00');

  // Unpublished edits are rehearsed as they stand.
  await page.locator('[data-step]', { hasText: '1 day later' }).click();
  await page.getByLabel('How long').fill('2');
  await expect(timeline.filter({ hasText: 'First stitch' })).toContainText('Sun 8 Mar');
  await page.getByRole('button', { name: 'Undo (Ctrl Z)' }).click();
  await expect(timeline.filter({ hasText: 'First stitch' })).toContainText('Sat 7 Mar');
  await dock.getByRole('button', { name: 'Close the rehearsal' }).click();
  await expect(dock).toHaveCount(0);
  await page.goto('/outside');
  expect(await lastMail(page)).toBe(before);
});

test('a rehearsed order reaches the goal: what would follow does not go out', async ({ page }) => {
  await signIn(page);
  await page.getByRole('table').getByRole('link', { name: 'Left at checkout' }).click();
  await page.getByRole('button', { name: 'Rehearse' }).click();
  const dock = page.getByRole('region', { name: 'Rehearsal', exact: true });
  const timeline = dock.getByRole('region', { name: 'Timeline of the rehearsal' }).getByRole('listitem');
  await expect(timeline).not.toHaveCount(0);
  const emails = await timeline.count();
  await dock.getByRole('button', { name: 'Something happens' }).click();
  await dock.getByLabel('On which day').fill('0');
  await expect(
    timeline
      .filter({ hasText: 'goal reached' })
      .or(timeline.filter({ hasText: 'Ordered' }))
      .first(),
  ).toBeVisible();
  await dock.getByLabel('On which day').fill('0.1');
  await expect(timeline.filter({ hasText: 'goal reached' })).toBeVisible();
  expect(await timeline.count()).toBeLessThanOrEqual(emails + 2);
});

test('somebody invented is rehearsed across the change of clocks: days keep the hour, hours do not', async ({
  page,
}) => {
  await signIn(page);
  await beginSequence(page, fresh('Clocks '));
  await startsWithList(page, 'Course');
  await page.getByRole('button', { name: 'Add the first email' }).click();
  await expect(page.locator('[data-step]:focus')).toHaveText(/New email/);
  for (const key of ['w', 'e', 'w', 'e']) await page.keyboard.press(key);
  await page.locator('[data-step]', { hasText: '1 day later' }).last().click();
  await page.getByLabel('How long').fill('24');
  await pick(page.getByLabel('Unit'), 'hours');
  await page.getByRole('button', { name: 'Rehearse' }).click();
  const dock = page.getByRole('region', { name: 'Rehearsal', exact: true });
  await dock.getByRole('button', { name: 'or somebody invented' }).click();
  await dock.getByRole('button', { name: /invented, in Lisbon/ }).click();
  await pick(page.getByLabel('Time zone'), 'New York · America');
  await page.getByLabel('Tags, with commas between').fill('kit-owner, teacher');
  await axe(page);
  await page.keyboard.press('Escape');
  // New York springs forward on 8 March 2026, at two in the morning. The moment is told in the workspace's zone.
  await writeMoment(dock, /^When, in Europe\/Lisbon/, '2026-03-07', '0:00');
  const marks = dock.getByRole('region', { name: 'Timeline of the rehearsal' }).getByRole('listitem');
  await expect(marks).toHaveText([/^Fri 6 Mar, 19:00/, /^Sat 7 Mar, 19:00/, /^Sun 8 Mar, 20:00/]);
});
