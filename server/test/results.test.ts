import request from 'supertest';
import { expect, test } from 'vitest';
import type { BreakdownAnswer, FigureAnswer, NumbersAnswer, ResultsAnswer, TestsAnswer } from '@ascenso/contracts';
import { sql } from 'drizzle-orm';
import { rows } from '../src/db/rows.ts';
import { recordClick } from '../src/people/readings.ts';
import { emailStep, owner, useWorld, waitStep } from './support/world.ts';

const DAY = 86_400_000;
const world = useWorld();

const signedIn = async () => {
  const own = request.agent(world.app);
  await own.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
  return own;
};

test('results across sequences: money and mail by calendar day, against the days before; what no email brought is said', async () => {
  const own = await signedIn();
  const { db } = world.connection;
  const [first, second] = [emailStep('First'), emailStep('Second')];
  const id = await world.live({ name: 'Welcome', steps: [first, waitStep(40), second] });
  const begun = await world.now();
  for (const name of ['ana', 'ben', 'cem']) await world.join(`${name}@readers.example`);
  await world.ahead(begun);
  const order = async (who: string, total: number, more = {}) =>
    world
      .event({
        type: 'order.paid',
        subject: `${who}@readers.example`,
        time: await world.now(),
        data: { total, ...more },
      })
      .expect(202);
  const click = async (who: string) => {
    const [send] = await rows<{ id: string }>(
      db,
      sql`select s.id from sends s join people p on p.workspace_id = s.workspace_id and p.id = s.person_id where p.email = ${`${who}@readers.example`} order by s.due_at desc limit 1`,
    );
    const key = { workspaceId: world.ws, sendId: send?.id as string };
    await recordClick(
      db,
      key,
      { number: 0, repeat: null, item: null },
      'https://foldwell.example/',
      await world.now(),
      false,
    );
  };
  await click('ana');
  await order('ana', 20);
  await order('ben', 7);
  await world.ahead(begun + 41 * DAY);
  await click('ben');
  await order('ben', 30);
  await order('ben', 900, { currency: 'JPY' });

  const { body } = (await own.get('/api/results?from=2026-04-05&to=2026-04-20').expect(200)) as { body: ResultsAnswer };
  // 6 March plus 40 days is 15 April, plus 41 is 16 April.
  expect(body.sequences).toMatchObject([
    { id, orders: 2, mailed: 3, money: { EUR: 3000, JPY: 900 }, before: { orders: 0, mailed: 0, money: {} } },
  ]);
  const day = (date: string) => Date.parse(date) / DAY;
  expect(body.byDay).toEqual([
    { day: day('2026-04-15'), sequence: id, money: 0, mailed: 3 },
    { day: day('2026-04-16'), sequence: id, money: 3000, mailed: 0 },
  ]);
  const all = (await own.get('/api/results').expect(200)).body as ResultsAnswer;
  expect(all.days).toEqual({ from: day('2026-03-06'), to: day('2026-04-16') });
  expect(all.sequences.find((s) => s.id === null)).toMatchObject({ orders: 1, money: { EUR: 700 } });
  expect(all.sequences.find((s) => s.id === id)).toMatchObject({
    orders: 3,
    mailed: 6,
    money: { EUR: 5000, JPY: 900 },
  });
  expect(all.senders).toMatchObject([{ email: 'ines@foldwell.example', sent: 6, bounced: 0, clicked: 2 }]);
  expect([all.people, all.list]).toMatchObject([{ mailable: 3, all: 3 }, [{ day: day('2026-03-06'), came: 3 }]]);
  await db.execute(
    sql`update people set points = case email when 'ana@readers.example' then 49 when 'ben@readers.example' then 200 else -5 end`,
  );
  const { points } = (await own.get('/api/results').expect(200)).body as ResultsAnswer;
  expect(points.map((p) => [p.from, p.people])).toEqual([
    [0, 1],
    [1, 1],
    [50, 0],
    [200, 1],
  ]);
  for (const wrong of ['from=2026-02-30', 'from=soon', 'from=2026-04-02&to=2026-04-01'])
    await own.get(`/api/results?${wrong}`).expect(422);
});

test('from a figure to the people behind it, with when and which link; and they are worked with as a group', async () => {
  const own = await signedIn();
  const letter = emailStep('Letter');
  const id = await world.live({
    name: 'Behind',
    list: null,
    triggers: [{ kind: 'event', event: 'asked', where: [] }],
    goal: { kind: 'event', event: 'done', done: true, since: { kind: 'entry' }, where: [] },
    steps: [letter, waitStep(3)],
  });
  for (const who of ['dora', 'emil', 'fay']) {
    await world.join(`${who}@readers.example`);
    await world.event({ type: 'asked', subject: `${who}@readers.example` }).expect(202);
  }
  await world.ahead(await world.now());
  const { db } = world.connection;
  const sends = await rows<{ id: string; email: string }>(
    db,
    sql`select s.id, p.email from sends s join people p on p.workspace_id = s.workspace_id and p.id = s.person_id where s.sequence_id = ${id} order by p.email`,
  );
  const at = await world.now();
  const key = { workspaceId: world.ws, sendId: sends[0]?.id as string };
  await recordClick(db, key, { number: 0, repeat: null, item: null }, 'https://foldwell.example/kits', at, false);
  await world.event({ type: 'done', subject: 'emil@readers.example' }).expect(202);
  await world.ahead(at + DAY);

  const asked = (what: string, more = {}) =>
    JSON.stringify({ sequence: id, steps: [], what, why: '', link: null, days: null, ...more });
  const behind = async (what: string, more = {}) => {
    const answer = await own
      .get('/api/figures')
      .query({ figure: asked(what, more) })
      .expect(200);
    return (answer.body.people as { email: string }[]).map((p) => p.email.split('@')[0]).sort();
  };
  expect(await behind('joined')).toEqual(['dora', 'emil', 'fay']);
  expect(await behind('sent', { steps: [letter.id] })).toEqual(['dora', 'emil', 'fay']);
  expect(await behind('clicked', { steps: [letter.id] })).toEqual(['dora']);
  expect(await behind('clicked', { steps: [letter.id], link: { number: 7, repeat: null } })).toEqual([]);
  // The first link of a list is another one than the first of the email.
  const fays = { workspaceId: world.ws, sendId: sends[2]?.id as string };
  await recordClick(db, fays, { number: 0, repeat: 0, item: 0 }, 'https://foldwell.example/a', at, false);
  expect(await behind('clicked', { steps: [letter.id] })).toEqual(['dora', 'fay']);
  expect(await behind('clicked', { steps: [letter.id], link: { number: 0, repeat: null } })).toEqual(['dora']);
  expect(await behind('clicked', { steps: [letter.id], link: { number: 0, repeat: 0 } })).toEqual(['fay']);
  expect(await behind('goal')).toEqual(['emil']);
  expect(await behind('inside')).toEqual(['dora', 'fay']);
  // Who stands there now stands there whatever period is looked at.
  expect(await behind('here', { days: { from: 1, to: 2 } })).toEqual(['dora', 'fay']);
  expect(await behind('ended')).toEqual(['emil']);
  const { steps } = (await own.get(`/api/sequences/${id}/numbers`).expect(200)).body as NumbersAnswer;
  const [where] = Object.entries(steps).flatMap(([step, n]) => ('goal-reached' in n.ended ? [step] : []));
  expect(await behind('reason', { steps: [where], why: 'goal-reached' })).toEqual(['emil']);
  const today = Math.floor(at / DAY);
  expect(await behind('joined', { days: { from: today, to: today } })).toHaveLength(3);
  expect(await behind('joined', { days: { from: today + 1, to: today + 9 } })).toEqual([]);
  const clicked = (await own.get('/api/figures').query({ figure: asked('clicked', { steps: [letter.id] }) }))
    .body as FigureAnswer;
  expect(clicked.people.find((p) => p.email.startsWith('dora'))).toMatchObject({
    at,
    link: expect.stringContaining('https://foldwell.example/kits') as string,
  });
  const links: unknown = (await own.get(`/api/sequences/${id}/steps/${letter.id}/links`).expect(200)).body.links;
  expect(links).toMatchObject([
    { number: 0, repeat: 0, words: '', clicks: 1, people: 1 },
    { number: 0, repeat: null, words: 'See the kits', clicks: 1, people: 1 },
  ]);
  // Each on their own clock: Kathmandu is 5:45 ahead of UTC all year, and Lisbon, where nothing else is known, keeps summer time in April.
  await db.execute(sql`update people set zone = 'Asia/Kathmandu' where email = 'dora@readers.example'`);
  const read = (ahead: number) => {
    const wall = new Date(at + ahead * 3_600_000);
    return { weekday: wall.getUTCDay() || 7, hour: wall.getUTCHours(), opened: 1, clicked: 1 };
  };
  expect((await own.get(`/api/sequences/${id}/hours`).expect(200)).body).toEqual({ hours: [read(1), read(5.75)] });
  // They are tagged as they stand behind the figure.
  const who = {
    q: '',
    segment: null,
    rule: null,
    figure: JSON.parse(asked('inside')) as Record<string, unknown>,
    count: 2,
  };
  const done = await own
    .post('/api/people/bulk')
    .send({ who, what: { kind: 'tag', tag: 'slow' } })
    .expect(200);
  expect(done.body).toMatchObject({ asked: 2, changed: 2 });
  for (const wrong of ['{', '{"sequence":"x"}', asked('loved')])
    await own.get('/api/figures').query({ figure: wrong }).expect(422);
  // A line for each email, for a spreadsheet.
  const csv = (await own.get(`/api/sequences/${id}/numbers.csv`).expect(200)).text;
  expect(
    csv
      .split('\r\n')
      .slice(0, 2)
      .map((l) => l.split(',').slice(0, 5)),
  ).toEqual([
    ['﻿email', 'sent', 'delivered', 'opened', 'clicked'],
    ['Letter', '3', '3', '2', '2'],
  ]);
});

test('what a sequence added: all orders of both groups within thirty days, and of those who came twice from the first time', async () => {
  const own = await signedIn();
  const id = await world.live({
    name: 'Effect',
    list: null,
    triggers: [{ kind: 'event', event: 'effect.asked', where: [] }],
    entry: { again: 'after-leaving', days: 0, key: '', holdout: 50 },
    steps: [emailStep('Effect')],
  });
  const began = await world.now();
  const people = Array.from({ length: 24 }, (_, i) => `effect${i}@readers.example`);
  for (const subject of people) {
    await world.join(subject);
    await world.event({ type: 'effect.asked', subject, time: began }).expect(202);
  }
  const out = new Set(
    (
      await rows<{ email: string }>(
        world.connection.db,
        sql`select p.email from visits v join people p on p.workspace_id = v.workspace_id and p.id = v.person_id where v.sequence_id = ${id} and v.held_out`,
      )
    ).map((r) => r.email),
  );
  expect(out.size).toBeGreaterThan(0);
  await world.ahead(began + DAY);
  const spend = async (subject: string, total: number, currency = 'EUR') =>
    world.event({ type: 'order.paid', subject, time: await world.now(), data: { total, currency } }).expect(202);
  const [through, held] = [people.filter((p) => !out.has(p)), people.filter((p) => out.has(p))];
  await spend(through[0] as string, 10);
  await spend(through[0] as string, 5);
  await spend(held[0] as string, 4);
  await spend(held[0] as string, 100, 'USD');
  await world.ahead(began + 29 * DAY);
  await spend(through[1] as string, 1);
  await world.ahead(began + 31 * DAY);
  await spend(through[1] as string, 1000);
  const { body } = await own.get(`/api/sequences/${id}/effect`).expect(200);
  expect(body).toEqual({
    currency: 'EUR',
    days: 30,
    waiting: 0,
    groups: [
      { name: 'in', people: through.length, orders: 3, money: 1600, squares: 1500 ** 2 + 100 ** 2 },
      { name: 'out', people: held.length, orders: 1, money: 400, squares: 400 ** 2 },
    ],
    others: 1,
  });
});

test('the arms of a split as a test: what each person did after they took one, in that passage', async () => {
  const own = await signedIn();
  const [before, a, b] = [emailStep('Before'), emailStep('A'), emailStep('B')];
  const arms = [
    { id: 'arm-a', weight: 50, steps: [a] },
    { id: 'arm-b', weight: 50, steps: [b] },
  ];
  const id = await world.live({
    name: 'Split',
    list: null,
    triggers: [{ kind: 'event', event: 'split.asked', where: [] }],
    goal: { kind: 'event', event: 'split.done', done: true, since: { kind: 'entry' }, where: [] },
    steps: [
      before,
      waitStep(1),
      { id: 'the-split', on: true, note: '', kind: 'split', name: 'Ways', arms },
      waitStep(9),
    ],
  });
  const people = Array.from({ length: 16 }, (_, i) => `split${i}@readers.example`);
  for (const subject of people) {
    await world.join(subject);
    await world.event({ type: 'split.asked', subject }).expect(202);
  }
  await world.ahead((await world.now()) + 2 * DAY);
  const now = await world.now();
  const sends = await rows<{ id: string; step: string; email: string }>(
    world.connection.db,
    sql`select s.id, s.step, p.email from sends s join people p on p.workspace_id = s.workspace_id and p.id = s.person_id where s.sequence_id = ${id}`,
  );
  const armOf = (email: string) => (sends.some((s) => s.email === email && s.step === a.id) ? 'arm-a' : 'arm-b');
  const should = new Map(
    arms.map((arm) => [
      arm.id,
      { arm: arm.id, people: 0, opened: 0, clicked: 0, goal: 0, ordered: 0, money: 0, squares: 0 },
    ]),
  );
  for (const [i, email] of people.entries()) {
    const mine = should.get(armOf(email));
    if (!mine) throw new Error('No such arm.');
    mine.people++;
    const sent = (step: string) => sends.find((s) => s.email === email && s.step === step)?.id as string;
    const click = (send: string) =>
      recordClick(
        world.connection.db,
        { workspaceId: world.ws, sendId: send },
        { number: 0, repeat: null, item: null },
        'https://foldwell.example/',
        now,
        false,
      );
    // Clicks in what came before the split are no work of its arms.
    if (i % 2 === 0) await click(sent(before.id));
    if (i % 3 === 0) {
      await click(sent(armOf(email) === 'arm-a' ? a.id : b.id));
      mine.opened++;
      mine.clicked++;
      if (i % 6 === 0) {
        await world.event({ type: 'order.paid', subject: email, time: now, data: { total: i + 1 } }).expect(202);
        mine.ordered++;
        mine.money += (i + 1) * 100;
        mine.squares += ((i + 1) * 100) ** 2;
      }
    }
    if (i % 5 === 0) {
      await world.event({ type: 'split.done', subject: email }).expect(202);
      mine.goal++;
    }
  }
  await world.ahead(now + DAY);
  const { body } = (await own.get(`/api/sequences/${id}/tests`).expect(200)) as { body: TestsAnswer };
  expect(body).toMatchObject({ currency: 'EUR', tests: [{ step: 'the-split', arms: [...should.values()] }] });
  expect(body.tests[0]?.latest).toBeLessThanOrEqual(now);
});

test('month by month of joining, and version by version', async () => {
  const own = await signedIn();
  const step = emailStep('Monthly');
  const id = await world.live({
    name: 'Months',
    list: null,
    triggers: [{ kind: 'event', event: 'month.asked', where: [] }],
    entry: { again: 'after-leaving', days: 0, key: '', holdout: 0 },
    steps: [step],
  });
  const ask = async (who: string) => {
    await world.join(`${who}@readers.example`);
    await world.event({ type: 'month.asked', subject: `${who}@readers.example`, time: await world.now() }).expect(202);
    await world.ahead((await world.now()) + 60_000);
  };
  // The last minutes of a month in Lisbon: in UTC it is already over in winter time, and not yet in summer time.
  const month = new Date((await world.now()) + 40 * DAY);
  const first = Date.UTC(month.getUTCFullYear(), month.getUTCMonth() + 1, 1);
  const summer =
    new Intl.DateTimeFormat('en-GB', { timeZone: 'Europe/Lisbon', hour: 'numeric' }).format(first) !== '00';
  const turn = first - (summer ? 3_600_000 : 0);
  await world.ahead(turn - 30 * 60_000);
  await ask('late1');
  await ask('late2');
  await world.ahead(turn + 60_000);
  await ask('early1');
  const { draft, revision } = (await own.get(`/api/sequences/${id}`).expect(200)).body as {
    draft: { steps: { id: string }[] };
    revision: number;
  };
  expect(draft.steps[0]?.id).toBe(step.id);
  const commands = [{ type: 'email.set', step: step.id, field: 'subject', value: 'Another' }];
  const saved = await own
    .post(`/api/sequences/${id}/commands`)
    .send({ base: revision, edits: [{ commands, role: 'edit' }] })
    .expect(200);
  await own
    .post(`/api/sequences/${id}/publish`)
    .send({ revision: (saved.body as { revision: number }).revision })
    .expect(200);
  await ask('early2');
  const { body } = (await own.get(`/api/sequences/${id}/breakdown`).expect(200)) as { body: BreakdownAnswer };
  const monthOf = (at: number) => new Date(at + 12 * 3_600_000).toISOString().slice(0, 7);
  expect(body.months.map((m) => [m.key, m.joined, m.steps[step.id]])).toEqual([
    [monthOf(turn), 2, { sent: 2, clicked: 0 }],
    [monthOf(turn - 2 * DAY), 2, { sent: 2, clicked: 0 }],
  ]);
  expect(body.versions.map((v) => [v.key, v.sent])).toEqual([
    ['2', 1],
    ['1', 3],
  ]);
});
