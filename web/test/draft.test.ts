import fc from 'fast-check';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { blankSequence, blankStep, type Command, type Edit } from '@ascenso/core';
import { DraftServer } from './support/draft-server.ts';

const said = vi.hoisted(() => ({ error: vi.fn(), dismiss: vi.fn() }));
vi.mock('sonner', () => ({ toast: said }));
// The modules look for the page's window when they are loaded.
vi.stubGlobal('window', new EventTarget());
const { store } = await import('../src/app/store.ts');
const { edit, letGo, open, redo, settled, undo } = await import('../src/drafts/draft.ts');

type Fate = 'answers' | 'never arrives' | 'arrives, but its answer is lost' | 'stumbles' | 'signed out';
const FATES: readonly Fate[] = [
  'answers',
  'never arrives',
  'arrives, but its answer is lost',
  'stumbles',
  'signed out',
];

/** Drafts as the server keeps them, behind a line that fails. */
class Server {
  readonly drafts = new Map<string, DraftServer>();
  /** What becomes of the next requests that save something; after them all are answered. */
  fates: Fate[] = [];
  /** What it finds wrong, and what it fails at, however often it is asked: by the steps that an edit names. */
  refuses: (told: string) => boolean = () => false;
  breaksAt: (told: string) => boolean = () => false;

  add(id: string): void {
    this.drafts.set(id, new DraftServer(blankSequence(id, 'letters')));
  }

  told(id: string): string[] {
    return this.drafts.get(id)?.log.map((l) => nameIn(l.commands)) ?? [];
  }

  fetch = (url: string, init: RequestInit = {}): Promise<Response> => {
    const [, , , id = '', what] = url.split('/');
    const draft = this.drafts.get(id);
    if (!draft)
      return Promise.resolve(answer(404, { error: { code: 'not-found', message: 'There is no such sequence.' } }));
    if (what !== 'commands') return Promise.resolve(answer(200, { ...draft.read('me'), id }));
    const body = JSON.parse(String(init.body)) as { base: number; edits: Edit[] };
    const fate = this.fates.shift() ?? 'answers';
    if (fate === 'never arrives') return Promise.reject(new TypeError('Failed to fetch'));
    if (fate === 'stumbles') return Promise.resolve(answer(503, { error: { code: 'internal', message: 'A moment.' } }));
    if (fate === 'signed out')
      return Promise.resolve(answer(401, { error: { code: 'signed-out', message: 'You are signed out.' } }));
    const told = body.edits.map((e) => nameIn(e.commands));
    if (told.some(this.refuses))
      return Promise.resolve(answer(422, { error: { code: 'invalid', message: 'That fits no draft.' } }));
    if (told.some(this.breaksAt))
      return Promise.resolve(
        answer(500, { error: { code: 'internal', message: 'Something went wrong on our side.' } }),
      );
    const saved = draft.save('me', body);
    if (fate !== 'answers') return Promise.reject(new TypeError('Failed to fetch'));
    return Promise.resolve(answer(200, saved));
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
  expect(await store.dispatch(settled())).toBe(3);
  expect(server.told(a)).toEqual(['one', 'two', 'three']);
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
        expect(server.told(id)).toEqual(names);
        expect(draft()).toMatchObject({ id, unsaved: 0, waiting: null, doc: server.drafts.get(id)?.doc });
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
    expect(server.told(a)).toEqual(['kept']);
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
    expect([server.told(a), server.told(b)]).toEqual([[], ['saved']]);
    expect(asks()).toBe(true);
    await vi.runAllTimersAsync();
    expect(asks()).toBe(false);
    expect(server.told(a)).toEqual(['waits']);
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
  expect(server.told(a)).toEqual(['first', 'second']);
  expect(server.told(b)).toEqual([]);
  expect(onScreen()).toEqual(['second', 'first']);
});

test('a refused edit is set aside with what stands on it, the others go on, and nothing of it is lost', async () => {
  said.error.mockClear();
  server.refuses = (told) => told === 'bad';
  add('good');
  add('bad');
  store.dispatch(edit([{ type: 'step.move', step: 'bad', place: { arm: null, index: 1 } }]));
  add('beside');
  await vi.runAllTimersAsync();
  expect(server.told(a)).toEqual(['good', 'beside']);
  expect(onScreen()).toEqual(['beside', 'good']);
  expect(draft()).toMatchObject({ unsaved: 0, doc: server.drafts.get(a)?.doc });
  expect(draft().aside.map((x) => nameIn(x.edit.commands))).toEqual(['bad', 'step.move']);
  expect(said.error.mock.calls.map(([words]) => String(words).split('.')[0])).toEqual([
    'That fits no draft',
    'That step is no longer in the sequence',
  ]);
  // It is there until somebody decides, also when the draft is opened anew.
  await store.dispatch(open(b));
  await store.dispatch(open(a));
  expect(draft().aside).toHaveLength(2);
  store.dispatch(letGo(draft().aside[0]?.edit.id ?? ''));
  expect(draft().aside.map((x) => nameIn(x.edit.commands))).toEqual(['step.move']);
});

test('an edit that the server fails at again and again is set aside at last, and those after it go on', async () => {
  said.error.mockClear();
  server.breaksAt = (told) => told === 'poison';
  add('good');
  add('poison');
  await vi.runAllTimersAsync();
  expect(onScreen()).toEqual(['good']);
  expect(String(said.error.mock.calls.at(-1))).toContain('Something went wrong on our side.');
  expect(draft().aside).toHaveLength(1);
  add('after');
  await vi.runAllTimersAsync();
  expect(server.told(a)).toEqual(['good', 'after']);
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
  expect(server.drafts.get(a)?.doc.steps.map((s) => s.id)).toEqual(['other', 'one']);
});
