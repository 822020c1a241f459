import { sql } from 'drizzle-orm';
import request from 'supertest';
import { beforeAll, describe, expect, test } from 'vitest';
import { blankOneOff, DAY, HOUR, MINUTE, type Condition, type Sequence, type TriggerOf } from '@ascenso/core';
import type { ForecastAnswer, SequencesAnswer, Whom } from '@ascenso/contracts';
import { newId } from '../src/app/ids.ts';
import { personStory } from '../src/db/people.ts';
import { rows } from '../src/db/rows.ts';
import { changeTags } from '../src/people/tags.ts';
import { emailStep, owner, testId, useWorld } from './support/world.ts';

const world = useWorld();
let agent: ReturnType<typeof request.agent>;
beforeAll(async () => {
  agent = request.agent(world.app);
  await agent.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
});

/** The wall clock of a zone, by the platform's own tables rather than by ours. */
const wall = (at: number, zone: string) =>
  new Intl.DateTimeFormat('sv-SE', { timeZone: zone, dateStyle: 'short', timeStyle: 'short' }).format(at);
const later = async (days: number) => new Date((await world.now()) + days * DAY).toISOString().slice(0, 10);
const moment = (day: string, zone: string | null = null): TriggerOf<'moment'> => ({
  kind: 'moment',
  when: 'day',
  day,
  minute: 9 * 60,
  zone,
});
const PUBLISHED: TriggerOf<'moment'> = { kind: 'moment', when: 'published', day: '', minute: 540, zone: null };

let counter = 0;
const subjects = () => `News ${++counter}`;

/** A draft of a one-off send, saved. */
async function draft(trigger: TriggerOf<'moment'>, subject: string, more: Partial<Sequence> = {}): Promise<string> {
  const doc: Sequence = {
    ...blankOneOff(subject, world.list, testId),
    triggers: [trigger],
    steps: [emailStep(subject)],
    ...more,
  };
  const id = newId();
  await world.connection.db.execute(
    sql`insert into sequences (workspace_id, id, name, status, created_at, revision, draft) values (${world.ws}, ${id}, ${subject}, 'draft', 0, 0, ${JSON.stringify(doc)}::jsonb)`,
  );
  return id;
}
const whom = async (id: string) => (await agent.get(`/api/sequences/${id}/whom`).expect(200)).body as Whom;
const sendOff = async (id: string) =>
  agent.post(`/api/sequences/${id}/publish`).send({ revision: 0, people: (await whom(id)).gets });
const got = (subject: string) => world.mail().filter((m) => m.subject === subject);
const row = async (id: string) =>
  ((await agent.get('/api/sequences').expect(200)).body as SequencesAnswer).sequences.find((s) => s.id === id);

let people = 0;
async function reader(zone: string, tag?: string): Promise<{ email: string; zone: string }> {
  const email = `reader${++people}@readers.example`;
  await world.join(email, { zone });
  const person = await world.person(email);
  if (tag && person)
    await world.connection.db.transaction(async (tx) =>
      changeTags(tx, world.ws, person.id, { add: [tag], remove: [] }, await world.now()),
    );
  return { email, zone };
}
const tagged = (tag: string): Condition => ({ kind: 'tag', tag, has: true });

describe('a send on a day', () => {
  test('two on one day to the same people are told of before they go out', async () => {
    await reader('Europe/Lisbon', 'both-days');
    await reader('Europe/Lisbon', 'both-days');
    const day = await later(4);
    const told = async () => {
      const { days, twice } = (await agent.get('/api/forecast').expect(200)).body as ForecastAnswer;
      return twice[days.findIndex((d) => wall(d, 'Europe/Lisbon').startsWith(day))];
    };
    const send = async () => {
      const id = await draft(moment(day), subjects(), { filter: tagged('both-days') });
      await sendOff(id).then((r) => expect(r.status).toBe(200));
    };
    await send();
    expect(await told()).toBe(0);
    await send();
    expect(await told()).toBe(2);
  });

  test('who gets it cannot be asked of a passage that nobody has begun', async () => {
    const filter: Condition = {
      kind: 'event',
      event: 'order_placed',
      done: true,
      since: { kind: 'entry' },
      where: [],
    };
    const id = await draft(moment(await later(3)), subjects(), { filter });
    const refused = await agent.get(`/api/sequences/${id}/whom`).expect(422);
    expect(refused.body).toMatchObject({
      error: { field: 'filter', message: expect.stringContaining('nobody has begun') },
    });
  });

  test('reaches each reader at that hour of their own clock, once, and nobody else', async () => {
    const zones = ['Pacific/Auckland', 'Asia/Kolkata', 'Europe/Lisbon', 'America/Los_Angeles', 'Pacific/Honolulu'];
    const readers = [];
    for (const zone of zones) readers.push(await reader(zone, 'own-hour'));
    await reader('Europe/Lisbon');
    const subject = subjects();
    const day = await later(3);
    const id = await draft(moment(day), subject, { filter: tagged('own-hour') });
    expect(await whom(id)).toMatchObject({ gets: 5, late: 0 });
    await sendOff(id).then((r) => expect(r.status).toBe(200));
    // Seen coming: by the day of the workspace, the forecast and the first screen of that day have them.
    const coming = (await agent.get('/api/forecast').expect(200)).body as ForecastAnswer;
    const mine = coming.sequences.find((s) => s.id === id);
    expect(mine?.joiners.map((n, i) => [wall(coming.days[i] ?? 0, 'Europe/Lisbon').slice(0, 10), n])).toEqual(
      expect.arrayContaining([
        [await later(2), 1],
        [day, 4],
      ]),
    );
    // Between the first zone and the last: whoever joins meanwhile is asked at the hour of their own zone.
    await world.ahead(Date.parse(`${day}T00:00:00Z`));
    expect(got(subject).map((m) => m.to)).toEqual([readers[0]?.email]);
    const lisbon = await reader('Europe/Lisbon', 'own-hour');
    const tooLate = await reader('Pacific/Auckland', 'own-hour');
    await world.ahead((await world.now()) + 2 * DAY);
    const mail = got(subject);
    for (const { email, zone } of [...readers, lisbon]) {
      const theirs = mail.filter((m) => m.to === email);
      expect(theirs.map((m) => wall(m.at, zone))).toEqual([`${day} 09:00`]);
    }
    expect(mail).toHaveLength(6);
    await reader('Pacific/Honolulu', 'own-hour');
    await world.ahead((await world.now()) + 10 * DAY);
    expect(got(subject)).toHaveLength(6);
    expect(mail.some((m) => m.to === tooLate.email)).toBe(false);
    expect(await row(id)).toMatchObject({ inside: 0, sent: 6, letInAt: expect.any(Number) });
    const person = await world.person(lisbon.email);
    const { story } = await personStory(world.connection.db, world.ws, person?.id as string, 'Europe/Lisbon');
    expect(story.map((s) => s.text).join('\n')).toMatch(/it goes out once, to everybody whom it is for/);
  });

  test('in one zone reaches everybody in the same moment', async () => {
    const readers = [await reader('Asia/Tokyo', 'one-zone'), await reader('America/New_York', 'one-zone')];
    const subject = subjects();
    const day = await later(2);
    const id = await draft(moment(day, 'Europe/Lisbon'), subject, { filter: tagged('one-zone') });
    await sendOff(id);
    await world.ahead((await world.now()) + 3 * DAY);
    expect(
      got(subject)
        .map((m) => m.to)
        .sort(),
    ).toEqual(readers.map((r) => r.email).sort());
    for (const m of got(subject)) expect(wall(m.at, 'Europe/Lisbon')).toBe(`${day} 09:00`);
  });

  test('whose hour has passed in some zones reaches those at once; one that has passed everywhere is refused', async () => {
    const day = await later(1);
    await world.ahead(Date.parse(`${day}T06:00:00Z`));
    const ahead = await reader('Asia/Tokyo', 'late');
    const behind = await reader('America/New_York', 'late');
    const subject = subjects();
    const id = await draft(moment(day), subject, { filter: tagged('late') });
    expect(await whom(id)).toMatchObject({ gets: 2, late: 1 });
    const begun = await world.now();
    await sendOff(id);
    await world.ahead(begun + HOUR);
    expect(got(subject)).toMatchObject([{ to: ahead.email }]);
    expect(((await agent.get('/api/sequences').expect(200)).body as SequencesAnswer).today).toMatchObject({
      toCome: 1,
    });
    expect((got(subject)[0]?.at ?? 0) - begun).toBeLessThan(HOUR);
    await world.ahead(begun + DAY);
    expect(
      got(subject)
        .filter((m) => m.to === behind.email)
        .map((m) => wall(m.at, behind.zone)),
    ).toEqual([`${day} 09:00`]);
    const gone = await draft(moment(day), subjects(), { filter: tagged('late') });
    await world.ahead((await world.now()) + 2 * DAY);
    const refused = await sendOff(gone);
    expect(refused.status).toBe(422);
    expect(refused.body.error.message).toMatch(/moment has passed/);
    expect(await row(gone)).toMatchObject({ status: 'draft', sent: 0 });
  });

  test('can be held and let go on, and cancelled for whoever has not had it', async () => {
    await reader('Asia/Tokyo', 'stopped');
    await reader('America/New_York', 'stopped');
    const [held, cancelled] = [subjects(), subjects()];
    const day = await later(2);
    const ids = [];
    for (const subject of [held, cancelled]) {
      const id = await draft(moment(day), subject, { filter: tagged('stopped') });
      await sendOff(id);
      ids.push(id);
    }
    await agent.post(`/api/sequences/${ids[0]}/status`).send({ status: 'paused' }).expect(200);
    await world.ahead(Date.parse(`${day}T06:00:00Z`));
    expect(got(held)).toHaveLength(0);
    expect(got(cancelled)).toHaveLength(1);
    await agent.post(`/api/sequences/${ids[1]}/status`).send({ status: 'archived' }).expect(200);
    await world.ahead((await world.now()) + 2 * DAY);
    expect(got(held)).toHaveLength(0);
    expect(got(cancelled)).toHaveLength(1);
    await agent.post(`/api/sequences/${ids[0]}/resume`).send({ overdue: 'send' }).expect(200);
    await world.ahead((await world.now()) + HOUR);
    expect(got(held)).toHaveLength(2);
  });
});

describe('a send at once', () => {
  test('reaches whoever fits then, and nobody later, whatever is published or tried again', async () => {
    for (let i = 0; i < 3; i++) await reader('Europe/Lisbon', 'at-once');
    const subject = subjects();
    const id = await draft(PUBLISHED, subject, { filter: tagged('at-once') });
    await sendOff(id);
    await world.ahead((await world.now()) + HOUR);
    expect(got(subject)).toHaveLength(3);
    await reader('Europe/Lisbon', 'at-once');
    await agent.post('/api/aside/now').send({}).expect(200);
    await world.connection.db.execute(sql`update sweeps set next_at = 0 where sequence_id = ${id}`);
    await agent
      .post(`/api/sequences/${id}/commands`)
      .send({ base: 0, edits: [{ role: 'edit', commands: [{ type: 'set', field: 'name', value: 'Named anew' }] }] })
      .expect(200);
    await agent.post(`/api/sequences/${id}/publish`).send({ revision: 1 }).expect(200);
    await world.ahead((await world.now()) + DAY);
    expect(got(subject)).toHaveLength(3);
    // Another day is another send: it is agreed to anew, and whoever has had it does not get it twice.
    const again = { type: 'set', field: 'triggers', value: [moment(await later(1))] };
    await agent
      .post(`/api/sequences/${id}/commands`)
      .send({ base: 1, edits: [{ role: 'edit', commands: [again] }] })
      .expect(200);
    const unsaid = await agent.post(`/api/sequences/${id}/publish`).send({ revision: 2 });
    expect(unsaid.status).toBe(422);
    expect(await whom(id)).toMatchObject({ gets: 1, left: { had: 3 } });
    await agent.post(`/api/sequences/${id}/publish`).send({ revision: 2, people: 1 }).expect(200);
    await world.ahead((await world.now()) + 3 * DAY);
    expect(got(subject)).toHaveLength(4);
  });

  test('goes to as many as were agreed to, or to nobody', async () => {
    for (let i = 0; i < 12; i++) await reader('Europe/Lisbon', 'agreed');
    const id = await draft(PUBLISHED, subjects(), { filter: tagged('agreed') });
    const unsaid = await agent.post(`/api/sequences/${id}/publish`).send({ revision: 0 });
    expect(unsaid.status).toBe(422);
    expect(unsaid.body.error).toMatchObject({ field: 'people' });
    const fewer = await agent.post(`/api/sequences/${id}/publish`).send({ revision: 0, people: 1 });
    expect(fewer.status).toBe(409);
    expect(fewer.body.error.message).toMatch(/12 people by now, not to the 1 /);
    expect(await row(id)).toMatchObject({ status: 'draft', inside: 0 });
  });

  test('is told who does not get it, and why', async () => {
    const mails = ['ok', 'ok', 'unsubscribed', 'bounced', 'complained', 'off-list'];
    for (const mail of mails) {
      const { email } = await reader('Europe/Lisbon', 'reasons');
      if (mail === 'off-list')
        await world.connection.db.execute(
          sql`update memberships set state = 'left' where person_id = (select id from people where email = ${email})`,
        );
      else if (mail !== 'ok')
        await world.connection.db.execute(sql`update people set ${sql.raw(`${mail}_at`)} = 1 where email = ${email}`);
    }
    const subject = subjects();
    const id = await draft(PUBLISHED, subject, { filter: tagged('reasons') });
    expect(await whom(id)).toMatchObject({
      gets: 2,
      left: { unsubscribed: 1, bounced: 1, complained: 1, offList: 1 },
    });
    await sendOff(id);
    await world.ahead((await world.now()) + HOUR);
    expect(got(subject)).toHaveLength(2);
  });

  test('one person who cannot be let in holds up nobody, and gets it when that is mended', async () => {
    const { db } = world.connection;
    await db.execute(sql`insert into people (workspace_id, id, email, zone, attributes, tags, created_at)
      select ${world.ws}, gen_random_uuid(), 'many' || n || '@readers.example', 'Europe/Lisbon', '{}', array['many'], 0 from generate_series(1, 2500) n`);
    await db.execute(sql`insert into memberships (workspace_id, person_id, list_id, state, at)
      select workspace_id, id, ${world.list}, 'confirmed', 0 from people where tags @> array['many']`);
    const subject = subjects();
    const id = await draft(PUBLISHED, subject, { filter: tagged('many') });
    const victim = await world.person('many77@readers.example');
    await db.execute(
      sql.raw(`create function refuse_one() returns trigger language plpgsql as $$
      begin if new.person_id = '${victim?.id}' and new.sequence_id = '${id}' then raise exception 'this one cannot come in'; end if; return new; end $$`),
    );
    await db.execute(sql`create trigger refuse_one before insert on visits for each row execute function refuse_one()`);
    await sendOff(id);
    await world.ahead((await world.now()) + 1);
    const inside = async () =>
      (
        await db.execute(
          sql`select count(distinct person_id)::int as n, count(*)::int as all from visits where sequence_id = ${id}`,
        )
      ).rows[0];
    expect(await inside()).toEqual({ n: 2499, all: 2499 });
    expect(await row(id)).toMatchObject({ letInAt: null });
    const { looks } = (await agent.get('/api/sequences').expect(200)).body as SequencesAnswer;
    expect(looks.aside.find((a) => a.kind === 'sweep')).toMatchObject({ reason: 'this one cannot come in' });
    await db.execute(sql`drop trigger refuse_one on visits`);
    await world.ahead((await world.now()) + 2 * DAY);
    expect(await inside()).toEqual({ n: 2500, all: 2500 });
    expect(new Set(got(subject).map((m) => m.to)).size).toBe(2500);
    expect(got(subject)).toHaveLength(2500);
    expect(await row(id)).toMatchObject({ letInAt: expect.any(Number) });
  }, 240_000);
});

test('nobody is added to it by hand', async () => {
  const { email } = await reader('Europe/Lisbon', 'by-hand');
  const id = await draft(PUBLISHED, subjects(), { filter: tagged('nobody') });
  expect((await sendOff(id)).status).toBe(200);
  const person = (await world.person(email))?.id;
  const refused = await agent.post(`/api/sequences/${id}/people`).send({ person }).expect(409);
  expect(refused.text).toContain('takes in people at its own moment');
});

describe('the minutes of grace', () => {
  const leaving = async () =>
    ((await agent.get('/api/outside/clock').expect(200)).body as { leaving: { id: string; at: number }[] }).leaving;
  const grace = (minutes: number) => agent.put('/api/grace').send({ minutes });

  test('nobody gets it before they are over; held in them, nobody at all; let go, all of them, once', async () => {
    await grace(2).expect(200);
    await reader('Europe/Lisbon', 'grace');
    await reader('Asia/Tokyo', 'grace');
    const [subject, held] = [subjects(), subjects()];
    const filter = tagged('grace');
    const now = await world.now();
    const [id, other] = [await draft(PUBLISHED, subject, { filter }), await draft(PUBLISHED, held, { filter })];
    for (const one of [id, other]) expect((await sendOff(one)).status).toBe(200);
    expect((await leaving()).map((l) => [l.id, l.at - now])).toEqual([id, other].sort().map((l) => [l, 2 * MINUTE]));
    await world.ahead(now + 2 * MINUTE - 1);
    expect([got(subject).length, got(held).length]).toEqual([0, 0]);
    await agent.post(`/api/sequences/${other}/status`).send({ status: 'paused' }).expect(200);
    expect((await leaving()).map((l) => l.id)).toEqual([id]);
    await world.ahead(now + DAY);
    expect(got(subject).map((m) => Math.round((m.at - now) / 1000))).toEqual([120, 120]);
    expect(got(held)).toEqual([]);
    const inside = await rows(world.connection.db, sql`select 1 from visits where sequence_id = ${other}`);
    expect(inside).toEqual([]);
    expect(await leaving()).toEqual([]);
    // Let go, its minutes begin anew.
    await agent.post(`/api/sequences/${other}/resume`).send({ overdue: 'send', lateHours: 24 }).expect(200);
    const again = await world.now();
    expect((await leaving()).map((l) => [l.id, l.at - again])).toEqual([[other, 2 * MINUTE]]);
    await world.ahead(again + DAY);
    expect(got(held).map((m) => Math.round((m.at - again) / 1000))).toEqual([120, 120]);
  });

  test('a send on a later day needs none: it can be held until then; the house says how long, an hour at most', async () => {
    await grace(60).expect(200);
    const subject = subjects();
    const id = await draft(moment(await later(3), 'Europe/Lisbon'), subject, { filter: tagged('grace') });
    expect((await sendOff(id)).status).toBe(200);
    expect(await leaving()).toEqual([]);
    await world.ahead((await world.now()) + 4 * DAY);
    expect(got(subject).map((m) => wall(m.at, 'Europe/Lisbon').slice(11))).toEqual(['09:00', '09:00']);
    for (const minutes of [61, -1, 1.5, '5']) expect((await grace(minutes as number)).status).toBe(422);
    await grace(0).expect(200);
  });
});
