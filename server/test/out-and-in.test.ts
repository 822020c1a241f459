import { sql } from 'drizzle-orm';
import { agent, type Agent } from 'supertest';
import { beforeAll, expect, test } from 'vitest';
import type { ImportAnswer } from '@ascenso/contracts';
import { rows } from '../src/db/rows.ts';
import { importRound } from '../src/jobs/importing/index.ts';
import { FRIDAY_NOON, owner, useWorld } from './support/world.ts';

// A house's people as a file, and the same file in again, as the owner of a house moves it: everybody is as they were.
const world = useWorld();
let ines: Agent;

const KINDS = ['paper, fine', 'a; b', 'say "yes"', '=kit', '-kit'];
const NOTES = [
  '=1+1',
  "'=1+1",
  '+351 21 000',
  '@sum',
  '-',
  'Köln; Łódź',
  'two\nlines',
  '"quoted"',
  "it's",
  "'tis",
  'ﷺ 😀',
];
const MAIL = ['ok', 'unsubscribed', 'bounced', 'complained'] as const;

interface Kept {
  email: string;
  attributes: Record<string, unknown>;
  tags: string[];
  zone: string | null;
  mail: string;
  lists: string[];
}
const everybody = () =>
  rows<Kept>(
    world.connection.db,
    sql`select email, attributes, array(select unnest(tags) order by 1) as tags, zone, mail_status as mail,
          array(select m.list_id::text from memberships m where m.person_id = people.id and m.state = 'confirmed' order by 1) as lists
        from people where email like '%round.example' order by email`,
  );

async function read(id: string): Promise<ImportAnswer> {
  await importRound(world.connection, FRIDAY_NOON, () => false);
  return (await ines.get(`/api/imports/${id}`).expect(200)).body as ImportAnswer;
}

/** A file that is read with its guessed columns: nobody has come in by it yet. */
async function checked(text: string, more: object = {}): Promise<ImportAnswer> {
  const answer = await ines.post('/api/imports?name=all.csv').set('Content-Type', 'text/csv').send(text).expect(200);
  const { id } = answer.body as { id: string };
  const { guess } = await read(id);
  const plan = {
    columns: guess?.columns.map((c) => c.column),
    heading: true,
    days: 'ymd',
    decimal: '.',
    yes: ['yes'],
    no: ['no'],
    known: 'fill',
    lists: [],
    tags: [],
    consent: 'Agreed on our own page before we moved here.',
    starts: [],
    ...more,
  };
  expect((await ines.post(`/api/imports/${id}/check`).send(plan)).body).toEqual({});
  const told = await read(id);
  expect(told.state).toBe('checked');
  return told;
}

async function bringIn(text: string, more: object = {}): Promise<ImportAnswer> {
  const { id, faults } = await checked(text, more);
  expect(faults).toEqual([]);
  await ines.post(`/api/imports/${id}/run`).send({ starts: [] }).expect(200);
  return read(id);
}

beforeAll(async () => {
  ines = agent(world.app);
  await ines.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
  const { db } = world.connection;
  for (const [key, type] of [
    ['note', 'text'],
    ['worth', 'number'],
    ['born_on', 'date'],
    ['glad', 'yes-no'],
    ['kinds', 'list'],
  ] as const)
    await db.execute(
      sql`insert into attributes (workspace_id, key, label, type, position) values (${world.ws}, ${key}, ${key}, ${type}, 60) on conflict do nothing`,
    );
  for (const [i, note] of NOTES.entries()) {
    const attributes = {
      note,
      worth: [-5, 0.5, 1000, 2.5][i % 4],
      born_on: '1990-02-28',
      glad: i % 2 === 0,
      kinds: KINDS,
    };
    const at = (why: string) => (MAIL[i % 4] === why ? sql`${FRIDAY_NOON}::bigint` : sql`null`);
    const email = i === 0 ? '=cmd/x+y@round.example' : `квіточка${i}@xn--bcher-kva.round.example`;
    await db.execute(
      sql`with p as (insert into people (workspace_id, id, email, attributes, tags, zone, created_at, unsubscribed_at, bounced_at, complained_at)
            values (${world.ws}, gen_random_uuid(), ${email}, ${JSON.stringify(attributes)}::jsonb, ${sql.param(KINDS)}::text[], 'Europe/Lisbon', 1,
              ${at('unsubscribed')}, ${at('bounced')}, ${at('complained')}) returning id)
          insert into memberships (workspace_id, person_id, list_id, state, at) select ${world.ws}, id, ${world.list}, 'confirmed', 1 from p`,
    );
  }
});

test('out as a file and in again, everybody is who they were, and nobody who left is mailable', async () => {
  const before = await everybody();
  expect(before).toHaveLength(NOTES.length);
  const { text } = await ines.get('/api/people.csv?q=round.example').expect(200);
  const { db } = world.connection;
  await db.execute(
    sql`delete from memberships where person_id in (select id from people where email like '%round.example')`,
  );
  await db.execute(sql`delete from people where email like '%round.example'`);
  expect(await bringIn(text)).toMatchObject({ state: 'done', counts: { fresh: NOTES.length, faults: 0 } });
  expect(await everybody()).toEqual(before);

  // In once more, whoever has said no here since stays at that, whatever the file says.
  await db.execute(sql`update people set unsubscribed_at = 5 where email like '%round.example' and mail_status = 'ok'`);
  await bringIn(text, { known: 'overwrite' });
  expect((await everybody()).filter((p) => p.mail === 'ok')).toEqual([]);
});

test('whom a file says no for gets no mail, also where it changes nothing else; an undo gives nobody back', async () => {
  const { db } = world.connection;
  const status = async () =>
    (
      await rows<{ mail: string; first: string | null }>(
        db,
        sql`select mail_status as mail, attributes->>'note' as first from people where email = 'known@no.example'`,
      )
    )[0];
  await db.execute(
    sql`insert into people (workspace_id, id, email, attributes, created_at) values (${world.ws}, gen_random_uuid(), 'known@no.example', '{"note": "as it was"}', 1)`,
  );
  const done = await bringIn('email,note,mail\nknown@no.example,another,unsubscribed\nnew@no.example,x,complained\n', {
    known: 'leave',
  });
  expect(await status()).toEqual({ mail: 'unsubscribed', first: 'as it was' });
  const agreed = await rows<{ what: string }>(
    db,
    sql`select c.what from consents c join people p on p.workspace_id = c.workspace_id and p.id = c.person_id where p.email like '%@no.example'`,
  );
  expect(agreed).toEqual([{ what: 'left' }, { what: 'left' }]);
  await ines.post(`/api/imports/${done.id}/undo`).expect(200);
  expect(await read(done.id)).toMatchObject({ state: 'undone' });
  expect(await status()).toEqual({ mail: 'unsubscribed', first: 'as it was' });
});

test('a file killed right after its first rows were in counts each of them once', async () => {
  const { id, ...done } = await bringIn(
    `email\n${Array.from({ length: 30 }, (_, i) => `k${i}@killed.example`).join('\n')}`,
  );
  expect(done).toMatchObject({ state: 'done', counts: { fresh: 30 } });
  // The process ended between the rows and the note on how far it is: all is as then.
  const { db } = world.connection;
  await db.execute(
    sql`update imports set state = 'running', done = 0, lease_until = 0, ended_at = null where id = ${id}`,
  );
  expect(await read(id)).toMatchObject({ state: 'done', counts: { fresh: 30 } });
});

test('files as other programs write them: sep=, three kinds of line ends, a cell of a megabyte, a heading alone', async () => {
  const done = await bringIn(
    `sep=;\r\nEmail;Note\r\na@shape.example;one\nb@shape.example;two\rc@shape.example;"th\r\nree"\r\n`,
  );
  expect(done.counts).toMatchObject({ fresh: 3, faults: 0 });
  expect(await checked(`email,note\nd@shape.example,${'x'.repeat(1_048_576)}\ne@shape.example,short\n`)).toMatchObject({
    counts: { rows: 2, fresh: 1, faults: 1 },
    faults: [{ line: 2, why: 'note: is 1048576 characters long: 2000 are the most.' }],
  });
  const alone = await ines.post('/api/imports?name=h.csv').set('Content-Type', 'text/csv').send('email,first name\n');
  expect(alone.status).toBe(422);
  expect((alone.body as { error: { message: string } }).error.message).toContain('no row of anybody');
});
