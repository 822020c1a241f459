import { AxeBuilder } from '@axe-core/playwright';
import { expect, type Locator, type Page, type Request } from '@playwright/test';

export async function signIn(page: Page, email = 'ines@foldwell.example'): Promise<void> {
  await page.goto('/sign-in');
  await page.getByLabel('Email').fill(email);
  await page.getByLabel('Password').fill('fold-along-the-grain');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByRole('heading', { name: 'Sequences', exact: true })).toBeVisible();
}

/** A name nobody has yet, so that a test can run again on the same data. With a figure in it: letters alone would be a spelling mistake. */
export const fresh = (name: string) => `${name}${Date.now().toString(36)}7`;

/** Nothing that axe finds is let through, of any weight. Emails in their frames are the author's own. */
export const axe = async (page: Page) =>
  expect(
    (await new AxeBuilder({ page }).exclude('iframe').analyze()).violations.map((v) => `${v.id}: ${v.nodes[0]?.html}`),
  ).toEqual([]);

/** Begins a sequence and leaves the page on its empty plan. */
export async function beginSequence(page: Page, name: string): Promise<void> {
  await page.goto('/sequences');
  await page.getByRole('button', { name: 'New sequence' }).click();
  await page.getByLabel('What is it called?').fill(name);
  await page.getByRole('button', { name: 'Begin the plan' }).click();
  await expect(page.getByRole('group', { name: 'Plan' })).toBeVisible();
}

/** Opens a choice and takes one of it; where it is a field, by typing first. */
export async function pick(choice: Locator, name: string | RegExp): Promise<void> {
  await choice.click();
  if (typeof name === 'string' && (await choice.evaluate((e) => e.tagName)) === 'INPUT') await choice.fill(name);
  const option = choice.page().getByRole('option', { name, exact: true });
  await option.click();
  await expect(option).toBeHidden();
}

/** Writes a day (YYYY-MM-DD) and a time of day into the two fields of a moment. */
export async function writeMoment(scope: Page | Locator, label: RegExp, day: string, time: string): Promise<void> {
  for (const [part, text] of [
    ['day', day],
    ['time', time],
  ] as const) {
    const field = scope.getByLabel(new RegExp(`${label.source}.*: ${part}$`));
    await field.fill(text);
    await field.press('Tab');
  }
}

/** Says in the trigger's panel whom it mails; each list tells how many have confirmed it. */
export async function mails(page: Page, list: string): Promise<void> {
  await pick(page.getByLabel('It mails'), new RegExp(`^people on “${list}”`));
}

/** Says in the trigger's panel that it starts with a list, and mails under it. */
export async function startsWithList(page: Page, list: string): Promise<void> {
  await pick(page.getByLabel('Which list'), list);
  await mails(page, list);
}

/** The step that has the focus in the plan. */
export const focused = (page: Page, step: RegExp) => expect(page.locator('[data-step]:focus')).toHaveText(step);

/** Steps of the plan from top to bottom, in words. */
export const stepsOf = (page: Page) =>
  page.locator('[data-step]').evaluateAll((all) => all.map((e) => (e.textContent ?? '').trim()));

/**
 * Tells when what a page asked the application for has come. Not `networkidle`: files that a worker was fetching when its
 * page was left are counted there for ever.
 */
export function answers(page: Page): () => Promise<void> {
  const open = new Set<Request>();
  const ours = (r: Request) => new URL(r.url()).pathname.startsWith('/api/');
  page.on('request', (r) => void (ours(r) && open.add(r)));
  page.on('requestfinished', (r) => void open.delete(r));
  page.on('requestfailed', (r) => void open.delete(r));
  return async () => {
    await expect(page.getByRole('heading').first()).toBeVisible();
    // What an answer leads to is asked for in the turn behind it: twice in a row nothing is open.
    let still = 0;
    await expect.poll(() => (still = open.size === 0 ? still + 1 : 0), { intervals: [100] }).toBeGreaterThan(2);
  };
}

/** Closes the dialog on top by Escape: once it holds the focus, which is when it listens, as for whoever has seen it open. */
export async function closeDialog(page: Page): Promise<void> {
  const dialog = page.getByRole('dialog').last();
  await expect.poll(() => dialog.evaluate((d) => d.contains(document.activeElement))).toBe(true);
  await page.keyboard.press('Escape');
  await expect(dialog).toBeHidden();
}
