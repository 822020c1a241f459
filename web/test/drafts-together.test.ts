import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import {
  applyCommands,
  blankEmail,
  blankSequence,
  blankStep,
  emailSteps,
  paragraphs,
  walk,
  walkBlocks,
  type Command,
  type Edit,
  type Sequence,
} from '@ascenso/core';
import type { SaveAnswer } from '@ascenso/contracts';
import { DraftClient, type Aside } from '../src/drafts/client.ts';
import { DraftServer } from './support/draft-server.ts';

/** A request that is on its way: nobody knows yet what becomes of it. */
interface Flight {
  user: string;
  body: { base: number; edits: Edit[] };
  answer: (data: SaveAnswer) => void;
}

/** Three people with a browser each, a server, and a line between them that loses, delays and repeats. */
class World {
  readonly server: DraftServer;
  readonly users = ['Inês', 'Ana', 'Rui'];
  readonly clients = new Map<string, DraftClient>();
  readonly kept = new Map<string, { pending: readonly Edit[]; base: number; aside: readonly Aside[] }>();
  flights: Flight[] = [];
  /** Every edit that was made: by whom, knowing what, and the words it brings. */
  readonly made = new Map<
    string,
    { user: string; knew: number; token: string | null; role: Edit['role']; takes: string | null }
  >();
  #n = 0;

  constructor() {
    const first = blankEmail(() => this.id(), 'First');
    this.server = new DraftServer({
      ...blankSequence('Together', 'letters'),
      steps: [first, blankEmail(() => this.id(), 'Second')],
    });
    for (const user of this.users) this.#open(user, []);
  }

  id(): string {
    return `i${++this.#n}`;
  }

  client(user: string): DraftClient {
    return this.clients.get(user) as DraftClient;
  }

  #open(user: string, aside: readonly Aside[]): void {
    const client: DraftClient = new DraftClient(this.server.read(user), aside, {
      save: (body) =>
        new Promise((resolve) => {
          this.flights.push({
            user,
            body: JSON.parse(JSON.stringify(body)) as Flight['body'],
            answer: (data) => resolve({ data }),
          });
        }),
      keep: (pending, base, set) => {
        if (this.clients.get(user) !== client) return;
        this.kept.set(user, { pending: [...pending], base, aside: set });
        for (const e of pending)
          if (!this.made.has(e.id))
            this.made.set(e.id, {
              user,
              knew: base,
              token: tokenOf(e.commands),
              role: e.role,
              takes: takenBy(e.commands),
            });
      },
      changed: () => undefined,
      say: () => undefined,
      newId: () => this.id(),
    });
    this.clients.set(user, client);
  }

  /** The tab is closed, whatever is on its way; the page is opened again and brings what was kept. */
  reopen(user: string): void {
    this.flights = this.flights.filter((f) => f.user !== user);
    const left = this.kept.get(user) ?? { pending: [], base: 0, aside: [] };
    const aside = [...left.aside];
    if (left.pending.length > 0)
      for (const { id, over, why } of this.server.save(user, { base: left.base, edits: [...left.pending] }).aside)
        aside.push(
          ...left.pending.filter((e) => e.id === id && e.role === 'edit').map((edit) => ({ edit, over, why })),
        );
    this.#open(user, aside);
    this.kept.set(user, { pending: [], base: this.server.revision, aside });
  }

  /** What becomes of a request: it is answered, or it arrives and its answer is lost, so that it is sent once more. */
  fly(index: number, lost: boolean): void {
    const flight = this.flights[index % this.flights.length];
    if (!flight) return;
    const data = this.server.save(flight.user, flight.body);
    if (lost) return;
    this.flights = this.flights.filter((f) => f !== flight);
    flight.answer(JSON.parse(JSON.stringify(data)) as SaveAnswer);
  }

  async settle(): Promise<void> {
    for (let i = 0; i < 5; i++) await Promise.resolve();
  }

  async end(): Promise<void> {
    for (let tries = 0; tries < 500; tries++) {
      await this.settle();
      if (this.flights.length > 0) this.fly(0, false);
      else if (this.users.every((u) => this.client(u).view.revision === this.server.revision)) return;
      else
        for (const u of this.users) {
          const c = this.client(u);
          c.receive(this.server.since(c.view.revision, u), true);
        }
    }
    throw new Error('It does not come to rest.');
  }
}

/** Words that stand nowhere else: by them an edit is found again. */
const tokenOf = (commands: readonly Command[]): string | null => /word-\d+/.exec(JSON.stringify(commands))?.[0] ?? null;

/** What a single removal takes away. */
function takenBy([only, ...more]: readonly Command[]): string | null {
  if (!only || more.length > 0) return null;
  return only.type === 'step.remove' ? only.step : only.type === 'block.remove' ? only.block : null;
}

type Pick = (n: number) => number;

/** Something that could be done to a draft as it stands. */
function someEdit(doc: Sequence, pick: Pick, id: () => string): Command[] {
  const token = `word-${id().slice(1)}`;
  const steps = walk(doc);
  const emails = emailSteps(doc);
  const email = emails[pick(emails.length)];
  const step = steps[pick(steps.length)]?.step;
  const arms = [null, ...steps.flatMap(({ step: s }) => ('arms' in s ? s.arms.map((a) => a.id) : []))];
  const place = { arm: arms[pick(arms.length)] ?? null, index: pick(4) };
  const blocks = email ? walkBlocks(email.email.blocks).map((p) => p.block) : [];
  const texts = blocks.filter((b) => b.kind === 'text');
  const block = blocks[pick(blocks.length)];
  const text = texts[pick(texts.length)];
  const all: (Command[] | null)[] = [
    [{ type: 'set', field: 'name', value: token }],
    [{ type: 'step.insert', place, step: { ...blankEmail(id, token) } }],
    [{ type: 'step.insert', place, step: blankStep('branch', id) }],
    step ? [{ type: 'step.remove', step: step.id }] : null,
    step ? [{ type: 'step.move', step: step.id, place: { arm: null, index: pick(4) } }] : null,
    email ? [{ type: 'email.set', step: email.id, field: 'subject', value: token }] : null,
    email ? [{ type: 'email.set', step: email.id, field: 'preview', value: token }] : null,
    email
      ? [
          {
            type: 'block.insert',
            step: email.id,
            index: pick(3),
            block: { id: id(), kind: 'text', doc: paragraphs(token) },
          },
        ]
      : null,
    email && text
      ? [{ type: 'block.set', step: email.id, block: text.id, field: 'doc', value: paragraphs(token) }]
      : null,
    email && block ? [{ type: 'block.remove', step: email.id, block: block.id }] : null,
    email && block ? [{ type: 'block.move', step: email.id, block: block.id, index: pick(3) }] : null,
  ];
  return all[pick(all.length)] ?? [{ type: 'set', field: 'name', value: token }];
}

const acts = [
  'edit',
  'edit',
  'edit',
  'undo',
  'undo',
  'redo',
  'fly',
  'fly',
  'fly',
  'lose',
  'look',
  'look',
  'close',
] as const;
const doing = fc.record({
  act: fc.constantFrom(...acts),
  user: fc.nat(2),
  picks: fc.array(fc.nat(1000), { minLength: 8, maxLength: 8 }),
});

/** Where the words of each edit stand after each entry of the log, read from the documents themselves. */
function judge(world: World): void {
  const { server, made } = world;
  const aside = new Set(world.users.flatMap((u) => world.client(u).view.aside.map((a) => a.edit.id)));
  const inLog = new Map(server.log.map((l) => [l.id, l]));
  let doc = server.first;
  const states = [JSON.stringify(doc)];
  for (const entry of server.log) {
    doc = applyCommands(doc, entry.commands).doc;
    states.push(JSON.stringify(doc));
  }
  expect(doc).toEqual(server.doc);
  for (const [id, { role, user, takes, knew }] of made) {
    // What somebody else took away meanwhile was gone as it was meant to be, even where they brought it back later.
    const moot = takes !== null && states.slice(knew).some((state) => !state.includes(`"${takes}"`));
    const there = [inLog.has(id), aside.has(id), moot, role !== 'edit'];
    expect(there.some(Boolean), `the edit ${id} of ${user} is nowhere`).toBe(true);
  }
  // Whoever brings back what they had removed brings back words of others in it: they stay theirs.
  const authors = new Map([...made.values()].reverse().map(({ token, user }) => [token, user]));
  for (const [id, { token, user }] of made) {
    const entry = inLog.get(id);
    if (!entry || token === null) continue;
    const has = (state: string | undefined) => new RegExp(`${token}\\b`).test(state ?? '');
    // What took it away was done by whoever wrote it, or by somebody who had it before their eyes.
    for (let r = entry.revision + 1; r < states.length; r++) {
      if (!has(states[r - 1]) || has(states[r])) continue;
      const taker = server.log[r - 1];
      // Undo is one's own: it takes back nothing of somebody else's, known or not. What is done once more knows what it knew.
      const does = JSON.stringify(taker?.commands);
      const first = (l: (typeof server.log)[number]) =>
        l.role === 'edit' && l.user === taker?.user && JSON.stringify(l.commands) === does;
      const meant = taker?.role === 'redo' ? server.log.find(first) : taker;
      const knew = meant?.role === 'edit' ? (made.get(meant.id ?? '')?.knew ?? -1) : -1;
      expect(
        taker?.user === user || taker?.user === authors.get(token) || knew >= entry.revision,
        `“${token}” of ${user} was gone over by ${taker?.user}, who knew ${knew} and not ${entry.revision}`,
      ).toBe(true);
    }
  }
}

describe('three people at one draft', () => {
  test('whatever is lost, late, repeated or closed: all end equal, and no edit is lost or gone over unseen', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(doing, { minLength: 5, maxLength: 60 }), async (all) => {
        const world = new World();
        for (const { act, user: u, picks } of all) {
          const user = world.users[u] as string;
          const client = world.client(user);
          let at = 0;
          const pick: Pick = (n) => (n === 0 ? 0 : (picks[at++ % picks.length] ?? 0) % n);
          if (act === 'edit')
            try {
              client.edit(someEdit(client.view.doc, pick, () => world.id()));
            } catch {
              // It did not fit what is on the screen: the screen would have said so.
            }
          if (act === 'undo') client.undo();
          if (act === 'redo') client.redo();
          if (act === 'fly' || act === 'lose') world.fly(pick(10), act === 'lose');
          if (act === 'look') client.receive(world.server.since(client.view.revision, user), true);
          if (act === 'close') world.reopen(user);
          await world.settle();
        }
        await world.end();
        for (const user of world.users) expect(world.client(user).view.doc).toEqual(world.server.doc);
        judge(world);
      }),
      { numRuns: Number(process.env.RUNS ?? 300) },
    );
  });
});

test('undo takes back one’s own alone: where somebody else has worked since, it stays and is said', async () => {
  const world = new World();
  const [ines, ana] = [world.client('Inês'), world.client('Ana')];
  const subject = (value: string): Command[] => [
    { type: 'email.set', step: emailSteps(ines.view.doc)[0]?.id ?? '', field: 'subject', value },
  ];
  const now = () => emailSteps(world.server.doc)[0]?.email.subject;
  ines.edit([{ type: 'set', field: 'name', value: 'Before' }]);
  ines.edit(subject('hers'));
  await world.end();
  ana.edit(subject('mine'));
  await world.end();
  ines.undo();
  await world.end();
  expect(now()).toBe('mine');
  // What came before that is still hers to take back.
  ines.undo();
  await world.end();
  expect([now(), world.server.doc.name]).toEqual(['mine', 'Together']);
  ana.undo();
  await world.end();
  expect(now()).toBe('hers');
});

test('what a page that is gone had set aside joins what is here, and what is on its way stays kept', async () => {
  const world = new World();
  const ines = world.client('Inês');
  ines.edit([{ type: 'set', field: 'name', value: 'On its way' }]);
  const left: Aside = {
    edit: { id: 'left', role: 'edit', commands: [{ type: 'set', field: 'name', value: 'Of before' }] },
    over: null,
    why: 'Ana changed the same place.',
  };
  ines.adopt([left]);
  expect(world.kept.get('Inês')).toMatchObject({ pending: [{ role: 'edit' }], aside: [left] });
  await world.end();
  expect([ines.view.aside, world.server.doc.name]).toEqual([[left], 'On its way']);
});
