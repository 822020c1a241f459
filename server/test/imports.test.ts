import { readdirSync, readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import path from 'node:path';
import { parse } from 'csv-parse/sync';
import { sql } from 'drizzle-orm';
import fc from 'fast-check';
import { agent, type Agent } from 'supertest';
import { beforeAll, describe, expect, test } from 'vitest';
import type { ImportAnswer } from '@ascenso/contracts';
import type { ImportPlan } from '@ascenso/core';
import { connect } from '../src/db/connect.ts';
import { rows } from '../src/db/rows.ts';
import { importRound } from '../src/jobs/importing/index.ts';
import { RowReader } from '../src/jobs/importing/reading.ts';
import { emailStep, FRIDAY_NOON, owner, useWorld } from './support/world.ts';

const world = useWorld();
let ines: Agent;
const corpus = path.join(path.dirname(createRequire(import.meta.url).resolve('csv-spectrum')), 'csvs');
const CONSENT = 'Signed the card at the spring fair in Porto, 2026.';

beforeAll(async () => {
  ines = agent(world.app);
  await ines.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
  for (const [key, label, type] of [
    ['first_name', 'First name', 'text'],
    ['orders', 'Orders', 'number'],
    ['joined_on', 'Joined on', 'date'],
    ['glad', 'Glad', 'yes-no'],
  ] as const)
    await world.connection.db.execute(
      sql`insert into attributes (workspace_id, key, label, type, position) values (${world.ws}, ${key}, ${label}, ${type}, 50) on conflict do nothing`,
    );
});

const round = (stopping = () => false) => importRound(world.connection, FRIDAY_NOON, stopping);
const read = async (id: string) => (await ines.get(`/api/imports/${id}`).expect(200)).body as ImportAnswer;
async function upload(content: string | Buffer, name = 'fair.csv'): Promise<ImportAnswer> {
  const answer = await ines
    .post(`/api/imports?name=${encodeURIComponent(name)}`)
    .set('Content-Type', 'text/csv')
    .send(content)
    .expect(200);
  return read((answer.body as { id: string }).id);
}
const planOf = (told: ImportAnswer, more: Partial<ImportPlan> = {}): ImportPlan => {
  if (!told.guess) throw new Error('no guess');
  const { columns, heading, days, decimal } = told.guess;
  return {
    columns: columns.map((c) => c.column),
    heading,
    days,
    decimal: decimal ?? '.',
    yes: ['yes'],
    no: ['no'],
    known: 'fill',
    lists: [],
    tags: [],
    consent: CONSENT,
    starts: [],
    ...more,
  };
};
async function check(told: ImportAnswer, more: Partial<ImportPlan> = {}): Promise<ImportAnswer> {
  const answer = await ines.post(`/api/imports/${told.id}/check`).send(planOf(told, more));
  expect(answer.body).toEqual({});
  await round();
  return read(told.id);
}
async function takeIn(told: ImportAnswer, starts: string[] = []): Promise<ImportAnswer> {
  await ines.post(`/api/imports/${told.id}/run`).send({ starts }).expect(200);
  await round();
  return read(told.id);
}
interface Kept {
  email: string;
  attributes: Record<string, unknown>;
  tags: string[];
  zone: string | null;
}
const kept = (like: string) =>
  rows<Kept>(
    world.connection.db,
    sql`select email, attributes, tags, zone from people where workspace_id = ${world.ws} and email like ${like} order by email`,
  );
/** Everything that an import can touch, as text: the judge of an undo. */
const everything = async () => {
  const tables = ['people', 'memberships', 'consents', 'visits', 'sweep_members', 'suppressed'];
  const all = [];
  for (const t of tables)
    all.push(
      await rows(
        world.connection.db,
        sql`select to_jsonb(t)::text as row from ${sql.identifier(t)} t where workspace_id = ${world.ws} order by 1`,
      ),
    );
  return all;
};

describe('rows of a file', () => {
  // The corpus's own two files of location_coordinates hold different phone numbers.
  test.each(readdirSync(corpus).filter((f) => f.endsWith('.csv') && !f.startsWith('location')))(
    'csv-spectrum’s %s is read as the corpus says (package csv-spectrum)',
    (file) => {
      const text = readFileSync(path.join(corpus, file), 'utf8');
      const wanted = JSON.parse(
        readFileSync(path.join(corpus, '..', 'json', file.replace('.csv', '.json')), 'utf8'),
      ) as Record<string, string>[];
      const reader = new RowReader(',');
      const [heading, ...body] = [...reader.take(text, true), ...reader.take('', false)].map((r) => r.cells);
      const strip = (s: string) => s.replace(/\r$/, '');
      expect(body.map((r) => Object.fromEntries(r.map((c, i) => [strip(heading?.[i] ?? ''), strip(c)])))).toEqual(
        [wanted].flat(),
      );
    },
  );

  test('whatever parts it comes in, the cells are those of another parser (csv-parse), and each row knows its line', () => {
    const cell = fc.string({ unit: fc.constantFrom(...'ab ,;"\n\t=ß😀'), maxLength: 6 });
    fc.assert(
      fc.property(
        fc.array(fc.array(cell, { minLength: 2, maxLength: 4 }), { minLength: 1, maxLength: 8 }),
        fc.constantFrom(',', ';', '\t'),
        fc.array(fc.nat(60), { maxLength: 5 }),
        fc.constantFrom('\n', '\r\n'),
        (table, separator, cuts, end) => {
          const text = table.map((r) => r.map((c) => `"${c.replaceAll('"', '""')}"`).join(separator)).join(end) + end;
          const at = [0, ...cuts.map((c) => c % text.length).sort((a, b) => a - b), text.length];
          const reader = new RowReader(separator);
          const got = at.slice(1).flatMap((to, i) => reader.take(text.slice(at[i], to), true));
          got.push(...reader.take('', false));
          expect(got.map((r) => r.cells)).toEqual(parse(text, { delimiter: separator, relax_column_count: true }));
          for (const r of got) expect(text.split('\n')[r.line - 1]?.startsWith('"')).toBe(true);
        },
      ),
    );
  });

  test('a quotation mark that is never closed is told with its line, however long the file', async () => {
    const told = await upload(
      `email,note\na@open.example,x\nb@open.example,"y\n${'c@open.example,z\n'.repeat(90_000)}`,
    );
    const after = await check(told);
    expect(after).toMatchObject({ state: 'failed', problem: expect.stringContaining('Line 3: a quotation mark') });
    expect(await kept('%@open.example')).toEqual([]);
  });
});

describe('a file is read as it was written', () => {
  const text = (separator: string) =>
    [
      ['E-Mail', 'Vorname', 'Orders', 'Joined on', 'Glad'],
      ['ana@ENC.example', 'Zoë “Ñandú”', '1.234,5', '24.03.2021', 'yes'],
      ['rui@enc.example', 'Müller; Söhne', '7', '1.2.99', 'no'],
    ]
      .map((r) => r.map((c) => (/[;,"]/.test(c) ? `"${c.replaceAll('"', '""')}"` : c)).join(separator))
      .join('\r\n');
  const utf16 = (big: boolean) => {
    const bytes = Buffer.from(`\ufeff${text('\t')}`, 'utf16le');
    return big ? bytes.swap16() : bytes;
  };
  // Windows-1252 as the WHATWG Encoding standard maps it: its own letters above 0x80 that Latin-1 does not have are “ and ”.
  const windows = Buffer.from(
    text(';').replace(/[“”]/g, (c) => (c === '“' ? '\x93' : '\x94')),
    'latin1',
  );
  test.each([
    ['UTF-8 and commas', Buffer.from(text(','))],
    ['UTF-8 with its mark and semicolons', Buffer.from(`\ufeff${text(';')}`)],
    ['UTF-16, little end first, and tabs', utf16(false)],
    ['UTF-16, big end first', utf16(true)],
    ['UTF-16 without a mark', utf16(false).subarray(2)],
    ['Windows-1252 and semicolons', windows],
  ])('%s', async (_, bytes) => {
    const told = await upload(bytes);
    const checked = await check(told);
    expect(checked.counts).toMatchObject({ rows: 2, fresh: 2, faults: 0 });
    await takeIn(checked);
    expect(await kept('%@enc.example')).toEqual([
      {
        email: 'ana@enc.example',
        attributes: { first_name: 'Zoë “Ñandú”', orders: 1234.5, joined_on: '2021-03-24', glad: true },
        tags: [],
        zone: null,
      },
      {
        email: 'rui@enc.example',
        attributes: { first_name: 'Müller; Söhne', orders: 7, joined_on: '1999-02-01', glad: false },
        tags: [],
        zone: null,
      },
    ]);
    await ines.post(`/api/imports/${told.id}/undo`).expect(200);
    await round();
    expect(await kept('%@enc.example')).toEqual([]);
  });
});

describe('what is told before, and done after', () => {
  test('faults are told by line and as a file, and change nothing; double addresses count once', async () => {
    const told = await upload(
      'email,Orders,Joined on,Tags\ngood@told.example,3,2026-01-02,"kit-owner; =teacher"\nnot an address,1,,\nbad@told.example,many,,\nday@told.example,1,2026-02-30,\nGOOD@told.example,4,,\n\n"two\nlines",,,\nwide@told.example,1,,,more\n',
    );
    const checked = await check(told);
    expect(checked.counts).toMatchObject({ rows: 7, fresh: 1, changed: 0, faults: 6 });
    expect(checked.faults.map((f) => f.line)).toEqual([3, 4, 5, 6, 8, 10]);
    expect(checked.faults.map((f) => f.why)).toEqual([
      '“not an address” is no email address: it has no @.',
      'Orders: “many” is no number, written as 1,234.5.',
      'Joined on: “2026-02-30” is no date, read as year, month, day.',
      'This address stands in line 2 already.',
      expect.stringContaining('is no email address: it has no @.'),
      'There are 5 cells, and the first rows have 4.',
    ]);
    expect(await kept('%@told.example')).toEqual([]);
    const file = (await ines.get(`/api/imports/${told.id}/faults.csv`).expect(200)).text;
    expect(parse(file, { bom: true, relax_column_count: true }).map((r: string[]) => r[0])).toEqual([
      'Line',
      '3',
      '4',
      '5',
      '6',
      '8',
      '10',
    ]);
    const done = await takeIn(checked);
    expect(done).toMatchObject({ state: 'done', counts: { fresh: 1, changed: 0 } });
    expect(await kept('%@told.example')).toEqual([
      {
        email: 'good@told.example',
        attributes: { orders: 3, joined_on: '2026-01-02' },
        tags: ['kit-owner', '=teacher'],
        zone: null,
      },
    ]);
  });

  test('a plan is refused by name: no address column, two columns of one attribute, no word of the consent, a foreign list', async () => {
    const told = await upload('email,Orders,More\na@plan.example,1,2\n');
    const refused = async (more: Partial<ImportPlan>) =>
      (
        (await ines.post(`/api/imports/${told.id}/check`).send(planOf(told, more)).expect(422)).body as {
          error: { field: string; message: string };
        }
      ).error;
    const orders = { to: 'attribute', key: 'orders' } as const;
    expect(await refused({ columns: [orders, { to: 'nothing' }, { to: 'nothing' }] })).toMatchObject({
      field: 'columns',
      message: 'columns: Say which column holds the email address.',
    });
    expect(await refused({ columns: [{ to: 'email' }, orders, orders] })).toMatchObject({ field: 'columns' });
    expect(await refused({ consent: '' })).toMatchObject({ field: 'consent' });
    expect(await refused({ lists: ['0193d3a8-0000-7000-8000-000000000000'] })).toMatchObject({ field: 'lists' });
    await ines.post(`/api/imports/${told.id}/run`).send({ starts: [] }).expect(409);
    expect((await read(told.id)).state).toBe('uploaded');
  });

  test.each(['fill', 'overwrite', 'leave'] as const)(
    '%s: what becomes of people who are known, and all of it taken back',
    async (known) => {
      const domain = `${known}.example`;
      const people = [
        { email: `new@${domain}`, had: null, cells: ['Nova', '5', 'kit-owner'] },
        { email: `empty@${domain}`, had: { attributes: {}, tags: ['old'] }, cells: ['Ema', '', 'kit-owner'] },
        {
          email: `full@${domain}`,
          had: { attributes: { first_name: 'Old', orders: 9 }, tags: ['kit-owner'] },
          cells: ['Fia', '2', 'kit-owner'],
        },
        {
          email: `same@${domain}`,
          had: { attributes: { first_name: 'Sol', orders: 1 }, tags: ['kit-owner', 'fair'] },
          cells: ['Sol', '1', ''],
        },
        {
          email: `left@${domain}`,
          had: { attributes: { first_name: 'Leo', orders: 1 }, tags: ['fair'] },
          cells: ['Leo', '1', ''],
        },
      ];
      for (const p of people)
        if (p.had)
          await world.connection.db.execute(
            sql`insert into people (workspace_id, id, email, attributes, tags, created_at) values (${world.ws}, gen_random_uuid(), ${p.email}, ${JSON.stringify(p.had.attributes)}::jsonb, ${sql.param(p.had.tags)}::text[], 1)`,
          );
      for (const [who, state] of [
        ['left', 'left'],
        ['same', 'confirmed'],
      ] as const)
        await world.connection.db.execute(
          sql`insert into memberships (workspace_id, person_id, list_id, state, at) select workspace_id, id, ${world.list}, ${state}, 1 from people where workspace_id = ${world.ws} and email = ${`${who}@${domain}`}`,
        );
      const before = await everything();
      const told = await upload(
        `email,First name,Orders,Tags\n${people.map((p) => `${p.email},${p.cells.join(',')}`).join('\n')}\n`,
      );
      const checked = await check(told, { known, lists: [world.list], tags: ['fair'] });
      expect(checked.counts).toMatchObject({
        rows: 5,
        fresh: 1,
        faults: 0,
        ...(known === 'leave' ? { changed: 0, same: 4 } : { changed: 2, same: 2 }),
      });
      expect(await everything()).toEqual(before);
      const done = await takeIn(checked);
      expect(done.counts).toMatchObject({ fresh: 1, changed: known === 'leave' ? 0 : 2 });
      // Written out from what each of the three promises.
      const now = Object.fromEntries(
        (await kept(`%@${domain}`)).map((p) => [
          p.email.split('@')[0],
          { ...p.attributes, tags: [...p.tags].sort().join(' ') },
        ]),
      );
      expect(now).toEqual({
        new: { first_name: 'Nova', orders: 5, tags: 'fair kit-owner' },
        empty: known === 'leave' ? { tags: 'old' } : { first_name: 'Ema', tags: 'fair kit-owner old' },
        full:
          known === 'leave'
            ? { first_name: 'Old', orders: 9, tags: 'kit-owner' }
            : known === 'fill'
              ? { first_name: 'Old', orders: 9, tags: 'fair kit-owner' }
              : { first_name: 'Fia', orders: 2, tags: 'fair kit-owner' },
        same: { first_name: 'Sol', orders: 1, tags: 'fair kit-owner' },
        left: { first_name: 'Leo', orders: 1, tags: 'fair' },
      });
      const members = await rows<{ who: string; state: string; words: string | null; source: string | null }>(
        world.connection.db,
        sql`select split_part(p.email, '@', 1) as who, m.state, s.words, s.label as source from people p join memberships m on m.workspace_id = p.workspace_id and m.person_id = p.id
          left join consents c on c.workspace_id = p.workspace_id and c.person_id = p.id and c.list_id = m.list_id left join consent_sources s on s.workspace_id = c.workspace_id and s.id = c.source_id
          where p.workspace_id = ${world.ws} and p.email like ${`%@${domain}`} order by who`,
      );
      const byFile = { state: 'confirmed', words: CONSENT, source: 'fair.csv' };
      expect(members).toEqual([
        ...(known === 'leave'
          ? []
          : [
              { who: 'empty', ...byFile },
              { who: 'full', ...byFile },
            ]),
        { who: 'left', state: 'left', words: null, source: null },
        { who: 'new', ...byFile },
        { who: 'same', state: 'confirmed', words: null, source: null },
      ]);
      await ines.post(`/api/imports/${told.id}/undo`).expect(200);
      await round();
      expect((await read(told.id)).state).toBe('undone');
      expect(await everything()).toEqual(before);
    },
  );
});

describe('what follows from it', () => {
  test('no sequence starts unless asked, none by its segment either; asked, those whom the file brings to it start', async () => {
    const welcome = await world.live({
      steps: [emailStep('Welcome')],
      triggers: [{ kind: 'list', list: world.list, what: 'joined' }],
    });
    const tagged = await world.live({
      steps: [emailStep('Tagged')],
      triggers: [{ kind: 'tag', tag: 'maker', what: 'added' }],
    });
    const content = (n: number) =>
      `email,Tags\n${Array.from({ length: n }, (_, i) => `p${i}@start${n}.example,${i % 2 ? 'maker' : ''}`).join('\n')}`;
    const quiet = await check(await upload(content(6)), { lists: [world.list] });
    expect(quiet.counts?.starts).toEqual({ [welcome]: 6, [tagged]: 3 });
    await takeIn(quiet);
    const inside = () =>
      rows<{ sequence: string; n: number }>(
        world.connection.db,
        sql`select sequence_id as sequence, count(*)::int as n from visits where workspace_id = ${world.ws} group by 1 order by 2`,
      );
    const none = await inside();
    expect(none).toEqual([]);
    const asked = await check(await upload(content(8)), { lists: [world.list] });
    const done = await takeIn(asked, [tagged]);
    expect(done.counts?.started).toBe(4);
    expect(await inside()).toEqual([{ sequence: tagged, n: 4 }]);
    // Whoever has begun something stays after an undo; the others are gone.
    await ines.post(`/api/imports/${done.id}/undo`).expect(200);
    await round();
    expect((await read(done.id)).counts?.kept).toBe(4);
    expect((await kept('%@start8.example')).length).toBe(4);
  });

  test('what a file that waits or is being taken in uses is not taken away meanwhile, and the file is named', async () => {
    const list = await world.addList(world.ws, 'For the file');
    const checked = await check(await upload('email,Orders\nuses@it.example,3\n'), { lists: [list] });
    const refused = await ines.delete(`/api/lists/${list}`).expect(409);
    expect(refused.text).toContain('a file of people');
    await ines.delete('/api/attributes/orders').expect(409);
    await takeIn(checked);
    await ines.delete(`/api/lists/${list}`).expect(200);
  });

  test('an address that ended mail before it was erased stays without mail', async () => {
    const { body } = await ines.post('/api/people').send({ email: 'gone@end.example' }).expect(200);
    const id = (body as { id: string }).id;
    await world.connection.db.execute(sql`update people set complained_at = 5 where id = ${id}`);
    await ines.post(`/api/people/${id}/erase`).send({ email: 'gone@end.example' }).expect(200);
    const checked = await check(await upload('email\ngone@end.example\nother@end.example\n'), { lists: [world.list] });
    expect(checked.counts).toMatchObject({ fresh: 2, suppressed: 1 });
    await takeIn(checked);
    const status = await rows(
      world.connection.db,
      sql`select email, mail_status as status from people where email like '%@end.example' order by email`,
    );
    expect(status).toEqual([
      { email: 'gone@end.example', status: 'complained' },
      { email: 'other@end.example', status: 'ok' },
    ]);
  });

  test('who left a list before they were erased stays off it, and on the others; taken back, what they said stands', async () => {
    const other = await world.addList(world.ws, 'Second letters');
    const made = await ines.post('/api/people').send({ email: 'left@end.example' }).expect(200);
    const { id } = made.body as { id: string };
    await world.connection.db.execute(
      sql`insert into memberships (workspace_id, person_id, list_id, state, at) values (${world.ws}, ${id}, ${world.list}, 'left', 5)`,
    );
    await world.connection.db.execute(sql`update people set bounced_at = 5 where id = ${id}`);
    await ines.post(`/api/people/${id}/erase`).send({ email: 'left@end.example' }).expect(200);
    for (const time of [1, 2]) {
      const checked = await check(await upload('email\nleft@end.example\n'), { lists: [world.list, other] });
      expect([time, checked.counts?.suppressed]).toEqual([time, 1]);
      const done = await takeIn(checked);
      const states = await rows<{ list: string; state: string; status: string }>(
        world.connection.db,
        sql`select m.list_id as list, m.state, p.mail_status as status from memberships m join people p on p.id = m.person_id where p.email = 'left@end.example'`,
      );
      expect(new Map(states.map((s) => [s.list, s.state]))).toEqual(
        new Map([
          [world.list, 'left'],
          [other, 'confirmed'],
        ]),
      );
      expect(states.map((s) => s.status)).toEqual(['bounced', 'bounced']);
      await ines.post(`/api/imports/${done.id}/undo`).expect(200);
      await round();
    }
  });

  test('it goes on where a process was ended, whatever the moment; a cancel takes back what is in', async () => {
    const many = `email,Orders\n${Array.from({ length: 45_000 }, (_, i) => `m${i}@many.example,${i}`).join('\n')}`;
    const checked = await check(await upload(many));
    await ines.post(`/api/imports/${checked.id}/run`).send({ starts: [] }).expect(200);
    // One process stops in good order after its first two chunks; the next one is killed in the middle of its third.
    let asked = 0;
    await round(() => asked++ > 0);
    expect((await read(checked.id)).done).toBe(20_000);
    const dying = connect(`${world.databaseUrl}?application_name=dying`);
    const died = importRound(dying, FRIDAY_NOON, () => false).catch(() => 'died');
    await expect
      .poll(
        async () =>
          (
            await rows(
              world.connection.db,
              sql`select pg_terminate_backend(pid) from pg_stat_activity where application_name = 'dying' and state <> 'idle' and query like '%insert into people%'`,
            )
          ).length,
        { interval: 1, timeout: 20_000 },
      )
      .toBeGreaterThan(0);
    await died;
    await dying.close();
    await world.connection.db.execute(sql`update imports set lease_until = 0 where id = ${checked.id}`);
    await round();
    expect(await read(checked.id)).toMatchObject({ state: 'done', counts: { fresh: 45_000 } });
    const sum = await rows<{ n: number; s: number }>(
      world.connection.db,
      sql`select count(*)::int as n, sum((attributes->>'orders')::int)::int as s from people where email like '%@many.example'`,
    );
    expect(sum).toEqual([{ n: 45_000, s: (44_999 * 45_000) / 2 }]);

    // Nothing of its rows is kept beside it once it is in.
    expect((await read(checked.id)).file).toBeNull();

    const again = await check(await upload(many.replaceAll('many.example', 'stop.example')));
    await ines.post(`/api/imports/${again.id}/run`).send({ starts: [] }).expect(200);
    asked = 0;
    await round(() => asked++ > 0);
    await ines.post(`/api/imports/${again.id}/cancel`).expect(200);
    await round();
    expect((await read(again.id)).state).toBe('undone');
    expect(await kept('%@stop.example')).toEqual([]);
  });

  test('what cannot be taken in to its end is taken back by itself: no half is left, and no file that could be checked over it', async () => {
    const checked = await check(
      await upload(`email,Orders\n${Array.from({ length: 25_000 }, (_, i) => `h${i}@half.example,${i}`).join('\n')}`),
    );
    // A fault of one row late in the file, as the database would find it.
    await world.connection.db.execute(
      sql`alter table people add constraint odd check (email <> 'h24000@half.example')`,
    );
    await ines.post(`/api/imports/${checked.id}/run`).send({ starts: [] }).expect(200);
    await round();
    await round();
    await world.connection.db.execute(sql`alter table people drop constraint odd`);
    expect(await read(checked.id)).toMatchObject({
      state: 'undone',
      undoUntil: null,
      problem: expect.stringContaining('taken back'),
    });
    expect(await kept('%@half.example')).toEqual([]);
    await ines.post(`/api/imports/${checked.id}/cancel`).expect(409);
    await ines.post(`/api/imports/${checked.id}/check`).send(planOf(checked)).expect(422);
  });
});
