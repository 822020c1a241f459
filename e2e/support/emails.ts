import { expect, type Page } from '@playwright/test';
import { fresh } from './hands.ts';

interface Answer {
  id: string;
}
export async function api<T = Answer>(
  page: Page,
  method: 'get' | 'post' | 'put',
  path: string,
  data?: unknown,
): Promise<T> {
  const answer = await page.request[method](`/api${path}`, { data, headers: { origin: new URL(page.url()).origin } });
  expect(answer.ok(), `${method} ${path}: ${await answer.text()}`).toBe(true);
  return (await answer.json()) as T;
}

/** Number of the newest message in the mailbox: they are counted from 1. */
export const lastMail = async (page: Page): Promise<number> =>
  (await api<{ messages: { id: number }[] }>(page, 'get', '/outside/mailbox')).messages[0]?.id ?? 0;

/** A sequence that a checkout starts, with one email that has nothing in it but the footer; its composer is open. */
export async function emptyEmail(page: Page, name: string, more: object[] = []): Promise<{ id: string; name: string }> {
  const full = fresh(name);
  const { id } = await api(page, 'post', '/sequences', { name: full });
  const { lists } = await api<{ lists: { id: string; name: string }[] }>(page, 'get', '/surroundings');
  const email = {
    sender: '',
    subject: 'About your cart',
    preview: 'It is all there.',
    blocks: [...more, { id: 'foot', kind: 'footer', reason: '' }],
  };
  const step = {
    id: `mail-${full}`,
    kind: 'email',
    on: true,
    note: '',
    name: 'Cart',
    window: null,
    forWhom: null,
    thenTag: '',
    thenPoints: 0,
    email,
  };
  await api(page, 'post', `/sequences/${id}/commands`, {
    base: 0,
    edits: [
      {
        role: 'edit',
        commands: [
          { type: 'set', field: 'triggers', value: [{ kind: 'event', event: 'order.begun', where: [] }] },
          { type: 'set', field: 'list', value: lists.find((l) => l.name === 'Workshop letters')?.id },
          { type: 'step.insert', place: { arm: null, index: 0 }, step },
        ],
      },
    ],
  });
  await page.goto(`/sequences/${id}/emails/${step.id}`);
  await expect(page.getByRole('complementary', { name: 'Blocks' })).toBeVisible();
  return { id, name: full };
}

export const outline = (page: Page) => page.getByRole('complementary', { name: 'Blocks' });
export const rows = (page: Page) => outline(page).locator('[data-block]');
export const titles = (page: Page) => rows(page).locator('[aria-pressed]').allTextContents();
export const settings = (page: Page) => page.getByRole('complementary', { name: 'Preview and settings' });
export const phone = (page: Page) => page.frameLocator('iframe[title="The email on a phone"]');
export const text = (id: string, words: string, more: object = {}) => ({
  id,
  kind: 'text',
  doc: { type: 'doc', content: [{ type: 'paragraph', content: [{ type: 'text', text: words }] }] },
  ...more,
});
