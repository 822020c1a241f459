import http from 'node:http';
import type { AddressInfo } from 'node:net';
import { createConfig, lintFromString, type Config } from '@redocly/openapi-core';
import spectralCore from '@stoplight/spectral-core';
import { oas } from '@stoplight/spectral-rulesets';
import { Ajv2020, type ValidateFunction } from 'ajv/dist/2020.js';
import { generate } from 'json-schema-faker';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { intakeDocument } from '@ascenso/contracts';
import { blankOffer } from '@ascenso/core';
import { agent } from 'supertest';
import { Chance, SEED } from '../support/chance.ts';
import { owner, useWorld } from '../support/world.ts';

// The document that a shop's programmer reads: by the rules of two tools that judge such documents, and by 2,000 requests
// that are made from it (json-schema-faker), whose every answer must be one that it tells of. SEED=n repeats a run.
const REQUESTS = 2_000;
const document = intakeDocument('https://mail.foldwell.example') as unknown as Document;

type Schema = Record<string, unknown>;
type Media = Record<string, { schema: Schema }>;
interface Operation {
  parameters?: { name: string; in: 'path' | 'query' | 'header'; required?: boolean; schema: Schema }[];
  requestBody?: { content: Media };
  responses: Record<string, { content?: Media }>;
}
interface Document {
  paths: Record<string, Record<string, Operation>>;
  components: { schemas: Record<string, Schema> };
}

describe('rules for such documents', () => {
  test('Redocly’s recommended ones', async () => {
    // Asked past its own type, which alone takes the compiler a third of the server's time.
    const config = await (createConfig as unknown as (of: object) => Promise<Config>)({ extends: ['recommended'] });
    const found = await lintFromString({ source: JSON.stringify(document), config });
    expect(found.map((f) => `${f.severity} ${f.ruleId}: ${f.message} ${f.location[0]?.pointer}`)).toEqual([]);
    const nameless = JSON.stringify(document).replaceAll('"operationId"', '"x-name"');
    const faults = await lintFromString({ source: nameless, config });
    expect(faults.map((f) => f.ruleId)).toContain('operation-operationId');
  });

  test('Spectral’s', async () => {
    const spectral = new spectralCore.Spectral();
    spectral.setRuleset(oas as never);
    const found = await spectral.run(JSON.stringify(document));
    expect(found.map((f) => `${f.severity} ${f.code}: ${f.message} ${f.path.join('.')}`)).toEqual([]);
    // It can find something.
    const nameless = JSON.stringify(document).replaceAll('"operationId"', '"x-name"');
    expect((await spectral.run(nameless)).map((f) => f.code)).toContain('operation-operationId');
  });
});

describe(`2,000 requests made from it (seed ${SEED})`, () => {
  const world = useWorld();
  const chance = new Chance(SEED);
  const ajv = new Ajv2020({ strict: false, validateFormats: false });
  let server: http.Server;
  let port = 0;
  beforeAll(async () => {
    server = world.app.listen(0, '127.0.0.1');
    await new Promise((resolve) => server.once('listening', resolve));
    port = (server.address() as AddressInfo).port;
    const own = agent(server);
    await own.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
    const offer = {
      ...blankOffer(),
      name: 'Kit',
      codes: { kind: 'shared', code: 'KIT10' },
      deadline: { kind: 'never' },
    };
    await own.post('/api/offers').send(offer).expect(200);
    await world.join('marta@readers.example');
  });
  afterAll(
    () =>
      new Promise((resolve) => {
        server.close(resolve);
        server.closeAllConnections();
      }),
  );

  const validators = new Map<Schema, ValidateFunction>();
  const validator = (schema: Schema): ValidateFunction => {
    const known = validators.get(schema) ?? ajv.compile(whole(schema));
    validators.set(schema, known);
    return known;
  };
  const whole = (schema: Schema): Schema => ({ ...schema, components: document.components });
  const made = (schema: Schema): Promise<unknown> =>
    generate(whole(schema), {
      seed: chance.whole(0, 2 ** 30),
      alwaysFakeOptionals: chance.is(0.3),
      resolveJsonPath: false,
      maxItems: 3,
    });
  /** Values that are there, so that some requests get further than the first check. */
  const KNOWN: Record<string, unknown[]> = {
    email: ['marta@readers.example', 'nobody@readers.example'],
    subject: ['marta@readers.example'],
    code: ['KIT10', 'kit-10', 'NONE'],
    order: ['F-1', 'F-2'],
    total: [10, 20],
    currency: ['EUR'],
    specversion: ['1.0'],
    type: ['item.viewed'],
    lists: [['Workshop letters']],
    attributes: [{ first_name: 'Marta' }, {}],
    zone: ['Europe/Lisbon'],
    time: ['2026-03-06T11:00:00Z'],
    confirmed_at: ['2026-03-06T11:00:00Z'],
    data_base64: [undefined],
  };
  const WRONG: unknown[] = [null, '', -1, 'x'.repeat(5_000), [], {}, '\u0000', true];
  function touched(value: unknown): unknown {
    if (Array.isArray(value)) return value.slice(0, 5).map(touched);
    if (typeof value !== 'object' || value === null) return value;
    return Object.fromEntries(
      Object.entries(value).map(([key, inner]) => [
        key,
        chance.is(0.08)
          ? chance.pick(WRONG)
          : key in KNOWN && chance.is(0.8)
            ? chance.pick(KNOWN[key] as unknown[])
            : inner,
      ]),
    );
  }

  const ask = (method: string, path: string, headers: Record<string, string>, body: string | null) =>
    new Promise<{ status: number; type: string; text: string }>((resolve, reject) => {
      const req = http.request({ port, host: '127.0.0.1', method, path, headers }, (res) => {
        let text = '';
        res.setEncoding('utf8');
        res.on('data', (d: string) => (text += d));
        res.on('end', () =>
          resolve({ status: res.statusCode ?? 0, type: (res.headers['content-type'] ?? '').split(';')[0] ?? '', text }),
        );
      });
      req.on('error', reject);
      req.end(body ?? undefined);
    });

  async function one(): Promise<{ name: string; status: number; fault: string | null }> {
    const [path, methods] = chance.pick(Object.entries(document.paths));
    const [method, operation] = chance.pick(Object.entries(methods));
    let address = path;
    const query = new URLSearchParams();
    const headers: Record<string, string> = chance.is(0.95) ? { authorization: `Bearer ${world.key}` } : {};
    for (const p of operation.parameters ?? []) {
      if (p.in !== 'path' && chance.is(0.7)) continue;
      const value = String(
        chance.is(0.7) && p.name in KNOWN ? chance.pick(KNOWN[p.name] as unknown[]) : await made(p.schema),
      );
      if (p.in === 'path') address = address.replace(`{${p.name}}`, encodeURIComponent(value || 'x'));
      else if (p.in === 'query') query.set(p.name, value);
      else headers[p.name] = encodeURIComponent(value);
    }
    let body: string | null = null;
    if (operation.requestBody) {
      const [type, media] = chance.pick(Object.entries(operation.requestBody.content));
      headers['content-type'] = chance.is(0.97)
        ? type
        : chance.pick(['text/plain', 'application/x-www-form-urlencoded', 'nonsense']);
      body = JSON.stringify(touched(await made(media.schema)) ?? null);
      if (chance.is(0.03)) body = body.slice(0, -1);
    }
    const asked = [...query].length > 0 ? `${address}?${query}` : address;
    const answer = await ask(method.toUpperCase(), asked, headers, body);
    const told = operation.responses[String(answer.status)];
    const name = `${method} ${path}`;
    const fault = (why: string) => ({
      name,
      status: answer.status,
      fault: `${name} ${answer.status}: ${why}\n${body?.slice(0, 300)}\n${answer.text.slice(0, 300)}`,
    });
    if (!told) return fault('is not told of');
    const media = told.content?.[answer.type];
    if (!media) return fault(`${answer.type} is not told of`);
    const valid = validator(media.schema);
    return valid(JSON.parse(answer.text))
      ? { name, status: answer.status, fault: null }
      : fault(ajv.errorsText(valid.errors));
  }

  test('no answer is one that the document does not tell of', async () => {
    const seen = new Map<string, number>();
    for (let i = 0; i < REQUESTS; i++) {
      const { name, status, fault } = await one();
      expect(fault).toBeNull();
      seen.set(`${name} ${status}`, (seen.get(`${name} ${status}`) ?? 0) + 1);
    }
    // Each operation was taken at least once, and refused at least once: the requests reach what they are about.
    for (const [path, methods] of Object.entries(document.paths))
      for (const method of Object.keys(methods)) {
        const own = [...seen.keys()].filter((k) => k.startsWith(`${method} ${path} `)).map((k) => k.split(' ').at(-1));
        expect([method, path, own.some((s) => /^2/.test(s ?? '')), own.some((s) => /^4/.test(s ?? ''))]).toEqual([
          method,
          path,
          true,
          true,
        ]);
      }
  });
});
