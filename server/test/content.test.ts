import { sql } from 'drizzle-orm';
import { simpleParser, type ParsedMail } from 'mailparser';
import request from 'supertest';
import { beforeAll, describe, expect, test } from 'vitest';
import { blockKinds, HOUR, paragraphs, type Block, type Condition, type Email, type Step } from '@ascenso/core';
import { firstRow, rows } from '../src/db/rows.ts';
import { emailStep, owner, testId, useWorld } from './support/world.ts';

const world = useWorld();
let agent: ReturnType<typeof request.agent>;
beforeAll(async () => {
  agent = request.agent(world.app);
  await agent.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
  const lines = [
    { title: 'Kit', price: 26, page: 'https://foldwell.example/kit', image: 'https://foldwell.example/kit.png' },
  ];
  const articles = [{ headline: 'Which thread?', excerpt: 'Linen, mostly.', url: 'https://foldwell.example/thread' }];
  await agent
    .put('/api/event-kinds')
    .send({
      name: 'cart.open',
      label: 'Cart',
      fields: [
        { name: 'lines', type: 'list' },
        { name: 'articles', type: 'list' },
        { name: 'total', type: 'number' },
      ],
      sample: { lines, articles, total: 26 },
    })
    .expect(200);
  await agent
    .put('/api/style')
    .send({ campaign: { source: 'ascenso', medium: 'email', campaign: '{{ sequence.name }}', content: '' } })
    .expect(200);
});

let counter = 0;
const text = (words: string, more: Partial<Block> = {}): Block =>
  ({ kind: 'text', id: testId(), doc: paragraphs(words), ...more }) as Block;
const footer: Block = { kind: 'footer', id: 'foot', reason: '' };
const tagged = (tag: string): Condition => ({ kind: 'tag', tag, has: true });

/** Puts an email live that a cart starts, and answers how to have somebody get it. */
async function mailing(email: Partial<Email>, before: Step[] = []) {
  const step = emailStep(`Cart ${++counter}`);
  step.email = { ...step.email, ...email };
  const name = `Carts ${counter}`;
  const id = await world.live({
    name,
    list: null,
    triggers: [{ kind: 'event', event: 'cart.open', where: [{ field: 'mark', op: 'is', value: counter }] }],
    steps: [...before, step],
  });
  const mark = counter;
  return {
    id,
    step: step.id,
    async to(who: string, data: Record<string, unknown> = {}): Promise<ParsedMail> {
      await world.event({ type: 'cart.open', subject: who, data: { mark, ...data } }).expect(202);
      await world.ahead(await world.now());
      const found = world.mailbox.store.summaries.find(
        (m) => m.to === who && m.subject.startsWith(step.email.subject.slice(0, 4)),
      );
      if (!found) throw new Error(`${who} got nothing.`);
      return simpleParser(world.mailbox.store.source(found));
    },
  };
}

describe('what an email says to whom', () => {
  test('each reader gets the version that is theirs, in both parts, asked in the moment of sending', async () => {
    const looked: Condition = { kind: 'event', event: 'page.seen', done: true, since: { kind: 'ever' }, where: [] };
    const m = await mailing({
      blocks: [
        text('For teachers.', { when: { chain: 'if', condition: tagged('teacher') } }),
        text('For whoever looked.', { when: { chain: 'elseif', condition: looked } }),
        text('For the rest.', { when: { chain: 'else' } }),
        footer,
      ],
    });
    await world.join('teacher@readers.example');
    const teacher = await world.person('teacher@readers.example');
    await agent.patch(`/api/people/${teacher?.id}`).send({ addTag: 'teacher' }).expect(200);
    await world.event({ type: 'page.seen', subject: 'looker@readers.example' }).expect(202);
    for (const [who, words] of [
      ['teacher', 'For teachers.'],
      ['looker', 'For whoever looked.'],
      ['other', 'For the rest.'],
    ] as const) {
      const mail = await m.to(`${who}@readers.example`);
      for (const part of [mail.text, mail.html || ''])
        expect((part ?? '').match(/For [a-z ]+\./g)?.filter((w, i, all) => all.indexOf(w) === i)).toEqual([words]);
    }
  });

  test('a note for those who opened an earlier email of the sequence', async () => {
    const first = emailStep('Opened first');
    const m = await mailing(
      {
        subject: 'Then this',
        blocks: [
          text('You read it.', {
            when: { chain: 'if', condition: { kind: 'email', step: first.id, what: 'opened', did: true } },
          }),
          text('You did not.', { when: { chain: 'else' } }),
          footer,
        ],
      },
      [first, { id: testId(), on: true, note: '', kind: 'wait', amount: 1, unit: 'hours', at: null }],
    );
    await m.to('reads@readers.example').catch(() => undefined);
    const open = await firstRow<{ id: string }>(
      world.connection.db,
      sql`update sends set opened_at = due_at where step = ${first.id} returning id`,
    );
    expect(open).toBeDefined();
    await world.ahead((await world.now()) + HOUR);
    const got = world.mailbox.store.summaries.find((s) => s.subject === 'Then this');
    expect((await simpleParser(world.mailbox.store.source(got as never))).text).toContain('You read it.');
  });

  test('the lines of their own cart, each with its picture, price and address; campaign parameters on every link', async () => {
    const repeat: Block = {
      ...blockKinds.repeat.blank(testId),
      list: 'event.lines',
      link: 'page',
      picture: { on: true, field: 'image' },
      title: { on: true, field: 'title' },
      price: { on: true, field: 'price' },
      quantity: { on: false, field: '' },
    };
    const m = await mailing({ blocks: [repeat, footer] });
    const lines = [
      { title: 'Kit', price: 26, page: 'https://foldwell.example/kit', image: 'https://foldwell.example/kit.png' },
      { title: 'Thread', price: 6, page: 'javascript:alert(1)', image: '' },
    ];
    const mail = await m.to('cart@readers.example', { lines });
    expect(mail.text).toMatch(/- Kit, €26\.00\n {2}http:\/\/ascenso\.test\/c\/\S+\/0\.0\.0\n- Thread, €6\.00/);
    expect((mail.html || '').match(/<img src="https:\/\/foldwell\.example\/kit\.png"/g)).toHaveLength(1);
    const address = /http:\/\/ascenso\.test(\/c\/[^"\s]+\/0\.0\.0)/.exec(mail.text ?? '')?.[1] as string;
    const go = await request(world.app).get(address).expect(302);
    expect(go.headers.location).toBe(
      `https://foldwell.example/kit?utm_source=ascenso&utm_medium=email&utm_campaign=Carts%20${counter}`,
    );
    // The second one's address was no address: the link opens nothing, and no other item's page.
    await request(world.app).get(address.replace('/0.0.0', '/0.1.0')).expect(404);
    await request(world.app).get(address.replace('/0.0.0', '/0.7.0')).expect(404);
    const clicks = await rows<object>(
      world.connection.db,
      sql`select link_repeat, link_item, link_number from readings where kind = 'click' order by at`,
    );
    expect(clicks).toContainEqual({ link_repeat: 0, link_item: 0, link_number: 0 });
    // The cart changes afterwards; the email is still shown as it was sent.
    const send = await firstRow<{ id: string }>(world.connection.db, sql`select id from sends where step = ${m.step}`);
    await world
      .event({ type: 'cart.open', subject: 'cart@readers.example', data: { mark: counter, lines: [] } })
      .expect(202);
    const { body } = await agent.get(`/api/sends/${send?.id}`).expect(200);
    expect(body.text).toContain('Thread, €6.00');
  });

  test('articles from the event, the first two by title, and words where there are none', async () => {
    const repeat: Block = {
      ...blockKinds.repeat.blank(testId),
      list: 'event.articles',
      link: 'url',
      limit: 2,
      sort: { field: 'headline', down: false },
      title: { on: true, field: 'headline' },
      text: { on: true, field: 'excerpt' },
      price: { on: false, field: '' },
      quantity: { on: false, field: '' },
      none: 'Nothing new this week.',
    };
    const m = await mailing({ blocks: [repeat, footer] });
    const article = (headline: string) => ({
      headline,
      excerpt: `About ${headline}.`,
      url: `https://foldwell.example/${headline}`,
    });
    const mail = await m.to('reader@readers.example', { articles: ['Thread', 'Awl', 'Glue'].map(article) });
    expect(mail.text).toMatch(/^- Awl\n.+\n- Glue\n/);
    expect(mail.text).not.toContain('Thread');
    expect(mail.html).toContain('About Awl.');
    expect((await m.to('none@readers.example', { articles: [] })).text).toContain('Nothing new this week.');
  });

  test('what they looked at lately, newest first, each of it once, and nothing that came after', async () => {
    const repeat: Block = {
      ...blockKinds.repeat.blank(testId),
      list: 'recent.page.seen',
      limit: 2,
      title: { on: true, field: 'product' },
    };
    await agent
      .put('/api/event-kinds/page.seen')
      .send({ label: 'Page seen', fields: [{ name: 'product', type: 'text' }], sample: {} })
      .expect(200);
    const m = await mailing({ blocks: [repeat, footer] });
    const who = 'recent@readers.example';
    const now = await world.now();
    for (const [product, hours] of [
      ['Kit', 5],
      ['Thread', 3],
      ['Kit', 2],
      ['Awl', 9],
    ] as const)
      await world.event({ type: 'page.seen', subject: who, time: now - hours * HOUR, data: { product } }).expect(202);
    expect((await m.to(who)).text).toMatch(/^- Kit\n- Thread\n/);
  });

  test('text only: no HTML part; answers to somebody else; the reader’s name in the To line', async () => {
    const m = await mailing({
      mode: 'text',
      replyTo: 'tomasz@foldwell.example',
      toName: '{{ subscriber.first_name | default: "reader" }}',
      blocks: [text('Plainly said.'), footer],
    });
    const mail = await m.to('plain@readers.example');
    expect(mail.html).toBe(false);
    expect(mail.text).toContain('Plainly said.');
    expect(mail.headers.get('content-type')).toMatchObject({ value: 'text/plain' });
    expect(mail.replyTo?.value[0]?.address).toBe('tomasz@foldwell.example');
    expect([mail.to].flat()[0]?.value[0]?.name).toBe('reader');
  });
});

describe('what emails are made of', () => {
  const dot = Buffer.from(
    'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
    'base64',
  );
  /** Another picture for each name: what stands behind the end of a PNG is not drawn. */
  const dotOf = (name: string) => Buffer.concat([dot, Buffer.from(name)]);

  test('a logo stands in every email that shows it, and a new one leaves what was published as it is', async () => {
    const upload = async (name: string) =>
      (await agent.post('/api/files').attach('file', dotOf(name), name).expect(200)).body.id as string;
    const [old, next] = [await upload('old.png'), await upload('next.png')];
    const logo = (file: string) => ({ logo: { file, width: 120, address: 'https://foldwell.example' } });
    await agent.put('/api/style').send(logo('a mark')).expect(422);
    await agent.put('/api/style').send(logo(old)).expect(200);
    const m = await mailing({ blocks: [{ kind: 'logo', id: testId() }, text('Hello.'), footer] });
    await agent.put('/api/style').send(logo(next)).expect(200);
    const mail = await m.to('mark@readers.example');
    expect(mail.html).toContain(`/f/${old}`);
    expect(mail.html).toMatch(/width="120"/);
    // Its program still fetches the old one; the house style has the new one.
    expect((await agent.delete(`/api/files/${old}`).expect(409)).body.error.message).toContain(`“Carts ${counter}”`);
    expect((await agent.delete(`/api/files/${next}`).expect(409)).body.error.message).toContain('“House style”');
    await agent
      .put('/api/style')
      .send({ logo: { file: '', width: 120, address: '' } })
      .expect(200);
    await agent.delete(`/api/files/${next}`).expect(200);
  });

  test('the same picture under another name is one file; another name of a PDF is another file', async () => {
    const keep = async (content: Buffer, name: string) =>
      (await agent.post('/api/files').attach('file', content, name).expect(200)).body as {
        id: string;
        known: string | null;
      };
    const first = await keep(dot, 'first name.png');
    expect(await keep(dot, 'second name.png')).toEqual({ id: first.id, known: expect.any(String) as string });
    const pdf = Buffer.from('%PDF-1.4\n%%EOF');
    expect((await keep(pdf, 'one.pdf')).id).not.toBe((await keep(pdf, 'two.pdf')).id);
  });

  test('a file goes along with every copy, whole, and cannot be deleted while it does', async () => {
    const pdf = Buffer.from(`%PDF-1.4\n${'stitch '.repeat(500)}\n%%EOF`);
    const file = (await agent.post('/api/files').attach('file', pdf, 'Três papéis.pdf').expect(200)).body as {
      id: string;
    };
    const m = await mailing({ blocks: [text('It goes along.'), footer], attachments: [file.id] });
    for (const who of ['one', 'two']) {
      const mail = await m.to(`${who}-attached@readers.example`);
      expect(mail.attachments.map((a) => [a.filename, Buffer.compare(a.content, pdf)])).toEqual([
        ['Três papéis.pdf', 0],
      ]);
      expect(mail.text).toContain('It goes along.');
    }
    await agent.delete(`/api/files/${file.id}`).expect(409);
  });

  test('a repeat goes through articles that were picked, for everybody alike', async () => {
    const repeat: Block = {
      ...blockKinds.repeat.blank(testId),
      list: 'picked',
      picked: [
        { title: 'Which thread?', text: 'Linen, mostly.', picture: '', link: 'https://foldwell.example/thread' },
        { title: 'Paper & grain', text: '', picture: 'https://foldwell.example/grain.png', link: '' },
      ],
      picture: { on: true, field: 'picture' },
      title: { on: true, field: 'title' },
      text: { on: true, field: 'text' },
      quantity: { on: false, field: '' },
      price: { on: false, field: '' },
      link: 'link',
    };
    const m = await mailing({ blocks: [repeat, footer] });
    const mail = await m.to('picked@readers.example');
    expect(mail.html).toMatch(/Which thread\?[\s\S]*Linen, mostly\.[\s\S]*grain\.png[\s\S]*Paper &amp; grain/);
    expect(mail.text).toMatch(/- Which thread\?\n[\s\S]*- Paper & grain/);
  });

  test('a file in use is not deleted, and it is said where it is used', async () => {
    const file = (await agent.post('/api/files').attach('file', dotOf('in use'), 'dot.png').expect(200)).body
      .id as string;
    const m = await mailing({
      blocks: [{ kind: 'image', id: testId(), file, alt: 'A dot', link: '', width: 100 }, footer],
    });
    const refused = await agent.delete(`/api/files/${file}`).expect(409);
    expect(refused.body.error.message).toContain(`“Carts ${counter}”`);
    await agent
      .patch(`/api/files/${file}`)
      .send({ folder: 'Dots', keywords: ['tiny'], alt: 'A dot' })
      .expect(200);
    const around = await agent.get('/api/surroundings').expect(200);
    expect(around.body.files[0]).toMatchObject({ id: file, folder: 'Dots', keywords: ['tiny'], alt: 'A dot' });
    expect(m.id).toBeDefined();
  });

  test('a private template is its owner’s alone', async () => {
    await world.addUser('tomasz@foldwell.example', 'editor');
    const tomasz = request.agent(world.app);
    await tomasz.post('/api/session').send({ email: 'tomasz@foldwell.example', password: owner.password }).expect(200);
    const { email } = emailStep('Mine');
    const { body } = await agent.post('/api/templates').send({ name: 'Mine', email, private: true }).expect(200);
    expect((await tomasz.get('/api/templates')).body.templates).toEqual([]);
    await tomasz.put(`/api/templates/${body.id}`).send({ name: 'Taken', email, private: false }).expect(404);
    await tomasz.delete(`/api/templates/${body.id}`).expect(404);
    expect((await agent.get('/api/templates')).body.templates).toMatchObject([
      { name: 'Mine', private: true, mine: true, usedIn: [] },
    ]);
  });

  test('how many see each version: nobody, those already taken, and somebody to read it as', async () => {
    const chain = [tagged('teacher'), { kind: 'any', of: [tagged('teacher'), tagged('nobody-has-this')] }, null];
    const { body } = await agent.post('/api/conditions/seen').send({ chain }).expect(200);
    const teacher = await world.person('teacher@readers.example');
    expect(body.versions[0]).toEqual({ count: 1, taken: 0, example: teacher?.id });
    expect(body.versions[1]).toEqual({ count: 0, taken: 1, example: null });
    expect(body.versions[2].count).toBe(body.total - 1);
  });

  test('what the draft was like before: named states, and any revision, down to the first', async () => {
    const { body } = await agent.post('/api/sequences').send({ name: 'Remembered' }).expect(200);
    const say = (value: string, base: number) =>
      agent
        .post(`/api/sequences/${body.id}/commands`)
        .send({ base, edits: [{ role: 'edit', commands: [{ type: 'set', field: 'name', value }] }] })
        .expect(200);
    await say('Remembered twice', 0);
    await agent.post(`/api/sequences/${body.id}/marks`).send({ name: 'Before the meeting' }).expect(200);
    await say('Remembered thrice', 1);
    const { history } = (await agent.get(`/api/sequences/${body.id}/history`).expect(200)).body as {
      history: { revision: number; name: string | null }[];
    };
    expect(history.map((h) => [h.revision, h.name])).toEqual([
      [2, null],
      [1, 'Before the meeting'],
    ]);
    const names = [];
    for (const n of [0, 1, 2])
      names.push((await agent.get(`/api/sequences/${body.id}/history/${n}`).expect(200)).body.sequence.name);
    expect(names).toEqual(['Remembered', 'Remembered twice', 'Remembered thrice']);
    await agent.get(`/api/sequences/${body.id}/history/3`).expect(422);
  });
});

test('a kind of event is changed in its place, and keeps what emails use of it', async () => {
  const kind = { name: 'bench.booked', label: 'Bench booked', fields: [{ name: 'day', type: 'date' }], sample: {} };
  await agent.put('/api/event-kinds').send(kind).expect(200);
  const again = await agent
    .put('/api/event-kinds')
    .send({ ...kind, label: 'Other', fields: [] })
    .expect(409);
  expect(again.body.error).toMatchObject({ code: 'exists', field: 'name' });
  const id = await world.live({
    name: 'Before the bench',
    list: null,
    triggers: [{ kind: 'event', event: kind.name, where: [] }],
    steps: [emailStep('See you', { subject: 'See you on {{ event.day | date: "day" }}' })],
  });
  const cart: Block = {
    ...blockKinds.repeat.blank(testId),
    list: 'event.tools',
    title: { on: true, field: 'title' },
  };
  const tooled = emailStep('Tools');
  tooled.email.blocks.unshift(cart);
  const uses2 = async () =>
    ((await agent.get('/api/event-kinds/tools.lent/uses').expect(200)).body as { uses: { field: string }[] }).uses;
  await agent
    .put('/api/event-kinds')
    .send({
      name: 'tools.lent',
      label: 'Tools lent',
      fields: [
        { name: 'tools', type: 'list' },
        { name: 'until', type: 'date' },
        { name: 'number', type: 'number' },
      ],
      sample: { tools: [{ title: 'Bone folder' }] },
    })
    .expect(200);
  await world.live({
    name: 'Lent tools',
    list: null,
    triggers: [{ kind: 'event', event: 'tools.lent', where: [] }],
    entry: { again: 'after-leaving', days: 1, key: 'number', holdout: 0 },
    steps: [tooled],
  });
  // A list that a repeat goes through, and the field that keeps stories apart, are uses as well.
  expect((await uses2()).map((u) => u.field).sort()).toEqual(['number', 'tools']);
  const { uses } = (await agent.get(`/api/event-kinds/${kind.name}/uses`).expect(200)).body as { uses: object[] };
  expect(uses).toEqual([{ field: 'day', where: 'See you', sequence: { id, name: 'Before the bench' }, live: true }]);
  const change = (fields: object[]) =>
    agent.put(`/api/event-kinds/${kind.name}`).send({ label: 'Bench', fields, sample: {} });
  const lost = await change([{ name: 'hour', type: 'number' }]).expect(409);
  expect(lost.body.error).toMatchObject({
    field: 'fields',
    message: '“day” is used in “Before the bench”: See you. Take it out there first.',
  });
  const retyped = await change([
    { name: 'day', type: 'text' },
    { name: 'hour', type: 'number' },
  ]).expect(409);
  expect(retyped.body.error.message).toContain('“day” is used in “Before the bench”: See you');
  await change([
    { name: 'day', type: 'date' },
    { name: 'hour', type: 'number' },
  ]).expect(200);
  const { kinds } = (await agent.get('/api/surroundings')).body as {
    kinds: { name: string; label: string; fields: object[] }[];
  };
  expect(kinds.find((k) => k.name === kind.name)).toMatchObject({
    label: 'Bench',
    fields: [{ name: 'day' }, { name: 'hour' }],
  });
});
