import { readFileSync } from 'node:fs';
import path from 'node:path';
import { sql } from 'drizzle-orm';
import { Ajv2020 } from 'ajv/dist/2020.js';
import addFormats from 'ajv-formats';
import ICAL from 'ical.js';
import { sequenceFileJsonSchema, type ForecastAnswer, type SequenceFile } from '@ascenso/contracts';
import {
  blankOffer,
  blockKinds,
  DAY,
  difference,
  fromPattern,
  HOUR,
  patterns,
  type Sequence,
  type Step,
  type Offer,
} from '@ascenso/core';
import request from 'supertest';
import { beforeAll, describe, expect, test } from 'vitest';
import { newId } from '../src/app/ids.ts';
import { rows } from '../src/db/rows.ts';
import { emailStep, FRIDAY_NOON, owner, testId, useWorld, waitStep } from './support/world.ts';

const world = useWorld();
const PNG = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
  'base64',
);
let own: ReturnType<typeof request.agent>;
let other: ReturnType<typeof request.agent>;
let whole: string;

beforeAll(async () => {
  await world.otherWorkspace();
  own = request.agent(world.app);
  other = request.agent(world.app);
  await own.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
  await other.post('/api/session').send({ email: 'ada@elsewhere.example', password: owner.password }).expect(200);
  whole = await everything();
});

const draftOf = async (agent: typeof own, id: string) =>
  (await agent.get(`/api/sequences/${id}`).expect(200)).body.draft as Sequence;

/** A sequence that refers to one of everything, as a draft. */
async function everything(): Promise<string> {
  const { db } = world.connection;
  const file = (await own.post('/api/files').attach('file', PNG, 'cover.png').expect(200)).body.id as string;
  const sender = (
    await own
      .post('/api/senders')
      .send({ name: 'Tomasz', email: 'tomasz@foldwell.example', fields: { page: 'https://foldwell.example/tomasz' } })
      .expect(200)
  ).body.id as string;
  const segment = (
    await own
      .post('/api/segments')
      .send({ name: 'On the letters', rule: { kind: 'list', list: world.list, on: true } })
      .expect(200)
  ).body.id as string;
  await own
    .put('/api/event-kinds')
    .send({
      name: 'cart.left',
      label: 'Left a cart',
      fields: [{ name: 'total', type: 'number' }],
      sample: { total: 12 },
    })
    .expect(200);
  const next = await world.live({
    name: 'The one after',
    list: null,
    triggers: [{ kind: 'hand' }],
    steps: [emailStep('Next')],
  });
  const offer = (
    await own
      .post('/api/offers')
      .send({
        ...blankOffer(),
        name: 'Kit offer',
        after: { kind: 'picture', file },
        deadline: { kind: 'after', from: 'event', event: 'kit.shown', amount: 2, unit: 'days', minute: null },
      })
      .expect(200)
  ).body.id as string;
  await own.put('/api/event-kinds').send({ name: 'kit.shown', label: 'Kit shown', fields: [], sample: {} }).expect(200);
  const email = emailStep('Cart', {
    subject: 'Cart over {{ event.total }}, {{ subscriber.first_name | default: "reader" }}',
    address: `file:${file}`,
  });
  email.email.sender = sender;
  email.email.offer = offer;
  email.email.blocks.push(blockKinds.code.blank(testId), blockKinds.timer.blank(testId));
  const shared = (
    await own
      .post('/api/shared')
      .send({ name: 'Masthead', blocks: [{ kind: 'image', id: 'mast', file, alt: 'A cover', link: '', width: 300 }] })
      .expect(200)
  ).body.id as string;
  email.email.blocks.unshift({ kind: 'shared', id: testId(), shared });
  email.email.blocks.push({ kind: 'image', id: testId(), file, alt: 'A cover', link: '', width: 300 });
  const id = newId();
  const draft: Sequence = {
    ...fromPattern(patterns[0] as (typeof patterns)[number], {
      newId: testId,
      list: world.list,
      events: [],
      dates: [],
    }),
    name: 'Everything',
    triggers: [
      { kind: 'event', event: 'cart.left', where: [] },
      { kind: 'segment', segment },
    ],
    goal: { kind: 'segment', segment, in: false },
    steps: [
      email,
      waitStep(1),
      { id: testId(), on: true, note: 'as before', kind: 'action', action: { type: 'start-sequence', sequence: next } },
    ] as Step[],
  };
  await db.execute(
    sql`insert into sequences (workspace_id, id, name, status, created_at, revision, draft) values (${world.ws}, ${id}, ${draft.name}, 'draft', 0, 0, ${JSON.stringify(draft)}::jsonb)`,
  );
  return id;
}

describe('a sequence as a file', () => {
  test('imported where it came from, it is the same: no difference, and nothing is made twice', async () => {
    const { body: file } = await own.get(`/api/sequences/${whole}/export`).expect(200);
    const count = async () =>
      (
        await rows<{ n: number }>(
          world.connection.db,
          sql`select (select count(*) from lists) + (select count(*) from files) + (select count(*) from senders) + (select count(*) from segments) + (select count(*) from event_kinds) + (select count(*) from shared_blocks) + (select count(*) from offers) as n`,
        )
      )[0]?.n;
    const before = await count();
    const { body } = await own.post('/api/sequences/import').send(file).expect(200);
    expect(body.id).not.toBe(whole);
    expect(difference(await draftOf(own, whole), await draftOf(own, body.id as string))).toEqual([]);
    expect(await count()).toBe(before);
  });

  test('imported elsewhere, everything it needs is there, by name; what it starts is left to be chosen', async () => {
    const { body: file } = await own.get(`/api/sequences/${whole}/export`).expect(200);
    const { body } = await other.post('/api/sequences/import').send(file).expect(200);
    const draft = await draftOf(other, body.id as string);
    const around = (await other.get('/api/surroundings')).body as Record<
      string,
      { id: string; name: string; label: string }[]
    >;
    const names = (key: string, of: 'name' | 'label' = 'name') => (around[key] ?? []).map((x) => x[of]);
    expect(names('lists')).toContain('Workshop letters');
    expect(names('segments')).toContain('On the letters');
    expect(names('shared')).toContain('Masthead');
    expect(names('senders')).toContain('Tomasz');
    expect(names('kinds', 'label')).toEqual(expect.arrayContaining(['Left a cart', 'Kit shown']));
    expect(names('offers')).toContain('Kit offer');
    expect(names('files')).toContain('cover.png');
    const text = JSON.stringify(draft);
    for (const theirs of [
      ...file.lists,
      ...file.segments,
      ...file.senders,
      ...file.files,
      ...file.sequences,
      ...file.offers,
    ])
      expect(text).not.toContain(theirs.id);
    for (const key of ['lists', 'files', 'segments'])
      expect((around[key] ?? []).some((x) => text.includes(x.id))).toBe(true);
    expect(text).toContain('"type":"start-sequence","sequence":""');
    const again = (await other.get(`/api/sequences/${body.id}/export`).expect(200)).body as SequenceFile;
    // What is shown after the offer is their copy of the picture.
    expect(again.offers[0]?.offer.after).toEqual({ kind: 'picture', file: again.files[0]?.id });
    expect(again.files[0]?.content).toBe(PNG.toString('base64'));
    expect(again.segments[0]?.rule).toMatchObject({
      kind: 'list',
      list: again.lists.find((l) => l.name === 'Workshop letters')?.id,
    });
  });

  test('its JSON Schema is the one in docs, and a general-purpose validator accepts every export by it', async () => {
    const inDocs = JSON.parse(
      readFileSync(path.resolve(import.meta.dirname, '../../docs/sequence-file.schema.json'), 'utf8'),
    ) as object;
    expect(inDocs).toEqual(JSON.parse(JSON.stringify(sequenceFileJsonSchema())));
    // Strict mode refuses what a validator would have to guess at.
    const ajv = new Ajv2020({ strict: true });
    addFormats.default(ajv);
    const validate = ajv.compile(inDocs);
    const { $defs } = inDocs as { $defs: Record<string, { description?: string }> };
    for (const [name, definition] of Object.entries($defs)) {
      expect(name).toMatch(/^[A-Z][A-Za-z]+[1-5]?$/);
      expect([name, definition.description]).toEqual([name, expect.stringMatching(/^[A-Z].{15,}\.$/)]);
    }
    const { sequences } = (await own.get('/api/sequences')).body as { sequences: { id: string }[] };
    for (const s of sequences) {
      const { body: file } = await own.get(`/api/sequences/${s.id}/export`).expect(200);
      expect([validate(file), validate.errors]).toEqual([true, null]);
      expect(validate({ ...file, version: 3 })).toBe(false);
      expect(validate({ ...file, sequence: { ...file.sequence, steps: [{ kind: 'rocket' }] } })).toBe(false);
    }
  });

  test.each([
    ['another kind of file', { hello: 'world' }, /format/],
    ['a later version', { format: 'ascenso-sequence', version: 3 }, /version/],
    ['a step that does not exist', { sequence: { steps: [{ kind: 'rocket' }] } }, /sequence/],
    [
      'a file that is neither picture nor document',
      { files: [{ id: 'x', name: 'x.exe', content: Buffer.from('MZ not a picture').toString('base64') }] },
      /file/,
    ],
  ])('%s is refused with the field named, and nothing is made', async (_what, change, field) => {
    const { body: file } = await own.get(
      `/api/sequences/${(await own.get('/api/sequences')).body.sequences[0].id}/export`,
    );
    const bad =
      'hello' in change
        ? change
        : 'sequence' in change
          ? { ...file, sequence: { ...file.sequence, ...change.sequence } }
          : { ...file, ...change };
    const before = (await own.get('/api/sequences')).body.sequences.length;
    const answer = await own.post('/api/sequences/import').send(bad).expect(422);
    expect(`${answer.body.error.field} ${answer.body.error.message}`).toMatch(field);
    expect((await own.get('/api/sequences')).body.sequences.length).toBe(before);
  });

  test('a file of version 1, whose offers had words beside their figure, is taken as one of today', async () => {
    const { sequences } = (await own.get('/api/sequences')).body as { sequences: { id: string }[] };
    const { body: file } = await own.get(`/api/sequences/${sequences[0]?.id}/export`).expect(200);
    const { discount: _, around: __, ...offer } = blankOffer();
    const older = { ...offer, name: 'Of before', words: '€5 off this order', discount: { kind: 'amount', value: 5 } };
    await own
      .post('/api/sequences/import')
      .send({ ...file, version: 1, offers: [{ id: newId(), name: older.name, offer: older }] })
      .expect(200);
    const { offers } = (await own.get('/api/offers').expect(200)).body as { offers: { offer: Offer }[] };
    expect(offers.find((o) => o.offer.name === older.name)?.offer).toMatchObject({
      discount: { kind: 'amount', value: 5, currency: 'EUR' },
      around: { before: '', after: 'this order' },
    });
  });

  test('a new sequence begins with a pattern, or as a copy of another', async () => {
    const made = (await own.post('/api/sequences').send({ name: 'My course', pattern: 'course-by-email' }).expect(200))
      .body.id as string;
    const draft = await draftOf(own, made);
    expect([draft.name, draft.steps.length > 5]).toEqual(['My course', true]);
    const copy = (await own.post('/api/sequences').send({ name: 'Its copy', copyOf: made }).expect(200)).body
      .id as string;
    expect((await draftOf(own, copy)).steps.map((s) => s.kind)).toEqual(draft.steps.map((s) => s.kind));
    await own.post('/api/sequences').send({ name: 'None', pattern: 'nowhere' }).expect(422);
    await other.post('/api/sequences').send({ name: 'Theirs', copyOf: made }).expect(404);
  });
});

describe('the calendar', () => {
  test('the iCalendar file, read by a general-purpose library, has each email at its moment, and long and odd names whole', async () => {
    const long = `Ein sehr langer Titel, mit Komma; Semikolon \\ und Umlaut ä, ${'immer weiter '.repeat(8)}`;
    const friday = emailStep(long.trim().slice(0, 118), { subject: 'Grüße aus der Werkstatt' });
    friday.window = { days: [5], from: 480, to: 540 };
    const arm = (name: string) => [emailStep(name)];
    const split: Step = {
      id: testId(),
      on: true,
      note: '',
      kind: 'split',
      name: '',
      arms: [
        { id: testId(), weight: 1, steps: arm('Left') },
        { id: testId(), weight: 1, steps: arm('Right') },
      ],
      rule: { measure: 'clicked', first: 10, after: { amount: 4, unit: 'hours' } },
    };
    const greeting = 'Hello {{ subscriber.first_name | default: "reader" }}';
    const id = await world.live({
      name: 'For the calendar',
      list: null,
      triggers: [{ kind: 'hand' }],
      steps: [emailStep('At once', { subject: greeting }), split, friday],
    });
    const exported = (at: number, person = '') =>
      own
        .get(`/api/sequences/${id}/calendar.ics?at=${at}${person && `&person=${person}`}`)
        .buffer()
        .parse((res, done) => {
          let text = '';
          res.setEncoding('utf8');
          res.on('data', (d: string) => (text += d));
          res.on('end', () => done(null, text));
        })
        .expect(200);
    const eventsIn = (text: string) =>
      new ICAL.Component(ICAL.parse(text) as unknown[]).getAllSubcomponents('vevent').map((c) => new ICAL.Event(c));
    const answer = await exported(FRIDAY_NOON);
    expect(answer.headers['content-type']).toMatch(/^text\/calendar/);
    const text = answer.body as string;
    // RFC 5545, 3.1: lines end in CRLF and are folded at 75 octets.
    for (const line of text.split('\r\n')) expect(Buffer.byteLength(line)).toBeLessThanOrEqual(75);
    expect(text.replace(/\r\n/g, '')).not.toContain('\n');
    expect(text).toMatch(/END:VCALENDAR\r\n$/);
    const events = eventsIn(text);
    expect(events.map((e) => [e.summary, e.startDate.toJSDate().getTime()])).toEqual([
      ['At once', FRIDAY_NOON],
      ['Left', FRIDAY_NOON],
      ['Right', FRIDAY_NOON],
      [friday.name, FRIDAY_NOON + 7 * DAY - 4 * HOUR],
    ]);
    expect(new Set(events.map((e) => e.uid)).size).toBe(4);
    expect(events[1]?.description).toMatch(/For whoever goes: 50%/);
    // Exported again at another time, each email is the same event, moved.
    const later = eventsIn((await exported(FRIDAY_NOON + DAY)).body as string);
    expect(new Set(later.map((e) => e.uid))).toEqual(new Set(events.map((e) => e.uid)));
    // Read for somebody, it says what they would read.
    await world.join('marta@readers.example', { attributes: { first_name: 'Marta' }, zone: 'Europe/Lisbon' });
    const { people } = (await own.get('/api/people?q=marta@readers')).body as { people: { id: string }[] };
    const theirs = eventsIn((await exported(FRIDAY_NOON, people[0]?.id)).body as string);
    expect([events[0]?.description, theirs[0]?.description]).toEqual(['Subject: Hello reader', 'Subject: Hello Marta']);
    expect(theirs[0]?.uid).not.toBe(events[0]?.uid);
    await own.get(`/api/sequences/${id}/calendar.ics?at=soon`).expect(422);
    await own.get(`/api/sequences/${id}/calendar.ics?person=nobody`).expect(422);
  });

  test('the volume of those inside is, day by day, what then really goes out; joiners are as many as of late', async () => {
    const type = 'volume.begun';
    const window = emailStep('Weekdays only');
    window.window = { days: [1, 2, 3, 4, 5], from: 480, to: 1080 };
    const id = await world.live({
      name: 'Volume',
      list: null,
      triggers: [{ kind: 'event', event: type, where: [] }],
      steps: [emailStep('At once'), waitStep(2), window, waitStep(9), emailStep('Last')],
    });
    const begun = await world.now();
    for (let i = 0; i < 14; i++) {
      await world.event({ type, subject: `volume${i}@readers.example` }).expect(202);
      await world.ahead(begun + (i + 1) * 5 * HOUR);
    }
    const now = await world.now();
    const { days, sequences } = (await own.get('/api/forecast').expect(200)).body as ForecastAnswer;
    const mine = sequences.find((s) => s.id === id) as ForecastAnswer['sequences'][number];
    await world.ahead(now + 29 * DAY);
    const sent = world.mail().filter((m) => m.to.startsWith('volume') && m.at > now);
    const real = days.map((d) => sent.filter((m) => m.at >= d && m.at < d + DAY).length);
    expect(mine.inside).toEqual(real);
    expect(mine.inside.reduce((a, b) => a + b, 0)).toBeGreaterThan(14);
    expect(mine.joinersPerDay).toBeCloseTo(14 / 28, 9);
    // Three emails for each joiner, but for those whose later ones fall beyond the four weeks.
    const total = mine.joiners.reduce((a, b) => a + b, 0);
    expect(total).toBeGreaterThan(14 * 2);
    expect(total).toBeLessThan(14 * 3);
  });
});
