import { sql } from 'drizzle-orm';
import { agent } from 'supertest';
import { beforeAll, describe, expect, test } from 'vitest';
import type { ResumeCounts, SequencesAnswer, SuppressedAnswer } from '@ascenso/contracts';
import { DAY, readSuppressions } from '@ascenso/core';
import { rows } from '../src/db/rows.ts';
import { haltIfTooMany } from '../src/people/halting.ts';
import { calledSpam, cameBack } from '../src/people/returned.ts';
import { emailStep, owner, useWorld, waitStep } from './support/world.ts';

test('addresses are read as they are typed or exported elsewhere; a line without one is told', () => {
  const text =
    '\uFEFFEmail;Reason\r\nAna@x.example;Hard bounce\n"bo@x.example",marked as spam\n\ncy@x.example\nnobody\nANA@x.example';
  expect(readSuppressions(text, 'unsubscribed')).toEqual([
    { email: 'ana@x.example', why: 'bounced' },
    { email: 'bo@x.example', why: 'complained' },
    { email: 'cy@x.example', why: 'unsubscribed' },
    { line: 6, fault: 'There is no email address in “nobody”.' },
  ]);
  expect(readSuppressions('Name,Unsubscribed on', 'bounced')).toEqual([]);
});

describe('who gets no mail', () => {
  const world = useWorld();
  const ines = () => as;
  let as: ReturnType<typeof agent>;
  beforeAll(async () => {
    as = agent(world.app);
    await as.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
    await world.live({ name: 'Letters', steps: [emailStep('One'), waitStep(1), emailStep('Two')] });
  });
  const list = async (query = '') => (await ines().get(`/api/suppressed${query}`).expect(200)).body as SuppressedAnswer;
  const mails = (email: string) =>
    world
      .mail()
      .filter((m) => m.to.includes(email))
      .map((m) => m.subject);

  test('somebody inside a sequence gets nothing more of it; it is in their record', async () => {
    await world.join('inside@x.example');
    await world.ahead((await world.now()) + 60_000);
    const body = { addresses: [{ email: 'Inside@x.example', why: 'unsubscribed' }] };
    await ines().post('/api/suppressed').send(body).expect(200, { people: 1 });
    await world.ahead((await world.now()) + 2 * DAY);
    expect(mails('inside@x.example')).toEqual(['One']);
    const told = await rows(
      world.connection.db,
      sql`select s.how, s.label, c.what from consents c join consent_sources s on s.id = c.source_id join people p on p.id = c.person_id where p.email = 'inside@x.example' and c.list_id is null`,
    );
    expect(told).toEqual([{ how: 'hand', label: owner.name, what: 'left' }]);
  });

  test('an address that nobody has gets no mail by whichever door it comes, until it is taken off', async () => {
    const later = ['later@x.example', 'file@x.example', 'free@x.example'];
    const addresses = later.map((email) => ({ email, why: 'complained' }));
    await ines().post('/api/suppressed').send({ addresses }).expect(200, { people: 0 });
    const free = (await list('?q=free@x')).rows[0];
    expect(free).toMatchObject({ email: 'free@x.example', person: null, why: 'complained' });
    await ines().delete(`/api/suppressed/${free?.id}`).expect(200);
    for (const email of later) await world.join(email);
    await world.ahead((await world.now()) + 2 * DAY);
    expect(later.map(mails)).toEqual([[], [], ['One', 'Two']]);
    expect((await world.person('later@x.example'))?.mail_status).toBe('complained');
  });

  test('pages, search, reasons, counts and the file agree with what was put in; the erased are counted, not named', async () => {
    const many = Array.from({ length: 230 }, (_, n) => ({
      email: `p${String(n).padStart(3, '0')}@many.example`,
      why: (['unsubscribed', 'bounced', 'complained'] as const)[n % 3],
    }));
    await ines().post('/api/suppressed').send({ addresses: many }).expect(200);
    const seen: string[] = [];
    let after: string | null = null;
    do {
      const query: string = after ? `&after=${encodeURIComponent(after)}` : '';
      const page: SuppressedAnswer = await list(`?q=many.example${query}`);
      seen.push(...page.rows.map((r) => r.email ?? ''));
      after = page.next;
    } while (after);
    expect(seen).toEqual(many.map((m) => m.email));
    expect((await list('?q=many')).counts).toEqual({ unsubscribed: 77, bounced: 77, complained: 76 });
    const csv = (await ines().get('/api/suppressed.csv?q=many&why=complained').expect(200)).text.split('\r\n');
    expect(csv[0]).toBe('\uFEFFemail,why,since');
    expect(csv.filter((l) => l.includes(',complained,'))).toHaveLength(76);
    const before = (await list()).counts;
    const person = (await world.person('inside@x.example'))?.id as string;
    await ines().post(`/api/people/${person}/erase`).send({ email: 'inside@x.example' }).expect(200);
    expect((await list()).counts).toEqual(before);
    expect((await list('?q=inside')).rows).toEqual([]);
  });

  test('what is no address changes nothing, and a person is not taken off here', async () => {
    const bad = {
      addresses: [
        { email: 'good@x.example', why: 'bounced' },
        { email: 'bad', why: 'bounced' },
      ],
    };
    const answer = await ines().post('/api/suppressed').send(bad).expect(422);
    expect(answer.text).toContain('addresses.1.email');
    expect((await list('?q=good@x')).rows).toEqual([]);
    const person = (await world.person('later@x.example'))?.id as string;
    await ines().delete(`/api/suppressed/${person}`).expect(409);
    await ines().get('/api/suppressed?after=x').expect(422);
  });
});

describe('too much of a day halts a sequence', () => {
  const world = useWorld();
  let as: ReturnType<typeof agent>;
  let sequence: string;
  beforeAll(async () => {
    as = agent(world.app);
    await as.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
    sequence = await world.live({ name: 'Letters', steps: [emailStep('One'), waitStep(1), emailStep('Two')] });
  });
  let n = 0;
  /** So many people join now, and have been sent the first email. */
  async function day(people: number) {
    const from = n;
    for (let i = 0; i < people; i++) await world.join(`day${n++}@x.example`);
    await world.ahead((await world.now()) + 60_000);
    return rows<{ id: string }>(
      world.connection.db,
      sql`select s.id from sends s join people p on p.id = s.person_id where s.status = 'sent' and s.step = (select min(step) from sends)
          and substring(p.email from 'day(\\d+)@')::int >= ${from} order by s.id`,
    );
  }
  const key = (s: { id: string }) => ({ workspaceId: world.ws, sendId: s.id });
  const status = async () =>
    (await rows<{ status: string }>(world.connection.db, sql`select status from sequences where id = ${sequence}`))[0]
      ?.status;
  const spam = async (s: { id: string }) => calledSpam(world.connection.db, key(s), await world.now());
  const gone = async (s: { id: string }) =>
    cameBack(
      world.connection.db,
      key(s),
      { failed: [{ to: '', hard: true, status: '5.1.1', words: 'Gone' }], others: [] },
      await world.now(),
    );

  test('three complaints of a hundred do; two do not; it is told, and goes on when resumed', async () => {
    const sends = await day(100);
    for (const s of [0, 1, 1]) await spam(sends[s] as { id: string });
    expect(await status()).toBe('live');
    await spam(sends[2] as { id: string });
    expect(await status()).toBe('paused');
    // The owner is told, once.
    await world.ahead((await world.now()) + 1);
    const told = world.mail().filter((m) => m.to === owner.email);
    expect(told.map((m) => m.subject)).toEqual([expect.stringMatching(/Letters.*was_paused_by/)]);
    const { looks } = (await as.get('/api/sequences').expect(200)).body as SequencesAnswer;
    expect(looks.stopped).toMatchObject([{ id: sequence, halt: { why: 'complained', count: 3, sent: 100 } }]);
    const counts = (await as.get(`/api/sequences/${sequence}/resume`).expect(200)).body as ResumeCounts;
    expect(counts.halted).toEqual({ why: 'complained', count: 3, sent: 100 });
    const before = world.mail().length;
    await world.ahead((await world.now()) + 2 * DAY);
    expect(world.mail()).toHaveLength(before);
    await as.post(`/api/sequences/${sequence}/resume`).send({ overdue: 'send', lateHours: 24 }).expect(200);
    await world.ahead((await world.now()) + 60_000);
    expect(world.mail()).toHaveLength(before + 97);
    // What was answered for halts it no more.
    await spam(sends[3] as { id: string });
    expect(await status()).toBe('live');
  });

  test('one who says so three times does not, nor do three who were only typed into a form', async () => {
    await world.ahead((await world.now()) + 3 * DAY);
    const sends = await day(30);
    for (let i = 0; i < 3; i++) await spam(sends[0] as { id: string });
    expect(await status()).toBe('live');
    const { db } = world.connection;
    const strangers = sends.slice(1, 4);
    await db.execute(
      sql`update memberships m set state = 'pending' from sends s where s.person_id = m.person_id and s.id = any (${sql.param(strangers.map((s) => s.id))}::uuid[])`,
    );
    for (const s of strangers) await spam(s);
    expect(await status()).toBe('live');
  });

  test('three at one moment do, too: none of them is counted past the others', async () => {
    await world.ahead((await world.now()) + 3 * DAY);
    const sends = await day(50);
    const { db } = world.connection;
    let written = 0;
    let all = () => {};
    const together = new Promise<void>((resolve) => (all = resolve));
    // Each has written its complaint, and none has said so to the others yet.
    await Promise.all(
      sends.slice(0, 3).map((s) =>
        db.transaction(async (tx) => {
          const now = await world.now();
          const found = await rows<{ visit: string; dueAt: number }>(
            tx,
            sql`update sends set complained_at = ${now} where id = ${s.id} returning visit_id as visit, due_at as "dueAt"`,
          );
          if (++written === 3) all();
          await together;
          const [send] = found;
          if (send) await haltIfTooMany(tx, world.ws, { ...send, sequence }, 'complained', now);
        }),
      ),
    );
    expect(await status()).toBe('paused');
    await as.post(`/api/sequences/${sequence}/resume`).send({ overdue: 'shift', lateHours: 24 }).expect(200);
  });

  test('eleven of two hundred that come back do, ten do not: more than five percent', async () => {
    // The second emails of the first day went out on its own day and the next: a day on which nothing else goes.
    await world.ahead((await world.now()) + 3 * DAY);
    const sends = await day(200);
    for (const s of sends.slice(0, 10)) await gone(s);
    expect(await status()).toBe('live');
    await gone(sends[10] as { id: string });
    expect(await status()).toBe('paused');
  });
});
