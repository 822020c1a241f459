import { settingNames, type Command, type Offer, type Sequence } from '@ascenso/core';
import { DEMO_NOW, owner, teacher } from './bootstrap.ts';
import { notebook, openBook, pamphlets, sheets, spool } from './goods.ts';
import { cover, guide, kits, mark, papers, portrait } from './pictures.ts';
import { email, signature, text, useMasthead } from './letters.ts';
import { allNews, allSequences, type DemoIds } from './sequences/index.ts';
import { signUpForm } from './sign-up.ts';
import { cartOffer, kitOffer, LOOK_CODES, lookOffer } from './offers.ts';

// Fills a new installation with the demo, through the same doors that people use. The history is made by the engine.
const base = process.env.PUBLIC_BASE ?? '';
const days = Number(process.env.DEMO_DAYS ?? 120);
const people = Number(process.env.DEMO_PEOPLE ?? 2000);
const DAY = 86_400_000;
let cookie = '';

/** Tries of a call that a busy machine breaks off, and the pause between them, ms. */
const TRIES = 6;
const PAUSE = 1_000;

/** Asks again where the connection was broken off: a first start on a busy machine goes on by itself. */
async function ask(address: string, init: RequestInit): Promise<Response> {
  for (let tries = 1; ; tries++)
    try {
      return await fetch(address, init);
    } catch (error) {
      if (tries === TRIES) throw error;
      await new Promise((resolve) => setTimeout(resolve, PAUSE * tries));
    }
}

async function call<T>(method: string, path: string, body?: unknown): Promise<T> {
  const form = body instanceof FormData;
  const answer = await ask(`${base}/api${path}`, {
    method,
    headers: { cookie, ...(body && !form ? { 'Content-Type': 'application/json' } : {}) },
    ...(body === undefined ? {} : { body: form ? body : JSON.stringify(body) }),
  });
  if (!answer.ok) throw new Error(`${method} ${path} answered ${answer.status}: ${await answer.text()}`);
  const set = answer.headers.get('set-cookie');
  if (set) cookie = set.split(';')[0] ?? '';
  return (await answer.json()) as T;
}

async function upload(name: string, content: Buffer): Promise<string> {
  const form = new FormData();
  form.append('file', new Blob([new Uint8Array(content)]), name);
  return (await call<{ id: string }>('POST', '/files', form)).id;
}

/** Builds a sequence as its author would: settings, then step after step; then publishes it. Answers its id. */
async function publish(sequence: Sequence): Promise<string> {
  const { id } = await call<{ id: string }>('POST', '/sequences', { name: sequence.name });
  const commands: Command[] = [
    ...settingNames.map((field) => ({
      type: 'set' as const,
      field,
      value: sequence[field],
    })),
    ...sequence.steps.map((step, index) => ({ type: 'step.insert' as const, place: { arm: null, index }, step })),
  ];
  const { revision } = await call<{ revision: number }>('POST', `/sequences/${id}/commands`, {
    base: 0,
    edits: [{ commands, role: 'edit' }],
  });
  const { gets } = await call<{ gets: number }>('GET', `/sequences/${id}/whom`);
  await call('POST', `/sequences/${id}/publish`, { revision, people: gets });
  return id;
}

await call('POST', '/session', { email: owner.email, password: owner.password });
const lists = new Map<string, string>();
for (const name of ['Workshop letters', 'Course', 'Paper club'])
  lists.set(name, (await call<{ id: string }>('POST', '/lists', { name })).id);
await call('PUT', '/style', {
  brand: 'Foldwell Bindery',
  postalAddress: 'Foldwell Bindery, Rua das Gáveas 12, 1200-206 Lisboa',
  accent: '#6b3a22',
  logo: { file: await upload('Mark.png', mark()), width: 64, address: 'https://foldwell.example' },
  social: [
    { network: 'website', address: 'https://foldwell.example' },
    { network: 'mastodon', address: 'https://social.example/@foldwell' },
  ],
  campaign: { source: 'ascenso', medium: 'email', campaign: '{{ sequence.name }}', content: '{{ sequence.email }}' },
});
const photos = {
  ines: await upload('Inês.png', portrait('#c9a27a')),
  tomasz: await upload('Tomasz.png', portrait('#8fa39a')),
};
const { senders } = await call<{ senders: { id: string; name: string; email: string }[] }>('GET', '/surroundings');
for (const s of senders)
  await call('PUT', `/senders/${s.id}`, {
    name: s.name,
    email: s.email,
    fields: { role: 'Marketing', phone: '+351 210 000 000', page: 'https://foldwell.example/ines', photo: photos.ines },
    whose: 'mine',
  });
// Each says which sender is theirs.
const atInes = cookie;
await call('POST', '/session', { email: teacher.email, password: teacher.password });
const tomasz = (
  await call<{ id: string }>('POST', '/senders', {
    name: 'Tomasz at Foldwell',
    email: 'tomasz@foldwell.example',
    fields: {
      role: 'Teacher at the bench',
      phone: '+351 210 000 001',
      page: 'https://foldwell.example/tomasz',
      photo: photos.tomasz,
    },
    whose: 'mine',
  })
).id;
cookie = atInes;
/** Pictures of what the shop sells, by the name that the shop knows it under. */
const products = {
  'kit-pamphlet': await upload('kit-pamphlet.png', pamphlets()),
  'kit-long-stitch': await upload('kit-long-stitch.png', notebook()),
  'kit-coptic': await upload('kit-coptic.png', openBook()),
  'paper-cream-120': await upload('paper-cream-120.png', sheets()),
  'thread-linen': await upload('thread-linen.png', spool()),
};
const pictureOf = (sku: keyof typeof products) => `${base}/f/${products[sku]}`;
const cart = [
  {
    sku: 'kit-long-stitch',
    title: 'Long-stitch kit',
    price: 26,
    quantity: 1,
    page: 'https://foldwell.example/kits/kit-long-stitch',
    image: pictureOf('kit-long-stitch'),
  },
  {
    sku: 'thread-linen',
    title: 'Waxed linen thread',
    price: 6,
    quantity: 2,
    page: 'https://foldwell.example/kits/thread-linen',
    image: pictureOf('thread-linen'),
  },
];
const lineFields = [
  { name: 'lines', type: 'list' },
  { name: 'total', type: 'number' },
];
await call('PUT', '/event-kinds', {
  name: 'order.begun',
  label: 'Began an order',
  fields: [...lineFields, { name: 'return_to', type: 'text' }],
  sample: { lines: cart, total: 38, return_to: 'https://foldwell.example/cart/sample' },
});
await call('PUT', '/event-kinds', {
  name: 'order.paid',
  label: 'Ordered',
  fields: [...lineFields, { name: 'code', type: 'text' }],
  sample: { lines: cart, total: 38, code: 'KIT-7QF3-9XKD' },
});

const kinds: [name: string, label: string, fields: Record<string, string>, sample: Record<string, unknown>][] = [
  [
    'form.sent',
    'Form sent',
    { form: 'text', starts_at: 'date' },
    { form: 'open bench', starts_at: '2026-03-19T19:00:00.000Z' },
  ],
  ['lesson.opened', 'Lesson opened', { lesson: 'number' }, { lesson: 1 }],
  [
    'item.viewed',
    'Looked at something',
    { product: 'text', page: 'text' },
    { product: 'Long-stitch kit', page: 'https://foldwell.example/kits/long-stitch' },
  ],
  ['club.renewed', 'Club renewed', {}, {}],
  [
    'repair.finished',
    'Repair finished',
    { number: 'number', title: 'text', binder: 'text', done: 'text', pick_up: 'text' },
    {
      number: 1187,
      title: 'The Herbal of 1892',
      binder: 'Tomasz',
      done: 'new spine, two signatures resewn',
      pick_up: 'https://foldwell.example/repairs/1187',
    },
  ],
];
for (const [name, label, fields, sample] of kinds)
  await call('PUT', '/event-kinds', {
    name,
    label,
    fields: Object.entries(fields).map(([field, type]) => ({ name: field, type })),
    sample,
  });
await call('POST', '/segments', {
  name: 'Bought a kit, not in the club',
  rule: {
    kind: 'all',
    of: [
      { kind: 'event', event: 'order.paid', done: true, since: { kind: 'ever' }, where: [] },
      { kind: 'attribute', test: { field: 'plan', op: 'is not', value: 'paper club' } },
    ],
  },
});

const pictures = {
  cover: await upload('stitch-guide-cover.png', cover()),
  papers: await upload('three-papers.png', papers()),
  kits: await upload('starter-kits.png', kits()),
};
/** What the library says of each picture. */
const alts: [id: string, folder: string, alt: string][] = [
  [pictures.cover, 'Pictures', 'The cover of the stitch guide: a folded signature with five lines of thread'],
  [pictures.papers, 'Pictures', 'Three stacks of paper in cream, sage and rose'],
  [pictures.kits, 'Pictures', 'Three starter kits side by side'],
  [photos.ines, 'Team', 'Inês Rocha'],
  [photos.tomasz, 'Team', 'Tomasz Bielak'],
  ...Object.entries(products).map(([sku, file]): [string, string, string] => [
    file,
    'Shop',
    `${sku.replaceAll('-', ' ')}, in its box`,
  ]),
];
for (const [file, folder, alt] of alts) await call('PATCH', `/files/${file}`, { folder, alt });
const ids: DemoIds = {
  offers: { kit: '', cart: '', look: '' },
  letters: lists.get('Workshop letters') as string,
  tomasz,
  guide: await upload('Five stitches.pdf', await guide()),
  pictures,
};
const masthead = await call<{ id: string }>('POST', '/shared', {
  name: 'Masthead',
  blocks: [
    { id: 'mark', kind: 'logo', look: { below: 0 } },
    { id: 'masthead', kind: 'heading', text: 'Foldwell Bindery', level: 1 },
  ],
});
useMasthead(masthead.id);
const lesson = email(
  'Lesson',
  'Evening …',
  'A quarter of an hour is enough.',
  [
    text('Good evening,', 'What is done tonight, and what is needed for it.'),
    signature('Until the next evening,'),
    { kind: 'footer', id: 'footer', reason: 'You asked for our course.' },
  ],
  {},
  tomasz,
);
await call('POST', '/templates', { name: 'A lesson', email: lesson.email, private: false });
const plain = email('Letter', '', '', [
  text('Hello,', 'One thing, said as one would say it across the bench.'),
  signature('Yours,'),
  { kind: 'footer', id: 'footer', reason: '' },
]);
await call('POST', '/templates', { name: 'A plain letter', email: { ...plain.email, mode: 'letter' }, private: false });
const offer = async (some: Offer): Promise<string> => (await call<{ id: string }>('POST', '/offers', some)).id;
const offers = { kit: await offer(kitOffer), cart: await offer(cartOffer), look: await offer(lookOffer) };
const codes = Array.from(
  { length: LOOK_CODES },
  (_, i) => `LOOK-${String((i * 7919 + 1361) % 10_007).padStart(5, '0')}`,
);
const sent = await ask(`${base}/api/offers/${offers.look}/codes`, {
  method: 'POST',
  headers: { cookie, 'Content-Type': 'text/csv' },
  body: ['code', ...codes].join('\n'),
});
if (!sent.ok) throw new Error(`The codes were refused: ${await sent.text()}`);
Object.assign(ids, { offers });
for (const sequence of allSequences(ids)) await publish(sequence);
const news = [];
for (const one of allNews(ids, DEMO_NOW - days * DAY)) news.push(await publish(one));
const spring = await call<{ id: string }>('POST', '/labels', { name: 'Spring 2026' });
for (const thing of news) await call('PUT', `/labels/${spring.id}/things`, { kind: 'sequence', thing, on: true });
await call('PUT', `/labels/${spring.id}/things`, { kind: 'offer', thing: offers.kit, on: true });

const signUp = signUpForm(lists.get('Workshop letters') ?? '', ids.guide);
await call('PUT', '/points', { opened: 10, clicked: 20, events: { 'order.paid': 50 } });
const form = await call<{ id: string }>('POST', '/forms', { name: signUp.name });
await call('PUT', `/forms/${form.id}`, signUp);
await call('POST', `/forms/${form.id}/status`, { status: 'open' });

const { key } = await call<{ key: string }>('POST', '/keys', { name: 'Shop and sign-up form' });
const from = DEMO_NOW - days * DAY;
const shopPictures = Object.fromEntries(
  Object.keys(products).map((sku) => [sku, pictureOf(sku as keyof typeof products)]),
);
const begun = await ask(`${process.env.CROWD_URL}/begin`, {
  method: 'POST',
  body: JSON.stringify({
    seed: 1906,
    people,
    from,
    to: DEMO_NOW + 14 * DAY,
    grows: true,
    ...(process.env.DEMO_SEED ? { atOnce: 1 } : {}),
    doors: {
      base,
      mailbox: process.env.MAILBOX_URL,
      key,
      pictures: shopPictures,
      form: `${base}/form/${form.id}`,
    },
  }),
});
if (!begun.ok) throw new Error('The simulated people did not begin.');
/** Makes the shop's pages pages of the workshop's own; answers the name that they tell with. */
async function siteOfShop(): Promise<string> {
  const { host } = new URL(process.env.SHOP_URL ?? '');
  await call('PUT', '/site', { hosts: ['foldwell.example', host] });
  const { snippet } = await call<{ snippet: string }>('GET', '/site');
  return /data-site="([^"]+)"/.exec(snippet)?.[1] ?? '';
}
const opened = await ask(`${process.env.SHOP_URL}/begin`, {
  method: 'POST',
  body: JSON.stringify({ base, key, pictures: shopPictures, site: await siteOfShop() }),
});
if (!opened.ok) throw new Error('The simulated shop did not open.');

const weeks = Math.floor(days / 7);
/** Where only the first weeks are to be lived. */
const last = process.env.DEMO_WEEKS ? Number(process.env.DEMO_WEEKS) * 7 : days;
for (let day = 0; day < last;) {
  const by = days - day >= 7 ? 'week' : 'day';
  await call('POST', '/outside/clock/ahead', { by });
  while ((await call<{ moving: boolean }>('GET', '/outside/clock')).moving)
    await new Promise((resolve) => setTimeout(resolve, 300));
  day += by === 'week' ? 7 : 1;
  if (by === 'week') console.log(JSON.stringify({ progress: `week ${day / 7} of ${weeks}` }));
}
