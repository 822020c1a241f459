import { sql } from 'drizzle-orm';
import request from 'supertest';
import { beforeAll, expect, test } from 'vitest';
import type { ReadOnAnswer } from '@ascenso/contracts';
import { rows } from '../src/db/rows.ts';
import { programOf } from '../src/public/reader-program.ts';
import { emailStep, owner, useWorld } from './support/world.ts';

const world = useWorld();
let agent: ReturnType<typeof request.agent>;
beforeAll(async () => {
  agent = request.agent(world.app);
  await agent.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
});

const IPHONE = 'Mozilla/5.0 (iPhone; CPU iPhone OS 18_6 like Mac OS X) AppleWebKit/605.1.15 (KHTML, like Gecko)';
const SAFARI = `${IPHONE} Version/18.6 Mobile/15E148 Safari/604.1`;
const OUTLOOK = 'Mozilla/4.0 (compatible; MSIE 7.0; Windows NT 10.0; WOW64; Trident/7.0; Microsoft Outlook 16.0.5)';
const PROXY = 'Mozilla/5.0 (Windows NT 5.1; rv:11.0) Gecko Firefox/11.0 (via ggpht.com GoogleImageProxy)';

// What these programs send: from memory, November 2026.
test.each([
  [`${IPHONE} Mobile/15E148`, 'phone', 'Apple Mail'],
  [SAFARI, 'phone', 'Safari'],
  [
    'Mozilla/5.0 (Macintosh; Intel Mac OS X 10_15_7) AppleWebKit/605.1.15 (KHTML, like Gecko)',
    'computer',
    'Apple Mail',
  ],
  [
    'Mozilla/5.0 (iPad; CPU OS 18_6 like Mac OS X) AppleWebKit/605.1.15 (KHTML, like Gecko) Version/18.6 Mobile/15E148 Safari/604.1',
    'tablet',
    'Safari',
  ],
  [
    'Mozilla/5.0 (Linux; Android 15; Pixel 8) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/140.0.0.0 Mobile Safari/537.36',
    'phone',
    'Chrome',
  ],
  ['Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Thunderbird/140.1.0', 'computer', 'Thunderbird'],
  [OUTLOOK, 'computer', 'Outlook'],
  // Behind a proxy the device is not to be seen, whatever its user agent pretends.
  [PROXY, null, 'Gmail'],
  ['curl/8.11.0', null, null],
  ['', null, null],
  ['x'.repeat(5000), null, null],
])('%s is %s, %s', (userAgent, device, program) => {
  expect(programOf(userAgent)).toEqual({ device, program });
});

test('openings and clicks are counted by what they were read on, each email once; what is fetched ahead is not', async () => {
  const letter = emailStep('Letter', { address: 'https://foldwell.example/kits' });
  const id = await world.live({ name: 'Read', steps: [letter] });
  for (const who of ['ana', 'bea']) await world.join(`${who}@readers.example`);
  await world.ahead(await world.now());
  const { db } = world.connection;
  const sent = await rows<{ id: string }>(db, sql`select id from sends where sequence_id = ${id} order by "to"`);
  const [ana, bea] = sent.map((s) => s.id);
  const get = (path: string, userAgent: string) => request(world.app).get(path).set('User-Agent', userAgent);
  await get(`${world.path('o', ana)}.gif`, PROXY).expect(200);
  await get(`${world.path('c', ana)}/0`, SAFARI).expect(302);
  await get(`${world.path('c', ana)}/0`, SAFARI).expect(302);
  await get(`${world.path('o', bea)}.gif`, OUTLOOK).expect(200);
  await get(`${world.path('o', bea)}.gif`, 'Mozilla/5.0').expect(200);
  const answer = (await agent.get(`/api/sequences/${id}/read-on`).expect(200)).body as ReadOnAnswer;
  expect(answer.devices).toEqual([
    { name: 'computer', opened: 1, clicked: 0 },
    { name: 'phone', opened: 0, clicked: 1 },
    { name: null, opened: 1, clicked: 0 },
  ]);
  expect(answer.programs).toEqual([
    { name: 'Gmail', opened: 1, clicked: 0 },
    { name: 'Outlook', opened: 1, clicked: 0 },
    { name: 'Safari', opened: 0, clicked: 1 },
  ]);
});
