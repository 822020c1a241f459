import { deflateSync } from 'node:zlib';
import type { Server } from 'node:http';
import { createCanvas } from '@napi-rs/canvas';
import { agent, type Agent } from 'supertest';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { blankOffer, timerFaces } from '@ascenso/core';
import { crc32 } from 'node:zlib';
import { owner, useWorld } from '../support/world.ts';

// Files that are made to hurt: pictures that unpack to gigabytes, or to nothing; lines without end.
const world = useWorld();
let server: Server;
let own: Agent;
beforeAll(async () => {
  server = world.app.listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  own = agent(server);
  await own.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
});
afterAll(() => new Promise((resolve) => server.close(resolve)));

/** A chunk of a PNG (PNG specification, 5.3). */
function chunk(type: string, data: Buffer): Buffer {
  const body = Buffer.concat([Buffer.from(type, 'latin1'), data]);
  const around = Buffer.alloc(8);
  around.writeUInt32BE(data.length, 0);
  around.writeUInt32BE(crc32(body), 4);
  return Buffer.concat([around.subarray(0, 4), body, around.subarray(4)]);
}
/** A grey PNG of one bit a pixel, all black: a few kB for as many pixels as one likes. */
function flat(width: number, height: number): Buffer {
  const head = Buffer.alloc(13);
  head.writeUInt32BE(width, 0);
  head.writeUInt32BE(height, 4);
  head[8] = 1;
  const rows = deflateSync(Buffer.alloc((1 + Math.ceil(width / 8)) * height));
  return Buffer.concat([
    Buffer.from('89504e470d0a1a0a', 'hex'),
    chunk('IHDR', head),
    chunk('IDAT', rows),
    chunk('IEND', Buffer.alloc(0)),
  ]);
}
const drawn = (type: 'image/png' | 'image/jpeg' | 'image/webp') => {
  const canvas = createCanvas(300, 200);
  const context = canvas.getContext('2d');
  context.fillStyle = '#1E5B4E';
  context.fillRect(20, 20, 200, 100);
  return type === 'image/png' ? canvas.toBuffer(type) : canvas.toBuffer(type, 80);
};

describe('pictures', () => {
  const good = drawn('image/png');
  const cases: [string, Buffer, number, RegExp | null][] = [
    ['39 megapixels', flat(6_500, 6_000), 200, null],
    ['400 megapixels', flat(20_000, 20_000), 422, /20000 × 20000 px: 40 megapixels are the most/],
    ['a JPEG', drawn('image/jpeg'), 200, null],
    ['a WebP', drawn('image/webp'), 200, null],
    ['a PNG cut off in its head', good.subarray(0, 30), 422, /damaged/],
    ['a PNG with noise inside', Buffer.concat([good.subarray(0, 60), Buffer.alloc(400, 7)]), 422, /damaged/],
    ['a GIF of nothing', Buffer.from('GIF89a'), 422, /damaged/],
    ['words that are called a picture', Buffer.from('not a picture'), 422, /no picture, PDF or ZIP/],
  ];
  test.each(cases)('%s', async (name, content, status, words) => {
    const answer = await own.post('/api/files').attach('file', content, `${name}.png`);
    expect([answer.status, answer.body.error?.field]).toEqual([status, status === 200 ? undefined : 'file']);
    if (words) expect(answer.body.error.message).toMatch(words);
  });

  test('ten of the largest at once stay in bounded memory', async () => {
    const before = process.memoryUsage().rss;
    const large = flat(6_500, 6_000);
    const answers = await Promise.all(
      Array.from({ length: 10 }, (_, i) => own.post('/api/files').attach('file', large, `${i}.png`)),
    );
    expect(answers.map((a) => a.status)).toEqual(Array(10).fill(200));
    expect((process.memoryUsage().rss - before) / 1e6).toBeLessThan(900);
  });
});

test('a user draws so many timers a minute', async () => {
  const face = Object.values(timerFaces)[0];
  const draw = () => own.post('/api/timers/preview').send({ face, left: 5, after: { kind: 'zeros' }, language: 'en' });
  const answers = [];
  for (let i = 0; i < 121; i++) answers.push((await draw()).status);
  expect(answers.slice(0, 120)).toEqual(Array(120).fill(200));
  expect(answers[120]).toBe(429);
});

describe('files of codes', () => {
  const codes = (n: number) => Array.from({ length: n }, (_, i) => `KIT-${1000 + i}`).join('\n');
  const cases: [string, string, RegExp][] = [
    ['an unclosed quote', `code\nKIT-1\n"KIT-2\n${codes(20)}`, /^Line 3: a quotation mark is opened/],
    ['an unclosed quote before much else', `code\nKIT-1\n"KIT-2\n${codes(3_000)}`, /^Line 3 is over 10000 characters/],
    ['a line without end', `KIT-1\n${'x'.repeat(20_000)}`, /^Line 2 is over 10000 characters/],
  ];
  test.each(cases)('%s', async (name, text, words) => {
    const offer = { ...blankOffer(), name, codes: { kind: 'imported' } };
    const { body } = await own.post('/api/offers').send(offer).expect(200);
    const answer = await own.post(`/api/offers/${body.id}/codes`).type('text/csv').send(text).expect(422);
    expect(answer.body.error).toMatchObject({ field: 'file', message: expect.stringMatching(words) });
  });
});
