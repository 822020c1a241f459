import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { fetchOwn, follow } from '../src/app/follow.ts';

/** As long as the token of a send. */
const TOKEN = 'x'.repeat(58);
const asked: string[] = [];
let server: Server;
let base = '';

beforeAll(async () => {
  server = createServer((req, res) => {
    asked.push(req.url ?? '');
    const [, kind, to] = /^\/(page|f|gone|on|round|silent)\/?(.*)$/.exec(req.url ?? '') ?? [];
    if (kind === 'page' || kind === 'f') res.writeHead(200).end('here');
    else if (kind === 'on') res.writeHead(302, { Location: decodeURIComponent(to ?? '') }).end();
    else if (kind === 'round') res.writeHead(302, { Location: '/round' }).end();
    else if (kind === 'silent') res.destroy();
    else res.writeHead(404).end();
  });
  await new Promise<void>((open) => server.listen(0, '127.0.0.1', open));
  base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(() => new Promise((closed) => server.close(closed)));

test.each([
  ['a page of ours opens', '/page/1', 'opens', 'it opens'],
  ['a page of ours that is not there', '/gone', 'broken', '404'],
  ['a redirect within our own is followed to its end', '/on/%2Fgone', 'broken', '404'],
  ['a redirect that leaves is followed to the door', '/on/https%3A%2F%2Fpapers.example%2Fa', 'opens', 'papers.example'],
  ['a circle ends', '/round', 'broken', 'circle'],
  ['a server that hangs up', '/silent', 'broken', 'does not answer'],
  ['a click copied from somebody’s email', `/c/${TOKEN}/1`, 'personal', 'count as theirs'],
  ['a click behind two slashes', `//c/${TOKEN}/1`, 'personal', 'count as theirs'],
  ['a click in capitals', `/C/${TOKEN}/1`, 'personal', 'count as theirs'],
  ['a click that is encoded', `/%63/${TOKEN}/1`, 'personal', 'count as theirs'],
  ['a click that is encoded twice', `/%2563%2F${TOKEN}/1`, 'personal', 'count as theirs'],
  ['a click by way of a dot', `/./c/${TOKEN}/1`, 'personal', 'count as theirs'],
  ['a click with backslashes', `\\c\\${TOKEN}/1`, 'personal', 'count as theirs'],
  ['a click whose token is encoded', `/c/%78${TOKEN.slice(1)}/1`, 'personal', 'count as theirs'],
  ['an opening', `/o/${TOKEN}.gif`, 'personal', 'count as theirs'],
  ['a redirect to another scheme', '/on/ftp%3A%2F%2Fpapers.example%2Fa', 'broken', 'ftp:'],
  ['a redirect to somebody’s click', `/on/%2Fc%2F${TOKEN}%2F1`, 'personal', 'count as theirs'],
])('%s', async (_rule, path, state, words) => {
  const verdict = await follow(`${base}${path}`, [base]);
  expect(verdict.state).toBe(state);
  expect(verdict.words).toContain(words);
  // Whatever has the token in it was seen for what it is, and not asked for.
  expect(asked.filter((url) => /[coCO](\/|%2F)/.test(url) && !url.startsWith('/on/'))).toEqual([]);
});

test('a hosted file is asked for where readers fetch it', async () => {
  expect((await follow('file:abc', [base])).state).toBe('opens');
  expect(asked).toContain('/f/abc');
});

test('an address that is not ours is never asked, nor what only looks like ours', async () => {
  const before = asked.length;
  const port = new URL(base).port;
  for (const address of [
    `http://localhost:${port}/page/1`,
    `http://127.0.0.1.example:${port}/`,
    'https://papers.example/',
  ])
    expect((await follow(address, ['http://127.0.0.1:1', 'https://shop.example'])).state).toBe('elsewhere');
  expect((await follow('what', [base])).state).toBe('broken');
  expect(asked.length).toBe(before);
  expect(asked.some((url) => url.startsWith('/c/'))).toBe(false);
});

test('a page is read by the same door: of ours alone, at its end, and never somebody’s click', async () => {
  const read = (address: string) => fetchOwn(address, [base], 'address');
  const { content, at } = await read(`${base}/on/%2Fpage%2F2`);
  expect([content.toString(), at]).toEqual(['here', `${base}/page/2`]);
  const before = asked.length;
  await expect(read(`${base}/c/${TOKEN}/1`)).rejects.toThrow('Only pages of your own site');
  await expect(read('http://169.254.169.254/latest')).rejects.toThrow('Only pages of your own site');
  await expect(read('https://papers.example/')).rejects.toThrow('Only pages of your own site');
  expect(asked.length).toBe(before);
  await expect(read(`${base}/on/http%3A%2F%2F169.254.169.254%2F`)).rejects.toThrow('Only pages of your own site');
  await expect(read(`${base}/gone`)).rejects.toThrow('404');
});
