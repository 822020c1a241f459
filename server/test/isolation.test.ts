import { sql } from 'drizzle-orm';
import { agent as agentOf } from 'supertest';
import { beforeAll, expect, test } from 'vitest';
import { MONEY_RULES } from '@ascenso/contracts';
import { blankOffer, timerFaces, blankForm } from '@ascenso/core';
import { routeTable } from '../src/app/routes.ts';
import { newId } from '../src/app/ids.ts';
import { firstRow, rows } from '../src/db/rows.ts';
import { emailStep, FRIDAY_NOON, owner, useWorld } from './support/world.ts';

// Architecture, "Workspaces": nothing of one workspace is ever seen or changed from another. Every route is walked.
const world = useWorld();
const ids: Record<string, string> = {};
/** A word that stands in everything of the first workspace, and nowhere else. */
const MARK = 'zebrawood';

/** The practice clock belongs to the installation, not to a workspace. */
const SHARED = /^\/outside\/clock/;

/** What a caller would send to each route that changes something, with the first workspace's ids in it. */
const bodies: Record<string, () => object> = {
  'put /account/password': () => ({ old: 'guess', next: 'seven threads, waxed' }),
  'delete /account/sessions/:id': () => ({}),
  'delete /account/sessions': () => ({}),
  'post /people/:id/erase': () => ({ email: `marta@${MARK}.example` }),
  'put /site': () => ({ hosts: ['elsewhere.example'] }),
  'post /people/:id/letters': () => ({ template: null, list: ids.list }),
  'post /letters/:id/send': () => ({ revision: 0 }),
  'put /points': () => ({ opened: 1, clicked: 1, events: {} }),
  'put /money': () => ({ ...MONEY_RULES, days: 1 }),
  'post /attributes': () => ({ key: 'skill', label: 'Theirs', type: 'text' }),
  'put /attributes': () => ({ keys: ['first_name'] }),
  'delete /attributes/:key': () => ({}),
  'patch /attributes/:key': () => ({ label: 'Taken over' }),
  'post /suppressed': () => ({ addresses: [{ email: `marta@${MARK}.example`, why: 'complained' }] }),
  'delete /suppressed/:hash': () => ({}),
  'post /lists': () => ({ name: 'A list of theirs' }),
  'put /event-kinds': () => ({ name: 'kiln.fired', label: 'Theirs', fields: [], sample: {} }),
  'put /event-kinds/:name': () => ({ label: 'Taken over', fields: [], sample: {} }),
  'post /senders': () => ({ name: 'Ada', email: 'ada@elsewhere.example', fields: {} }),
  'put /senders/:id': () => ({ name: 'Taken over', email: 'ada@elsewhere.example', fields: {} }),
  'put /style': () => ({ brand: 'Theirs', postalAddress: 'Elsewhere 1', accent: '#123456' }),
  'post /files': () => ({}),
  'post /keys': () => ({ name: 'Theirs' }),
  'delete /keys/:id': () => ({}),
  'post /people': () => ({ email: 'new@elsewhere.example', attributes: {}, zone: null, lists: [ids.list] }),
  'patch /people/:id': () => ({ attributes: { first_name: 'Taken over' }, addTag: 'taken' }),
  'post /people/bulk': () => ({ who: { ids: [ids.person] }, what: { kind: 'tag', tag: 'theirs' } }),
  'post /sequences/:id/people/foreseen': () => ({ who: { ids: [ids.person] } }),
  'post /people/:id/lists': () => ({ list: ids.list, state: 'left' }),
  'post /conditions/count': () => ({ condition: { kind: 'list', list: ids.list, on: true } }),
  'post /sequences': () => ({ name: 'Theirs' }),
  'post /sequences/:id/commands': () => ({
    base: 0,
    edits: [{ commands: [{ type: 'set', field: 'name', value: 'Taken over' }], role: 'edit' }],
  }),
  'post /sequences/:id/here': () => ({ tab: newId(), step: null, revision: 0 }),
  'post /sequences/:id/publish': () => ({ revision: 0 }),
  'post /bin/:id': () => ({}),
  'post /behind': () => ({ sequences: [ids.sequence] }),
  'post /aside/now': () => ({}),
  'post /mail-service/try': () => ({}),
  'post /senders/go-on': () => ({ email: 'ines@foldwell.example' }),
  'post /sequences/:id/status': () => ({ status: 'paused' }),
  'post /sequences/import': () => ({ format: 'ascenso-sequence' }),
  'post /sequences/:id/resume': () => ({ overdue: 'send' }),
  'post /sequences/:id/people': () => ({ segment: ids.segment, count: 1000 }),
  'post /segments': () => ({ name: 'Theirs', rule: { kind: 'tag', tag: 'theirs', has: true } }),
  'put /segments/:id': () => ({ name: 'Taken over', rule: { kind: 'tag', tag: 'taken', has: true } }),
  'delete /segments/:id': () => ({}),
  'put /cap': () => ({ dailyCap: 1 }),
  'put /grace': () => ({ minutes: 7 }),
  'post /sequences/:id/marks': () => ({ name: 'Theirs' }),
  'post /sequences/:id/steps/:step/comments': () => ({ block: null, text: 'Theirs' }),
  'put /sequences/:id/steps/:step/approval': () => ({ status: 'approved' }),
  'patch /comments/:id': () => ({ resolved: true }),
  'post /shared': () => ({ name: 'Theirs', blocks: [{ kind: 'divider', id: 'd' }] }),
  'put /shared/:id': () => ({ name: 'Taken over', blocks: [{ kind: 'divider', id: 'd' }] }),
  'delete /shared/:id': () => ({}),
  'post /templates': () => ({ name: 'Theirs', email: emailStep('x').email, private: false }),
  'put /templates/:id': () => ({ name: 'Taken over', email: emailStep('x').email, private: false }),
  'delete /templates/:id': () => ({}),
  'post /templates/:id/draft': () => ({}),
  'patch /files/:id': () => ({ alt: 'Taken over' }),
  'delete /files/:id': () => ({}),
  'post /offers': () => ({ ...blankOffer(), name: 'Theirs' }),
  'put /offers/:id': () => ({ ...blankOffer(), name: 'Taken over' }),
  'delete /offers/:id': () => ({}),
  'post /offers/:id/codes': () => ({}),
  'post /timers/preview': () => ({ face: timerFaces.Sheet, left: 1, after: { kind: 'picture', file: ids.files } }),
  'post /links/describe': () => ({ address: 'https://papers.foldwell.example/linen', keep: true }),
  'post /links/follow': () => ({ addresses: ['https://papers.foldwell.example/linen'] }),
  'post /timers/link': () => ({
    face: timerFaces.Sheet,
    wall: '2026-03-31T18:00',
    zone: 'UTC',
    after: { kind: 'gone' },
  }),
  'put /senders/emails': () => ({ sender: ids.sender, emails: [{ sequence: ids.sequence, step: ids.step }] }),
  'delete /sequences/:id': () => ({}),
  'post /labels': () => ({ name: 'Theirs' }),
  'patch /labels/:id': () => ({ name: 'Taken over' }),
  'put /labels/:id/things': () => ({ kind: 'sequence', thing: ids.sequence, on: true }),
  'delete /labels/:id': () => ({}),
  'patch /lists/:id': () => ({ name: 'Taken over' }),
  'delete /lists/:id': () => ({}),
  'patch /tags/:tag': () => ({ tag: 'taken' }),
  'delete /tags/:tag': () => ({}),
  'post /forms': () => ({ name: 'Theirs' }),
  'put /forms/:id': () => ({ ...blankForm('Taken over', ids.list as string, 'en', false) }),
  'put /forms/:id/subject': () => ({ subject: 'Taken over' }),
  'post /forms/:id/status': () => ({ status: 'closed' }),
  'post /outside/mailbox/:number/complain': () => ({}),
  'post /imports': () => ({}),
  'post /imports/:id/check': () => ({
    columns: [{ to: 'email' }],
    heading: true,
    days: 'ymd',
    decimal: '.',
    yes: ['yes'],
    no: ['no'],
    known: 'fill',
    lists: [],
    tags: [],
    consent: 'They signed a card.',
    starts: [],
  }),
  'post /imports/:id/run': () => ({ starts: [] }),
  'post /imports/:id/cancel': () => ({}),
  'post /imports/:id/undo': () => ({}),
  'post /words': () => ({ word: 'theirs' }),
  'put /event-kinds/:name/mapping': () => ({
    list: 'event.lines',
    mapping: { picture: '', title: '', text: '', quantity: '', price: '', link: '' },
  }),
  'post /conditions/seen': () => ({ chain: [{ kind: 'list', list: ids.list, on: true }, null] }),
  'post /sequences/:id/steps/:step/test': () => ({ to: 'ada@elsewhere.example', person: ids.person, event: null }),
};

const idFor = (path: string): string => {
  if (path.startsWith('/account/')) return ids.session as string;
  if (path.startsWith('/people/')) return ids.person as string;
  if (path.startsWith('/sequences/') || path.startsWith('/letters/')) return ids.sequence as string;
  if (path.startsWith('/sends/')) return ids.send as string;
  if (path.startsWith('/senders/')) return ids.sender as string;
  if (path.startsWith('/segments/')) return ids.segment as string;
  if (path.startsWith('/keys/')) return ids.key as string;
  if (path.startsWith('/bin/')) return ids.bin as string;
  if (path.startsWith('/lists/')) return ids.list as string;
  if (path.startsWith('/labels/')) return ids.label as string;
  if (path.startsWith('/forms/')) return ids.form as string;
  if (path.startsWith('/imports/')) return ids.import as string;
  for (const kind of ['comments', 'shared', 'templates', 'files', 'offers'] as const)
    if (path.startsWith(`/${kind}/`)) return ids[kind] as string;
  throw new Error(`This test does not know whose id goes into ${path}: teach it.`);
};

/** Every row of the first workspace, in every table that has one. */
async function everything(): Promise<Record<string, unknown[]>> {
  const { db } = world.connection;
  const tables = await rows<{ name: string }>(
    db,
    sql`select table_name as name from information_schema.columns where column_name = 'workspace_id' and table_schema = 'public' and table_name not like 'events\_%'`,
  );
  const out: Record<string, unknown[]> = {};
  for (const { name } of tables)
    out[name] = await rows(
      db,
      sql`select to_jsonb(t) as row from ${sql.identifier(name)} t where workspace_id = ${world.ws} order by to_jsonb(t)::text`,
    );
  return out;
}

beforeAll(async () => {
  const { db } = world.connection;
  await world.otherWorkspace();
  const step = emailStep(`Letter on ${MARK}`, { id: `step-of-${MARK}` });
  ids.step = step.id;
  ids.sequence = await world.live({ name: `Welcome to ${MARK}`, steps: [step] });
  ids.list = world.list;
  await world.join(`marta@${MARK}.example`);
  await world.ahead(FRIDAY_NOON + 1);
  await db.execute(sql`update lists set name = ${MARK} where workspace_id = ${world.ws}`);
  await db.execute(sql`update senders set name = ${MARK} where workspace_id = ${world.ws}`);
  await db.execute(
    sql`insert into event_kinds (workspace_id, name, label, fields, sample, learned) values (${world.ws}, ${`${MARK}.seen`}, ${MARK}, '[]', '{}', false)`,
  );
  const one = (table: string, column = 'id') =>
    firstRow<{ id: string }>(
      db,
      sql`select ${sql.identifier(column)} as id from ${sql.identifier(table)} where workspace_id = ${world.ws} limit 1`,
    );
  ids.person = (await one('people'))?.id as string;
  ids.send = (await one('sends'))?.id as string;
  const own = agentOf(world.app);
  await own.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
  ids.session = (await own.get('/api/account/sessions').expect(200)).body.sessions[0].id as string;
  ids.sender = (await one('senders'))?.id as string;
  ids.key = (await one('api_keys'))?.id as string;
  ids.segment = newId();
  await db.execute(
    sql`insert into segments (workspace_id, id, name, rule, created_at) values (${world.ws}, ${ids.segment}, ${MARK}, '{"kind":"tag","tag":"x","has":true}', 0)`,
  );
  ids.bin = newId();
  await db.execute(
    sql`insert into bin (workspace_id, id, kind, row, binned_at) values (${world.ws}, ${ids.bin}, 'segment', ${JSON.stringify({ name: MARK })}, now())`,
  );
  Object.assign(ids, { comments: newId(), shared: newId(), templates: newId(), files: newId(), offers: newId() });
  await db.execute(
    sql`insert into offers (workspace_id, id, doc, secret, created_at) values (${world.ws}, ${ids.offers}, ${JSON.stringify({ ...blankOffer(), name: MARK, around: { before: '', after: MARK } })}::jsonb, 'x', 0)`,
  );
  const userId = (await one('members', 'user_id'))?.id as string;
  await db.execute(
    sql`insert into comments (workspace_id, id, sequence_id, step, user_id, text, at) values (${world.ws}, ${ids.comments}, ${ids.sequence}, ${ids.step}, ${userId}, ${MARK}, 0)`,
  );
  await db.execute(
    sql`insert into shared_blocks (workspace_id, id, name, blocks, updated_at) values (${world.ws}, ${ids.shared}, ${MARK}, '[]', 0)`,
  );
  await db.execute(
    sql`insert into templates (workspace_id, id, name, email, updated_at) values (${world.ws}, ${ids.templates}, ${MARK}, ${JSON.stringify(step.email)}, 0)`,
  );
  await db.execute(
    sql`insert into files (workspace_id, id, name, mime, size, sha256, content, created_at) values (${world.ws}, ${ids.files}, ${MARK}, 'image/png', 1, 'x', 'x', 0)`,
  );
  await db.execute(
    sql`insert into set_aside (workspace_id, kind, item, sequence_id, person_id, reason, failures, since, next_at) values (${world.ws}, 'send', ${ids.send}, ${ids.sequence}, ${ids.person}, ${MARK}, 1, 0, 1)`,
  );
  ids.label = newId();
  await db.execute(sql`insert into labels (workspace_id, id, name) values (${world.ws}, ${ids.label}, ${MARK})`);
  ids.form = newId();
  await db.execute(
    sql`insert into forms (workspace_id, id, doc, version, status, sequence_id, created_at) values (${world.ws}, ${ids.form}, ${JSON.stringify(blankForm(MARK, ids.list, 'en', true))}::jsonb, 1, 'open', ${ids.sequence}, 0)`,
  );
  ids.import = newId();
  await db.execute(
    sql`insert into imports (workspace_id, id, name, state, "by", created_at, ended_at) values (${world.ws}, ${ids.import}, ${MARK}, 'done', ${MARK}, 0, ${FRIDAY_NOON})`,
  );
  await db.execute(
    sql`insert into sender_health (workspace_id, email, refusals, halted_at, answer) values (${world.ws}, 'ines@foldwell.example', 10, 0, ${MARK})`,
  );
  await db.execute(
    sql`insert into suppressed (workspace_id, hash, email, bounced_at) values (${world.ws}, ${MARK}, ${`gone@${MARK}.example`}, 0)`,
  );
  expect(Object.values(ids).every(Boolean)).toBe(true);
});

/** What a question has to carry to be one. */
const questions: Record<string, () => string> = {
  '/figures': () =>
    `?${new URLSearchParams({ figure: JSON.stringify({ sequence: ids.sequence, steps: [], what: 'sent', why: '', link: null, days: null }) }).toString()}`,
};

test('every route, called from another workspace with this one’s ids, shows nothing of it and changes nothing', async () => {
  const before = await everything();
  expect(Object.keys(before).length).toBeGreaterThan(10);
  expect(before.sends).toHaveLength(1);
  const other = agentOf(world.app);
  await other.post('/api/session').send({ email: 'ada@elsewhere.example', password: owner.password }).expect(200);
  let walked = 0;
  for (const { method, path } of routeTable.filter((r) => !SHARED.test(r.path))) {
    const name = `${method} ${path}`;
    const body = method === 'get' ? undefined : bodies[name];
    if (method !== 'get' && !body) throw new Error(`This test has no body for ${name}: give it one.`);
    const address = `/api${path
      .replace(/:id\b/, () => idFor(path))
      .replace(':step', ids.step as string)
      .replace(':name', `${MARK}.seen`)
      .replace(':key', 'first_name')
      .replace(':hash', MARK)
      .replace(':number', '1')}${questions[path]?.() ?? ''}`;
    const answer = await other[method](address).send(body?.());
    const said = JSON.stringify(answer.body);
    expect(`${name}: ${said}`).not.toContain(MARK);
    for (const id of Object.values(ids)) expect(`${name}: ${said}`).not.toContain(id);
    if (name === 'post /conditions/count') expect(answer.body).toEqual({ matches: 0, total: 0, about: false });
    if (name === 'post /conditions/seen')
      expect(answer.body).toMatchObject({ total: 0, versions: [{ count: 0 }, { count: 0 }] });
    expect([name, answer.status < 500]).toEqual([name, true]);
    // Whatever is asked for by an id of the first workspace is not there.
    if (path.includes(':id')) expect([name, answer.status]).toEqual([name, 404]);
    walked++;
  }
  expect(walked).toBeGreaterThan(20);
  expect(await everything()).toEqual(before);
});

test('the same routes do show it to its own people: the walk above is not blind', async () => {
  const own = agentOf(world.app);
  await own.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
  const shown: string[] = [];
  for (const { path } of routeTable.filter((r) => r.method === 'get' && !SHARED.test(r.path))) {
    const address = `/api${path
      .replace(/:id\b/, () => idFor(path))
      .replace(':step', ids.step as string)
      .replace(':number', path.includes('history') ? '0' : '1')}${questions[path]?.() ?? ''}`;
    const answer = await own.get(address).expect(200);
    if (JSON.stringify(answer.body).includes(MARK)) shown.push(path);
  }
  expect(shown).toEqual(
    expect.arrayContaining([
      '/surroundings',
      '/people',
      '/people/:id',
      '/imports',
      '/forms',
      '/forms/:id',
      '/lists',
      '/labels',
      '/imports/:id',
      '/sequences',
      '/sequences/:id',
      '/sequences/:id/versions/:number',
      '/segments',
      '/sends/:id',
      '/templates',
      '/offers',
      '/sequences/:id/steps/:step/review',
      '/figures',
      '/sequences/:id/history/:number',
    ]),
  );
});

test('nobody who is signed out gets anything from any route', async () => {
  for (const { method, path } of routeTable) {
    const address = `/api${path
      .replace(/:id\b/, ids.person as string)
      .replace(':step', 'x')
      .replace(':name', 'x')
      .replace(':number', '1')}`;
    await agentOf(world.app)
      [method](address)
      .send(bodies[`${method} ${path}`]?.() ?? {})
      .expect(401);
  }
});

test('a reviewer reads everything, and changes nothing but what is said', async () => {
  const before = await everything();
  await world.addUser('adaeze@foldwell.example', 'reviewer');
  const reviewer = agentOf(world.app);
  await reviewer.post('/api/session').send({ email: 'adaeze@foldwell.example', password: owner.password }).expect(200);
  await reviewer.get('/api/people').expect(200);
  // Asking how many people fit a condition is a question, whatever its method; saying something about an email and
  // approving it is what reviewers are for. Password and sessions are everybody's own.
  const theirs = /^\/conditions\/|\/comments|\/approval$|\/here$|^\/timers\/preview$|^\/account\//;
  for (const { method, path } of routeTable.filter((r) => r.method !== 'get' && !theirs.test(r.path))) {
    const address = `/api${path
      .replace(/:id\b/, () => (SHARED.test(path) ? 'x' : idFor(path)))
      .replace(':step', ids.step as string)
      .replace(':name', `${MARK}.seen`)
      .replace(':number', '1')}`;
    await reviewer[method](address)
      .send(bodies[`${method} ${path}`]?.() ?? { by: 'hour' })
      .expect(403);
  }
  const after = await everything();
  // Who has joined the team and signed in since is not theirs to undo.
  expect({ ...after, members: before.members, web_sessions: before.web_sessions }).toEqual(before);
});

test('a reviewer sees no code that is somebody’s own, at no route; an editor does', async () => {
  const { db } = world.connection;
  const code = 'WOOD-7Q3X-K9';
  await db.execute(
    sql`insert into offer_codes (workspace_id, offer_id, key, code, n, made) values (${world.ws}, ${ids.offers}, 'WOOD7Q3XK9', ${code}, 900, false)`,
  );
  await db.execute(
    sql`insert into offer_grants (workspace_id, person_id, offer_id, opened_at, code, code_key, discount) values (${world.ws}, ${ids.person}, ${ids.offers}, ${FRIDAY_NOON}, ${code}, 'WOOD7Q3XK9', '{}')`,
  );
  await db.execute(
    sql`update people set attributes = attributes || ${JSON.stringify({ first_name: `As told: ${code}` })}::jsonb where id = ${ids.person}`,
  );
  const as = async (email: string) => {
    const one = agentOf(world.app);
    await one.post('/api/session').send({ email, password: owner.password }).expect(200);
    const shown: string[] = [];
    for (const { path } of routeTable.filter((r) => r.method === 'get' && !SHARED.test(r.path))) {
      const answer = await one.get(
        `/api${path
          .replace(/:id\b/, () => idFor(path))
          .replace(':step', ids.step as string)
          .replace(':number', path.includes('history') ? '0' : '1')}${questions[path]?.() ?? ''}`,
      );
      expect([path, answer.status < 500]).toEqual([path, true]);
      if (`${JSON.stringify(answer.body)}${answer.text}`.includes(code)) shown.push(path);
    }
    return shown;
  };
  expect(await as(owner.email)).toEqual(
    expect.arrayContaining(['/people/:id', '/people', '/people/:id/file', '/figures']),
  );
  expect(await as('adaeze@foldwell.example')).toEqual([]);
});
