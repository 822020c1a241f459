import { readdirSync, readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import path from 'node:path';
import { sql } from 'drizzle-orm';
import Papa from 'papaparse';
import { beforeAll, describe, expect, test } from 'vitest';
import { newId } from '../src/app/ids.ts';
import { batch } from '../src/db/rows.ts';
import request, { agent, type Agent } from 'supertest';
import { owner, useWorld } from './support/world.ts';

// The file is read back by another parser (Papa Parse), and holds what the corpus csv-spectrum collects of awkward cells.
const world = useWorld();
const signIn = async (email: string): Promise<Agent> => {
  const own = agent(world.app);
  await own.post('/api/session').send({ email, password: owner.password }).expect(200);
  return own;
};
let ines: Agent;
const corpus = path.join(path.dirname(createRequire(import.meta.url).resolve('csv-spectrum')), 'json');
const awkward = readdirSync(corpus).flatMap((file) =>
  [JSON.parse(readFileSync(path.join(corpus, file), 'utf8')) as object]
    .flat()
    .flatMap((row) => Object.values(row) as string[]),
);
const FORMULAS = ['=1+1', '+351 21 000', '-2', '@sum', '\tx', '\rx'];
const notes = [...awkward, ...FORMULAS, 'Köln; Łódź', 'ﷺ 😀', '"', ' two  spaces '];
const MANY = 2_500;

interface Line {
  email: string;
  note: string;
  orders: string;
  glad: string;
  kinds: string;
  tags: string;
  lists: string;
  mail: string;
  known_since: string;
}

async function exported(query = ''): Promise<{ lines: Line[]; text: string }> {
  const { text, headers } = await ines.get(`/api/people.csv${query}`).expect(200);
  expect(headers['content-type']).toContain('text/csv');
  expect(headers['content-disposition']).toContain('people.csv');
  const read = Papa.parse<Line>(text.replace(/^\ufeff/, ''), { header: true, skipEmptyLines: true });
  expect(read.errors).toEqual([]);
  return { lines: read.data, text };
}

beforeAll(async () => {
  ines = await signIn(owner.email);
  const { db } = world.connection;
  for (const [position, key, type] of [
    [10, 'note', 'text'],
    [11, 'orders', 'number'],
    [12, 'glad', 'yes-no'],
    [13, 'kinds', 'list'],
  ] as const)
    await db.execute(
      sql`insert into attributes (workspace_id, key, label, type, position) values (${world.ws}, ${key}, ${key}, ${type}, ${position}) on conflict do nothing`,
    );
  const people = notes.map((note, i) => ({
    id: newId(),
    email: `n${i}@readers.example`,
    attributes: { note, orders: -i, glad: i % 2 === 0, kinds: ['paper', 'thread'] },
    tags: ['teacher', 'kit-owner'],
  }));
  const many = Array.from({ length: MANY }, (_, i) => ({
    id: newId(),
    email: `m${i}@many.example`,
    attributes: {},
    tags: [],
  }));
  await db.execute(sql`insert into people (workspace_id, id, email, attributes, tags, created_at)
    select ${world.ws}, n.id, n.email, n.attributes, array(select jsonb_array_elements_text(n.tags)), 0 from jsonb_to_recordset(${batch([...people, ...many])}) as n(id uuid, email text, attributes jsonb, tags jsonb)`);
  await db.execute(
    sql`insert into memberships (workspace_id, person_id, list_id, state, at) values (${world.ws}, ${people[0]?.id}, ${world.list}, 'confirmed', 0), (${world.ws}, ${people[1]?.id}, ${world.list}, 'left', 0)`,
  );
});

describe('people as a file', () => {
  test('every cell comes back as it was, but for what a spreadsheet would run', async () => {
    const { lines, text } = await exported('?q=readers.example');
    // RFC 4180, 2: lines end with CR and LF; the mark of UTF-8 stands in front, by which spreadsheets know it.
    expect(text.charCodeAt(0)).toBe(0xfeff);
    expect(text.endsWith('\r\n')).toBe(true);
    const back = new Map(lines.map((l) => [l.email, l]));
    expect(back.size).toBe(notes.length);
    for (const [i, note] of notes.entries()) {
      const line = back.get(`n${i}@readers.example`);
      expect([note, line?.note]).toEqual([note, /^[=+\-@\t\r]/.test(note) ? `'${note}` : note]);
      // A number is no formula, whatever its sign.
      expect(line?.orders).toBe(String(-i));
      expect(line).toMatchObject({
        glad: i % 2 === 0 ? 'yes' : 'no',
        kinds: 'paper, thread',
        tags: 'teacher, kit-owner',
        mail: 'ok',
        known_since: '1970-01-01T00:00:00.000Z',
      });
    }
    expect([back.get('n0@readers.example')?.lists, back.get('n1@readers.example')?.lists]).toEqual([
      'Workshop letters',
      '',
    ]);
  });

  test('all of them come, over many batches, each once', async () => {
    const { lines } = await exported();
    expect(lines).toHaveLength(notes.length + MANY);
    expect(new Set(lines.map((l) => l.email)).size).toBe(lines.length);
  });

  test('a segment is a file of its own; one that is not there is told', async () => {
    const rule = { kind: 'attribute', test: { field: 'orders', op: 'under', value: -2 } };
    const { body } = await ines.post('/api/segments').send({ name: 'Many orders', rule }).expect(200);
    const { id } = body as { id: string };
    expect((await exported(`?segment=${id}`)).lines).toHaveLength(notes.length - 3);
    await ines.get(`/api/people.csv?segment=${newId()}`).expect(404);
  });

  test('who only looks takes nobody’s data along, and a stranger none at all', async () => {
    await world.addUser('adaeze@foldwell.example', 'reviewer');
    const adaeze = await signIn('adaeze@foldwell.example');
    const refused = await adaeze.get('/api/people.csv').expect(403);
    expect(refused.body.error.message).toContain('ask an editor');
    await request(world.app).get('/api/people.csv').expect(401);
  });
});
