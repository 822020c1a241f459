import fc from 'fast-check';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { applyCommands, blankSequence, blankStep, type Command, type Sequence } from '@ascenso/core';

const said = vi.hoisted(() => ({ error: vi.fn(), dismiss: vi.fn() }));
vi.mock('sonner', () => ({ toast: said }));
// The modules look for the page's window when they are loaded.
vi.stubGlobal('window', new EventTarget());
const { store } = await import('../src/app/store.ts');
const { edit, open, redo, settled, undo } = await import('../src/app/draft.ts');

type Fate = 'answers' | 'never arrives' | 'arrives, but its answer is lost' | 'stumbles' | 'signed out';
const FATES: readonly Fate[] = [
  'answers',
  'never arrives',
  'arrives, but its answer is lost',
  'stumbles',
  'signed out',
];

/** Drafts as the server keeps them (api/drafts.ts): an edit that is there already counts once. */
class Server {
  readonly docs = new Map<string, { draft: Sequence; revision: number; seen: Set<string>; told: string[] }>();
  /** What becomes of the next requests that save something; after them all are answered. */
  fates: Fate[] = [];
  refuses: (told: string) => boolean = () => false;
  /** What it fails at, however often it is asked. */
  breaksAt: (told: string) => boolean = () => false;

  add(id: string): void {
    this.docs.set(id, { draft: blankSequence(id, 'letters'), revision: 1, seen: new Set(), told: [] });
  }

  fetch = (url: string, init: RequestInit = {}): Promise<Response> => {
    const [, , , id = '', what] = url.split('/');
    const doc = this.docs.get(id);
    if (!doc)
      return Promise.resolve(answer(404, { error: { code: 'not-found', message: 'There is no such sequence.' } }));
    if (what !== 'commands')
      return Promise.resolve(answer(200, { id, draft: doc.draft, revision: doc.revision, log: [] }));
    const { commands, edit: key } = JSON.parse(String(init.body)) as { commands: Command[]; edit: string };
    const fate = this.fates.shift() ?? 'answers';
    if (fate === 'never arrives') return Promise.reject(new TypeError('Failed to fetch'));
    if (fate === 'stumbles') return Promise.resolve(answer(503, { error: { code: 'internal', message: 'A moment.' } }));
    if (fate === 'signed out')
      return Promise.resolve(answer(401, { error: { code: 'signed-out', message: 'You are signed out.' } }));
    const told = nameIn(commands);
    if (this.refuses(told))
      return Promise.resolve(answer(409, { error: { code: 'conflict', message: 'Ana changed the same place.' } }));
    if (this.breaksAt(told))
      return Promise.resolve(
        answer(500, { error: { code: 'internal', message: 'Something went wrong on our side.' } }),
      );
    if (!doc.seen.has(key)) {
      doc.seen.add(key);
      doc.told.push(told);
      doc.draft = applyCommands(doc.draft, commands).doc;
      doc.revision++;
    }
    if (fate !== 'answers') return Promise.reject(new TypeError('Failed to fetch'));
    return Promise.resolve(answer(200, { revision: doc.revision, draft: doc.draft, inverses: [] }));
  };
}
const answer = (status: number, body: object) => new Response(JSON.stringify(body), { status });
const nameIn = (commands: Command[]) =>
  commands.map((c) => (c.type === 'step.insert' ? c.step.id : c.type === 'step.remove' ? `-${c.step}` : c.type)).join();

const insert = (id: string): Command => ({
  type: 'step.insert',
  place: { arm: null, index: 0 },
  step: blankStep('leave', () => id),
});
const draft = () => store.getState().draft;
const onScreen = () => draft().doc?.steps.map((s) => s.id);
const add = (id: string) => store.dispatch(edit([insert(id)]));

let server: Server;
let run = 0;
/** Ids of drafts that no other test has had: what is on its way to one outlives the test. */
let a = '';
let b = '';
beforeEach(async () => {
  vi.useFakeTimers();
  server = new Server();
  vi.stubGlobal('fetch', server.fetch);
  [a, b] = [`a${++run}`, `b${run}`];
  server.add(a);
  server.add(b);
  await store.dispatch(open(a));
});
afterEach(async () => {
  await vi.runAllTimersAsync();
  vi.useRealTimers();
});

test('edits are on the screen at once and reach the server in their order', async () => {
  for (const id of ['one', 'two', 'three']) add(id);
  expect(onScreen()).toEqual(['three', 'two', 'one']);
  expect(draft().unsaved).toBe(3);
  expect(await store.dispatch(settled())).toBe(4);
  expect(server.docs.get(a)?.told).toEqual(['one', 'two', 'three']);
  expect(draft()).toMatchObject({ unsaved: 0, waiting: null });
});

test('whatever becomes of the requests, each edit counts once, in order, and the screen shows what the server has', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.constantFrom(...FATES), { maxLength: 12 }),
      fc.integer({ min: 1, max: 6 }),
      async (fates, n) => {
        const id = `p${++run}`;
        server.add(id);
        await store.dispatch(open(id));
        server.fates = [...fates];
        const names = Array.from({ length: n }, (_, i) => `step ${i}`);
        for (const name of names) add(name);
        await vi.runAllTimersAsync();
        expect(server.docs.get(id)?.told).toEqual(names);
        expect(draft()).toMatchObject({ id, unsaved: 0, waiting: null, doc: server.docs.get(id)?.draft });
      },
    ),
    { numRuns: 40 },
  );
});

describe('while the server does not answer', () => {
  test('that is said with its reason, and the wait ends as soon as the browser is on line again', async () => {
    server.fates = ['never arrives'];
    add('kept');
    await vi.advanceTimersByTimeAsync(10);
    expect(draft().waiting).toContain('cannot be reached');
    expect(onScreen()).toEqual(['kept']);
    window.dispatchEvent(new Event('online'));
    await vi.advanceTimersByTimeAsync(10);
    expect(draft()).toMatchObject({ waiting: null, unsaved: 0 });
    expect(server.docs.get(a)?.told).toEqual(['kept']);
  });

  test('the page asks before it is closed, and not before or after', async () => {
    const asks = () => !window.dispatchEvent(new Event('beforeunload', { cancelable: true }));
    expect(asks()).toBe(false);
    server.fates = ['signed out'];
    add('kept');
    await vi.advanceTimersByTimeAsync(10);
    expect(asks()).toBe(true);
    await vi.runAllTimersAsync();
    expect(asks()).toBe(false);
  });

  test('it goes on asking while one draft waits and another has been saved', async () => {
    const asks = () => !window.dispatchEvent(new Event('beforeunload', { cancelable: true }));
    await store.dispatch(open(b));
    await store.dispatch(open(a));
    server.fates = ['never arrives', 'answers'];
    add('waits');
    await vi.advanceTimersByTimeAsync(10);
    await store.dispatch(open(b));
    add('saved');
    await vi.advanceTimersByTimeAsync(10);
    expect([server.docs.get(a)?.told, server.docs.get(b)?.told]).toEqual([[], ['saved']]);
    expect(asks()).toBe(true);
    await vi.runAllTimersAsync();
    expect(asks()).toBe(false);
    expect(server.docs.get(a)?.told).toEqual(['waits']);
  });

  test('waits grow, to half a minute at most', async () => {
    server.fates = Array.from({ length: 12 }, () => 'never arrives');
    const tries = vi.fn(server.fetch);
    vi.stubGlobal('fetch', tries);
    add('kept');
    await vi.advanceTimersByTimeAsync(1_000 + 2_000 + 4_000 + 8_000 + 16_000);
    expect(tries).toHaveBeenCalledTimes(6);
    await vi.advanceTimersByTimeAsync(3 * 30_000);
    expect(tries).toHaveBeenCalledTimes(9);
  });
});

test('edits that are still on their way go on when another draft is opened, and are there when one comes back', async () => {
  server.fates = ['never arrives', 'never arrives'];
  add('first');
  add('second');
  await vi.advanceTimersByTimeAsync(10);
  await store.dispatch(open(b));
  expect(draft().id).toBe(b);
  const back = store.dispatch(open(a));
  await vi.runAllTimersAsync();
  await back;
  expect(server.docs.get(a)?.told).toEqual(['first', 'second']);
  expect(server.docs.get(b)?.told).toEqual([]);
  expect(onScreen()).toEqual(['second', 'first']);
});

test('a refused edit is taken back with those on top of it, and what the server has is shown', async () => {
  said.error.mockClear();
  server.refuses = (told) => told === 'bad';
  add('good');
  add('bad');
  add('on top');
  await vi.runAllTimersAsync();
  expect(server.docs.get(a)?.told).toEqual(['good']);
  expect(onScreen()).toEqual(['good']);
  expect(draft().unsaved).toBe(0);
  expect(said.error.mock.calls).toEqual([['Ana changed the same place.']]);
  add('after');
  await vi.runAllTimersAsync();
  expect(server.docs.get(a)?.told).toEqual(['good', 'after']);
});

test('an edit that the server fails at again and again is taken back at last, and those after it go on', async () => {
  said.error.mockClear();
  server.breaksAt = (told) => told === 'poison';
  add('good');
  add('poison');
  await vi.runAllTimersAsync();
  expect(onScreen()).toEqual(['good']);
  expect(said.error.mock.calls.at(-1)).toEqual(['Something went wrong on our side.']);
  add('after');
  await vi.runAllTimersAsync();
  expect(server.docs.get(a)?.told).toEqual(['good', 'after']);
  expect(draft()).toMatchObject({ unsaved: 0, waiting: null });
});

test('undo and redo are edits like others, and a new edit ends what could be redone', async () => {
  add('one');
  add('two');
  store.dispatch(undo());
  expect(onScreen()).toEqual(['one']);
  store.dispatch(redo());
  expect(onScreen()).toEqual(['two', 'one']);
  store.dispatch(undo());
  add('other');
  store.dispatch(redo());
  expect(onScreen()).toEqual(['other', 'one']);
  await store.dispatch(settled());
  expect(server.docs.get(a)?.draft.steps.map((s) => s.id)).toEqual(['other', 'one']);
});
