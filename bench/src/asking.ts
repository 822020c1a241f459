import { sql } from 'drizzle-orm';
import type { Condition } from '@ascenso/core';
import { countMatching, estimateMatching } from '../../server/src/db/conditions.ts';
import type { Executor } from '../../server/src/db/executor.ts';
import { firstRow } from '../../server/src/db/rows.ts';
import { slower } from './support/measure.ts';
import { NOW, openWorld } from './support/world.ts';

/** A tenth of them with ASKING_TENTH=1: filling a million takes minutes. */
const PEOPLE = process.env.ASKING_TENTH ? 100_000 : 1_000_000;
const EVENTS = 10 * PEOPLE;
const DAY = 86_400_000;

/** Bought twice or more in the last 90 days, lives somewhere with a tag, and is new: three questions. */
const THREE: Condition = {
  kind: 'all',
  of: [
    { kind: 'tag', tag: 'kit-owner', has: true },
    { kind: 'attribute', test: { field: 'skill', op: 'is', value: 'new' } },
    {
      kind: 'event',
      event: 'order.paid',
      done: true,
      since: { kind: 'period', amount: 90, unit: 'days' },
      where: [{ field: 'total', op: 'over', value: 25 }],
    },
  ],
};

/**
 * How many of a million people with ten million events fit a segment of three questions, in ms: the estimate that is shown
 * while it is written, and the exact count, each against what somebody would write by hand for this one question.
 */
export async function asking(): Promise<void> {
  const { connection, ws, close } = await openWorld();
  const { db } = connection;
  try {
    await db.execute(sql`
      insert into people (workspace_id, id, email, attributes, tags, zone, points, created_at)
      select ${ws}, gen_random_uuid(), 'reader' || i || '@bench.example', jsonb_build_object('skill', (array['new','some','seasoned'])[1 + i % 3], 'orders', i % 40, 'city', 'Lisboa ' || i % 500),
        case when i % 4 = 0 then array['kit-owner'] else array['teacher'] end, (array['Europe/Lisbon','America/New_York','Asia/Tokyo', null])[1 + i % 4], i % 100, ${NOW} - (i % 700) * ${DAY}::bigint
      from generate_series(1, ${PEOPLE}) i`);
    await db.execute(sql`drop index events_name, events_kind`);
    // In the order of the key, so that it grows at its end.
    await db.execute(sql`
      insert into events (workspace_id, person_id, id, name, occurred_at, payload)
      select ${ws}, p.id, gen_random_uuid(), (array['order.paid','item.viewed','lesson.opened','page.reached','order.begun'])[1 + (p.n + k) % 5],
        ${NOW} - k * 36 * ${DAY}::bigint - p.n % 30 * ${DAY}::bigint, jsonb_build_object('total', (p.n + k) % 60, 'page', '/kits/' || p.n % 40)
      from (select id, row_number() over (order by id) as n from people where workspace_id = ${ws} order by id) p
        cross join lateral (select k from generate_series(${EVENTS / PEOPLE} - 1, 0, -1) k) k`);
    console.error('filled, indexing');
    await db.execute(sql`create index events_name on events (workspace_id, person_id, name, occurred_at)`);
    await db.execute(sql`create index events_kind on events (workspace_id, name, occurred_at)`);
    console.error('filled');
    await db.execute(sql`analyze people`);
    await db.execute(sql`analyze events`);
    const exact = await countMatching(db, ws, THREE, NOW);
    // As a screen asks: on the connections of their own, without a compiler that costs more than it saves.
    const ask = <T>(question: (on: Executor) => Promise<T>) =>
      connection.asking.ask('bench', new AbortController().signal, question);
    const byHand = () =>
      ask((on) =>
        firstRow<{ n: number }>(
          on,
          sql`select count(*) as n from people p where p.workspace_id = ${ws} and p.tags @> array['kit-owner'] and p.attributes->>'skill' = 'new'
                and exists (select 1 from events e where e.workspace_id = p.workspace_id and e.person_id = p.id and e.name = 'order.paid'
                  and e.occurred_at >= ${NOW - 90 * DAY} and (e.payload->>'total')::numeric > 25)`,
        ),
      );
    const about = await ask((on) => estimateMatching(on, ws, THREE, NOW));
    console.error(`${exact} fit, ${(await byHand())?.n} by hand, ${about} about, of ${EVENTS / PEOPLE} events each`);
    await slower('segment-exact', () => ask((on) => countMatching(on, ws, THREE, NOW)), byHand);
    await slower('segment-estimate', () => ask((on) => estimateMatching(on, ws, THREE, NOW)), byHand);
  } finally {
    await close();
  }
}
