import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { Ajv2020 } from 'ajv/dist/2020.js';
import { parse } from 'csv-parse/sync';
import { sql } from 'drizzle-orm';
import { unzipSync } from 'fflate';
import { agent } from 'supertest';
import { afterAll, beforeAll, expect, test } from 'vitest';
import type { WorkspaceFile } from '@ascenso/contracts';
import { emailStep, owner, useWorld } from './support/world.ts';

// Unpacked by fflate, and read by csv-parse and ajv: none of them wrote it.
const world = useWorld();
let folder: string;
const read = (name: string) => readFileSync(path.join(folder, name), 'utf8');
const table = (name: string) => parse<Record<string, string>>(read(name), { bom: true, columns: true });
const SECRET = 'qwertz-not-for-export';

beforeAll(async () => {
  folder = mkdtempSync(path.join(os.tmpdir(), 'ascenso-archive-'));
  const ines = agent(world.app);
  await ines.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
  await world.live({ name: 'Letters: “one” / two', steps: [emailStep('One')] });
  for (let i = 0; i < 5; i++)
    await world.join(`p${i}@x.example`, { attributes: { first_name: i === 0 ? '=1+1' : `P${i}` } });
  await world
    .event({ type: 'order.paid', subject: 'p1@x.example', data: { total: 12.5, note: 'Köln, “naïve”\nline' } })
    .expect(202);
  await world.ahead((await world.now()) + 60_000);
  await ines
    .post('/api/suppressed')
    .send({ addresses: [{ email: 'never@x.example', why: 'complained' }] })
    .expect(200);
  await ines
    .post('/api/segments')
    .send({ name: 'Some', rule: { kind: 'tag', tag: 'x', has: true } })
    .expect(200);
  const { db } = world.connection;
  await db.execute(
    sql`insert into files (workspace_id, id, name, mime, size, sha256, content, created_at) values (${world.ws}, gen_random_uuid(), 'Guía ../../x.pdf', 'application/pdf', 5, 'x', ${Buffer.from('%PDF-')}, 0)`,
  );
  await db.execute(
    sql`insert into offers (workspace_id, id, doc, secret, created_at) values (${world.ws}, gen_random_uuid(), '{"name":"Ten"}', ${SECRET}, 0)`,
  );
  const answer = await ines
    .get('/api/archive.zip')
    .buffer(true)
    .parse((res, done) => {
      const parts: Buffer[] = [];
      res.on('data', (d: Buffer) => parts.push(d));
      res.on('end', () => done(null, Buffer.concat(parts)));
    })
    .expect(200);
  expect(answer.headers['content-type']).toContain('application/zip');
  for (const [name, content] of Object.entries(unzipSync(new Uint8Array(answer.body as Buffer)))) {
    mkdirSync(path.dirname(path.join(folder, name)), { recursive: true });
    writeFileSync(path.join(folder, name), content);
  }
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

test('what it is set up with fits the schema that lies beside it, and names a file for each sequence and picture', () => {
  const file = JSON.parse(read('workspace.json')) as WorkspaceFile;
  const validate = new Ajv2020({ strict: false }).compile(JSON.parse(read('workspace.schema.json')) as object);
  expect(validate(file), JSON.stringify(validate.errors)).toBe(true);
  expect(file.segments.map((s) => s.name)).toEqual(['Some']);
  for (const { file: at } of [...file.sequences, ...file.files]) expect(read(at).length).toBeGreaterThan(0);
  // A name cannot lead out of the folder.
  expect(readdirSync(path.join(folder, 'files'))).toHaveLength(1);
  expect(read(file.files[0]?.file ?? '')).toBe('%PDF-');
  const sequence = JSON.parse(read(file.sequences[0]?.file ?? '')) as object;
  const ofSequence = new Ajv2020({ strict: false, formats: { uuid: true, 'date-time': true } }).compile(
    JSON.parse(read('sequences/sequence.schema.json')) as object,
  );
  expect(ofSequence(sequence), JSON.stringify(ofSequence.errors)).toBe(true);
});

test('people, consent, mail, events and ends are all there, as they were told; a formula is harmless', () => {
  const people = table('people.csv');
  expect(people.map((p) => p.email).sort()).toEqual([0, 1, 2, 3, 4].map((i) => `p${i}@x.example`));
  expect(people.find((p) => p.email === 'p0@x.example')?.first_name).toBe("'=1+1");
  expect(table('consents.csv')).toHaveLength(5);
  expect(table('consents.csv')[0]).toMatchObject({ what: 'joined', how: 'api' });
  expect(table('emails.csv').map((e) => e.status)).toEqual(Array.from({ length: 5 }, () => 'sent'));
  expect(table('no-mail.csv')).toMatchObject([{ email: 'never@x.example', why: 'complained' }]);
  const events = read('events.jsonl')
    .trim()
    .split('\n')
    .map((l) => JSON.parse(l) as { email: string; name: string; data: unknown });
  expect(events.filter((e) => e.name === 'order.paid')).toMatchObject([
    { email: 'p1@x.example', data: { total: 12.5, note: 'Köln, “naïve”\nline' } },
  ]);
});

test('what is secret stays here, and only the owner takes it', async () => {
  for (const name of readdirSync(folder, { recursive: true }) as string[])
    if (/\.(json|csv|jsonl|txt)$/.test(name)) expect(read(name)).not.toContain(SECRET);
  await world.addUser('ed@foldwell.example', 'editor');
  const editor = agent(world.app);
  await editor.post('/api/session').send({ email: 'ed@foldwell.example', password: owner.password }).expect(200);
  await editor.get('/api/archive.zip').expect(403);
});
