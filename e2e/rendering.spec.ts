import { AxeBuilder } from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import { everyKind } from '../core/test/every-kind.ts';
import { fresh, signIn } from './support/hands.ts';

// What really leaves the house: each email goes out as a test and is read back from the mailbox.

const WIDTHS = [320, 375, 414, 600];

interface Draft {
  revision: number;
  draft: { steps: Step[] };
}
interface Step {
  id: string;
  kind: string;
  name: string;
  arms?: { steps: Step[] }[];
}
const emailsOf = (steps: Step[]): Step[] =>
  steps.flatMap((s) => [...(s.kind === 'email' ? [s] : []), ...(s.arms ?? []).flatMap((a) => emailsOf(a.steps))]);

async function api<T>(page: Page, method: 'get' | 'post' | 'put', path: string, data?: unknown): Promise<T> {
  const origin = new URL(page.url()).origin;
  const answer = await page.request[method](`/api${path}`, { data, headers: { origin } });
  expect(answer.ok(), `${method} ${path}: ${await answer.text()}`).toBe(true);
  return (await answer.json()) as T;
}

/** The HTML of an email of a draft, as the mailbox got it. */
async function received(page: Page, sequence: string, step: string, person: string): Promise<string> {
  const to = `${fresh('look')}@readers.example`;
  await api(page, 'post', `/sequences/${sequence}/steps/${step}/test`, { to, person, event: null });
  const { messages } = await api<{ messages: { id: number }[] }>(page, 'get', `/outside/mailbox?q=${to}`);
  return (await api<{ html: string }>(page, 'get', `/outside/mailbox/${messages[0]?.id}`)).html;
}

/** A reader of this file's own, in Lisbon: what is read depends on nobody else. */
const somebody = async (page: Page) => {
  const email = `${fresh('reader')}@readers.example`;
  const person = { email, attributes: { first_name: 'Marta' }, zone: 'Europe/Lisbon', lists: [] };
  return (await api<{ id: string }>(page, 'post', '/people', person)).id;
};

/** Everything that is drawn stays inside the page at every width, and nothing scrolls sideways. */
async function fits(page: Page, html: string, name: string): Promise<void> {
  await page.setContent(html);
  for (const width of WIDTHS) {
    await page.setViewportSize({ width, height: 800 });
    const wrong = await page.evaluate(() => {
      const edge = document.documentElement.clientWidth;
      const out = [...document.querySelectorAll('p, h1, h2, h3, a, img, td, th, li, blockquote, hr')].flatMap((e) => {
        const box = e.getBoundingClientRect();
        if (box.width === 0 || box.height === 0) return [];
        return box.left < -0.5 || box.right > edge + 0.5
          ? [`${e.tagName} ${Math.round(box.left)} to ${Math.round(box.right)}: ${e.textContent.slice(0, 30)}`]
          : [];
      });
      return document.documentElement.scrollWidth > edge
        ? [...out, `scrolls to ${document.documentElement.scrollWidth}`]
        : out;
    });
    expect(wrong, `${name} at ${width} px`).toEqual([]);
  }
}

// An email is an article inside the page of a mail program: the landmarks around it are that page's.
const quiet = async (page: Page, name: string) =>
  expect(
    (await new AxeBuilder({ page }).disableRules(['region', 'landmark-one-main']).analyze()).violations.map(
      (v) => `${v.id}: ${v.nodes[0]?.html}`,
    ),
    name,
  ).toEqual([]);

test('every email of the demo fits from 320 to 600 px, is light and accessible', async ({ page, context }) => {
  await signIn(page);
  const person = await somebody(page);
  const { sequences } = await api<{ sequences: { id: string; status: string }[] }>(page, 'get', '/sequences');
  const look = await context.newPage();
  let seen = 0;
  for (const { id } of sequences.filter((s) => s.status === 'live').slice(0, 10)) {
    const { draft } = await api<Draft>(page, 'get', `/sequences/${id}`);
    for (const step of emailsOf(draft.steps)) {
      const html = await received(page, id, step.id, person);
      expect(Buffer.byteLength(html), step.name).toBeLessThan(100_000);
      await fits(look, html, step.name);
      if (seen++ % 4 === 0) await quiet(look, step.name);
    }
  }
  expect(seen).toBeGreaterThan(15);
});

test('an email that holds every kind of block fits too, with each block where it belongs', async ({
  page,
  context,
}) => {
  await signIn(page);
  const person = await somebody(page);
  const { files, offers } = await api<{
    files: { id: string; mime: string }[];
    offers: { id: string; name: string }[];
  }>(page, 'get', '/surroundings');
  const picture = files.find((f) => f.mime.startsWith('image/'))?.id as string;
  const { id } = await api<{ id: string }>(page, 'post', '/sequences', { name: fresh('Every kind ') });
  const offer = offers.find((o) => o.name === 'Kit offer')?.id;
  const email = JSON.parse(
    JSON.stringify({ ...everyKind(), offer }).replaceAll('"file":"cover"', `"file":"${picture}"`),
  ) as object;
  const step = {
    id: 'all',
    kind: 'email',
    on: true,
    note: '',
    name: 'Every kind',
    window: null,
    forWhom: null,
    thenTag: '',
    thenPoints: 0,
    email,
  };
  const trigger = [{ kind: 'event', event: 'order.begun', where: [] }];
  await api(page, 'post', `/sequences/${id}/commands`, {
    base: 0,
    edits: [
      {
        role: 'edit',
        commands: [
          { type: 'set', field: 'triggers', value: trigger },
          { type: 'step.insert', place: { arm: null, index: 0 }, step },
        ],
      },
    ],
  });
  const html = await received(page, id, 'all', person);
  const look = await context.newPage();
  await fits(look, html, 'every kind');
  await quiet(look, 'every kind');
  const box = async (text: string) => {
    const found = await look.getByText(text, { exact: true }).first().boundingBox();
    if (!found) throw new Error(`“${text}” is not to be seen.`);
    return found;
  };
  await expect(look.locator('.code')).toHaveText(/^KIT-SAMP-LESA$/);
  await expect(look.getByRole('img', { name: /^It ends on Monday,? 31 March/ })).toBeVisible();
  // On a phone the columns stand under each other, and what is for a phone alone is there.
  await look.setViewportSize({ width: 375, height: 800 });
  expect((await box('Ask for everyone’s advice')).width).toBeGreaterThan(0);
  expect((await box('Left column')).x).toBeCloseTo((await box('Right column')).x, 0);
  expect((await box('Left column')).y).toBeGreaterThan((await box('Right column')).y);
  await expect(look.getByText('Seen on a phone', { exact: true })).toBeVisible();
  // On a desktop they stand beside each other, the left one left, whatever comes first on a phone.
  await look.setViewportSize({ width: 800, height: 800 });
  expect((await box('Left column')).x).toBeLessThan((await box('Right column')).x);
  expect((await box('Left column')).y).toBeCloseTo((await box('Right column')).y, -1);
  await expect(look.getByText('Seen on a phone', { exact: true })).toBeHidden();
  // Kept beside each other on a phone too, where that was asked for.
  await look.setViewportSize({ width: 375, height: 800 });
  expect((await box('Still left')).x).toBeLessThan((await box('Still right')).x);
  // In reading order from top to bottom.
  const order = [
    'Hello, here is one of each.',
    'Foldwell Bindery',
    'See the kits',
    'Press',
    'It lies flat at last.',
    'Which thread?',
    'Laid',
    'Until tomorrow,',
  ];
  const tops = [];
  for (const words of order) tops.push((await box(words)).y);
  expect(tops).toEqual([...tops].sort((a, b) => a - b));
});
