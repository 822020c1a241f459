import { sql } from 'drizzle-orm';
import request from 'supertest';
import { beforeAll, describe, expect, test } from 'vitest';
import { blankOneOff, DAY, HOUR, type Sequence, type SplitRule, type Step } from '@ascenso/core';
import type { TestsAnswer } from '@ascenso/contracts';
import { newId } from '../src/app/ids.ts';
import { rows } from '../src/db/rows.ts';
import { publish } from '../src/sequences/publishing.ts';
import { changeTags } from '../src/people/tags.ts';
import { recordOpen } from '../src/people/readings.ts';
import { emailStep, owner, testId, useWorld } from './support/world.ts';

const world = useWorld();
let agent: ReturnType<typeof request.agent>;
beforeAll(async () => {
  agent = request.agent(world.app);
  await agent.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
});

let counter = 0;
/** A split of two emails, called by their arms, under a rule. */
function splitOf(rule: SplitRule): Step & { kind: 'split' } {
  const n = ++counter;
  const arm = (letter: string) => ({
    id: `arm-${letter}-${n}`,
    weight: 50,
    steps: [emailStep(`${letter} of ${n}`, { id: `mail-${letter}-${n}` })],
  });
  return { id: `split-${n}`, on: true, note: '', kind: 'split', name: 'Two ways', arms: [arm('A'), arm('B')], rule };
}
const subject = (split: Step & { kind: 'split' }, letter: 'A' | 'B') =>
  `${letter} of ${split.id.slice('split-'.length)}`;
const got = (split: Step & { kind: 'split' }) =>
  world.mail().filter((m) => m.subject === subject(split, 'A') || m.subject === subject(split, 'B'));

/** Everybody with a tag, on the list. */
async function people(tag: string, n: number): Promise<string[]> {
  const { db } = world.connection;
  await db.execute(sql`insert into people (workspace_id, id, email, zone, attributes, tags, created_at)
    select ${world.ws}, gen_random_uuid(), ${tag} || n || '@readers.example', 'Europe/Lisbon', '{}', array[${tag}], 0 from generate_series(1, ${n}::int) n`);
  await db.execute(sql`insert into memberships (workspace_id, person_id, list_id, state, at)
    select workspace_id, id, ${world.list}, 'confirmed', 0 from people where tags @> array[${tag}]`);
  return Array.from({ length: n }, (_, i) => `${tag}${i + 1}@readers.example`);
}

/** Sends a one-off with this split to everybody with the tag. */
async function sendOff(tag: string, split: Step): Promise<string> {
  const id = newId();
  const doc: Sequence = {
    ...blankOneOff(`To ${tag}`, world.list, testId),
    triggers: [{ kind: 'moment', when: 'published', day: '', minute: 0, zone: null }],
    filter: { kind: 'tag', tag, has: true },
    steps: [split],
  };
  await world.connection.db.execute(
    sql`insert into sequences (workspace_id, id, name, status, created_at, revision, draft) values (${world.ws}, ${id}, ${doc.name}, 'draft', 0, 0, ${JSON.stringify(doc)}::jsonb)`,
  );
  const { gets } = (await agent.get(`/api/sequences/${id}/whom`).expect(200)).body as { gets: number };
  await agent.post(`/api/sequences/${id}/publish`).send({ revision: 0, people: gets }).expect(200);
  return id;
}

/** Whoever got this email opens it now. */
async function opened(step: string, of: (n: number) => boolean = () => true): Promise<void> {
  const { db } = world.connection;
  const sends = await rows<{ id: string }>(
    db,
    sql`select id from sends where step = ${step} and opened_at is null order by id`,
  );
  const now = await world.now();
  for (const [n, { id }] of sends.entries())
    if (of(n)) await recordOpen(db, { workspaceId: world.ws, sendId: id }, now, false);
}
const tests = async (id: string) =>
  ((await agent.get(`/api/sequences/${id}/tests`).expect(200)).body as TestsAnswer).tests;

describe('a split that decides itself', () => {
  test('a part first: the others wait, and all of them get the one that was ahead', async () => {
    const everybody = await people('tenth', 400);
    const split = splitOf({ measure: 'opened', first: 20, after: { amount: 4, unit: 'hours' } });
    const begun = await world.now();
    const id = await sendOff('tenth', split);
    await world.ahead(begun + HOUR);
    const first = got(split);
    // One in five, by lot: 3 standard deviations of a binomial around 80.
    expect(Math.abs(first.length - 80)).toBeLessThan(24);
    expect(new Set(first.map((m) => m.subject)).size).toBe(2);
    await opened(split.arms[1]?.steps[0]?.id ?? '');
    await world.ahead(begun + 3 * HOUR);
    expect(got(split)).toHaveLength(first.length);
    await world.ahead(begun + 6 * HOUR);
    const rest = got(split).filter((m) => !first.some((f) => f.to === m.to));
    expect(new Set(rest.map((m) => m.subject))).toEqual(new Set([subject(split, 'B')]));
    for (const m of rest) expect(Math.round((m.at - begun) / HOUR)).toBe(4);
    expect(
      got(split)
        .map((m) => m.to)
        .sort(),
    ).toEqual([...everybody].sort());
    const [told] = await tests(id);
    expect(told?.decided).toMatchObject({ arm: split.arms[1]?.id, measure: 'opened' });
    // Only those who took an arm by lot are compared.
    expect(told?.arms.reduce((n, a) => n + a.people, 0)).toBe(first.length);
    const [waited] = rest;
    const story = await world.trace(waited?.to ?? '');
    expect(story.map((t) => t.code)).toEqual(expect.arrayContaining(['split-waits', 'split-taken', 'email-sent']));
    expect(story.find((t) => t.code === 'split-taken')?.data).toMatchObject({ arm: split.arms[1]?.id, decided: true });
  });

  test.each(['first', 'lot'] as const)(
    'decided on too few nothing is ahead: what was chosen for that is done (%s)',
    async (few) => {
      await people(`few-${few}`, 40);
      const split = splitOf({ measure: 'opened', first: 10, after: { amount: 4, unit: 'hours' }, few });
      const begun = await world.now();
      const id = await sendOff(`few-${few}`, split);
      await world.ahead(begun + HOUR);
      // One opened B, and A nobody: of so few that says nothing.
      await opened(split.arms[1]?.steps[0]?.id ?? '');
      const first = got(split);
      await world.ahead(begun + 6 * HOUR);
      const rest = got(split).filter((m) => !first.some((f) => f.to === m.to));
      expect(first.length + rest.length).toBe(40);
      const subjects = new Set(rest.map((m) => m.subject));
      expect(subjects).toEqual(
        new Set(few === 'first' ? [subject(split, 'A')] : [subject(split, 'A'), subject(split, 'B')]),
      );
      expect((await tests(id))[0]?.decided).toMatchObject({
        arm: few === 'first' ? split.arms[0]?.id : '',
        settled: false,
        few: true,
      });
    },
  );

  test('while it is held nothing is decided, and afterwards it is', async () => {
    await people('held', 120);
    const split = splitOf({ measure: 'opened', first: 50, after: { amount: 4, unit: 'hours' } });
    const begun = await world.now();
    const id = await sendOff('held', split);
    await world.ahead(begun + HOUR);
    const first = got(split).length;
    await opened(split.arms[0]?.steps[0]?.id ?? '');
    await agent.post(`/api/sequences/${id}/status`).send({ status: 'paused' }).expect(200);
    await world.ahead(begun + 10 * HOUR);
    expect(got(split)).toHaveLength(first);
    expect((await tests(id))[0]?.decided).toBeNull();
    await agent.post(`/api/sequences/${id}/resume`).send({ overdue: 'send' }).expect(200);
    await world.ahead(begun + 11 * HOUR);
    expect(got(split)).toHaveLength(120);
    expect((await tests(id))[0]?.decided).toMatchObject({ arm: split.arms[0]?.id });
  });

  test('once settled: not while the arms are alike; then everybody who comes later takes the better one', async () => {
    const split = splitOf({ measure: 'opened', first: 100, after: null });
    const doc: Partial<Sequence> & { steps: Step[] } = {
      name: 'Settles',
      triggers: [{ kind: 'tag', tag: 'settles', what: 'added' }],
      steps: [split],
    };
    const id = await world.live(doc);
    const come = async (tag: string, n: number) => {
      const who = await people(tag, n);
      const { db } = world.connection;
      const now = await world.now();
      for (const email of who) {
        const person = (await world.person(email))?.id as string;
        await db.transaction((tx) => changeTags(tx, world.ws, person, { add: ['settles'], remove: [] }, now));
      }
      await world.ahead(now);
    };
    await come('alike', 150);
    await opened(split.arms[0]?.steps[0]?.id ?? '', (n) => n % 2 === 0);
    await opened(split.arms[1]?.steps[0]?.id ?? '', (n) => n % 2 === 0);
    await world.ahead((await world.now()) + 2 * DAY);
    expect((await tests(id))[0]?.decided).toBeNull();
    await come('unlike', 200);
    await opened(split.arms[1]?.steps[0]?.id ?? '');
    await world.ahead((await world.now()) + DAY);
    expect((await tests(id))[0]?.decided).toMatchObject({ arm: split.arms[1]?.id, settled: true });
    const before = got(split).length;
    await come('after', 40);
    const after = got(split).slice(before);
    expect(after).toHaveLength(40);
    expect(new Set(after.map((m) => m.subject))).toEqual(new Set([subject(split, 'B')]));

    // Published again as it is, it stays decided; with another rule it begins anew.
    const { db } = world.connection;
    const again = async (rule: SplitRule, revision: number) => {
      await db.execute(
        sql`update sequences set revision = ${revision}, draft = jsonb_set(draft, '{steps,0,rule}', ${JSON.stringify(rule)}::jsonb) where id = ${id}`,
      );
      await db.transaction(async (tx) => publish(tx, world.ws, id, revision, null, await world.now()));
    };
    await again(split.rule as SplitRule, 1);
    expect((await tests(id))[0]?.decided).not.toBeNull();
    await again({ measure: 'clicked', first: 100, after: null }, 2);
    expect((await tests(id))[0]?.decided).toBeNull();
  });
});

test('at nine of each reader’s own clock, a part first: nobody gets it at another hour, and the part is drawn from every zone', async () => {
  const zones = ['Pacific/Auckland', 'Asia/Tokyo', 'Europe/Lisbon', 'America/Los_Angeles'];
  await people('own-hour', 240);
  const { db } = world.connection;
  await db.execute(
    sql`update people set zone = (${sql.param(zones)}::text[])[1 + (substring(email from 'own-hour([0-9]+)@')::int % 4)] where tags @> array['own-hour']`,
  );
  const split = splitOf({ measure: 'opened', first: 30, after: { amount: 4, unit: 'hours' } });
  const day = new Date((await world.now()) + 3 * DAY).toISOString().slice(0, 10);
  const id = newId();
  const doc: Sequence = {
    ...blankOneOff('Own hour', world.list, testId),
    triggers: [{ kind: 'moment', when: 'day', day, minute: 540, zone: null }],
    filter: { kind: 'tag', tag: 'own-hour', has: true },
    steps: [split],
  };
  await db.execute(
    sql`insert into sequences (workspace_id, id, name, status, created_at, revision, draft) values (${world.ws}, ${id}, ${doc.name}, 'draft', 0, 0, ${JSON.stringify(doc)}::jsonb)`,
  );
  await agent.post(`/api/sequences/${id}/publish`).send({ revision: 0, people: 240 }).expect(200);
  await world.ahead((await world.now()) + 8 * DAY);
  const mails = got(split);
  expect(mails).toHaveLength(240);
  const wall = (at: number, zone: string) =>
    new Intl.DateTimeFormat('sv-SE', { timeZone: zone, dateStyle: 'short', timeStyle: 'short' }).format(at);
  const zoneOfMail = (to: string) => zones[Number(/own-hour(\d+)@/.exec(to)?.[1]) % 4] as string;
  const walls = mails.map((m) => [zoneOfMail(m.to), wall(m.at, zoneOfMail(m.to))] as const);
  expect([...new Set(walls.map(([, w]) => w.slice(11)))]).toEqual(['09:00']);
  for (const zone of zones) {
    const days = walls.filter(([z]) => z === zone).map(([, w]) => w.slice(0, 10));
    // Three in ten on the day itself, in every zone: by lot, 60 in each.
    const onTheDay = days.filter((d) => d === day).length;
    expect([zone, onTheDay > 5 && onTheDay < 35]).toEqual([zone, true]);
    expect([zone, new Set(days).size]).toEqual([zone, 2]);
  }
  const [told] = await tests(id);
  // Decided four hours after nine has come everywhere on earth (UTC-11 is the last that has people).
  const last = Date.parse(`${day}T09:00:00-11:00`);
  expect((told?.decided?.at ?? 0) - last).toBeGreaterThanOrEqual(4 * HOUR);
  expect((told?.decided?.at ?? 0) - last).toBeLessThan(6 * HOUR);
  expect(told?.arms.reduce((n, a) => n + a.people, 0)).toBe(walls.filter(([, w]) => w.startsWith(day)).length);
});
