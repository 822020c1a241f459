import { sql } from 'drizzle-orm';
import request from 'supertest';
import { expect, test } from 'vitest';
import { blankOffer, type Offer } from '@ascenso/core';
import { MONEY_RULES } from '@ascenso/contracts';
import { newId } from '../src/app/ids.ts';
import { rows } from '../src/db/rows.ts';
import { tallyRound } from '../src/engine/tallying.ts';
import { recordClick } from '../src/people/readings.ts';
import { Chance, SEED } from './support/chance.ts';
import { emailStep, owner, useWorld, waitStep } from './support/world.ts';

// An order counts to one email at most: to the one whose offer's code was used, otherwise to the last one clicked.
const HOUR = 3_600_000;
const DAY = 24 * HOUR;
const world = useWorld();
const chance = new Chance(SEED);
const db = () => world.connection.db;

interface Known {
  event: string;
  at: number;
  amount: number;
  currency: string;
  number: string | null;
  by: string | null;
  email: string | null;
  reader: string;
}
const known = () =>
  rows<Known>(
    db(),
    sql`select o.id as event, o.at, o.amount, o.currency, o.number, o."by", o.step as email, p.email as reader
        from orders o join people p on p.workspace_id = o.workspace_id and p.id = o.person_id order by o.at, o.id`,
  );
const stepOf = (name: string, steps: { id: string; name?: string }[]) =>
  steps.find((s) => s.name === name)?.id as string;

/** Clicks what was sent to somebody by one step, or lets a mail program fetch it. */
async function clicks(reader: string, step: string, at: number, prefetched = false): Promise<void> {
  const [send] = await rows<{ id: string }>(
    db(),
    sql`select s.id from sends s join people p on p.workspace_id = s.workspace_id and p.id = s.person_id where p.email = ${reader} and s.step = ${step}`,
  );
  const key = { workspaceId: world.ws, sendId: send?.id as string };
  await recordClick(db(), key, { number: 0, repeat: null, item: null }, 'https://foldwell.example/', at, prefetched);
}

test(`orders of many readers count as somebody would who reads it all again (seed ${SEED})`, async () => {
  const steps = [emailStep('First'), waitStep(1), emailStep('Second'), waitStep(1), emailStep('Third')];
  const emails = steps.filter((s) => s.kind === 'email');
  await world.live({ steps });
  const readers = Array.from({ length: 12 }, (_, i) => `buys${i}@readers.example`);
  const begun = await world.now();
  for (const r of readers) await world.join(r);
  await world.ahead(begun + 3 * DAY);
  // What each did, told in random order of time but for each reader forward.
  const did: { reader: string; at: number; step?: string; total?: number }[] = [];
  for (const reader of readers)
    for (let at = begun + 3 * DAY, i = 0; i < 8; i++) {
      at += chance.pick([60_000, HOUR, 2 * DAY, 4 * DAY, 5 * DAY]);
      if (chance.is(0.6)) did.push({ reader, at, step: chance.pick(emails).id });
      else did.push({ reader, at, total: chance.whole(1, 99_999) });
    }
  did.sort((a, b) => a.at - b.at);
  for (const d of did) {
    await world.stand(Math.max(d.at, await world.now()));
    if (d.step !== undefined) {
      await clicks(d.reader, d.step, d.at);
      await clicks(d.reader, chance.pick(emails).id, d.at, true);
    } else
      await world.event({ type: 'order.paid', subject: d.reader, time: d.at, data: { total: (d.total ?? 0) / 100 } });
  }
  const should = (days: number) =>
    did
      .filter((d) => d.total !== undefined)
      .map((order) => {
        const before = did
          .slice(0, did.indexOf(order))
          .filter((d) => d.reader === order.reader && d.step !== undefined);
        const last = before.findLast((c) => c.at > order.at - days * DAY);
        return [order.reader, order.at, order.total, last?.step ?? null].join(' ');
      })
      .sort();
  const are = async () => (await known()).map((o) => [o.reader, o.at, o.amount, o.email].join(' ')).sort();
  expect(await are()).toEqual(should(5));
  expect(new Set(should(5).map((o) => o.split(' ')[3])).size).toBeGreaterThan(2);

  // Another rule counts them all anew.
  const own = request.agent(world.app);
  await own.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
  await own
    .put('/api/money')
    .send({ ...MONEY_RULES, days: 1 })
    .expect(200);
  while ((await tallyRound(world.connection)) > 0);
  expect(await are()).toEqual(should(1));
  await own
    .put('/api/money')
    .send({ ...MONEY_RULES, days: 0 })
    .expect(422);
  await own.put('/api/money').send(MONEY_RULES).expect(200);
});

test('a code counts to its offer’s email, whatever was clicked; what cannot be read is no order; one told twice is one', async () => {
  const offer: Offer = { ...blankOffer(), name: 'Kit', codes: { kind: 'shared', code: 'KIT-TEN' } };
  const id = newId();
  await db().execute(
    sql`insert into offers (workspace_id, id, doc, secret, created_at) values (${world.ws}, ${id}, ${JSON.stringify(offer)}::jsonb, 'k', 0)`,
  );
  const [plain, offers] = [emailStep('Plain'), emailStep('Offer')];
  offers.email.offer = id;
  await world.live({
    name: 'Offers',
    triggers: [{ kind: 'event', event: 'kit.asked', where: [] }],
    list: null,
    steps: [offers, waitStep(1), plain],
  });
  const reader = 'code@readers.example';
  await world.join(reader);
  await world.event({ type: 'kit.asked', subject: reader });
  await world.ahead((await world.now()) + 2 * DAY);
  const now = await world.now();
  await clicks(reader, plain.id, now);
  const order = (data: Record<string, unknown>) =>
    world.event({ type: 'order.paid', subject: reader, time: now, data }).expect(202);
  await order({ total: '19.99', code: 'kit ten', number: 7 });
  await order({ total: 19.99, code: 'KITTEN', number: 7 });
  await order({ total: 500, currency: 'jpy', code: 'UNKNOWN-1', number: 'B-8' });
  await order({ total: -3 });
  await order({ total: null });
  await order({ code: 'KIT-TEN' });
  const mine = (await known()).filter((o) => o.reader === reader);
  expect(mine.map(({ amount, currency, number, by, email }) => [amount, currency, number, by, email])).toEqual([
    [1999, 'EUR', '7', 'code', stepOf('Offer', [plain, offers])],
    [500, 'JPY', 'B-8', 'click', stepOf('Plain', [plain, offers])],
  ]);
});
