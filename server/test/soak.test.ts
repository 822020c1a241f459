import type { ChildProcess } from 'node:child_process';
import { isDeepStrictEqual } from 'node:util';
import { sql } from 'drizzle-orm';
import request from 'supertest';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { runFrom } from '../src/app/clock.ts';
import { firstRow, rows } from '../src/db/rows.ts';
import { unsubscribeFrom } from '../src/people/readings.ts';
import { Chance, SEED } from './support/chance.ts';
import { ended, startEngine, until } from './support/killing.ts';
import { recount } from './support/recount.ts';
import { startRoughServer, type RoughServer } from './support/rough-server.ts';
import { cloudEvent, emailStep, useWorld, waitStep } from './support/world.ts';

// Engines under everything at once: a receiving server that is slow, greylists, refuses and hangs, doors that post, a kill
// every few seconds, a poisoned row a minute, and a practice clock that leaps ahead. `npm run soak` does it for ten minutes.
const MINUTES = Number(process.env.SOAK_MINUTES ?? 1);
const PEOPLE = Number(process.env.PEOPLE ?? 20_000);
const LEASE = 2_000;
const ANSWER = 8_000;
/** What may pass between a fact and the last email that was in hand by then: a lease, and a round on a busy machine. */
const ROUND = 12_000;
/** Messages that one process may have in hand when it is killed. */
const IN_HAND = 60;
const MINUTE = 60_000;
const world = useWorld();
const chance = new Chance(SEED);
const db = () => world.connection.db;
let server: RoughServer;
const engines: ChildProcess[] = [];

beforeAll(async () => {
  server = await startRoughServer(new Chance(SEED + 1));
  await db().execute(sql`
    with made as (
      insert into people (workspace_id, id, email, attributes, created_at)
      select ${world.ws}, gen_random_uuid(), 'soak' || i || '@readers.example', '{}', 0 from generate_series(1, ${PEOPLE}) i returning id)
    insert into memberships (workspace_id, person_id, list_id, state, at) select ${world.ws}, id, ${world.list}, 'confirmed', 0 from made`);
  const entry = { again: 'after-leaving' as const, days: 1, key: '', holdout: 0 };
  const goal = { kind: 'event' as const, event: 'soak.paid', done: true, since: { kind: 'entry' as const }, where: [] };
  await world.live({
    name: 'Cart',
    list: null,
    triggers: [{ kind: 'event', event: 'soak.begun', where: [] }],
    goal,
    entry,
    steps: [
      emailStep('Cart 1'),
      waitStep(20, 'minutes'),
      emailStep('Cart 2'),
      waitStep(1, 'hours'),
      emailStep('Cart 3'),
    ],
  });
  await world.live({
    name: 'Letters',
    triggers: [{ kind: 'event', event: 'soak.asked', where: [] }],
    entry,
    steps: [emailStep('Letter 1'), waitStep(30, 'minutes'), emailStep('Letter 2')],
  });
});
afterAll(async () => {
  for (const e of engines) e.kill('SIGKILL');
  await Promise.all(engines.map(ended));
  await server.close();
});

const start = async () =>
  void engines.push(await startEngine(world, LEASE, { SMTP_URL: server.url, SMTP_ANSWER_MS: String(ANSWER) }));
const email = (i: number) => `soak${i}@readers.example`;

/** What this test did to the server, and when the server had said yes to it (system clock, ms). */
const paid: { to: string; at: number }[] = [];
const stopped: { to: string; at: number }[] = [];
const poisoned: string[] = [];
let kills = 0;
let posted = 0;
const refusedByDoors: string[] = [];

async function post(events: object[]): Promise<void> {
  const answer = await request(world.app)
    .post('/intake/events')
    .set('Authorization', `Bearer ${world.key}`)
    .set('Content-Type', 'application/cloudevents-batch+json')
    .send(JSON.stringify(events));
  posted += events.length;
  if (answer.status !== 202) refusedByDoors.push(`${answer.status} ${answer.text}`);
}

/** A shop that tells of many people at once, of some again, and of some a little late. */
async function shopping(): Promise<void> {
  const now = await world.now();
  const late = () => now - chance.pick([0, 0, 0, 20_000, 4 * MINUTE]);
  const some = Array.from({ length: 40 }, () => chance.whole(1, PEOPLE));
  await post(
    some.map((i) =>
      cloudEvent({ type: chance.is(0.6) ? 'soak.begun' : 'soak.asked', subject: email(i), time: late() }),
    ),
  );
  const buyers = some.filter(() => chance.is(0.25));
  if (buyers.length > 0) {
    await post(buyers.map((i) => cloudEvent({ type: 'soak.paid', subject: email(i), time: now })));
    for (const i of buyers) paid.push({ to: email(i), at: Date.now() });
  }
}

async function leaving(): Promise<void> {
  const sent = await firstRow<{ id: string; email: string }>(
    db(),
    sql`select s.id, p.email from sends s join people p on p.workspace_id = s.workspace_id and p.id = s.person_id
        where s.status = 'sent' and s.visit_id is not null and p.unsubscribed_at is null order by s.sent_at desc limit 1`,
  );
  if (!sent) return;
  await unsubscribeFrom(db(), { workspaceId: world.ws, sendId: sent.id }, null, await world.now());
  stopped.push({ to: sent.email, at: Date.now() });
}

async function poison(): Promise<void> {
  const one = await firstRow<{ id: string }>(
    db(),
    sql`update visits set version = 9999 where id = (select id from visits where status = 'active' order by random() limit 1 for update skip locked) returning id`,
  );
  if (one) poisoned.push(one.id);
}

const leap = async (ms: number) => runFrom(db(), (await world.now()) + ms);

const told: { rule: string; checked: number; broken: number; what?: unknown }[] = [];
function rule(name: string, checked: number, broken: readonly unknown[]): void {
  const line = {
    rule: name,
    checked,
    broken: broken.length,
    ...(broken.length > 0 ? { what: broken.slice(0, 3) } : {}),
  };
  told.push(line);
  console.log(JSON.stringify(line));
}

test(`${MINUTES} min of everything at once (seed ${SEED})`, { timeout: (MINUTES + 5) * MINUTE }, async () => {
  await runFrom(db(), await world.now());
  await Promise.all([start(), start(), start()]);
  const end = Date.now() + MINUTES * MINUTE;
  const every = (ms: number, work: () => Promise<void>) =>
    (async () => {
      for (let next = Date.now() + ms; Date.now() < end; next = Date.now() + ms) {
        await until('it is time', () => Date.now() >= next, MINUTE);
        await work();
      }
    })();
  await poisonSoon();
  await Promise.all([
    every(150, shopping),
    every(900, leaving),
    every(3_000, () => leap(6 * MINUTE)),
    every(MINUTE, poison),
    every(4_000, async () => {
      const victim = engines.shift() as ChildProcess;
      victim.kill('SIGKILL');
      await ended(victim);
      kills++;
      await start();
    }),
  ]);

  // What was poisoned stood still and was told; mended, it goes on like the rest.
  const aside = await rows<{ item: string }>(db(), sql`select item from set_aside where kind = 'visit'`);
  const others = await rows(
    db(),
    sql`select kind, item, reason from set_aside where reason <> 'Version 9999 is missing'`,
  );
  const looked = await rows<{ id: string }>(
    db(),
    sql`select id from visits where id = any (${sql.param(poisoned)}::uuid[]) and version = 9999 and due_at < ${(await world.now()) - 5 * MINUTE}`,
  );
  rule(
    'a poisoned row is set aside',
    looked.length,
    looked.filter((v) => !aside.some((a) => a.item === v.id)),
  );
  rule('nothing else is set aside', aside.length, others);
  await db().execute(sql`update visits set version = 1 where version = 9999`);
  server.calmDown();
  await until(
    'everything has come to its end',
    async () => {
      await leap(3 * 60 * MINUTE);
      const left = await firstRow<{ n: number }>(
        db(),
        sql`select (select count(*)::int from sends where status in ('queued', 'leased')) + (select count(*)::int from visits where status = 'active') as n`,
      );
      return left?.n === 0;
    },
    4 * MINUTE,
  );
  await judge();
  expect(told.filter((t) => t.broken > 0)).toEqual([]);
});

/** One right at the beginning, so that a minute of it has one. */
async function poisonSoon(): Promise<void> {
  await shopping();
  await poison();
}

async function judge(): Promise<void> {
  const sends = await rows<{ id: string; status: string; to: string; visit: string; step: string }>(
    db(),
    sql`select s.id, s.status, p.email as to, s.visit_id as visit, s.step from sends s join people p on p.workspace_id = s.workspace_id and p.id = s.person_id where s.visit_id is not null`,
  );
  const { receipts } = server;
  const idOf = (messageId: string) => messageId.slice(1, messageId.indexOf('@'));
  const byMessage = new Map<string, typeof receipts>();
  for (const r of receipts) byMessage.set(idOf(r.messageId), [...(byMessage.get(idOf(r.messageId)) ?? []), r]);
  const copies = [...byMessage.values()].filter((c) => c.filter((r) => r.answer !== 'refused').length > 1);
  const extra = copies.reduce((sum, c) => sum + c.length - 1, 0);
  rule(
    'what is handed over twice is the same bytes',
    copies.length,
    copies.filter((c) => new Set(c.map((r) => r.sha256)).size > 1).map((c) => c[0]?.messageId),
  );
  rule(
    'and only what a killed process had in hand',
    extra,
    extra > kills * IN_HAND ? [`${extra} copies after ${kills} kills`] : [],
  );
  rule(
    'nothing is lost: what is told as sent has come',
    sends.filter((s) => s.status === 'sent').length,
    sends.filter((s) => s.status === 'sent' && !byMessage.get(s.id)?.some((r) => r.answer === 'taken')),
  );
  // What a killed process had handed over and not recorded can be taken back meanwhile: the goal was reached, say.
  const unknown = sends.filter(
    (s) => s.status === 'cancelled' && byMessage.get(s.id)?.some((r) => r.answer === 'taken'),
  );
  rule('and what has come is told as sent', byMessage.size, unknown.length > kills * IN_HAND ? unknown : []);
  const once = new Set(sends.map((s) => `${s.visit} ${s.step}`));
  rule('no step is sent twice in one passage', sends.length, once.size === sends.length ? [] : ['a step twice']);
  const through = await rows<{ id: string; name: string; sends: number }>(
    db(),
    sql`select v.id, q.name, (select count(*)::int from sends s where s.workspace_id = v.workspace_id and s.visit_id = v.id) as sends
        from visits v join sequences q on q.workspace_id = v.workspace_id and q.id = v.sequence_id
        where exists (select 1 from reasons t where t.workspace_id = v.workspace_id and t.person_id = v.person_id and t.visit_id = v.id and t.code = 'reached-end')`,
  );
  // One that was decided and then taken back stands in the outbox too, with its reason.
  rule(
    'for who came to the end, every email on the way was decided',
    through.length,
    through.filter((v) => v.sends < (v.name === 'Cart' ? 3 : 2)),
  );
  // Whoever begins again after paying gets mail again: what counts is a passage that stood when they paid.
  const begun = await rows<{ id: string; to: string; done: string }>(
    db(),
    sql`select s.id, p.email as to, t.code as done from sends s join people p on p.workspace_id = s.workspace_id and p.id = s.person_id
        join reasons t on t.workspace_id = s.workspace_id and t.visit_id = s.visit_id and t.person_id = s.person_id and t.code = 'goal-reached' where s.status = 'sent'`,
  );
  rule(
    'no email more than a round after the goal was known',
    begun.length,
    begun.filter((s) => {
      const handed = byMessage.get(s.id)?.[0]?.at ?? 0;
      return (
        paid.some((p) => p.to === s.to && p.at + ROUND < handed) &&
        !paid.some((p) => p.to === s.to && p.at >= handed - ROUND)
      );
    }),
  );
  const letters = receipts.filter((r) => r.subject.startsWith('Letter'));
  rule(
    'no email more than a round after an unsubscribe',
    letters.length,
    letters.filter((r) => stopped.some((s) => s.to === r.to && s.at + ROUND < r.at)),
  );
  const bounced = await rows<{ email: string }>(db(), sql`select email from people where bounced_at is not null`);
  rule(
    'only whose mailbox is not there is silenced',
    bounced.length,
    bounced.filter((b) => !server.gone.has(b.email)),
  );
  const failed = sends.filter((s) => s.status === 'failed').length;
  const hung = receipts.filter((r) => r.answer !== 'taken').length;
  rule(
    'what is given up was refused or never answered',
    failed,
    failed > hung ? [`${failed} given up, ${hung} refused or hung`] : [],
  );
  const { counters, rows: counted, size } = await recount(world);
  rule(
    'counters say what the rows say, whatever was killed',
    size,
    isDeepStrictEqual(counters, counted) ? [] : ['they differ'],
  );
  rule('the doors took everything', posted, refusedByDoors);
  console.log(
    JSON.stringify({
      seed: SEED,
      minutes: MINUTES,
      people: PEOPLE,
      kills,
      posted,
      sends: sends.length,
      handedOver: receipts.length,
      extra,
      poisoned: poisoned.length,
    }),
  );
}
