import { sql } from 'drizzle-orm';
import { agent, type Agent } from 'supertest';
import { beforeAll, expect, test } from 'vitest';
import type { Foreseen } from '@ascenso/contracts';
import { DAY, HOUR } from '@ascenso/core';
import { rows } from '../src/db/rows.ts';
import { advanceRound } from '../src/engine/advance-loop.ts';
import { emailStep, FRIDAY_NOON, owner, useWorld, waitStep } from './support/world.ts';

// People are put into a sequence by hand: it is said before who gets what and when, it is so afterwards, and it can be taken back.
const world = useWorld();
let ines: Agent;
beforeAll(async () => {
  ines = agent(world.app);
  await ines.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
});

let n = 0;
/** Readers of the list, none of them in any sequence but what their joining starts. */
async function readers(count: number): Promise<string[]> {
  const ids: string[] = [];
  for (let i = 0; i < count; i++) {
    const email = `hand${n++}@readers.example`;
    await world.join(email);
    const [person] = await rows<{ id: string }>(world.connection.db, sql`select id from people where email = ${email}`);
    ids.push(person?.id ?? '');
  }
  return ids;
}
const quiet = (steps: Parameters<typeof world.live>[0]['steps']) =>
  world.live({ name: `Kits ${n++}`, triggers: [{ kind: 'event', event: 'never.happens', where: [] }], steps });
const foreseen = async (sequence: string, ids: string[]) =>
  (await ines.post(`/api/sequences/${sequence}/people/foreseen`).send({ who: { ids } }).expect(200)).body as Foreseen;
const add = async (sequence: string, ids: string[]) =>
  (
    await ines
      .post('/api/people/bulk')
      .send({ who: { ids }, what: { kind: 'sequence', sequence } })
      .expect(200)
  ).body as {
    changed: number;
    undo?: string;
  };
/** Every row that a foreseeing could leave behind. */
const everything = async () => {
  const all = [];
  for (const table of ['visits', 'sends', 'traces', 'people', 'mail_days', 'tallies', 'tally_deltas', 'bin', 'events'])
    all.push(
      await rows(
        world.connection.db,
        sql`select to_jsonb(t) as row from ${sql.identifier(table)} t order by to_jsonb(t)::text`,
      ).catch(() => table),
    );
  return all;
};
const mails = (email: string) =>
  world
    .mail()
    .filter((m) => m.to === email)
    .map((m) => m.subject);

test('what is said before comes: emails, moments, and whose second of the day it is; asking leaves nothing', async () => {
  const [a = '', b = '', c = ''] = await readers(3);
  // One of them has had an email today.
  const other = await quiet([emailStep('Another letter')]);
  await add(other, [a]);
  await world.ahead(FRIDAY_NOON + HOUR);
  const sequence = await quiet([waitStep(2, 'hours'), emailStep('The kits'), waitStep(1), emailStep('Later')]);
  const before = await everything();
  const said = await foreseen(sequence, [a, b, c]);
  expect(await everything()).toEqual(before);
  const at = FRIDAY_NOON + 3 * HOUR;
  expect(said).toMatchObject({
    asked: 3,
    seen: 3,
    enter: 3,
    emails: [{ name: 'The kits', people: 3, from: at, until: at, second: 1 }],
  });
  expect(said.some.map((p) => p.id).sort()).toEqual([a, b, c].sort());
  await add(sequence, [a, b, c]);
  await world.ahead(at + 60_000);
  for (const { email } of said.some) expect(mails(email)).toContain('The kits');
  // Whoever is inside already is not said to get it again.
  expect(await foreseen(sequence, [a, b])).toMatchObject({ enter: 0, emails: [], some: [] });
});

test('taken back, nobody gets it; whoever has had the first email stays, and that is said', async () => {
  const ids = await readers(3);
  const now = await world.now();
  const sequence = await quiet([waitStep(2, 'hours'), emailStep('Mistake')]);
  const { undo } = await add(sequence, ids);
  expect((await ines.post(`/api/bin/${undo}`).send({}).expect(200)).body).toEqual({ stay: 0 });
  await world.ahead(now + DAY);
  const got = () =>
    rows<{ n: number }>(
      world.connection.db,
      sql`select count(*) as n from sends where sequence_id = ${sequence} and status <> 'cancelled'`,
    );
  expect(await got()).toEqual([{ n: 0 }]);
  const person = (await ines.get(`/api/people/${ids[0]}`).expect(200)).body as { story: { text: string }[] };
  expect(person.story[0]?.text).toBe('Left: adding them by hand was taken back.');
  // Once only.
  await ines.post(`/api/bin/${undo}`).send({}).expect(404);

  const again = await add(sequence, ids);
  expect(again.changed).toBe(3);
  await world.ahead((await world.now()) + 3 * HOUR);
  expect(await got()).toEqual([{ n: 3 }]);
  await ines.post(`/api/bin/${again.undo}`).send({}).expect(409);

  // An email that is queued and has not gone is taken back with them.
  const fresh = await readers(2);
  const atOnce = await quiet([emailStep('At once')]);
  const added = await add(atOnce, fresh);
  await advanceRound(world.connection, await world.now());
  expect((await ines.post(`/api/bin/${added.undo}`).send({}).expect(200)).body).toEqual({ stay: 0 });
  await world.ahead((await world.now()) + HOUR);
  const left = await rows<{ status: string }>(
    world.connection.db,
    sql`select distinct status from sends where sequence_id = ${atOnce}`,
  );
  expect(left).toEqual([{ status: 'cancelled' }]);
});

test('where nobody may be added, that is what is said', async () => {
  const ids = await readers(1);
  const oneOff = await ines.post('/api/sequences').send({ name: 'Once', oneOff: true }).expect(200);
  await ines
    .post(`/api/sequences/${(oneOff.body as { id: string }).id}/people/foreseen`)
    .send({ who: { ids } })
    .expect(409);
});
