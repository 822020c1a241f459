import http from 'node:http';
import type { AddressInfo } from 'node:net';
import { CloudEvent, emitterFor, httpTransport, HTTP, Mode } from 'cloudevents';
import { sql } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { makeKey } from '../../src/db/keys.ts';
import { firstRow } from '../../src/db/rows.ts';
import { cloudEvent, useWorld } from '../support/world.ts';

// Clients that nobody here wrote: CloudEvents' own SDK for JavaScript (npm package "cloudevents"), browsers' rules for
// requests of other sites' pages (Fetch standard), and what RFCs ask of errors.
const world = useWorld();
let server: http.Server;
let base = '';
beforeAll(async () => {
  server = world.app.listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(
  () =>
    new Promise((resolve) => {
      server.close(resolve);
      server.closeAllConnections();
    }),
);

const SUBJECT = 'marta@readers.example';
const bearer = () => ({ authorization: `Bearer ${world.key}` });
const kept = (id: string) =>
  firstRow<{ payload: unknown; extensions: unknown; at: number }>(
    world.connection.db,
    sql`select payload, extensions, occurred_at as at from events where name = ${`sdk.${id}`}`,
  );
const ask = (path: string, init: RequestInit = {}) => fetch(`${base}/intake${path}`, init);

describe('the CloudEvents SDK', () => {
  const emit = (mode: Mode) => emitterFor(httpTransport(`${base}/intake/events`), { mode });
  let n = 0;
  const payloads: [what: string, data: unknown, expected: unknown, type?: string][] = [
    ['an object', { title: 'Linen thread', price: 6.5 }, { title: 'Linen thread', price: 6.5 }],
    ['a list', [{ title: 'Ä' }, 2], { value: [{ title: 'Ä' }, 2] }],
    ['a text', 'é – ☃', { value: 'é – ☃' }, 'text/plain; charset=utf-8'],
    ['a number', 42, { value: 42 }],
    ['nothing', undefined, {}],
  ];
  // The SDK's own transport cannot send a number, or nothing, as a body.
  const cases = [Mode.BINARY, Mode.STRUCTURED].flatMap((mode): [Mode, ...(typeof payloads)[number]][] =>
    payloads.filter((p) => mode === Mode.STRUCTURED || !/number|nothing/.test(p[0])).map((p) => [mode, ...p]),
  );
  test.each(cases)('its default event, %s, with %s', async (mode, _what, data, expected, datacontenttype) => {
    const type = `sdk.${mode}${n++}`;
    // Id and time are the SDK's own: the time is that of the system, although the practice clock stands in March.
    const event = new CloudEvent({
      type,
      source: '/shop',
      subject: SUBJECT,
      data,
      traceparent: '00-ab c%-01',
      ...(datacontenttype ? { datacontenttype } : {}),
    });
    const answer = (await emit(mode)(event, { headers: bearer() })) as { body: string };
    expect(JSON.parse(answer.body)).toMatchObject({ stored: 1, events: [{ id: event.id, status: 'stored' }] });
    expect(await kept(type.slice(4))).toEqual({
      payload: expected,
      extensions: { traceparent: '00-ab c%-01' },
      at: await world.now(),
    });
    // Sent again, as after an answer that was lost, it counts once.
    const again = (await emit(mode)(event, { headers: bearer() })) as { body: string };
    expect(JSON.parse(again.body)).toMatchObject({ stored: 0, repeated: 1 });
  });

  test('bytes, as base64 and as they are', async () => {
    const bytes = new Uint8Array([0, 255, 128]);
    const make = (type: string) =>
      new CloudEvent({
        type,
        source: '/shop',
        subject: SUBJECT,
        data: bytes,
        datacontenttype: 'application/octet-stream',
      });
    await emit(Mode.STRUCTURED)(make('sdk.base64'), { headers: bearer() });
    expect((await kept('base64'))?.payload).toEqual({ base64: 'AP+A' });
    const binary = HTTP.binary(make('sdk.bytes'));
    const answer = await ask('/events', {
      method: 'POST',
      headers: { ...(binary.headers as Record<string, string>), ...bearer() },
      body: bytes,
    });
    expect(answer.status).toBe(202);
    expect((await kept('bytes'))?.payload).toEqual({ base64: 'AP+A' });
  });

  test('a batch of its events', async () => {
    const events = ['sdk.one', 'sdk.two'].map(
      (type) => new CloudEvent({ type, source: '/s', subject: SUBJECT, data: { type } }),
    );
    const answer = await ask('/events', {
      method: 'POST',
      headers: { ...bearer(), 'content-type': 'application/cloudevents-batch+json; charset=UTF-8' },
      body: JSON.stringify(events),
    });
    expect([answer.status, await answer.json()]).toEqual([202, expect.objectContaining({ stored: 2 })]);
  });

  test('a header is percent-encoded, and may stand in quotes', async () => {
    const answer = await ask('/events', {
      method: 'POST',
      headers: {
        ...bearer(),
        'content-type': 'text/plain',
        'ce-specversion': '1.0',
        'ce-id': 'h1',
        'ce-source': '/shop',
        'ce-type': 'sdk.headers',
        'ce-subject': '"marta%40readers.example"',
        'ce-note': 'Euro%20%E2%82%AC',
      },
      body: 'plain words',
    });
    expect(answer.status).toBe(202);
    expect(await kept('headers')).toMatchObject({ payload: { value: 'plain words' }, extensions: { note: 'Euro €' } });
  });
});

describe('errors are problem details (RFC 9457)', () => {
  const sent = (init: RequestInit, path = '/events') =>
    ask(path, { method: 'POST', ...init, headers: { ...bearer(), ...(init.headers as object) } });
  const json = { 'content-type': 'application/json' };
  const cases: [string, () => Promise<Response>, number, object][] = [
    ['no key', () => ask('/events', { method: 'POST' }), 401, { code: 'wrong-key', field: 'Authorization' }],
    ['a path that is none', () => ask('/nowhere', { headers: bearer() }), 404, { code: 'not-found' }],
    [
      'a method that does nothing',
      () => ask('/events', { method: 'PUT', headers: bearer() }),
      405,
      { code: 'wrong-method' },
    ],
    [
      'a media type that is not read',
      () => sent({ headers: { 'content-type': 'text/csv' }, body: 'a' }),
      415,
      { field: 'Content-Type' },
    ],
    [
      'CloudEvents in a format that is not read',
      () => sent({ headers: { 'content-type': 'application/cloudevents+xml' }, body: 'a' }),
      415,
      { code: 'wrong-type' },
    ],
    [
      'a content coding that is not read',
      () => sent({ headers: { ...json, 'content-encoding': 'compress' }, body: '{}' }),
      415,
      { code: 'wrong-type' },
    ],
    [
      'a character set that is not read',
      () => sent({ headers: { 'content-type': 'application/json; charset=utf-16' }, body: '{}' }),
      415,
      {},
    ],
    [
      'bytes that are no UTF-8',
      () => sent({ headers: json, body: new Uint8Array([0x22, 0xff, 0x22]) }),
      400,
      { code: 'not-utf8' },
    ],
    ['no JSON', () => sent({ headers: json, body: '{' }), 400, { code: 'not-json' }],
    [
      'an event with two kinds of data',
      () =>
        sent({
          headers: json,
          body: JSON.stringify({ ...cloudEvent({ type: 'sdk.two', subject: SUBJECT, data: {} }), data_base64: 'AA==' }),
        }),
      422,
      { field: 'data_base64' },
    ],
    [
      'JSON that is declared and is none',
      () =>
        sent({
          headers: json,
          body: JSON.stringify({
            ...cloudEvent({ type: 'sdk.x', subject: SUBJECT }),
            data: undefined,
            data_base64: 'e3s=',
          }),
        }),
      422,
      { field: 'data_base64' },
    ],
  ];
  test.each(cases)('%s', async (_what, send, status, more) => {
    const answer = await send();
    expect(answer.headers.get('content-type')).toBe('application/problem+json; charset=utf-8');
    const body = (await answer.json()) as object;
    expect([answer.status, body]).toEqual([
      status,
      expect.objectContaining({
        status,
        title: http.STATUS_CODES[status],
        detail: expect.stringMatching(/\w+.*[.)]$/s),
        ...more,
      }),
    ]);
  });

  test('401 says how to come in, and 405 what works', async () => {
    const none = await ask('/events', { method: 'POST' });
    expect(none.headers.get('www-authenticate')).toBe('Bearer realm="Ascenso intake"');
    const wrong = await ask('/events', { method: 'POST', headers: { authorization: 'Bearer wrong' } });
    expect(wrong.headers.get('www-authenticate')).toBe('Bearer realm="Ascenso intake", error="invalid_token"');
    const put = await ask('/codes/x', { method: 'PUT', headers: bearer() });
    expect(put.headers.get('allow')).toBe('GET, HEAD');
  });

  test.each(['bearer', 'BEARER', 'Bearer'])('the scheme may be written %s', async (scheme) => {
    const answer = await ask('/codes/NONE', { headers: { authorization: `${scheme} ${world.key}` } });
    expect(answer.status).toBe(200);
  });

  test('each answer says how many requests are left', async () => {
    const answer = await ask('/codes/NONE', { headers: bearer() });
    expect(answer.headers.get('ratelimit-policy')).toMatch(/; q=60000; w=60/);
    expect(answer.headers.get('ratelimit')).toMatch(/; r=\d+; t=\d+/);
  });
});

describe('a key for pages', () => {
  const PAGE = 'https://foldwell.example';
  let key = '';
  beforeAll(async () => {
    key = (await makeKey(world.connection.db, world.ws, 'Our site', 0, [PAGE])).key;
  });
  const preflight = (origin: string) =>
    ask('/events', { method: 'OPTIONS', headers: { origin, 'access-control-request-method': 'POST' } });
  const from = (
    origin: string | null,
    path = '/events',
    event: object = cloudEvent({ type: 'page.seen', subject: SUBJECT }),
  ) =>
    ask(path, {
      method: 'POST',
      headers: {
        authorization: `Bearer ${key}`,
        'content-type': 'application/cloudevents+json',
        ...(origin ? { origin } : {}),
      },
      body: JSON.stringify(event),
    });
  const allowed = (answer: Response) => answer.headers.get('access-control-allow-origin');

  test('its own pages may ask, and read the answer', async () => {
    const before = await preflight(PAGE);
    expect([before.status, allowed(before)]).toEqual([204, PAGE]);
    expect(before.headers.get('access-control-allow-headers')).toContain('authorization');
    const answer = await from(PAGE);
    expect([answer.status, allowed(answer), answer.headers.get('vary')]).toEqual([
      202,
      PAGE,
      expect.stringContaining('Origin'),
    ]);
  });

  test.each([
    ['another site’s page', 'https://elsewhere.example'],
    ['no page at all', null],
    ['the same host without https', 'http://foldwell.example'],
  ])('not %s', async (_who, origin) => {
    if (origin) expect(allowed(await preflight(origin))).toBeNull();
    const answer = await from(origin);
    expect([answer.status, allowed(answer)]).toEqual([403, null]);
  });

  test('it opens nothing but events: whoever reads it in the page adds nobody to a list and reads nobody’s data', async () => {
    expect((await from(PAGE, '/subscribers', { email: 'x@readers.example' })).status).toBe(403);
    const read = await ask(`/subscribers/${SUBJECT}`, { headers: { authorization: `Bearer ${key}`, origin: PAGE } });
    expect(read.status).toBe(403);
  });

  test('a key of servers lets no page in', async () => {
    const answer = await ask('/codes/NONE', { headers: { ...bearer(), origin: PAGE } });
    expect(allowed(answer)).toBeNull();
  });
});
