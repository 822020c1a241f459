import { sql } from 'drizzle-orm';
import { agent } from 'supertest';
import { beforeAll, describe, expect, test } from 'vitest';
import { addDays, HOUR, MINUTE, zoneOf, type Step } from '@ascenso/core';
import { firstRow, rows } from '../src/db/rows.ts';
import { advanceRound } from '../src/engine/advance-loop.ts';
import { sendRound } from '../src/engine/send-loop.ts';
import { actionStep, emailStep, owner, useWorld, waitStep } from './support/world.ts';

// What a pause, an archive and a cancelled email leave behind.
const DAY = 24 * HOUR;
const world = useWorld();
let own: ReturnType<typeof agent>;
beforeAll(async () => {
  own = agent(world.app);
  await own.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
});
let n = 0;

async function running(steps: Step[], more = {}) {
  const name = `run${++n}`;
  const id = await world.live({ name, triggers: [{ kind: 'event', event: name, where: [] }], steps, ...more });
  return {
    id,
    start: async (who: string) => {
      await world.join(who);
      await world.event({ type: name, subject: who }).expect(202);
      await advanceRound(world.connection, await world.now());
    },
    pause: () => own.post(`/api/sequences/${id}/status`).send({ status: 'paused' }).expect(200),
    archive: () => own.post(`/api/sequences/${id}/status`).send({ status: 'archived' }).expect(200),
    resume: (overdue: 'send' | 'skip' | 'shift') =>
      own.post(`/api/sequences/${id}/resume`).send({ overdue, lateHours: 24 }).expect(200),
    counts: async () => (await own.get(`/api/sequences/${id}/resume?late=24`).expect(200)).body as { emails: object[] },
  };
}
const address = () => `paused${++n}@readers.example`;
const got = (who: string) =>
  world
    .mail()
    .filter((m) => m.to === who)
    .map((m) => [m.subject, new Date(m.at).toISOString().slice(0, 16)]);
const weekdays = { days: [1, 2, 3, 4, 5], from: 9 * 60, to: 17 * 60 };
const windowed = (name: string) => ({ ...emailStep(name), window: weekdays });

describe('an email for Mon to Fri 9:00 to 17:00, however it is resumed on a Tuesday at 1:00', () => {
  /** Friday 13 March 2026, 16:00 in Lisbon; the Tuesday after, 1:00. */
  const friday = Date.UTC(2026, 2, 13, 16);
  const tuesday = Date.UTC(2026, 2, 17, 1);
  test.each(['shift', 'send'] as const)('%s: queued, held and behind a wait, none goes out at night', async (how) => {
    await world.stand(friday + (how === 'send' ? 7 * DAY : 0));
    const base = await world.now();
    const night = base - friday + tuesday;
    const queued = await running([windowed('Queued')]);
    const behind = await running([waitStep(1, 'hours'), windowed('Behind')]);
    const held = await running([waitStep(2, 'hours'), windowed('Held')]);
    const who = { queued: address(), behind: address(), held: address() };
    await held.start(who.held);
    await world.ahead(base + 2 * HOUR);
    await world.stand(base);
    await queued.start(who.queued);
    await behind.start(who.behind);
    for (const s of [queued, behind, held]) await s.pause();
    await world.ahead(night);
    for (const s of [queued, behind, held]) await s.resume(how);
    await world.ahead(night + 3 * DAY);
    const nine = new Date(night + 8 * HOUR).toISOString().slice(0, 16);
    expect(got(who.queued)).toEqual([['Queued', nine]]);
    expect(got(who.held)).toEqual([['Held', nine]]);
    const [[, at] = ['', '']] = got(who.behind) as [string, string][];
    expect(at.slice(11) >= '09:00' && at.slice(11) < '17:00').toBe(true);
  });
});

test('an email for 1 April never goes out on the 6th', async () => {
  await world.stand(Date.UTC(2026, 2, 28, 12));
  const april = { ...waitStep(0), at: { kind: 'day-of-year' as const, month: 4, day: 1, minute: 540 } };
  const s = await running([april, emailStep('April')]);
  const who = address();
  await s.start(who);
  await s.pause();
  await world.ahead(Date.UTC(2026, 3, 6, 9));
  await s.resume('shift');
  await world.ahead(Date.UTC(2026, 3, 20));
  expect(got(who)).toEqual([]);
});

test('what is overdue is told by its email, for how many, and how old the oldest is', async () => {
  const now = await world.now();
  const s = await running([
    waitStep(1, 'hours'),
    emailStep('First', { id: 'first' }),
    waitStep(1),
    emailStep('Second'),
  ]);
  await s.start(address());
  await world.ahead(now + 10 * MINUTE);
  await s.start(address());
  await s.pause();
  await world.ahead(now + 2 * DAY);
  expect((await s.counts()).emails).toEqual([{ step: 'first', name: 'First', people: 2, late: 2, oldest: now + HOUR }]);
});

test('archiving also takes back what a crashed sender had leased, then and should its lease end later', async () => {
  const s = await running([emailStep('Never')]);
  const [crashed, recently] = [address(), address()];
  for (const who of [crashed, recently]) await s.start(who);
  const leased = (who: string, until: number) =>
    world.connection.db.execute(
      sql`update sends set status = 'leased', lease_until = ${until} from people p where p.workspace_id = sends.workspace_id and p.id = sends.person_id and p.email = ${who}`,
    );
  await leased(crashed, Date.now() - 1000);
  await leased(recently, Date.now() + 60_000);
  await s.archive();
  await leased(recently, Date.now() - 1000);
  await world.ahead((await world.now()) + DAY);
  expect([...got(crashed), ...got(recently)]).toEqual([]);
  const left = await rows<{ status: string }>(
    world.connection.db,
    sql`select distinct status from sends where sequence_id = ${s.id}`,
  );
  expect(left).toEqual([{ status: 'cancelled' }]);
  for (const who of [crashed, recently])
    expect((await world.trace(who)).map((t) => t.code)).toContain('email-cancelled');
});

test('what is cancelled gives back its place in the daily cap', async () => {
  await world.connection.db.execute(sql`update workspaces set daily_cap = 1 where id = ${world.ws}`);
  const first = await running([emailStep('First of the day')]);
  const second = await running([emailStep('Second of the day')]);
  const who = address();
  await first.start(who);
  await first.archive();
  await second.start(who);
  await world.ahead(await world.now());
  expect(got(who).map(([subject]) => subject)).toEqual(['Second of the day']);
  await world.connection.db.execute(sql`update workspaces set daily_cap = null where id = ${world.ws}`);
});

test('"still to come today" counts whoever’s place makes an email due before midnight, waits that end today included', async () => {
  // The day before yields nothing: 9:00 in Lisbon of a day of its own.
  await world.ahead(addDays(zoneOf('Europe/Lisbon'), Date.UTC(2026, 4, 4, 8), 0));
  const before = (await own.get('/api/sequences').expect(200)).body.today.toCome as number;
  const s = await running([
    waitStep(2, 'hours'),
    emailStep('Tonight'),
    waitStep(3, 'hours'),
    emailStep('Later tonight'),
    waitStep(1),
    emailStep('Tomorrow'),
  ]);
  await s.start(address());
  await s.start(address());
  const tomorrow = await running([waitStep(1), emailStep('Tomorrow')]);
  await tomorrow.start(address());
  const paused = await running([waitStep(1, 'hours'), emailStep('Paused')]);
  await paused.start(address());
  await paused.pause();
  const { today } = (await own.get('/api/sequences').expect(200)).body;
  expect(today.toCome - before).toBe(4);
});

test('a story says "asked to" before, and "started", "told" once that has happened', async () => {
  const other = await running([waitStep(1), emailStep('Other')]);
  const s = await running([
    actionStep({ type: 'start-sequence', sequence: other.id }),
    actionStep({ type: 'tell-team', to: 'tomasz@foldwell.example', text: 'Look' }),
    waitStep(1),
    emailStep('Then'),
  ]);
  const who = address();
  await s.start(who);
  const codes = async () => (await world.trace(who)).map((t) => t.code);
  expect(await codes()).toEqual(expect.arrayContaining(['start-asked', 'sequence-started', 'tell-asked']));
  expect(await codes()).not.toContain('team-told');
  await world.ahead(await world.now());
  expect(await codes()).toContain('team-told');
  // Started twice by another passage: the one who is inside is not let in again, and the story says so.
  await other.archive();
  const again = address();
  await s.start(again);
  expect(await codes()).not.toContain('start-refused');
  expect((await world.trace(again)).map((t) => [t.code, t.data.why])).toContainEqual(['start-refused', 'not-live']);
});

test('an email that has failed for hours is tried again in its window only', async () => {
  const at = Date.UTC(2026, 5, 1, 15, 50); // Monday 16:50 in Lisbon
  await world.stand(at);
  const s = await running([windowed('Evening')]);
  const who = `evening${++n}@busy.example`;
  await s.start(who);
  const send = () =>
    firstRow<{ next_at: number; status: string }>(
      world.connection.db,
      sql`select s.next_at, s.status from sends s join people p on p.workspace_id = s.workspace_id and p.id = s.person_id where p.email = ${who}`,
    );
  const closed = {
    ...world.sending,
    transport: { deliver: () => Promise.resolve({ kind: 'later', answer: '451' }) } as never,
  };
  const tries: string[] = [];
  for (let now = at; tries.length < 4; now = (await send())?.next_at as number) {
    tries.push(new Date(now).toISOString().slice(0, 16));
    await sendRound(world.connection, closed, now);
  }
  // Five minutes and half an hour later belong to the same try; two hours later the window is closed until Tuesday.
  expect(tries).toEqual(['2026-06-01T15:50', '2026-06-01T15:55', '2026-06-01T16:25', '2026-06-02T08:00']);
});
