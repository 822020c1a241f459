import { sql } from 'drizzle-orm';
import fc from 'fast-check';
import { beforeAll, expect, test } from 'vitest';
import {
  atomKinds,
  blankOffer,
  evaluate,
  operators,
  zoneNames,
  type Atom,
  type AtomName,
  type Condition,
  type Facts,
  type SampleWorld,
} from '@ascenso/core';
import { randomAtom, randomCondition } from '../../core/test/random-conditions.ts';
import { AboutVisit, matchingPeople } from '../src/db/conditions.ts';
import { batch } from '../src/db/rows.ts';
import { newId } from '../src/app/ids.ts';
import { loadFacts } from '../src/db/facts.ts';
import { FRIDAY_NOON, useWorld } from './support/world.ts';
import { SEED } from './support/chance.ts';

// Architecture, "Conditions": two ways to answer, held equal on random people and random conditions.
const PEOPLE = 200;
const CONDITIONS = Number(process.env.CONDITIONS ?? 1000);
const HOUR = 3_600_000;
const world = useWorld();
const names = ['order.paid', 'item.viewed', 'lesson.opened'];
let facts: Map<string, Facts>;

const TEXTS = [
  'new',
  'Some',
  'SEASONED',
  'Köln',
  'é',
  '',
  '12',
  '-3.5',
  '2026-03-01',
  '2026-03-06T10:00:00Z',
  'true',
  '0',
  'a,b',
  '%',
  '_',
];
const text = fc.constantFrom(...TEXTS);
const NUMBERS = [0, 1, -1, 12, 12.5, 25, 1000000, 0.1];
const number = fc.constantFrom(...NUMBERS);
const value = fc.oneof(text, number, fc.boolean(), fc.array(text, { maxLength: 3 }), fc.constant(null));
const DATES = ['2026-02-28', '2026-03-05', '2026-03-06T23:00:00Z', '2027-01-01'];
const dates = fc.constantFrom(...DATES);
const attributes = fc.record(
  { skill: value, orders: value, renews_on: fc.oneof(value, dates), plan: value },
  { requiredKeys: [] },
);
const payload = fc.record(
  { total: value, ship: fc.record({ country: text }, { requiredKeys: [] }), lines: fc.array(text, { maxLength: 2 }) },
  { requiredKeys: [] },
);

/** Two that there are, and one that is gone. */
const OFFERS = [newId(), newId(), newId()];
const SEQUENCES = [newId(), newId(), newId()];
const LINKS = ['foldwell.example', 'shop.foldwell.example', 'KITS', 'guide', 'nowhere.example'];
const LISTS = [newId(), newId(), newId()];
const SEGMENTS = [newId(), newId(), newId()];
const asked: SampleWorld = {
  tags: ['teacher', 'kit-owner', 'nobody'],
  lists: LISTS,
  segments: SEGMENTS,
  offers: OFFERS,
  sequences: SEQUENCES,
  links: LINKS,
  events: names,
  // No steps: only a visit can answer what asks for them.
  steps: [],
  attributes: ['skill', 'orders', 'renews_on', 'plan', 'nowhere', 'skill.0'],
  payload: ['total', 'ship.country', 'lines', 'gone.deep'],
  values: [...TEXTS, ...NUMBERS, true, false],
  dates: DATES,
};

/** The very hours, days and weeks that conditions ask about, a moment before and after them, and longer ago. */
const AGO = (i: number) => [0, 1, 2, 24, 47, 48, 49, 120, 719, 720, 721, 5000][i % 12]! * HOUR + ((i >> 2) % 3) - 1;

/** How they joined, the last of which counts; of every third it is not known. */
async function consented(memberships: { p: string; list: string }[]): Promise<void> {
  const { db } = world.connection;
  const how = ['form', 'import', 'api', 'hand', 'sequence', 'preferences'];
  const sources = how.map((h) => ({ id: newId(), h }));
  await db.execute(
    sql`insert into consent_sources (workspace_id, id, how, label, words) select ${world.ws}, n.id, n.h, '', '' from jsonb_to_recordset(${batch(sources)}) as n(id uuid, h text)`,
  );
  const consents = memberships.flatMap((m, i) =>
    i % 3 === 0 ? [] : [1, 2].map((at) => ({ ...m, id: newId(), source: sources[(i * at) % 6]?.id, at })),
  );
  await db.execute(
    sql`insert into consents (workspace_id, person_id, id, list_id, what, at, source_id) select ${world.ws}, n.p, n.id, n.list, 'joined', n."at", n.source from jsonb_to_recordset(${batch(consents)}) as n(p uuid, id uuid, list uuid, source uuid, "at" bigint)`,
  );
}

/** Passages under way and ended in every way, some of people who are held out. */
async function passed(people: string[]): Promise<void> {
  const visits = people.flatMap((p, i) =>
    SEQUENCES.slice(0, 2).flatMap((sequence, k) =>
      Array.from({ length: (i + k) % 3 }, (_, n) => ({
        id: newId(),
        p,
        sequence,
        cause: newId(),
        status: n === 1 || i % 4 ? 'done' : 'active',
        ending: n === 1 || i % 4 ? ['end', 'goal', 'left'][(i + k + n) % 3] : null,
        out: i % 7 === 0,
      })),
    ),
  );
  await world.connection.db.execute(sql`
    insert into visits (workspace_id, id, sequence_id, version, person_id, cause_id, status, ending, held_out, entered_at, arrived_at, due_at, wake_at, held, step_times, entry, entry_at)
    select ${world.ws}, n.id, n.sequence, 1, n.p, n.cause, n.status, n.ending, n.out, 0, 0, 0, 0, false, '{}', '{}', 0
    from jsonb_to_recordset(${batch(visits)}) as n(id uuid, p uuid, sequence uuid, cause text, status text, ending text, out boolean)`);
}

/** Emails of several sequences: sent, returned, a test; opened and clicked at every distance, by links of either kind. */
async function mailed(people: string[]): Promise<void> {
  const { db } = world.connection;
  const links = [
    { address: 'https://foldwell.example/kits', label: 'See the kits' },
    { address: 'HTTPS://Shop.Foldwell.Example:8080/x', label: 'Shop' },
    { address: '{{ event.return_to }}', label: 'The guide' },
    { address: 'https://other.example/?foldwell.example', label: '' },
  ];
  const program = { links, repeats: [{ links: [{ address: 'https://nowhere.example', label: 'A kit' }] }] };
  await db.execute(
    sql`insert into programs (workspace_id, hash, program, sender) values (${world.ws}, 'p', ${JSON.stringify(program)}::jsonb, '{}')`,
  );
  const sends = people.flatMap((p, i) =>
    Array.from({ length: i % 5 }, (_, n) => ({
      id: newId(),
      p,
      visit: n === 3 ? null : newId(),
      status: ['sent', 'sent', 'sent', 'bounced', 'queued'][(i + n) % 5],
      due: FRIDAY_NOON - AGO(i + n),
      opened: (i + n) % 3 ? FRIDAY_NOON - AGO(i + 2 * n) : null,
      clicked: (i + n) % 4 === 1 ? FRIDAY_NOON - AGO(i + 3 * n) : null,
    })),
  );
  await db.execute(sql`
    insert into sends (workspace_id, id, visit_id, sequence_id, version, step, person_id, program_hash, status, due_at, next_at, opened_at, clicked_at)
    select ${world.ws}, n.id, n.visit, ${SEQUENCES[0]}, 1, 'a', n.p, 'p', n.status, n.due, 0, n.opened, n.clicked
    from jsonb_to_recordset(${batch(sends)}) as n(id uuid, p uuid, visit uuid, status text, due bigint, opened bigint, clicked bigint)`);
  const clicks = sends.flatMap((s, i) =>
    Array.from({ length: i % 3 }, (_, n) => ({
      id: newId(),
      s: s.id,
      link: (i + n) % 6 === 5 ? 0 : (i + n) % 5,
      repeat: (i + n) % 6 === 5 ? 0 : null,
      at: FRIDAY_NOON - AGO(i + n),
      prefetched: i % 11 === 0,
    })),
  );
  await db.execute(sql`
    insert into readings (workspace_id, send_id, id, kind, link_number, link_repeat, at, prefetched)
    select ${world.ws}, n.s, n.id, 'click', n.link, n.repeat, n."at", n.prefetched
    from jsonb_to_recordset(${batch(clicks)}) as n(s uuid, id uuid, link int, repeat int, "at" bigint, prefetched boolean)`);
}

beforeAll(async () => {
  const { db } = world.connection;
  // The last of each is gone.
  const lists = LISTS.slice(0, 2);
  for (const id of lists)
    await db.execute(sql`insert into lists (workspace_id, id, name) values (${world.ws}, ${id}, ${id})`);
  const zones = zoneNames.filter((z) => z.includes('/'));
  const people = fc
    .sample(
      fc.record({
        attributes,
        tags: fc.subarray(['teacher', 'kit-owner']),
        zone: fc.option(fc.constantFrom(...zones)),
        points: fc.constantFrom(0, 10, 11, 26, -6, 2000),
      }),
      { numRuns: PEOPLE, seed: SEED + 1 },
    )
    .map((p, i) => ({ ...p, id: newId(), email: `p${i}@readers.example` }));
  await db.execute(sql`insert into people (workspace_id, id, email, attributes, tags, zone, points, created_at)
    select ${world.ws}, n.id, n.email, n.attributes, array(select jsonb_array_elements_text(n.tags)), n.zone, n.points, 0 from jsonb_to_recordset(${batch(people)}) as n(id uuid, email text, attributes jsonb, tags jsonb, zone text, points int)`);
  const rules = fc.sample(randomAtom({ ...asked, segments: [] }), { numRuns: 2, seed: SEED });
  for (const [i, rule] of rules.entries())
    await db.execute(
      sql`insert into segments (workspace_id, id, name, rule, created_at) values (${world.ws}, ${SEGMENTS[i]}, ${i}, ${JSON.stringify(rule)}::jsonb, 0)`,
    );
  const memberships = people.flatMap((p, i) =>
    lists.flatMap((list, k) =>
      i % (k + 2)
        ? []
        : [{ p: p.id, list, state: ['confirmed', 'confirmed', 'left', 'pending'][i % 4], at: FRIDAY_NOON - AGO(i) }],
    ),
  );
  await db.execute(
    sql`insert into memberships (workspace_id, person_id, list_id, state, at) select ${world.ws}, n.p, n.list, n.state, n."at" from jsonb_to_recordset(${batch(memberships)}) as n(p uuid, list uuid, state text, "at" bigint)`,
  );
  await consented(memberships);
  await passed(people.map((p) => p.id));
  await mailed(people.map((p) => p.id));
  const happened = fc.sample(
    fc.record({
      person: fc.nat(PEOPLE - 1),
      name: fc.constantFrom(...names),
      ago: fc.oneof(fc.nat(80 * HOUR), fc.nat(600 * 24 * HOUR), fc.constantFrom(0, 24 * HOUR, 48 * HOUR, -HOUR)),
      payload,
    }),
    { numRuns: 900, seed: SEED + 2 },
  );
  const events = happened.map((e) => ({
    id: newId(),
    p: people[e.person]?.id,
    name: e.name,
    at: FRIDAY_NOON - e.ago,
    payload: e.payload,
  }));
  await db.execute(
    sql`insert into events (workspace_id, person_id, id, name, occurred_at, payload) select ${world.ws}, n.p, n.id, n.name, n.at, n.payload from jsonb_to_recordset(${batch(events)}) as n(p uuid, id uuid, name text, at bigint, payload jsonb)`,
  );
  for (const offer of OFFERS.slice(0, 2))
    await db.execute(
      sql`insert into offers (workspace_id, id, doc, secret, created_at) values (${world.ws}, ${offer}, ${JSON.stringify({ ...blankOffer(), name: offer })}::jsonb, 'x', 0)`,
    );
  // Ends on the very hours and days that conditions ask about, before, after and never; used before, after and at the moment.
  const hours = fc.constantFrom(-800, -48, -2, 0, 1, 2, 23, 24, 25, 48, 720, 5000);
  const given = fc.sample(
    fc.record({
      p: fc.nat(PEOPLE - 1),
      offer: fc.nat(1),
      opened: fc.constantFrom(-900, -1, 0, 1),
      closes: fc.option(hours),
      used: fc.option(fc.constantFrom(-1, 0, 1)),
    }),
    { numRuns: 900, seed: SEED + 4 },
  );
  const at = (h: number | null) => (h === null ? null : FRIDAY_NOON + h * HOUR);
  const grants = given.map((g) => ({
    p: people[g.p]?.id,
    offer: OFFERS[g.offer],
    opened: at(g.opened),
    closes: at(g.closes),
    used: at(g.used),
  }));
  await db.execute(
    sql`insert into offer_grants (workspace_id, person_id, offer_id, opened_at, closes_at, used_at, discount) select ${world.ws}, n.p, n.offer, n.opened, n.closes, n.used, '{"kind":"delivery"}'
        from jsonb_to_recordset(${batch(grants)}) as n(p uuid, offer uuid, opened bigint, closes bigint, used bigint) on conflict do nothing`,
  );
  facts = await loadFacts(
    db,
    people.map((p) => ({
      workspace_id: world.ws,
      visit_id: p.id,
      person_id: p.id,
      events: names,
      emails: false,
      links: false,
      offers: OFFERS,
      segments: SEGMENTS,
      mail: true,
      mailLinks: true,
      joined: true,
      sequences: SEQUENCES,
    })),
  );
  expect(facts.size).toBe(PEOPLE);
});

test(`the SQL of ${CONDITIONS} random conditions answers for ${PEOPLE} people as evaluate does, every atom and operator both ways (seed ${SEED})`, async () => {
  const seen = new Map<string, Set<boolean>>();
  const note = (what: string, answer: boolean) => (seen.get(what) ?? seen.set(what, new Set()).get(what))?.add(answer);
  const by = (c: Condition) =>
    [...facts]
      .flatMap(([id, f]) =>
        evaluate(c, { facts: f, now: FRIDAY_NOON, enteredAt: FRIDAY_NOON, stepTimes: {} }) ? [id] : [],
      )
      .sort();
  // Half of them single questions, as many of each kind, so that every way of asking comes out both ways.
  const ofKind = (k: AtomName) => fc.sample(randomAtom(asked, [k]), { numRuns: CONDITIONS / 16, seed: SEED });
  // Every operator over every sort of value: chance alone leaves one out now and then.
  const tests = operators.flatMap((op): Condition[] =>
    op === 'is set' || op === 'is not set'
      ? [{ kind: 'attribute', test: { field: 'orders', op } }]
      : op === 'is one of' || op === 'is none of'
        ? [...NUMBERS, ...TEXTS].map((v) => ({
            kind: 'attribute',
            test: { field: 'orders', op, value: [String(v), 'seasoned'] },
          }))
        : [...NUMBERS, ...TEXTS, ...DATES].map((v) => ({
            kind: 'attribute',
            test: { field: DATES.includes(String(v)) ? 'renews_on' : 'orders', op, value: v },
          })),
  );
  const conditions = [
    ...tests,
    ...(Object.keys(atomKinds) as AtomName[]).filter((k) => k !== 'email').flatMap(ofKind),
    ...fc.sample(randomCondition(asked), { numRuns: CONDITIONS / 2, seed: SEED }),
  ];
  for (const c of conditions) {
    const expected = by(c);
    const found = await matchingPeople(world.connection.db, world.ws, c, FRIDAY_NOON);
    if (JSON.stringify(found) !== JSON.stringify(expected)) {
      const [odd] = [...found.filter((id) => !expected.includes(id)), ...expected.filter((id) => !found.includes(id))];
      throw new Error(`SQL and evaluate differ on ${JSON.stringify(c)} for ${JSON.stringify(facts.get(odd ?? ''))}`);
    }
    const a = c as Atom;
    const both = [expected.length > 0, expected.length < PEOPLE] as const;
    const kinds = [
      c.kind,
      ...(a.kind === 'event' && a.per ? ['event per'] : []),
      ...(a.kind === 'offer' ? [`offer ${a.state}`] : []),
      ...(a.kind === 'date' ? [`date ${a.when}`] : []),
      ...(a.kind === 'mail' ? [`mail ${a.link ? a.link.by : a.what}`] : []),
      ...(a.kind === 'sequence' ? [`sequence ${a.state}`] : []),
      ...(a.kind === 'attribute' ? [`attribute ${a.test.op}`] : []),
    ];
    for (const k of kinds) for (const [i, was] of both.entries()) if (was) note(k, i === 0);
  }
  // Whatever never came out both ways was not tested.
  for (const what of [
    'all',
    'any',
    'not',
    ...Object.keys(atomKinds).filter((k) => k !== 'email' && k !== 'offer' && k !== 'attribute'),
    'event per',
    ...['open', 'closing', 'closed', 'used'].map((s) => `offer ${s}`),
    ...['next', 'past', 'anniversary'].map((w) => `date ${w}`),
    ...['got', 'opened', 'clicked', 'host', 'words'].map((w) => `mail ${w}`),
    ...['inside', 'ended', 'goal'].map((s) => `sequence ${s}`),
    ...operators.map((o) => `attribute ${o}`),
  ])
    expect([what, [...(seen.get(what) ?? [])].sort()]).toEqual([what, [false, true]]);
});

test('what only a visit can answer is refused, not guessed', async () => {
  const { db } = world.connection;
  for (const c of [
    { kind: 'email', step: 'a', what: 'opened', did: true },
    { kind: 'event', event: 'order.paid', done: true, since: { kind: 'entry' }, where: [] },
    {
      kind: 'not',
      of: { kind: 'event', event: 'order.paid', done: true, since: { kind: 'step', step: 'a' }, where: [] },
    },
  ] as Condition[])
    await expect(matchingPeople(db, world.ws, c, FRIDAY_NOON)).rejects.toThrow(AboutVisit);
});
