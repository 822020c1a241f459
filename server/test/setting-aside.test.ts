import { sql } from 'drizzle-orm';
import request from 'supertest';
import { beforeEach, describe, expect, test } from 'vitest';
import type { Step } from '@ascenso/core';
import { newId } from '../src/app/ids.ts';
import { firstRow, rows } from '../src/db/rows.ts';
import { advanceRound } from '../src/engine/advance-loop.ts';
import { noticeRound } from '../src/engine/notices.ts';
import { sendRound } from '../src/engine/send-loop.ts';
import { sweepRound } from '../src/engine/sweeping.ts';
import { actionStep, branchStep, emailStep, owner, useWorld, waitStep } from './support/world.ts';

// One row never stops the rest.
const MINUTE = 60_000;
const DAY = 86_400_000;
const world = useWorld();
let n = 0;
const db = () => world.connection.db;

/** People who stand at the beginning of a sequence. */
async function people(count: number, steps: Step[]): Promise<string[]> {
  const name = `aside${++n}`;
  await world.live({ name, triggers: [{ kind: 'event', event: name, where: [] }], steps });
  const all = Array.from({ length: count }, (_, i) => `${name}-${i}@readers.example`);
  for (const who of all) {
    await world.join(who);
    await world.event({ type: name, subject: who }).expect(202);
  }
  return all;
}
const got = () =>
  new Set(
    world
      .mail()
      .slice(before)
      .map((m) => m.to),
  );
let before = 0;
beforeEach(async () => {
  before = world.mail().length;
  await db().execute(sql`delete from set_aside`);
});
const visitOf = (who: string) =>
  firstRow<{ id: string; status: string; wake_at: number }>(
    db(),
    sql`select v.id, v.status, v.wake_at from visits v join people p on p.workspace_id = v.workspace_id and p.id = v.person_id where p.email = ${who}`,
  );
const aside = () =>
  rows<{ kind: string; reason: string; failures: number; next_at: number; person: string | null }>(
    db(),
    sql`select a.kind, a.reason, a.failures, a.next_at, p.email as person from set_aside a left join people p on p.workspace_id = a.workspace_id and p.id = a.person_id`,
  );

/** Makes the database itself refuse every write of one row, as a broken one would. */
async function refuses(table: 'visits' | 'sends' | 'notices', id: string): Promise<() => Promise<void>> {
  const name = `refuse_${id.replaceAll('-', '')}`;
  await db().execute(
    sql.raw(
      `create function ${name}() returns trigger language plpgsql as $$ begin if new.id = '${id}' then raise exception 'this row is broken'; end if; return new; end $$`,
    ),
  );
  const event = { visits: 'update of step', sends: 'update of "values"', notices: 'update of status' }[table];
  await db().execute(
    sql.raw(`create trigger ${name} before ${event} on ${table} for each row execute function ${name}()`),
  );
  return async () => {
    await db().execute(sql.raw(`drop trigger ${name} on ${table}`));
  };
}

describe('a visit that cannot be handled', () => {
  test('because its version is gone: it is set aside, the rest of the batch goes out', async () => {
    const all = await people(20, [emailStep('Hello')]);
    await db().execute(sql`update visits set version = 999 where id = ${(await visitOf(all[7] as string))?.id}`);
    const now = await world.now();
    await world.ahead(now);
    expect(got()).toEqual(new Set(all.filter((_, i) => i !== 7)));
    expect(await aside()).toEqual([
      {
        kind: 'visit',
        person: all[7],
        failures: 1,
        next_at: now + MINUTE,
        reason: expect.stringMatching(/Version 999/) as string,
      },
    ]);
    expect((await world.trace(all[7] as string)).at(-1)).toMatchObject({ code: 'set-aside' });
    // The first screen says so, and is not blinded by it.
    const own = request.agent(world.app);
    await own.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
    const { looks } = (await own.get('/api/sequences').expect(200)).body;
    expect(looks.aside).toMatchObject([{ kind: 'visit', count: 1, person: { email: all[7] } }]);
    // What a sender tells of that person is taken, and of everybody else.
    await world.event({ type: `aside${n}`, subject: all[7] as string }).expect(202);
    // It is tried again with growing pauses, and told once.
    await world.ahead(now + 40 * MINUTE);
    expect((await aside())[0]).toMatchObject({ failures: 4 });
    expect((await world.trace(all[7] as string)).filter((t) => t.code === 'set-aside')).toHaveLength(1);
    // Mended, it goes on by itself.
    await db().execute(sql`update visits set version = 1 where version = 999`);
    await world.ahead(now + DAY);
    expect(got()).toEqual(new Set(all));
    expect(await aside()).toEqual([]);
  });

  test('because the database refuses it: found among five hundred', async () => {
    const all = await people(60, [emailStep('Hello')]);
    const bad = await visitOf(all[41] as string);
    const mend = await refuses('visits', bad?.id as string);
    const now = await world.now();
    await advanceRound(world.connection, now);
    await sendRound(world.connection, world.sending, now);
    expect(got()).toEqual(new Set(all.filter((_, i) => i !== 41)));
    expect(await aside()).toMatchObject([{ kind: 'visit', person: all[41], reason: 'this row is broken' }]);
    await mend();
    await world.ahead(now + MINUTE);
    expect(got().size).toBe(60);
  });

  test('what is queued for it waits until it can say whether its goal was reached', async () => {
    const [who] = await people(1, [emailStep('Hello'), waitStep(1), emailStep('Later')]);
    const now = await world.now();
    await advanceRound(world.connection, now);
    await db().execute(
      sql`update visits set version = 999, wake_at = ${now} where id = ${(await visitOf(who as string))?.id}`,
    );
    await advanceRound(world.connection, now);
    await sendRound(world.connection, world.sending, now);
    expect(got().size).toBe(0);
    await db().execute(sql`update visits set version = 1 where version = 999`);
    await world.ahead(now + MINUTE);
    expect(got().size).toBe(1);
  });
});

test('an email that cannot be filled, and one that the database refuses: the others go', async () => {
  const all = await people(12, [emailStep('Hello')]);
  const now = await world.now();
  await advanceRound(world.connection, now);
  const sendOf = async (who: string | undefined) =>
    (
      await firstRow<{ id: string }>(
        db(),
        sql`select s.id from sends s join people p on p.workspace_id = s.workspace_id and p.id = s.person_id where p.email = ${who}`,
      )
    )?.id as string;
  await db().execute(sql`update sends set program_hash = 'gone' where id = ${await sendOf(all[3])}`);
  const mend = await refuses('sends', await sendOf(all[8]));
  await sendRound(world.connection, world.sending, now);
  expect(got()).toEqual(new Set(all.filter((_, i) => i !== 3 && i !== 8)));
  expect((await aside()).map((a) => [a.kind, a.person]).sort()).toEqual([
    ['send', all[3]],
    ['send', all[8]],
  ]);
  await mend();
  await db().execute(sql`update sends set status = 'cancelled' where program_hash = 'gone'`);
});

test('a sweep with one person who cannot be let in: the others come in, and that one when it can be', async () => {
  const ids = ['a', 'b', 'c'].map((c) => `swept-${c}@readers.example`);
  for (const who of ids) await world.join(who);
  const now = await world.now();
  const sequence = await world.live({
    name: 'Goodbye',
    triggers: [{ kind: 'quiet', what: 'event', event: 'order.paid', days: 3 }],
    filter: { kind: 'attribute', test: { field: 'first_name', op: 'is not', value: 'nobody' } },
    steps: [emailStep('Goodbye')],
  });
  const bad = (await world.person(ids[1] as string))?.id as string;
  await db().execute(
    sql.raw(
      `create function no_way_in() returns trigger language plpgsql as $$ begin if new.person_id = '${bad}' and new.sequence_id = '${sequence}' then raise exception 'no way in'; end if; return new; end $$`,
    ),
  );
  await db().execute(sql`create trigger no_way_in before insert on visits for each row execute function no_way_in()`);
  await world.stand(now + 3 * DAY);
  while ((await sweepRound(world.connection, now + 3 * DAY)) > 0);
  const inside = async () =>
    (
      await rows<{ email: string }>(
        db(),
        sql`select p.email from visits v join people p on p.workspace_id = v.workspace_id and p.id = v.person_id where v.sequence_id = ${sequence} and p.email like 'swept-%' order by 1`,
      )
    ).map((r) => r.email);
  expect(await inside()).toEqual([ids[0], ids[2]]);
  expect(await aside()).toMatchObject([{ kind: 'sweep', person: ids[1], reason: 'no way in' }]);
  await db().execute(sql`drop trigger no_way_in on visits`);
  await world.ahead(now + 3 * DAY + MINUTE);
  expect(await inside()).toEqual(ids);
  expect(await aside()).toEqual([]);
});

test('a notice that cannot be made: the others are told', async () => {
  const tell = () => actionStep({ type: 'tell-team', to: 'tomasz@foldwell.example', text: 'Look' });
  const all = await people(3, [tell(), waitStep(1), emailStep('Later')]);
  const now = await world.now();
  await advanceRound(world.connection, now);
  const notice = await firstRow<{ id: string }>(
    db(),
    sql`select id from notices where person_id = ${(await world.person(all[1] as string))?.id}`,
  );
  const mend = await refuses('notices', notice?.id as string);
  await noticeRound(world.connection, world.sending, now);
  const codes = await Promise.all(all.map(async (who) => (await world.trace(who)).map((t) => t.code)));
  expect(codes[0]).toContain('team-told');
  expect(codes[2]).toContain('team-told');
  expect(codes[1]).not.toContain('team-told');
  expect(await aside()).toMatchObject([{ kind: 'notice', person: all[1] }]);
  await mend();
  await world.ahead(now + MINUTE);
  expect((await world.trace(all[1] as string)).map((t) => t.code)).toContain('team-told');
  expect(await aside()).toEqual([]);
});

test.each(['0x0', '..%2f', '1e3', '0.1', '0.x.0', ' 1', '99999999999999999999'])(
  'a link that is none (%s) is refused, kept nowhere, and stops no engine',
  async (ref) => {
    const step = emailStep('Guide', { address: 'https://foldwell.example/guide' });
    const clicked = {
      kind: 'email' as const,
      step: step.id,
      what: 'clicked' as const,
      link: 'https://foldwell.example/guide',
      did: true,
    };
    const [who] = await people(1, [
      step,
      waitStep(1),
      branchStep([clicked, [emailStep('Clicked')]], [null, [emailStep('Not clicked')]]),
    ]);
    const now = await world.now();
    await world.ahead(now);
    const send = await firstRow<{ id: string }>(
      db(),
      sql`select s.id from sends s join people p on p.workspace_id = s.workspace_id and p.id = s.person_id where p.email = ${who}`,
    );
    await request(world.app)
      .get(`${world.path('c', send?.id)}/${ref}`)
      .expect(404);
    expect(await rows(db(), sql`select 1 from readings where send_id = ${send?.id}`)).toEqual([]);
    await world.ahead(now + DAY);
    expect(
      world
        .mail()
        .filter((m) => m.to === who)
        .map((m) => m.subject),
    ).toEqual(['Guide', 'Not clicked']);
  },
);

test('a workspace with 100,000 due visits delays another’s ten by two rounds at most', async () => {
  const other = await world.otherWorkspace();
  const now = await world.now();
  const fill = (ws: string, sequence: string, count: number, due: number) =>
    db().execute(sql`
      insert into visits (workspace_id, id, sequence_id, version, person_id, cause_id, status, step, entered_at, arrived_at, due_at, wake_at, held, step_times, entry, entry_at)
      select ${ws}, gen_random_uuid(), ${sequence}, 1, gen_random_uuid(), i::text, 'active', 'x', ${due}, ${due}, ${due}, ${due}, false, '{}', '{}', ${due} from generate_series(1, ${count}) i`);
  const sequences = [newId(), newId()];
  for (const [i, ws] of [world.ws, other].entries()) {
    await db().execute(
      sql`insert into sequences (workspace_id, id, name, status, live_version, created_at, revision, draft) select ${ws}, ${sequences[i]}, name, 'live', 1, 0, 0, draft from sequences limit 1`,
    );
    await db().execute(
      sql`insert into versions (workspace_id, sequence_id, number, doc, programs, made, published_at) select ${ws}, ${sequences[i]}, 1, doc, programs, made, 0 from versions limit 1`,
    );
  }
  await fill(world.ws, sequences[0] as string, 100_000, now - 3 * DAY);
  await fill(other, sequences[1] as string, 10, now - MINUTE);
  await db().execute(sql`analyze visits`);
  await advanceRound(world.connection, now);
  await advanceRound(world.connection, now);
  const left = await firstRow<{ n: number }>(
    db(),
    sql`select count(*)::int as n from visits where workspace_id = ${other} and status = 'active'`,
  );
  expect(left).toEqual({ n: 0 });
  await db().execute(sql`delete from visits where sequence_id = any (${sql.param(sequences)}::uuid[])`);
});

test('an email with a picture that leads one reader nowhere waits, for them alone; without its button it reads, and goes', async () => {
  const picture = {
    kind: 'image',
    id: 'p',
    file: '',
    address: 'https://foldwell.example/cart.png',
    alt: 'Your cart',
    link: '{{ event.page }}',
    width: 300,
  };
  const button = { kind: 'button', id: 'b', label: 'Back to it', address: '{{ event.page }}' };
  const mails = async (subject: string, block: object, data: (i: number) => Record<string, unknown>) => {
    const step = emailStep(subject);
    step.email.blocks.unshift(block as never);
    const type = `page${++n}`;
    // Its fields are known from the first that came.
    await world.event({ type, subject: 'sample@readers.example', data: data(0) }).expect(202);
    await world.live({ name: type, triggers: [{ kind: 'event', event: type, where: [] }], steps: [step] });
    for (const i of [0, 1]) {
      await world.join(`${type}-${i}@readers.example`);
      await world.event({ type, subject: `${type}-${i}@readers.example`, data: data(i) }).expect(202);
    }
    await world.ahead((await world.now()) + MINUTE);
    return [0, 1].map((i) => got().has(`${type}-${i}@readers.example`));
  };
  const page = (i: number) => (i === 0 ? { page: 'https://foldwell.example/cart/1' } : { page: '' });
  expect(await mails('By picture', picture, page)).toEqual([true, false]);
  expect(await aside()).toMatchObject([
    { kind: 'send', reason: '“Your cart” has no address for this reader, so the email waits' },
  ]);
  expect(await mails('By button', button, page)).toEqual([true, true]);
  const last = world.mailbox.store.summaries.findLast((m) => m.subject === 'By button' && m.to.includes('-1@'));
  expect(last && String(world.mailbox.store.source(last))).not.toContain('Back to it');
});
