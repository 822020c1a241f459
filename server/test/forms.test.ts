import { sql } from 'drizzle-orm';
import { simpleParser } from 'mailparser';
import request, { agent, type Agent } from 'supertest';
import { beforeAll, describe, expect, test } from 'vitest';
import {
  blankForm,
  confirmationSubjects,
  DAY,
  joiningWords,
  MINUTE,
  writtenLanguages,
  type SignUpForm,
} from '@ascenso/core';
import type { FormAnswer, PersonAnswer } from '@ascenso/contracts';
import { rows } from '../src/db/rows.ts';
import { forgetRound } from '../src/people/joining.ts';
import { setMembership } from '../src/people/memberships.ts';
import { byHand, emailStep, owner, useWorld } from './support/world.ts';

// The whole way as somebody outside walks it: nothing but the addresses that a reader has.
const world = useWorld();
let ines: Agent;
let form: string;
let file: string;
const AGREED = 'Yes, send me the stitch guide and a letter every other Friday.';

const put = async (id: string, more: Partial<SignUpForm>) => {
  const { body } = await ines.get(`/api/forms/${id}`).expect(200);
  return ines.put(`/api/forms/${id}`).send({ ...(body as FormAnswer).form, ...more });
};
async function make(name: string, more: Partial<SignUpForm> = {}): Promise<string> {
  const { body } = await ines.post('/api/forms').send({ name }).expect(200);
  const { id } = body as { id: string };
  expect((await put(id, { lists: [world.list], consent: AGREED, ...more })).body).toEqual({});
  expect((await ines.post(`/api/forms/${id}/status`).send({ status: 'open' })).body).toEqual({});
  return id;
}

beforeAll(async () => {
  ines = agent(world.app);
  await ines.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
  const { body } = await ines
    .post('/api/files')
    .attach(
      'file',
      Buffer.from(
        '%PDF-1.4\n1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj 2 0 obj<</Type/Pages/Kids[]/Count 0>>endobj\ntrailer<</Root 1 0 R>>\n%%EOF',
      ),
      'Five stitches.pdf',
    )
    .expect(200);
  file = (body as { id: string }).id;
  form = await make('Stitch guide', {
    fields: [
      { kind: 'attribute', id: 'n', key: 'first_name', label: 'First name', required: false },
      {
        kind: 'choice',
        id: 'c',
        name: 'skill',
        label: 'Have you bound a book before?',
        options: [
          { id: 'o1', label: 'Never', sets: { kind: 'tag', tag: 'beginner' } },
          { id: 'o2', label: 'Often', sets: { kind: 'nothing' } },
        ],
      },
    ],
    after: { kind: 'words', title: 'Here it is', text: 'Print it on heavy paper.', file },
  });
  await world.live({ name: 'Welcome', steps: [emailStep('Welcome to the bench')] });
});

let address = 1;
/** A reader with a network address of their own, as a proxy tells it. */
const reader = (app = world.serve({ trustProxy: 1 })) => {
  const from = `198.51.100.${address++}`;
  return {
    send: (id: string, body: Record<string, string>, accept = 'text/html') =>
      request(app).post(`/form/${id}`).set('X-Forwarded-For', from).set('Accept', accept).type('form').send(body),
    get: (path: string) => request(app).get(path).set('X-Forwarded-For', from),
    post: (path: string) => request(app).post(path).set('X-Forwarded-For', from).type('form'),
    from,
  };
};
const person = async (email: string) => (await world.person(email))?.id ?? '';
const asksOf = (email: string) =>
  rows<{ id: string; confirmed_at: number | null }>(
    world.connection.db,
    sql`select a.id, a.confirmed_at from asks a join people p on p.workspace_id = a.workspace_id and p.id = a.person_id where p.email = ${email}`,
  );
const mailTo = (email: string) =>
  world
    .mail()
    .filter((m) => m.to.includes(email))
    .map((m) => m.subject);
/** The confirmation email that an address got last, as a mail program reads it. */
const messageTo = (email: string) =>
  simpleParser(
    world.mailbox.store.source(
      world.mailbox.store.summaries
        .filter((m) => m.to.includes(email))
        .findLast((m) => m.subject === 'Is this your address?') as never,
    ),
  );
/** The path behind the big button of the confirmation email, followed through our own counting of clicks. */
async function confirmPath(email: string): Promise<string> {
  const { html } = await messageTo(email);
  const link = /href="(http:\/\/ascenso\.test\/c\/[^"]+)"/.exec(String(html))?.[1] ?? '';
  const to = await request(world.app).get(new URL(link).pathname).expect(302);
  return new URL(to.headers['location'] ?? '').pathname;
}

describe('from the form to the second email', () => {
  test('somebody new signs up: page, mailbox, confirmation by POST alone, file, welcome at once, everything on record', async () => {
    const ana = reader();
    const page = await ana.get(`/form/${form}`).expect(200);
    expect(page.text).toContain(AGREED);
    expect(page.text).not.toContain('<script');
    const sent = await ana.send(form, { email: 'Ana@Form.example', first_name: 'Ana', skill: 'o1', agree: 'yes' });
    expect(sent.text).toContain('Look into your mailbox');
    // Nothing is known of her yet: only that somebody asked.
    const id = await person('ana@form.example');
    expect(await rows(world.connection.db, sql`select attributes, tags from people where id = ${id}`)).toEqual([
      { attributes: {}, tags: [] },
    ]);
    await world.ahead((await world.now()) + MINUTE);
    expect(mailTo('ana@form.example')).toEqual(['Is this your address?']);
    const path = await confirmPath('ana@form.example');
    await ana.get(path).expect(200);
    await ana.get(path).expect(200);
    expect((await asksOf('ana@form.example'))[0]?.confirmed_at).toBeNull();
    const done = await ana.post(path).expect(200);
    expect(done.text).toContain('Print it on heavy paper.');
    const fetched = /href="(\/j\/[^"]+\/file)"/.exec(done.text)?.[1] ?? '';
    expect((await ana.get(fetched).expect(302)).headers['location']).toBe(`/f/${file}`);
    const confirmedAt = await world.now();
    await world.ahead(confirmedAt + MINUTE);
    expect(mailTo('ana@form.example')).toEqual(['Is this your address?', 'Welcome to the bench']);
    expect(world.mail().find((m) => m.subject === 'Welcome to the bench')?.at).toBeLessThanOrEqual(
      confirmedAt + MINUTE,
    );
    const known = (await ines.get(`/api/people/${id}`).expect(200)).body as PersonAnswer;
    expect(known.person).toMatchObject({ attributes: { first_name: 'Ana' }, tags: ['beginner'] });
    expect(known.lists).toEqual([{ id: world.list, name: 'Workshop letters', state: 'confirmed' }]);
    expect(known.consent.map((c) => [c.what, c.how, c.source, c.words, c.where])).toEqual([
      ['joined', 'form', 'Stitch guide, version 2', AGREED, ana.from],
      ['asked', 'form', 'Stitch guide, version 2', AGREED, ana.from],
    ]);
    const told = await rows<{ name: string; payload: Record<string, unknown> }>(
      world.connection.db,
      sql`select name, payload from events where person_id = ${id} order by occurred_at, id`,
    );
    expect(told.map((e) => e.name)).toEqual(['form.asked', 'form.sent', 'file.downloaded']);
    expect(told[1]?.payload).toEqual({ form, form_name: 'Stitch guide', skill: 'Never' });
    // Pressed again, it says the same and does nothing.
    await ana.post(path).expect(200);
    await world.ahead((await world.now()) + MINUTE);
    expect(mailTo('ana@form.example')).toHaveLength(2);
  });

  test('a form is asked for in branches: the kind of event has its choices as fields', async () => {
    const kinds = await rows<{ name: string; fields: { name: string }[] }>(
      world.connection.db,
      sql`select name, fields from event_kinds where name like 'form.%' order by name`,
    );
    expect(kinds.map((k) => [k.name, k.fields.map((f) => f.name)])).toEqual([
      ['form.asked', ['form', 'form_name', 'first_name', 'confirm', 'skill']],
      ['form.sent', ['form', 'form_name', 'skill']],
    ]);
  });

  test('an address that is known, one that is not, and one that has its email already get the same answer, and nobody is changed', async () => {
    await world.join('known@form.example', { attributes: { first_name: 'Own' } });
    const answers = [];
    for (const email of ['known@form.example', 'new@form.example', 'new@form.example', 'known@form.example'])
      answers.push((await reader().send(form, { email, first_name: 'Stranger', agree: 'yes' })).text);
    expect(new Set(answers).size).toBe(1);
    expect(
      await rows(world.connection.db, sql`select attributes from people where email = 'known@form.example'`),
    ).toEqual([{ attributes: { first_name: 'Own' } }]);
    await world.ahead((await world.now()) + MINUTE);
    expect(mailTo('new@form.example')).toEqual(['Is this your address?']);
    expect(mailTo('known@form.example').filter((s) => s.startsWith('Is this'))).toHaveLength(1);
    // Ten minutes later it may go out again; five times a day at most, whatever is sent.
    for (let i = 0; i < 8; i++) {
      await world.ahead((await world.now()) + 11 * MINUTE);
      await reader().send(form, { email: 'new@form.example', agree: 'yes' }).expect(200);
    }
    await world.ahead((await world.now()) + MINUTE);
    expect(mailTo('new@form.example')).toHaveLength(5);
  });

  test('joining again after unsubscribing is a new consent: mail goes again', async () => {
    const id = await person('ana@form.example');
    await world.connection.db.execute(sql`update people set unsubscribed_at = ${await world.now()} where id = ${id}`);
    await world.ahead((await world.now()) + DAY);
    await reader().send(form, { email: 'ana@form.example', agree: 'yes' }).expect(200);
    await world.ahead((await world.now()) + MINUTE);
    await reader()
      .post(await confirmPath('ana@form.example'))
      .expect(200);
    expect((await world.person('ana@form.example'))?.mail_status).toBe('ok');
  });
});

describe('against abuse', () => {
  test('the field that people do not see, and a page that was filled in before it could be read, are answered alike and do nothing', async () => {
    const bot = reader();
    const trapped = await bot.send(form, { email: 'bot@form.example', agree: 'yes', website: 'https://spam.example' });
    const page = await bot.get(`/form/${form}`);
    const t = /name="t" value="([^"]+)"/.exec(page.text)?.[1] ?? '';
    expect(t).not.toBe('');
    const fast = await bot.send(form, { email: 'bot@form.example', agree: 'yes', t });
    expect(trapped.text).toBe(fast.text);
    expect(trapped.text).toContain('Look into your mailbox');
    expect(await person('bot@form.example')).toBe('');
  });

  test('one network may send so often, and no oftener', async () => {
    const one = reader();
    const statuses = [];
    for (let i = 0; i < 22; i++)
      statuses.push((await one.send(form, { email: `n${i}@net.example`, agree: 'yes', website: 'x' })).status);
    expect(statuses).toEqual([...Array.from({ length: 20 }, () => 200), 429, 429]);
  });

  test('an address that was changed, or made up, confirms nobody', async () => {
    await reader().get('/j/abc').expect(404);
    await reader().post('/j/abc').expect(404);
  });
});

test('what cannot be taken is said to its field, in the language of the form, and nothing is lost', async () => {
  for (const language of writtenLanguages) {
    const words = joiningWords[language];
    await put(form, { language });
    const bad = reader();
    const noAddress = await bad.send(form, { email: 'nobody', first_name: 'Zoë', agree: 'yes' }).expect(422);
    expect(noAddress.text).toContain(words.wrongEmail.replace(/’/g, '’'));
    expect(noAddress.text).toContain('value="Zoë"');
    expect(noAddress.text).toContain(`<html lang="${language}">`);
    const json = await bad.send(form, { email: 'a@b.example' }, 'application/json').expect(422);
    expect(json.body).toEqual({ ok: false, title: '', text: words.missing, field: 'agree' });
    expect(json.headers['access-control-allow-origin']).toBe('*');
  }
  await put(form, { language: 'en' });
  expect(await person('a@b.example')).toBe('');
  await reader().send(form, { email: 'c@b.example', agree: 'yes', skill: 'o9' }).expect(422);
});

test('who does not confirm is forgotten after the time that the form says; whoever was known stays', async () => {
  await put(form, { forget: 3 });
  await world.join('stays@forget.example');
  for (const who of ['goes', 'stays'])
    await reader()
      .send(form, { email: `${who}@forget.example`, agree: 'yes' })
      .expect(200);
  const now = await world.now();
  await forgetRound(world.connection.db, now + 3 * DAY - 1);
  expect(await person('goes@forget.example')).not.toBe('');
  await forgetRound(world.connection.db, now + 3 * DAY);
  expect(await person('goes@forget.example')).toBe('');
  expect(await asksOf('stays@forget.example')).toEqual([]);
  expect(
    await rows(
      world.connection.db,
      sql`select m.state from memberships m join people p on p.id = m.person_id where p.email = 'stays@forget.example'`,
    ),
  ).toEqual([{ state: 'confirmed' }]);
});

test('an address that said no, typed by a stranger, is forgotten like any other, and still says no', async () => {
  const { db } = world.connection;
  const kept = async () =>
    (await ines.get('/api/suppressed?q=said-no').expect(200)).body as { rows: { why: string }[] };
  // One that was put there by hand, and one whose person had left the list and was erased.
  await ines
    .post('/api/suppressed')
    .send({ addresses: [{ email: 'said-no@hand.example', why: 'complained' }] })
    .expect(200);
  await world.join('left@erased.example');
  const { id } = (await world.person('left@erased.example')) as { id: string };
  await db.transaction((tx) => setMembership(tx, world.ws, id, world.list, 'left', 5, byHand));
  await ines.post(`/api/people/${id}/erase`).send({ email: 'left@erased.example' }).expect(200);
  await put(form, { forget: 1 });
  for (const round of [1, 2]) {
    for (const email of ['said-no@hand.example', 'left@erased.example'])
      await reader().send(form, { email, agree: 'yes' }).expect(200);
    expect(await person('said-no@hand.example'), String(round)).not.toBe('');
    await forgetRound(db, (await world.now()) + DAY);
    for (const email of ['said-no@hand.example', 'left@erased.example']) expect(await person(email)).toBe('');
    expect((await kept()).rows).toMatchObject([{ email: 'said-no@hand.example', why: 'complained' }]);
  }
  // A nightly sync puts nobody back; who confirms the list anew is on it again.
  await world.join('left@erased.example');
  const state = async () =>
    (
      await rows<{ state: string }>(
        db,
        sql`select m.state from memberships m join people p on p.id = m.person_id where p.email = 'left@erased.example' and m.list_id = ${world.list}`,
      )
    ).map((r) => r.state);
  expect(await state()).toEqual(['left']);
  await world.join('left@erased.example', { confirmed_at: new Date(await world.now()).toISOString() });
  expect(await state()).toEqual(['confirmed']);
  // Erased as somebody who is on it: nothing is held against them.
  const again = (await world.person('left@erased.example'))?.id;
  await ines.post(`/api/people/${again}/erase`).send({ email: 'left@erased.example' }).expect(200);
  await world.join('left@erased.example');
  expect(await state()).toEqual(['confirmed']);
});

test('until they confirm, an email carries no words of whoever filled in the form but a name', async () => {
  const greeting = async (name: string) => {
    const email = `n${++asked}@stranger.example`;
    await reader().send(form, { email, first_name: name, agree: 'yes' }).expect(200);
    await world.ahead((await world.now()) + MINUTE);
    // Links are signed for each.
    return String((await messageTo(email)).text)
      .replaceAll(/https?:\S+/g, '')
      .replaceAll(email, '');
  };
  let asked = 0;
  const nobody = await greeting('');
  for (const bad of [
    'You have won, call at win.example',
    'http://win.example',
    'a@b.example',
    'Write to www.win.example now',
    'x'.repeat(41),
    `Inês${'\u202e'}`,
    'win.example',
    '555 0199',
    '<b>Ana</b>',
    '1 Ana',
  ])
    expect([bad, await greeting(bad)]).toEqual([bad, nobody]);
  for (const good of ['Inês', 'Anne-Marie', 'O’Neill', 'J. R.', 'नेहा', '美咲'])
    expect(await greeting(good)).toContain(good);
});

test('a form is refused by field; opened it stays open to its own words; closed it is not there', async () => {
  const { body } = await ines.post('/api/forms').send({ name: 'Second gift' }).expect(200);
  const { id } = body as { id: string };
  await reader().get(`/form/${id}`).expect(404);
  await reader().get(`/form/${id}?preview`).expect(200);
  await reader().send(id, { email: 'x@y.example', agree: 'yes' }).expect(404);
  for (const [more, field] of [
    [{ lists: [] }, 'lists'],
    [{ consent: '' }, 'consent'],
    [{ after: { kind: 'page', address: 'javascript:alert(1)' } }, 'after.address'],
    [{ fields: [{ kind: 'attribute', id: 'a', key: 'nothing', label: 'x', required: false }] }, 'fields.0'],
  ] as const) {
    const answer = await put(id, { lists: [world.list], ...(more as unknown as Partial<SignUpForm>) });
    expect([answer.status, (answer.body as { error?: { field?: string } }).error?.field]).toEqual([422, field]);
  }
  await put(id, { lists: [world.list] });
  await ines.post(`/api/forms/${id}/status`).send({ status: 'open' }).expect(200);
  const { snippet } = (await ines.get(`/api/forms/${id}`).expect(200)).body as FormAnswer;
  expect(snippet).toContain(`action="http://ascenso.test/form/${id}"`);
  expect(snippet).toContain('<script src="http://ascenso.test/form.js" defer></script>');
  await reader().get('/form.js').expect(200);
  await ines.post(`/api/forms/${id}/status`).send({ status: 'closed' }).expect(200);
  await reader().get(`/form/${id}`).expect(404);
});

test('its subject is one of those that are ready, or one’s own, and goes out once it is published', async () => {
  const { body } = await ines.post('/api/forms').send({ name: 'Third gift' }).expect(200);
  const { id } = body as { id: string };
  const [first, second = ''] = confirmationSubjects('en', 'Third gift');
  const subject = async () => ((await ines.get(`/api/forms/${id}`).expect(200)).body as FormAnswer).subject;
  expect(await subject()).toBe(first);
  await ines.put(`/api/forms/${id}/subject`).send({ subject: second }).expect(200);
  expect(await subject()).toBe(second);
  await ines.put(`/api/forms/${id}/subject`).send({ subject: ' ' }).expect(422);
  await put(id, { lists: [world.list] });
  await ines.post(`/api/forms/${id}/status`).send({ status: 'open' }).expect(200);
  await reader().send(id, { email: 'third@form.example', agree: 'yes' }).expect(200);
  await world.ahead((await world.now()) + MINUTE);
  expect(mailTo('third@form.example')).toEqual([second]);
  for (const language of writtenLanguages) expect(new Set(confirmationSubjects(language, 'x')).size).toBeGreaterThan(2);
});

test('who confirms is led to a page of one’s own, and the page’s policy lets the browser go there', async () => {
  const after = { kind: 'page', address: 'https://foldwell.example/thanks?from=form' } as const;
  const id = await make('Fourth gift', { after });
  await reader().send(id, { email: 'fourth@form.example', agree: 'yes' }).expect(200);
  await world.ahead((await world.now()) + MINUTE);
  const path = await confirmPath('fourth@form.example');
  const asking = await reader().get(path).expect(200);
  // CSP 3, form-action: navigations that a form begins are checked at each redirect.
  expect(asking.headers['content-security-policy']).toContain("form-action 'self' https://foldwell.example;");
  expect((await reader().post(path).expect(303)).headers['location']).toBe(after.address);
  expect((await reader().get('/form/' + id)).headers['content-security-policy']).toContain("form-action 'self';");
});

test('words of a form are words: what looks like HTML in them is shown as it is', async () => {
  const id = await make('Braces <b>bold</b>', {
    title: '<img src=x onerror=alert(1)>',
    intro: '"&<',
    button: '</button><script>',
  });
  const { text } = await reader().get(`/form/${id}`).expect(200);
  expect(text).not.toMatch(/<img src=x|<script>/);
  expect(blankForm('x', '', 'en', false).fields).toEqual([]);
});
