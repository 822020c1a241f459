import { sql } from 'drizzle-orm';
import request from 'supertest';
import { beforeAll, describe, expect, test } from 'vitest';
import { DAY, leavingWords, writtenLanguages } from '@ascenso/core';
import { rows } from '../src/db/rows.ts';
import { emailStep, useWorld, waitStep } from './support/world.ts';

// The page for leaving as a reader meets it: by the address in an email, without signing in.
const world = useWorld();
let club: string;
beforeAll(async () => {
  club = await world.addList(world.ws, 'Club');
  await world.connection.db.execute(
    sql`update lists set public_name = 'Letters from the workshop', told = 'Every other Friday' where id = ${world.list}`,
  );
  await world.connection.db.execute(
    sql`insert into attributes (workspace_id, key, label, type, position) values (${world.ws}, 'language', 'Language', 'text', 9) on conflict do nothing`,
  );
  await world.live({
    name: 'Letters',
    steps: [emailStep('One'), waitStep(2), emailStep('Two'), waitStep(2), emailStep('Three')],
  });
  await world.live({
    name: 'Club',
    list: club,
    triggers: [{ kind: 'list', list: club, what: 'joined' }],
    steps: [emailStep('Club one'), waitStep(2), emailStep('Club two')],
  });
  await world.live({
    name: 'Receipts',
    list: null,
    triggers: [{ kind: 'event', event: 'order.paid', where: [] }],
    entry: { again: 'after-leaving', days: 1, key: '', holdout: 0 },
    steps: [emailStep('Receipt')],
  });
});

let n = 0;
/** Somebody on both lists who has had the first emails, and the path of their page. */
async function somebody() {
  const email = `reader${n++}@choose.example`;
  await world.join(email, { lists: ['Workshop letters', 'Club'] });
  await world.ahead((await world.now()) + 60_000);
  const [send] = await rows<{ id: string; person: string }>(
    world.connection.db,
    sql`select s.id, s.person_id as person from sends s join people p on p.id = s.person_id where p.email = ${email} and s.status = 'sent' limit 1`,
  );
  const path = world.path('u', send?.id);
  return { email, id: send?.person ?? '', path };
}
const page = (path: string) => request(world.app).get(path).expect(200);
const post = (path: string, body: Record<string, unknown> = {}) =>
  request(world.app).post(path).type('form').send(body).expect(200);
const states = async (id: string) =>
  Object.fromEntries(
    (
      await rows<{ list: string; state: string }>(
        world.connection.db,
        sql`select list_id as list, state from memberships where person_id = ${id}`,
      )
    ).map((m) => [m.list === club ? 'club' : 'letters', m.state]),
  );
const mails = (email: string) =>
  world
    .mail()
    .filter((m) => m.to.includes(email))
    .map((m) => m.subject);
const consents = (id: string) =>
  rows<{ what: string; how: string; words: string; all: boolean }>(
    world.connection.db,
    sql`select c.what, s.how, s.words, c.list_id is null as all from consents c join consent_sources s on s.workspace_id = c.workspace_id and s.id = c.source_id where c.person_id = ${id} and s.how <> 'api' order by c.at, c.id`,
  );

describe('what somebody gets', () => {
  test('lists are told by their readers’ names; looking changes nothing; one is left, and the other goes on', async () => {
    const { email, id, path } = await somebody();
    const shown = await page(path);
    expect(shown.text).toContain('Letters from the workshop');
    expect(shown.text).toContain('Every other Friday');
    expect(shown.text).toContain(email);
    expect(shown.text).not.toContain('<script');
    expect(await states(id)).toEqual({ club: 'confirmed', letters: 'confirmed' });
    const saved = await post(`${path}/choose`, { list: club });
    expect(saved.text).toContain('Saved.');
    expect(await states(id)).toEqual({ club: 'confirmed', letters: 'left' });
    await world.ahead((await world.now()) + 5 * DAY);
    expect(mails(email).sort()).toEqual(['Club one', 'Club two', 'One']);
    expect(await consents(id)).toEqual([{ what: 'left', how: 'preferences', words: '', all: false }]);
    await post(`${path}/choose`, { list: [club, world.list] });
    expect(await states(id)).toEqual({ club: 'confirmed', letters: 'confirmed' });
  });

  test('a pause holds marketing for thirty days, and service mail not; ended early, it goes on at once', async () => {
    const [waits, ends] = [await somebody(), await somebody()];
    for (const { path } of [waits, ends]) await post(`${path}/choose`, { list: [club, world.list], pause: 'yes' });
    const paused = await world.now();
    await world.event({ type: 'order.paid', subject: waits.email }).expect(202);
    await world.ahead(paused + 10 * DAY);
    expect(mails(waits.email).sort()).toEqual(['Club one', 'One', 'Receipt']);
    expect((await page(waits.path)).text).toMatch(/A pause until \d+ \w+ 2026/);
    await post(`${ends.path}/choose`, { list: [club, world.list] });
    await world.ahead((await world.now()) + 60_000);
    expect(mails(ends.email).sort()).toEqual(['Club one', 'Club two', 'One', 'Two']);
    await world.ahead(paused + 30 * DAY - 60_000);
    expect(mails(waits.email)).not.toContain('Two');
    await world.ahead(paused + 30 * DAY + 60_000);
    expect(mails(waits.email).sort()).toEqual(['Club one', 'Club two', 'One', 'Receipt', 'Two']);
    // What follows is reckoned from there: nobody gets in an hour what was for a month.
    await world.ahead(paused + 31 * DAY);
    expect(mails(waits.email)).not.toContain('Three');
    expect((await world.trace(waits.email)).filter((t) => t.code === 'email-paused')).toHaveLength(2);
  });

  test('the language is chosen, and the page is in it', async () => {
    const { id, path } = await somebody();
    await post(`${path}/choose`, { list: [club, world.list], language: 'de' });
    expect(
      await rows(world.connection.db, sql`select attributes->>'language' as l from people where id = ${id}`),
    ).toEqual([{ l: 'de' }]);
    for (const language of writtenLanguages) {
      await world.connection.db.execute(
        sql`update people set attributes = jsonb_build_object('language', ${language}::text) where id = ${id}`,
      );
      const { text } = await page(path);
      expect(text).toContain(`<html lang="${language}">`);
      expect(text).toContain(leavingWords[language].pause);
    }
  });
});

describe('leaving', () => {
  test('one click ends all but service mail; a reason is kept where one is given; coming back to one list brings that alone', async () => {
    const { email, id, path } = await somebody();
    const left = await post(path);
    expect(left.text).toContain('You are unsubscribed');
    await post(`${path}/why`, { why: '1' });
    await post(`${path}/why`, { why: '99' });
    expect((await consents(id)).map((c) => [c.what, c.how, c.words, c.all])).toEqual([
      ['left', 'one-click', '', true],
      ['left', 'preferences', 'They are not for me', true],
    ]);
    await world.event({ type: 'order.paid', subject: email }).expect(202);
    await world.ahead((await world.now()) + 5 * DAY);
    expect(mails(email).sort()).toEqual(['Club one', 'One', 'Receipt']);
    expect((await page(path)).text).not.toContain(`value="${club}" checked`);
    await world.ahead((await world.now()) + DAY);
    await post(`${path}/choose`, { list: club });
    expect((await world.person(email))?.mail_status).toBe('ok');
    expect(await states(id)).toEqual({ club: 'confirmed', letters: 'left' });
  });

  test('an address that was cut off, or made up, shows and changes nothing', async () => {
    const { path } = await somebody();
    for (const bad of [path.slice(0, -3), '/u/abc']) {
      await request(world.app).get(bad).expect(404);
      for (const to of ['', '/choose', '/why'])
        await request(world.app)
          .post(bad + to)
          .expect(404);
    }
  });

  test('how often: at most one a week of all lists, service mail apart; who takes it back gets what has waited', async () => {
    const { email, id, path } = await somebody();
    const began = await world.now();
    const saved = await post(`${path}/choose`, { list: [club, world.list], pace: '7' });
    expect(saved.text).toMatch(/name="pace" value="7" checked/);
    await world.event({ type: 'order.paid', subject: email }).expect(202);
    const marketing = () =>
      world
        .mail()
        .filter((m) => m.to.includes(email) && m.subject !== 'Receipt')
        .map((m) => m.at);
    const before = marketing().length;
    await world.ahead(began + 22 * DAY);
    const after = marketing().sort((a, b) => a - b);
    // Letters two and three, and the second of the club: three weeks, one each.
    expect(after.length - before).toBe(3);
    for (const [i, at] of after.entries())
      if (i >= before) expect(at - (after[i - 1] ?? 0)).toBeGreaterThanOrEqual(7 * DAY - 3_600_000);
    expect(world.mail().filter((m) => m.to.includes(email) && m.subject === 'Receipt')).toHaveLength(1);
    const reasons = await rows<{ n: number }>(
      world.connection.db,
      sql`select count(*)::int as n from reasons where person_id = ${id} and code = 'email-paced'`,
    );
    expect(reasons[0]?.n).toBeGreaterThan(0);
  });

  test('as they come again: what only the pace has held goes at once', async () => {
    const { email, path } = await somebody();
    const began = await world.now();
    await post(`${path}/choose`, { list: [club, world.list], pace: '30' });
    await world.ahead(began + 5 * DAY);
    const count = () => world.mail().filter((m) => m.to.includes(email)).length;
    const held = count();
    await post(`${path}/choose`, { list: [club, world.list], pace: '' });
    await world.ahead((await world.now()) + 60_000);
    expect(count()).toBeGreaterThan(held);
  });
});
