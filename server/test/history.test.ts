import { randomUUID } from 'node:crypto';
import { readdirSync } from 'node:fs';
import { sql } from 'drizzle-orm';
import PostalMime from 'postal-mime';
import request from 'supertest';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { connect, type Connection } from '../src/db/connect.ts';
import { installationSecret } from '../src/app/clock.ts';
import { readPrimary } from '../src/db/reading.ts';
import { rows } from '../src/db/rows.ts';
import {
  historyText,
  keepHistory,
  messagesAgain,
  packHistory,
  readHistory,
  restoreHistory,
} from '../src/jobs/history/index.ts';
import { withSigns, type Signs } from '../src/jobs/history/signs.ts';
import { databaseFor } from './support/template.ts';
import { emailStep, FRIDAY_NOON, migrations, owner, useWorld, waitStep } from './support/world.ts';

// What has happened in one installation is brought back into another one, with other addresses and other secrets.

const HOUR = 3_600_000;
const world = useWorld();
const HEAD = {
  format: 'ascenso-history' as const,
  command: 'a test',
  seed: '1',
  release: '0.1.0',
  people: 3,
  days: 2,
  now: FRIDAY_NOON + 48 * HOUR,
  migrations: readdirSync(migrations).filter((f) => f.endsWith('.sql')).length,
};
const elsewhere = { base: 'https://mail.elsewhere.example', mailbox: 'http://127.0.0.1:1', shop: '127.0.0.1:2' };
const here = { base: 'http://ascenso.test', mailbox: 'http://127.0.0.1:3', shop: '127.0.0.1:4' };
let signs: Signs;
let packed: Buffer;
const opened: Connection[] = [];
afterAll(() => Promise.all(opened.map((c) => c.close())));

async function emptyDatabase(): Promise<Connection> {
  const base = process.env.TEST_DATABASE_URL ?? '';
  const name = `history_${randomUUID().replaceAll('-', '').slice(0, 12)}`;
  const connection = connect(await databaseFor(base, name, migrations, FRIDAY_NOON));
  opened.push(connection);
  return connection;
}

/** Message-IDs of the mailbox, in their order. */
const mailbox = () => world.mailbox.store.summaries.map((s) => s.messageId);
const kept = () => keepHistory(world.connection, HEAD, signs, mailbox(), keptFiles);
let keptFiles: Record<string, string> = {};

beforeAll(async () => {
  await world.live({
    steps: [
      emailStep('First', { address: 'https://foldwell.example/a?x=1&y=\u00e9' }),
      waitStep(1),
      emailStep('Second'),
    ],
  });
  for (const [name, first] of [
    ['marta', 'Marta'],
    ['tiago', 'back\\slash\tand tab'],
    ['ilse', 'new\nline'],
  ])
    await world.join(`${name}@readers.example`, { attributes: { first_name: first } });
  await world.ahead(HEAD.now);
  // Somebody opens, so that counters have something to count.
  const source = world.mailbox.store.source(world.mailbox.store.summaries[0] as never).toString();
  const html = (await PostalMime.parse(source)).html ?? '';
  const pixel = /src="http:\/\/ascenso\.test(\/o\/[^"]*)"/.exec(html)?.[1] ?? '';
  await request(world.app).get(pixel).expect(200);
  signs = { secret: await installationSecret(world.connection.db), words: { ...here, key: world.key } };
  const link = /href="http:\/\/ascenso\.test(\/c\/[^"]*)"/.exec(html)?.[1] ?? '';
  keptFiles = {
    'crowd/crowd.json': JSON.stringify({ url: `${here.base}${link}`, key: world.key, mailbox: here.mailbox }),
  };
  packed = packHistory(historyText(await kept()), true);
});

const restored = async (around: Parameters<typeof restoreHistory>[3] = async () => undefined, history = packed) => {
  const connection = await emptyDatabase();
  const read = readHistory('demo/history.br', history);
  const installing = { addresses: elsewhere, migrations, release: '0.1.0', users: [owner] };
  expect(await restoreHistory(connection, read, installing, around)).toBe(true);
  return { connection, read };
};

test('it comes back to the letter, and its emails and addresses are signed by whoever brings it back', async () => {
  let other: Signs | undefined;
  const made: { to: string; source: string }[] = [];
  const { connection, read } = await restored(async (db, its) => {
    other = its;
    for await (const some of messagesAgain(db, its, null, readHistory('x', packed).mail)) made.push(...some);
  });
  const its = other as Signs;
  expect(its.secret).not.toBe(signs.secret);
  expect(its.words.key).not.toBe(world.key);
  const again = await keepHistory(connection, HEAD, its, mailbox(), {
    'crowd/crowd.json': withSigns(read.kept['crowd/crowd.json'] ?? '', its),
  });
  expect(historyText(again)).toBe(historyText(await kept()));

  // Every message of the mailbox is made anew: the same to the letter but for address and signature.
  expect(made.map((m) => m.to)).toEqual(world.mail().map((m) => m.to));
  const plain = async (source: string) => {
    const mail = await PostalMime.parse(source);
    const masked = (text = '') =>
      text.replaceAll(/(http:\/\/ascenso\.test|https:\/\/mail\.elsewhere\.example)(\/\w\/)?[\w-]*/g, '#');
    const lines = mail.headerLines.map((h) => masked(h.line));
    return { ...mail, headers: lines, headerLines: null, html: masked(mail.html), text: masked(mail.text) };
  };
  for (const [i, summary] of world.mailbox.store.summaries.entries())
    expect(await plain(made[i]?.source ?? '')).toEqual(
      await plain(world.mailbox.store.source(summary).toString('latin1')),
    );

  const app = world.serve({
    connection,
    reading: readPrimary(connection),
    sending: { ...world.sending, base: elsewhere.base, secret: its.secret },
  });
  const { url } = JSON.parse(withSigns(read.kept['crowd/crowd.json'] ?? '', its)) as { url: string };
  expect(url).toMatch(/^https:\/\/mail\.elsewhere\.example\/c\//);
  await request(app).get(new URL(url).pathname).expect(302);
  // What was signed here opens nothing there, and the key of here neither.
  const old = new URL((JSON.parse(keptFiles['crowd/crowd.json'] ?? '') as { url: string }).url).pathname;
  expect((await request(app).get(old)).status).toBe(404);
  const asking = (key: string) =>
    request(app)
      .post('/intake/subscribers')
      .set('Authorization', `Bearer ${key}`)
      .send({ email: 'noor@readers.example' });
  await asking(its.words.key).expect(200);
  await asking(world.key).expect(401);
  await request(app).post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
});

test('nothing is counted twice', async () => {
  const { connection } = await restored();
  const counted = async (c: Connection) =>
    rows(c.db, sql`select what, detail, step, n from tally_totals where n <> 0 order by what, detail, step, n`);
  expect((await counted(connection)).length).toBeGreaterThan(3);
  expect(await counted(connection)).toEqual(await counted(world.connection));
  expect(await rows(connection.db, sql`select 1 from tally_moves`)).toEqual([]);
});

test('what is broken off leaves an empty database, and a database that is in use is left alone', async () => {
  const connection = await emptyDatabase();
  const history = readHistory('demo/history.br', packed);
  const installing = { addresses: elsewhere, migrations, release: '0.1.0', users: [owner] };
  const broken = () => Promise.reject(new Error('the mailbox is away'));
  await expect(restoreHistory(connection, history, installing, broken)).rejects.toThrow('the mailbox is away');
  expect(await rows(connection.db, sql`select id from workspaces union all select id from people`)).toEqual([]);
  expect(await restoreHistory(connection, history, installing, async () => undefined)).toBe(true);
  const count = () => rows(connection.db, sql`select count(*) as n from sends`);
  const before = await count();
  expect(await restoreHistory(connection, history, installing, broken)).toBe(false);
  expect(await count()).toEqual(before);
});

test.each([
  ['nothing', Buffer.alloc(0)],
  ['words', Buffer.from('hello')],
  ['half of one', () => packed.subarray(0, packed.length / 2)],
  ['a shorter one', () => packHistory(historyText(readHistory('x', packed)).slice(0, 5_000), true)],
])('%s is told as no history', (_, bytes) => {
  expect(() => readHistory('demo/history.br', typeof bytes === 'function' ? bytes() : bytes)).toThrow(
    /^demo\/history\.br is no history of Ascenso, or is not whole: /,
  );
});
