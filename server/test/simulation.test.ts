import fc from 'fast-check';
import { sql } from 'drizzle-orm';
import { beforeAll, describe, expect, test, vi } from 'vitest';
import {
  type Behaviour,
  compileEmail,
  type Condition,
  DAY,
  type EventFact,
  factsAbout,
  HOUR,
  plainStyle,
  rehearse,
  type Sequence,
} from '@ascenso/core';
import { keepProgram } from '../src/sequences/publishing.ts';
import { newId } from '../src/app/ids.ts';
import { batch, rows } from '../src/db/rows.ts';
import type { Crowd } from '../src/engine/mover.ts';
import type * as FactsModule from '../src/db/facts.ts';
import { recordOpen } from '../src/people/readings.ts';
import { emailStep, useWorld } from './support/world.ts';
import { EVENTS, randomSequence } from './support/random-sequences.ts';
import { SEED } from './support/chance.ts';

// The server's loops and the rehearsal are one engine: random sequences, people and events go through both, and every
// email has to be the same, at the same moment. SEED=n repeats a run; TREES and PEOPLE make it smaller or larger.
const TREES = Number(process.env.TREES ?? 60);
const PEOPLE = Number(process.env.PEOPLE ?? 20);
/** Tuesday 24 March 2026, 12:00 UTC: Lisbon changes its clocks on the 29th, Lord Howe on 5 April. */
const BEGIN = Date.UTC(2026, 2, 24, 12);
const DAYS = 35;
const ZONES = ['Europe/Lisbon', 'America/New_York', 'Asia/Kathmandu', 'Australia/Lord_Howe'];

/** With the mutant on, every visit is decided without the first of its events: the test has to notice. */
const mutant = vi.hoisted(() => ({ on: false }));
vi.mock('../src/db/facts.ts', async (original) => {
  const real = await original<typeof FactsModule>();
  return {
    ...real,
    loadFacts: async (...args: Parameters<typeof real.loadFacts>) => {
      const found = await real.loadFacts(...args);
      if (mutant.on) for (const [id, f] of found) found.set(id, { ...f, events: f.events.slice(1) });
      return found;
    },
  };
});

const world = useWorld();
const LISTS = [newId(), newId()];
const SEGMENTS: [string, Condition][] = [
  [newId(), { kind: 'list', list: LISTS[0] ?? '', on: true }],
  [
    newId(),
    {
      kind: 'event',
      event: 'lesson.opened',
      done: true,
      since: { kind: 'period', amount: 5, unit: 'days' },
      where: [],
    },
  ],
];
/** Those who open stand on the one list, those who are new to it on the other. */
const listsOf = (p: Pick<Person, 'opens' | 'skill'>): Record<string, 'confirmed'> =>
  Object.fromEntries(LISTS.filter((_, i) => (i === 0 ? p.opens : p.skill === 'new')).map((l) => [l, 'confirmed']));

interface Person {
  id: string;
  email: string;
  zone: string;
  opens: boolean;
  skill: string;
  begins: number;
  events: EventFact[];
}

let sender: { name: string; email: string; fields: Record<string, string> };
let hash = '';

beforeAll(async () => {
  sender = { name: 'Inês', email: 'ines@foldwell.example', fields: {} };
  const program = await compileEmail(emailStep('Any').email, plainStyle);
  const { db } = world.connection;
  await db.execute(
    sql`insert into lists (workspace_id, id, name) select ${world.ws}, n.id, n.id from jsonb_to_recordset(${batch(LISTS.map((id) => ({ id })))}) as n(id uuid)`,
  );
  await db.execute(
    sql`insert into segments (workspace_id, id, name, rule, created_at) select ${world.ws}, n.id, n.id, n.rule, 0 from jsonb_to_recordset(${batch(SEGMENTS.map(([id, rule]) => ({ id, rule })))}) as n(id uuid, rule jsonb)`,
  );
  hash = await keepProgram(world.connection.db, world.ws, program, sender);
});

/** Puts sequences live as publishing would, but for their emails, which are all one: compiling thousands proves nothing here. */
async function install(docs: readonly Sequence[]): Promise<string[]> {
  const list = docs.map((doc) => {
    const programs = Object.fromEntries([...JSON.stringify(doc).matchAll(/"id":"(e\d+)"/g)].map((m) => [m[1], hash]));
    return { id: newId(), doc, programs };
  });
  const { db } = world.connection;
  await db.execute(sql`insert into sequences (workspace_id, id, name, status, live_version, created_at, revision, published_revision, draft, triggers)
    select ${world.ws}, n.id, n.doc->>'name', 'live', 1, 0, 0, 0, n.doc, n.doc->'triggers' from jsonb_to_recordset(${batch(list)}) as n(id uuid, doc jsonb)`);
  await db.execute(sql`insert into versions (workspace_id, sequence_id, number, doc, programs, made, published_at)
    select ${world.ws}, n.id, 1, n.doc, n.programs, '{"style":{},"shared":{},"senders":{}}', 0 from jsonb_to_recordset(${batch(list)}) as n(id uuid, doc jsonb, programs jsonb)`);
  return list.map((l) => l.id);
}

/** People in four zones who begin within two days, and do things at hours, at due instants, and at one and the same moment. */
function randomPeople(label: string, count: number): Person[] {
  const event = fc.record({
    name: fc.constantFrom(...EVENTS),
    // On the hour of the entry, so that many fall on the very instant at which a wait of days or hours ends.
    at: fc.oneof(
      fc.integer({ min: -72, max: 24 * 20 }).map((h) => h * HOUR),
      fc.integer({ min: 0, max: 14 }).map((d) => d * DAY),
    ),
    payload: fc.record({ total: fc.constantFrom(10, 30) }),
  });
  const person = fc.record({
    opens: fc.boolean(),
    skill: fc.constantFrom('new', 'some'),
    begins: fc.constantFrom(0, 7 * HOUR, DAY),
    events: fc.array(event, { maxLength: 7 }),
  });
  return fc.sample(fc.noBias(person), { numRuns: count, seed: SEED + 1 }).map((p, i) => ({
    ...p,
    id: newId(),
    email: `${label}${i}@readers.example`,
    zone: ZONES[i % ZONES.length] as string,
    begins: BEGIN + p.begins,
    events: p.events
      .map((e) => ({ ...e, at: BEGIN + p.begins + e.at }))
      .sort((a, b) => a.at - b.at || a.name.localeCompare(b.name)),
  }));
}

/** Opens every email of those who do, a quarter of an hour after it came, as the rehearsal has it. */
function readers(opening: ReadonlySet<string>): Crowd {
  let read = world.mail().length;
  let coming: { send: string; at: number }[] = [];
  return {
    act: async (now) => {
      const all = world.mailbox.store.summaries;
      for (; read < all.length; read++) {
        const m = all[read];
        if (m && opening.has(m.to))
          coming.push({ send: m.messageId.slice(1, m.messageId.indexOf('@')), at: m.at + 15 * 60_000 });
      }
      const due = coming.filter((c) => c.at <= now);
      coming = coming.filter((c) => c.at > now);
      for (const c of due)
        await recordOpen(world.connection.db, { workspaceId: world.ws, sendId: c.send }, c.at, false);
      return { acted: due.length, nextAt: coming.length > 0 ? Math.min(...coming.map((c) => c.at)) : null };
    },
  };
}

const key = (tree: number, person: number, step: string, at: number) =>
  `tree ${tree}, person ${person}, ${step} at ${new Date(at).toISOString()}`;

/** What the server's loops send, told in order of tree, person and moment. */
async function byServer(ids: readonly string[], people: readonly Person[], from: number): Promise<string[]> {
  const { db } = world.connection;
  await db.execute(sql`insert into people (workspace_id, id, email, attributes, zone, created_at)
    select ${world.ws}, n.id, n.email, jsonb_build_object('skill', n.skill), n.zone, 0 from jsonb_to_recordset(${batch(people)}) as n(id uuid, email text, skill text, zone text)`);
  await db.execute(sql`insert into memberships (workspace_id, person_id, list_id, state, at)
    select ${world.ws}, n.person, n.list, 'confirmed', 0 from jsonb_to_recordset(${batch(people.flatMap((p) => Object.keys(listsOf(p)).map((list) => ({ person: p.id, list }))))}) as n(person uuid, list uuid)`);
  const crowd = readers(new Set(people.filter((p) => p.opens).map((p) => p.email)));
  const happens = people
    .flatMap((p) => [
      ...p.events.map((e) => ({ at: e.at, type: e.name, subject: p.email, data: e.payload })),
      ...ids.map((_, tree) => ({
        at: p.begins,
        type: `begin.${from + tree}`,
        subject: p.email,
        data: { starts: '2026-04-03T18:00:00+01:00' },
      })),
    ])
    .sort((a, b) => a.at - b.at);
  const moments = [...new Set(happens.map((h) => h.at))];
  for (const at of moments) {
    // What happens at an instant happens before anything that is due then: architecture, 2.
    if (at > (await world.now())) {
      await world.ahead(at - 1, crowd);
      await world.stand(at);
    }
    for (const h of happens.filter((k) => k.at === at))
      await world.event({ type: h.type, subject: h.subject, time: h.at, data: h.data }).expect(202);
  }
  await world.ahead(BEGIN + DAYS * DAY, crowd);
  const sends = await rows<{ sequence_id: string; person_id: string; step: string; due_at: number; sent_at: number }>(
    db,
    sql`select sequence_id, person_id, step, due_at, sent_at from sends where status = 'sent' and sequence_id = any (${sql.param(ids)}::uuid[])`,
  );
  for (const s of sends)
    if (s.sent_at !== s.due_at) throw new Error(`${s.step} was due at ${s.due_at} and sent at ${s.sent_at}.`);
  return sends
    .map((s) =>
      key(
        ids.indexOf(s.sequence_id),
        people.findIndex((p) => p.id === s.person_id),
        s.step,
        s.due_at,
      ),
    )
    .sort();
}

/** What the rehearsal says of the same people. */
function byRehearsal(docs: readonly Sequence[], people: readonly Person[]): string[] {
  const end = BEGIN + DAYS * DAY;
  return docs
    .flatMap((doc, tree) =>
      people.flatMap((p, i) => {
        const facts = factsAbout(
          {
            id: p.id,
            email: p.email,
            zone: p.zone,
            attributes: { skill: p.skill },
            lists: listsOf(p),
            joined: Object.fromEntries(Object.keys(listsOf(p)).map((l) => [l, { at: 0, how: null }])),
          },
          { events: p.events.filter((e) => e.at < p.begins), segments: Object.fromEntries(SEGMENTS) },
        );
        const usually: Behaviour = { does: p.opens ? 'opens' : 'ignores' };
        const events = p.events.filter((e) => e.at >= p.begins);
        const said = rehearse({
          sequence: doc,
          facts,
          at: p.begins,
          entry: { starts: '2026-04-03T18:00:00+01:00' },
          usually,
          emails: {},
          events,
        });
        return said.moments.flatMap((m) => (m.kind === 'email' && m.at <= end ? [key(tree, i, m.step, m.at)] : []));
      }),
    )
    .sort();
}

let email = 0;
const stepId = () => `e${++email}`;
let installed = 0;

async function run(trees: number, count: number, label: string) {
  const from = installed;
  const docs = Array.from(
    { length: trees },
    (_, i) =>
      fc.sample(fc.noBias(randomSequence(from + i, stepId, { lists: LISTS, segments: SEGMENTS.map(([id]) => id) })), {
        numRuns: 1,
        seed: SEED + from + i,
      })[0] as Sequence,
  );
  installed += trees;
  const people = randomPeople(label, count);
  await world.stand(BEGIN - 5 * DAY);
  const ids = await install(docs);
  const server = await byServer(ids, people, from);
  return { server, rehearsed: byRehearsal(docs, people) };
}

const missing = (a: readonly string[], b: readonly string[]) => {
  const there = new Set(b);
  return a.filter((k) => !there.has(k));
};

describe('random sequences through the server and through the rehearsal', () => {
  test(`${TREES} sequences, ${PEOPLE} people: the same emails at the same moments (seed ${SEED})`, async () => {
    const { server, rehearsed } = await run(TREES, PEOPLE, 'sim');
    console.log(`seed ${SEED}: ${TREES} sequences, ${PEOPLE} people, ${server.length} emails`);
    expect(server.length).toBeGreaterThan(TREES * PEOPLE);
    expect(missing(server, rehearsed).slice(0, 3)).toEqual([]);
    expect(missing(rehearsed, server).slice(0, 3)).toEqual([]);
  }, 600_000);

  test('a server that decided without the first event of each person would be found out', async () => {
    mutant.on = true;
    try {
      const { server, rehearsed } = await run(30, 12, 'mutant');
      expect(missing(server, rehearsed).length + missing(rehearsed, server).length).toBeGreaterThan(0);
    } finally {
      mutant.on = false;
    }
  }, 120_000);
});
