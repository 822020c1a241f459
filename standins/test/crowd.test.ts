import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterEach, expect, test } from 'vitest';
import { Crowd, newCrowd, persona, type CrowdState } from '../src/crowd/crowd.ts';

const FROM = Date.UTC(2026, 2, 6, 12);
const DAY = 86_400_000;
const servers: Server[] = [];
afterEach(() => servers.splice(0).forEach((s) => s.close()));

/** An outside world that answers everything and remembers what it was asked. */
async function world(messages: { id: number; to: string; at: number; source: string }[] = []) {
  const asked: { method: string; url: string; body: string; key: string; agent: string }[] = [];
  const server = createServer((req, res) => {
    let body = '';
    req.on('data', (d) => (body += d));
    req.on('end', () => {
      const url = req.url ?? '';
      if (url.startsWith('/messages')) {
        const after = Number(new URL(url, 'http://x').searchParams.get('after'));
        return void res.end(JSON.stringify({ messages: messages.filter((m) => m.id > after) }));
      }
      const { authorization, 'user-agent': agent = '' } = req.headers;
      asked.push({ method: req.method ?? '', url, body, key: authorization ?? '', agent });
      res.end('{}');
    });
  });
  servers.push(server);
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  return { asked, doors: { base, mailbox: base, key: 'k' } };
}

async function run(state: CrowdState, doors: { base: string; mailbox: string; key: string }, until: number) {
  const crowd = new Crowd(state, doors);
  for (let now: number | null = FROM; now !== null && now <= until;) now = (await crowd.act(now)).nextAt;
  return crowd;
}
const crowd = (people = 20) => newCrowd({ seed: 1906, people, from: FROM, to: FROM + 10 * DAY });

test('the same seed gives the same people who do the same things at the same moments', async () => {
  const [a, b] = [await world(), await world()];
  await run(crowd(), a.doors, FROM + 60 * DAY);
  await run(crowd(), b.doors, FROM + 60 * DAY);
  const told = (w: typeof a) => w.asked.map((r) => `${r.method} ${r.url} ${r.body}`).sort();
  expect(told(a)).toEqual(told(b));
  expect(a.asked.filter((r) => r.url === '/intake/subscribers')).toHaveLength(20);
  expect(persona(1906, 3)).toEqual(persona(1906, 3));
  expect(persona(1906, 3)).not.toEqual(persona(1907, 3));
});

test('whoever follows a link to a lesson has opened it, whatever stands behind its address', async () => {
  const told: string[] = [];
  const server = createServer((req, res) => {
    let body = '';
    req.on('data', (d) => (body += d));
    req.on('end', () => {
      if (req.url === '/c/1')
        return void res.writeHead(302, { location: 'https://foldwell.example/course/3?utm_source=course' }).end();
      if (req.url === '/intake/events') told.push(body);
      res.end(req.url?.startsWith('/messages') ? '{"messages":[]}' : '{}');
    });
  });
  servers.push(server);
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  const state = {
    ...crowd(1),
    agenda: [{ at: FROM, act: { kind: 'get', url: `${base}/c/1`, email: 'ana@readers.example' } }],
  };
  await run(state as CrowdState, { base, mailbox: base, key: 'k' }, FROM);
  expect(told.map((t) => JSON.parse(t) as { type: string; data: unknown })).toMatchObject([
    { type: 'lesson.opened', data: { lesson: 3 } },
  ]);
});

test('a crowd that was stopped and read from its file goes on as if nothing had been', async () => {
  const [whole, halves] = [await world(), await world()];
  await run(crowd(), whole.doors, FROM + 60 * DAY);
  const first = new Crowd(crowd(), halves.doors);
  let next: number | null = FROM;
  while (next !== null && next <= FROM + 5 * DAY) next = (await first.act(next)).nextAt;
  const second = new Crowd(JSON.parse(JSON.stringify(first.state)) as CrowdState, halves.doors);
  while (next !== null && next <= FROM + 60 * DAY) next = (await second.act(next)).nextAt;
  expect(halves.asked.map((r) => r.body).sort()).toEqual(whole.asked.map((r) => r.body).sort());
});

test('where it grows, as many a day go on joining, each a person of their own; otherwise nobody does', async () => {
  const joined = async (grows: boolean) => {
    const w = await world();
    const state = newCrowd({ seed: 1906, people: 60, from: FROM, to: FROM + 10 * DAY, grows });
    await run(state, w.doors, FROM + 40 * DAY);
    const emails = w.asked
      .filter((r) => r.url === '/intake/subscribers')
      .map((r) => (JSON.parse(r.body) as { email: string }).email);
    expect(new Set(emails).size).toBe(emails.length);
    return emails.length;
  };
  expect(await joined(false)).toBe(60);
  // Six a day: 240 in forty days, but for the lot of which day each comes on.
  expect(Math.abs((await joined(true)) - 240)).toBeLessThan(45);
});

test('acts on half hours only, and uses nothing but the public doors with its key', async () => {
  const w = await world();
  const state = crowd();
  for (const { at } of state.agenda) expect(at % 1_800_000).toBe(0);
  await run(state, w.doors, FROM + 60 * DAY);
  for (const r of w.asked) {
    expect(r.url).toMatch(/^\/(intake\/(subscribers|events)|[ocuf]\/)/);
    if (r.url.startsWith('/intake/')) expect(r.key).toBe('Bearer k');
  }
});

test('a reader learns what there is to do from the message itself: its pixel and its links', async () => {
  const source = (base: string) =>
    [
      'From: ines@foldwell.example',
      'To: a@readers.example',
      'MIME-Version: 1.0',
      'Content-Type: text/html; charset=utf-8',
      '',
      `<img src="${base}/o/t.gif"><a href="${base}/c/t/0">Kits</a><a href="${base}/u/t">Unsubscribe</a>`,
    ].join('\r\n');
  const messages: { id: number; to: string; at: number; source: string }[] = [];
  const w = await world(messages);
  const people = { ...crowd(200), agenda: [] };
  for (let i = 0; i < 200; i++)
    messages.push({ id: i + 1, to: persona(people.seed, i).email, at: FROM, source: source(w.doors.base) });
  await run(people, w.doors, FROM + 30 * DAY);
  const opened = w.asked.filter((r) => r.url === '/o/t.gif').length;
  const clicked = w.asked.filter((r) => r.url === '/c/t/0').length;
  expect(opened).toBeGreaterThan(clicked);
  expect(clicked).toBeGreaterThan(0);
  // Nobody leaves by opening the page: it takes the POST.
  for (const r of w.asked.filter((x) => x.url.startsWith('/u/'))) expect(r.method).toBe('POST');
});

/** What 400 people do who each left a cart and get one email. */
async function answersTo(subject: string, words: string) {
  const messages: { id: number; to: string; at: number; source: string }[] = [];
  const w = await world(messages);
  const state = { ...crowd(400), agenda: [], carts: {} as NonNullable<CrowdState['carts']> };
  for (let i = 0; i < 400; i++) {
    const to = persona(state.seed, i).email;
    state.carts[to] = { email: to, lines: [], total: 20 };
    const html = `<img src="${w.doors.base}/o/${i}.gif"><a href="${w.doors.base}/c/${i}/0">${words}</a>`;
    messages.push({
      id: i + 1,
      to,
      at: FROM,
      source: `Subject: ${subject}\r\nMIME-Version: 1.0\r\nContent-Type: text/html; charset=utf-8\r\n\r\n${html}`,
    });
  }
  await run(state, w.doors, FROM + 10 * DAY);
  const ahead = (r: { agent: string }) => r.agent === 'Mozilla/5.0';
  return {
    opened: w.asked.filter((r) => r.url.startsWith('/o/') && !ahead(r)).length,
    ahead: w.asked.filter((r) => r.url.startsWith('/o/') && ahead(r)).length,
    clicked: w.asked.filter((r) => r.url.startsWith('/c/')).length,
    paid: w.asked.filter((r) => r.body.includes('"order.paid"')).length,
  };
}

test('emails do differ: a question is opened more than what nags, a cart is bought by who goes back to it, some programs fetch by themselves', async () => {
  const asking = await answersTo('Which paper folds without cracking?', 'Feel the papers');
  const nagging = await answersTo('Still on the bench', 'Feel the papers');
  expect(asking.opened).toBeGreaterThan(nagging.opened * 1.3);
  const cart = await answersTo('Your cart', 'Back to my cart');
  expect(cart.paid).toBeGreaterThan(cart.clicked / 2);
  expect(asking.paid).toBeLessThan(asking.clicked / 4);
  // One in seven, whoever opens it.
  for (const { ahead } of [asking, nagging, cart]) expect([ahead > 30, ahead < 90]).toEqual([true, true]);
});

/** What 400 people do with six emails each: who did anything at all, who clicked without a picture telling, how many left. */
async function livesWith(subject: string) {
  const messages: { id: number; to: string; at: number; source: string }[] = [];
  const w = await world(messages);
  const people = crowd(400);
  const had = Object.fromEntries(Array.from({ length: 400 }, (_, n) => [persona(people.seed, n).email, 1]));
  const state = { ...people, agenda: [], had };
  for (let id = 1; id <= 2_400; id++) {
    const who = `${id % 400}-${id}`;
    const [kits, leave] = [`${w.doors.base}/c/${who}/0`, `${w.doors.base}/u/${who}`];
    const parts = [
      `Content-Type: text/plain; charset=utf-8\r\n\r\nKits: ${kits}\r\nLeave: ${leave}\r\n`,
      `Content-Type: text/html; charset=utf-8\r\n\r\n<img src="${w.doors.base}/o/${who}.gif"><a href="${kits}">Kits</a><a href="${leave}">Leave</a>\r\n`,
    ];
    const head = `Subject: ${subject}\r\nMIME-Version: 1.0\r\nContent-Type: multipart/alternative; boundary=b\r\n\r\n`;
    const source = `${head}${parts.map((part) => `--b\r\n${part}`).join('')}--b--\r\n`;
    messages.push({ id, to: persona(state.seed, id % 400).email, at: FROM, source });
  }
  await run(state, w.doors, FROM + 10 * DAY);
  const by = (path: string) =>
    w.asked.flatMap((r) =>
      r.agent === 'Mozilla/5.0' || !r.url.startsWith(path) ? [] : [/\d+-\d+/.exec(r.url)?.[0] ?? ''],
    );
  const readers = (ids: string[]) => new Set(ids.map((id) => id.split('-')[0])).size;
  const opened = new Set(by('/o/'));
  return {
    awake: readers([...opened, ...by('/c/')]),
    unseen: readers(by('/c/').filter((id) => !opened.has(id))),
    left: by('/u/').length / opened.size,
  };
}

test('half of them open nothing after their first email, some read text only, and a letter that nags drives people away', async () => {
  const letter = await livesWith('Three papers from the bench');
  const nagging = await livesWith('Still on the bench: three papers');
  expect([letter.awake > 150, letter.awake < 250]).toEqual([true, true]);
  expect([letter.unseen > 3, letter.unseen < 40]).toEqual([true, true]);
  expect(nagging.left).toBeGreaterThan(letter.left * 2);
});

test('somebody who is played by hand does nothing by themselves, at whatever address', async () => {
  const messages: { id: number; to: string; at: number; source: string }[] = [];
  const w = await world(messages);
  const source = `Content-Type: text/html\r\n\r\n<img src="${w.doors.base}/o/t.gif"><a href="${w.doors.base}/c/t/0">Kits</a>`;
  const theirs = persona(1906, 3).email;
  const byHand = ['marta@readers.example', theirs.replace('.3@', '.4@'), theirs.replace('.3@', '.2000@')];
  for (let id = 1; id <= 300; id++) messages.push({ id, to: byHand[id % byHand.length] as string, at: FROM, source });
  await run({ ...crowd(), agenda: [] }, w.doors, FROM + 30 * DAY);
  expect(w.asked).toEqual([]);
});
