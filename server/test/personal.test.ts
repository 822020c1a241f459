import { sql } from 'drizzle-orm';
import request, { agent, type Agent } from 'supertest';
import { beforeAll, describe, expect, test } from 'vitest';
import type { Step } from '@ascenso/core';
import type { PersonFile } from '@ascenso/contracts';
import { firstRow, rows } from '../src/db/rows.ts';
import { emailStep, owner, useWorld, waitStep } from './support/world.ts';

// What is kept of one person, for themselves; and that nothing of it is left once they are erased. The judge searches every
// table of the database as text for what only they had.
const world = useWorld();
let own: Agent;
let person = '';
let key = '';
/** What nothing but this person holds, however it is written. */
const SECRETS = ['marta.quince', 'Quincella', 'Vellichor', 'RUA-NOVA-17', 'plum-coloured'];
const EMAIL = 'marta.quince@readers.example';

const tables = async () =>
  rows<{ name: string }>(
    world.connection.db,
    sql`select c.relname as name from pg_class c join pg_namespace n on n.oid = c.relnamespace where n.nspname = 'public' and c.relkind in ('r', 'p') and not c.relispartition`,
  );
/** Tables that hold a text anywhere, in any column. */
async function where(text: string): Promise<string[]> {
  const found = [];
  for (const { name } of await tables()) {
    const hit = await firstRow(
      world.connection.db,
      sql`select 1 from ${sql.identifier(name)} t where to_jsonb(t)::text ilike ${`%${text}%`} limit 1`,
    );
    if (hit) found.push(name);
  }
  return found;
}

beforeAll(async () => {
  const { db } = world.connection;
  own = agent(world.app);
  await own.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
  key = `Bearer ${world.key}`;
  await own
    .put('/api/event-kinds')
    .send({ name: 'repair.finished', label: 'Repair finished', fields: [{ name: 'title', type: 'text' }], sample: {} })
    .expect(200);
  await db.execute(
    sql`insert into attributes (workspace_id, key, label, type, position) values (${world.ws}, 'plum', 'Favourite colour', 'text', 9)`,
  );
  const letter = emailStep('Letter', { address: 'https://foldwell.example/kits' });
  letter.email.subject = 'For {{ subscriber.first_name }}';
  await world.live({ steps: [letter] });
  const text = '{{ subscriber.first_name }} of {{ subscriber.plum }}';
  const action = { type: 'tell-team' as const, to: 'team@foldwell.example', text };
  const tell: Step = { id: 'tell', kind: 'action', on: true, note: '', action };
  await world.live({
    name: 'Seen',
    list: null,
    triggers: [{ kind: 'event', event: 'item.viewed', where: [] }],
    steps: [tell, waitStep(3), emailStep('Later')],
  });
  await world.join(EMAIL, { attributes: { first_name: 'Quincella', plum: 'plum-coloured' } });
  await world.join('jonas@readers.example', { attributes: { first_name: 'Jonas' } });
  await world.event({ type: 'item.viewed', subject: EMAIL, data: { title: 'Vellichor', shelf: 3 } }).expect(202);
  await world.event({ type: 'repair.finished', subject: EMAIL, data: { title: 'RUA-NOVA-17' } }).expect(202);
  await world.ahead((await world.now()) + 60_000);
  person = (await firstRow<{ id: string }>(db, sql`select id from people where email = ${EMAIL}`))?.id as string;
  const send = await firstRow<{ id: string }>(
    db,
    sql`select id from sends where person_id = ${person} and visit_id is not null`,
  );
  await request(world.app)
    .get(`${world.path('o', send?.id)}.gif`)
    .expect(200);
  await request(world.app)
    .get(`${world.path('c', send?.id)}/0`)
    .expect(302);
  // Somebody who was refused, with the answer of a server that repeats the address.
  await db.execute(
    sql`insert into sender_health (workspace_id, email, refusals, halted_at, answer) values (${world.ws}, 'ines@foldwell.example', 1, null, ${`550 <${EMAIL}> is unwelcome`})`,
  );
});

describe('a copy of what is kept', () => {
  test('holds attributes, lists, events, every email as it was sent with what came of it, and the story', async () => {
    const answer = await own.get(`/api/people/${person}/file`).expect(200);
    expect(answer.headers['content-disposition']).toContain('attachment');
    expect(answer.headers['cache-control']).toBe('no-store');
    const file = answer.body as PersonFile;
    expect(file).toMatchObject({
      format: 'ascenso-person',
      kept_by: 'Foldwell Bindery',
      person: { email: EMAIL, attributes: { first_name: 'Quincella', plum: 'plum-coloured' } },
      mail: { unsubscribed_at: null },
      lists: [{ list: 'Workshop letters', state: 'confirmed' }],
    });
    expect(file.events.map((e) => [e.name, e.data.title])).toEqual([
      ['item.viewed', 'Vellichor'],
      ['repair.finished', 'RUA-NOVA-17'],
    ]);
    expect(file.emails).toHaveLength(1);
    expect(file.emails[0]).toMatchObject({
      to: EMAIL,
      subject: 'For Quincella',
      text: expect.stringContaining('Hello Quincella,'),
      html: expect.stringContaining('Hello Quincella,'),
      opened: [expect.any(String)],
      clicked: [{ address: expect.stringContaining('https://foldwell.example/kits') }],
    });
    // What was opened again from the copy counts nowhere.
    expect(file.emails[0]?.html).not.toContain(`${world.sending.base}/o/`);
    expect(file.story.length).toBeGreaterThan(3);
  });

  test('by API, with the address', async () => {
    const { body } = await request(world.app)
      .get(`/intake/subscribers/${encodeURIComponent(EMAIL.toUpperCase())}`)
      .set('Authorization', key)
      .expect(200);
    expect(body).toMatchObject({ format: 'ascenso-person', person: { email: EMAIL } });
    await request(world.app).get('/intake/subscribers/nobody@readers.example').set('Authorization', key).expect(404);
  });

  test('a reviewer does not take it along', async () => {
    await world.addUser('adaeze@foldwell.example', 'reviewer');
    const adaeze = agent(world.app);
    await adaeze.post('/api/session').send({ email: 'adaeze@foldwell.example', password: owner.password }).expect(200);
    await adaeze.get(`/api/people/${person}/file`).expect(403);
    await adaeze.post(`/api/people/${person}/erase`).send({ email: EMAIL }).expect(403);
  });
});

describe('erasure', () => {
  const numbers = async () =>
    firstRow(
      world.connection.db,
      sql`select (select count(*) from sends where sent_at is not null) as sent, (select count(*) from sends where opened_at is not null) as opened,
            (select count(*) from readings) as readings, (select count(*) from visits) as visits`,
    );

  test('asks for the address, and changes nothing for another', async () => {
    const answer = await own.post(`/api/people/${person}/erase`).send({ email: 'jonas@readers.example' }).expect(422);
    expect(answer.body.error.field).toBe('email');
    expect(await where(SECRETS[0] as string)).toContain('people');
  });

  test('leaves nothing of them in any table, and every count as it was', async () => {
    for (const secret of SECRETS) expect((await where(secret)).length, secret).toBeGreaterThan(0);
    const before = await numbers();
    await own.post(`/api/people/${person}/erase`).send({ email: EMAIL }).expect(200);
    for (const secret of SECRETS) expect([secret, await where(secret)]).toEqual([secret, []]);
    expect(await numbers()).toEqual(before);
    expect(
      await rows(world.connection.db, sql`select 1 from visits where person_id = ${person} and status = 'active'`),
    ).toEqual([]);
    await own.get(`/api/people/${person}`).expect(404);
    // Nobody else is touched.
    const jonas = await firstRow<{ id: string }>(
      world.connection.db,
      sql`select id from people where email like 'jonas@%'`,
    );
    expect((await own.get(`/api/people/${jonas?.id}/file`).expect(200)).body.emails).toHaveLength(1);
  });

  test('what comes back of old emails is counted, and told of nobody', async () => {
    const { db } = world.connection;
    const send = await firstRow<{ id: string }>(
      db,
      sql`select id from sends where person_id = ${person} and visit_id is not null`,
    );
    await request(world.app)
      .get(`${world.path('o', send?.id)}.gif`)
      .expect(200);
    await request(world.app)
      .get(`${world.path('c', send?.id)}/0`)
      .expect(404);
    await request(world.app).get(world.path('u', send?.id)).expect(404);
    await request(world.app).post(world.path('u', send?.id)).type('form').send('List-Unsubscribe=One-Click');
    await world.ahead((await world.now()) + 10 * 86_400_000);
    for (const table of ['events', 'traces', 'memberships', 'notices'])
      expect(await rows(db, sql`select 1 from ${sql.identifier(table)} where person_id = ${person}`), table).toEqual(
        [],
      );
  });

  test('who had unsubscribed is known again by a hash, and is not mailed', async () => {
    const { db } = world.connection;
    const email = 'zoe.larkspur@readers.example';
    await world.join(email);
    await db.execute(sql`update people set unsubscribed_at = 77 where email = ${email}`);
    await request(world.app)
      .delete(`/intake/subscribers/${encodeURIComponent(email)}`)
      .set('Authorization', key)
      .expect(200);
    expect(await where('larkspur')).toEqual([]);
    expect(await rows(db, sql`select hash, unsubscribed_at from suppressed`)).toEqual([
      { hash: expect.stringMatching(/^[0-9a-f]{64}$/), unsubscribed_at: 77 },
    ]);
    // Whichever door they come in by.
    await world.event({ type: 'item.viewed', subject: email }).expect(202);
    expect(
      await rows(db, sql`select unsubscribed_at as at, mail_status as mail from people where email = ${email}`),
    ).toEqual([{ at: 77, mail: 'unsubscribed' }]);
    // Who had not is a new person.
    await world.join(EMAIL);
    expect(await rows(db, sql`select mail_status as mail from people where email = ${EMAIL}`)).toEqual([
      { mail: 'ok' },
    ]);
  });
});
