import { sql } from 'drizzle-orm';
import request, { agent } from 'supertest';
import { beforeAll, describe, expect, test } from 'vitest';
import { personStory } from '../src/db/people.ts';
import { rows } from '../src/db/rows.ts';
import { bounced } from '../src/people/permission.ts';
import { unsubscribeFrom } from '../src/people/readings.ts';
import { emailStep, owner, useWorld, waitStep } from './support/world.ts';

// There is a way back, and no way back that nobody asked for.
const DAY = 86_400_000;
const world = useWorld();
const own = () => team;
const at = (ms: number) => new Date(ms).toISOString();
let team: ReturnType<typeof agent>;
let club: string;
let n = 0;
beforeAll(async () => {
  team = agent(world.app);
  await team.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
  club = await world.addList(world.ws, 'Paper club');
  await world.live({ name: 'Letters', steps: [emailStep('Letter'), waitStep(1), emailStep('Second letter')] });
  await world.live({
    name: 'Club',
    list: club,
    triggers: [{ kind: 'event', event: 'club.news', where: [] }],
    entry: { again: 'after-leaving', days: 1, key: '', holdout: 0 },
    steps: [emailStep('Club news')],
  });
  await world.live({
    name: 'Receipt',
    list: null,
    triggers: [{ kind: 'event', event: 'order.paid', where: [] }],
    entry: { again: 'after-leaving', days: 1, key: '', holdout: 0 },
    steps: [emailStep('Receipt')],
  });
});

async function reader() {
  const who = `reader${++n}@readers.example`;
  await world.join(who);
  const id = (await world.person(who))?.id as string;
  await own().post(`/api/people/${id}/lists`).send({ list: club, state: 'confirmed' }).expect(200);
  await world.ahead(await world.now());
  return { who, id };
}
const subjects = (who: string) =>
  world
    .mail()
    .filter((m) => m.to === who)
    .map((m) => m.subject);
const status = async (who: string) => (await world.person(who))?.mail_status;
const lists = (id: string) =>
  rows<{ list_id: string; state: string }>(
    world.connection.db,
    sql`select list_id, state from memberships where person_id = ${id}`,
  ).then((found) => Object.fromEntries(found.map((m) => [m.list_id, m.state])));
const story = async (id: string) =>
  (await personStory(world.connection.db, world.ws, id, 'Europe/Lisbon')).story.map((s) => s.text).join('\n');

/** One click on the link of their newest email. */
async function unsubscribe(who: string) {
  const send = (
    await rows<{ id: string }>(
      world.connection.db,
      sql`select s.id from sends s join people p on p.workspace_id = s.workspace_id and p.id = s.person_id where p.email = ${who} order by s.id desc limit 1`,
    )
  )[0];
  await unsubscribeFrom(
    world.connection.db,
    { workspaceId: world.ws, sendId: send?.id as string },
    null,
    await world.now(),
  );
}
const bounce = async (id: string) => {
  const now = await world.now();
  await world.connection.db.transaction((tx) => bounced(tx, world.ws, id, now));
};

describe('whoever confirms a list again after unsubscribing', () => {
  test('gets mail of that list again, and of no other; the story says so', async () => {
    const { who, id } = await reader();
    await unsubscribe(who);
    expect(await status(who)).toBe('unsubscribed');
    // A shop that sends all its people every night confirms nobody anew.
    await world.join(who);
    expect(await status(who)).toBe('unsubscribed');
    await world.join(who, { confirmed_at: at((await world.now()) - 1000) });
    expect(await status(who)).toBe('unsubscribed');
    await world.ahead((await world.now()) + DAY);
    await world.join(who, { confirmed_at: at(await world.now()) });
    expect(await status(who)).toBe('ok');
    expect(await lists(id)).toEqual({ [world.list]: 'confirmed', [club]: 'left' });
    expect(await story(id)).toContain(
      'Confirmed “Workshop letters” again: its mail goes to them again, other lists stay off.',
    );
    await world.event({ type: 'club.news', subject: who }).expect(202);
    await world.ahead((await world.now()) + DAY);
    expect(subjects(who)).not.toContain('Club news');
  });

  test('who has left one list stays off it when their shop sends all its people, and is on it once they confirm again', async () => {
    const { who, id } = await reader();
    await own().post(`/api/people/${id}/lists`).send({ list: world.list, state: 'left' }).expect(200);
    await world.join(who);
    expect((await lists(id))[world.list]).toBe('left');
    await world.join(who, { confirmed_at: at((await world.now()) - 60_000) });
    expect((await lists(id))[world.list]).toBe('left');
    await world.ahead((await world.now()) + DAY);
    await world.join(who, { confirmed_at: at(await world.now()) });
    expect((await lists(id))[world.list]).toBe('confirmed');
  });

  test('a step of a sequence that puts them on a list is no consent', async () => {
    const { who, id } = await reader();
    await unsubscribe(who);
    const { setMembership } = await import('../src/people/memberships.ts');
    const now = await world.now();
    await world.connection.db.transaction((tx) =>
      setMembership(tx, world.ws, id, club, 'confirmed', now, { kind: 'visit', visit: id, chain: 1 }),
    );
    expect(await status(who)).toBe('unsubscribed');
  });

  test('the team can enter it for them, and the story tells who did', async () => {
    const { who, id } = await reader();
    await unsubscribe(who);
    await own().post(`/api/people/${id}/lists`).send({ list: club, state: 'confirmed' }).expect(200);
    expect(await status(who)).toBe('ok');
    expect(await story(id)).toContain('Confirmed “Paper club” again, entered by the team');
  });
});

describe('an address that bounced', () => {
  test('is cleared when its owner confirms, and not by the team', async () => {
    const { who, id } = await reader();
    await bounce(id);
    await own().post(`/api/people/${id}/lists`).send({ list: club, state: 'confirmed' }).expect(200);
    await world.join(who);
    expect(await status(who)).toBe('bounced');
    await world.join(who, { confirmed_at: at(await world.now()) });
    expect(await status(who)).toBe('ok');
  });

  test('and by no confirmation that lies ahead, which is refused and changes nothing', async () => {
    const { who, id } = await reader();
    await bounce(id);
    const left = await reader();
    await unsubscribe(left.who);
    for (const ahead of ['9999-12-31T00:00:00Z', at((await world.now()) + DAY)])
      for (const one of [who, left.who]) {
        const answer = await request(world.app)
          .post('/intake/subscribers')
          .set('Authorization', `Bearer ${world.key}`)
          .send({ email: one, lists: [world.list], confirmed_at: ahead, attributes: { first_name: 'Changed' } })
          .expect(422);
        expect(JSON.stringify(answer.body)).toContain('confirmed_at: it lies in the future');
      }
    expect(await status(who)).toBe('bounced');
    expect(await status(left.who)).toBe('unsubscribed');
    expect(
      await rows(world.connection.db, sql`select 1 from people where attributes->>'first_name' = 'Changed'`),
    ).toEqual([]);
  });

  test('is cleared when it is changed; the same address again changes nothing', async () => {
    const { who, id } = await reader();
    await bounce(id);
    await own().patch(`/api/people/${id}`).send({ email: who }).expect(200);
    expect(await status(who)).toBe('bounced');
    await own()
      .patch(`/api/people/${id}`)
      .send({ email: `new-${who}` })
      .expect(200);
    expect(await status(`new-${who}`)).toBe('ok');
    await world.event({ type: 'order.paid', subject: `new-${who}` }).expect(202);
    await world.ahead(await world.now());
    expect(subjects(`new-${who}`)).toEqual(['Receipt']);
  });

  test('an address that somebody else has is refused', async () => {
    const [a, b] = [await reader(), await reader()];
    const answer = await own().patch(`/api/people/${a.id}`).send({ email: b.who }).expect(409);
    expect(answer.body.error.field).toBe('email');
  });

  test('unsubscribing while bounced is kept: after the bounce is over, only service mail comes', async () => {
    const { who, id } = await reader();
    await bounce(id);
    await unsubscribe(who);
    expect(await status(who)).toBe('bounced');
    await own()
      .patch(`/api/people/${id}`)
      .send({ email: `moved-${who}` })
      .expect(200);
    expect(await status(`moved-${who}`)).toBe('unsubscribed');
    await world.event({ type: 'club.news', subject: `moved-${who}` }).expect(202);
    await world.event({ type: 'order.paid', subject: `moved-${who}` }).expect(202);
    await world.ahead((await world.now()) + 2 * DAY);
    expect(subjects(`moved-${who}`)).toEqual(['Receipt']);
  });
});
