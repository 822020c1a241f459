import { sql } from 'drizzle-orm';
import request from 'supertest';
import { expect, test } from 'vitest';
import { told } from '../../src/app/log.ts';
import { emailStep, useWorld } from '../support/world.ts';

const world = useWorld();
const made = (metricsToken: string | null) => world.serve({ metricsToken });

/** Samples of the OpenMetrics text format, by name and labels (OpenMetrics 1.0, "Text Format"). */
function samples(text: string): Map<string, number> {
  const lines = text.split('\n');
  expect(lines.slice(-2)).toEqual(['# EOF', '']);
  const found = new Map<string, number>();
  let family = '';
  let kind = '';
  for (const line of lines.slice(0, -2)) {
    const type = /^# TYPE ([a-z_]+) (counter|gauge|histogram)$/.exec(line);
    if (type) [, family = '', kind = ''] = type;
    if (line.startsWith('#')) continue;
    const sample = /^([a-z_]+)(\{[a-z]+="[^"\n]*"(?:,[a-z]+="[^"\n]*")*\})? (-?[\d.e+-]+)$/.exec(line);
    expect(sample, line).not.toBeNull();
    const [, name = '', labels = '', value = ''] = sample ?? [];
    // A sample belongs to the family above it, under the suffixes of its kind; a counter's ends in _total.
    const suffix = { counter: '_total', gauge: '', histogram: '_(bucket|sum|count)' }[kind] ?? '?';
    expect(name).toMatch(new RegExp(`^${family}${suffix}$`));
    found.set(name + labels, Number(value));
  }
  return found;
}

test('figures count what is due, sent and set aside', async () => {
  await world.live({ steps: [emailStep('Letter')] });
  await world.join('marta@readers.example');
  await world.join('jonas@readers.example');
  const seen = async () => {
    const answer = await request(made(null)).get('/metrics').expect(200);
    expect(answer.headers['content-type']).toMatch(/^application\/openmetrics-text; version=1\.0\.0/);
    return samples(answer.text);
  };
  const before = await seen();
  expect(before.get('ascenso_visits_due')).toBe(2);
  await world.ahead(await world.now());
  await world.connection.db.execute(
    sql`insert into set_aside (workspace_id, kind, item, reason, failures, since, next_at) values (${world.ws}, 'visit', ${world.list}, 'x', 1, 0, 1)`,
  );
  const after = await seen();
  const grew = (name: string) => (after.get(name) ?? 0) - (before.get(name) ?? 0);
  expect(after.get('ascenso_visits_due')).toBe(0);
  expect(grew('ascenso_sends_total{answer="accepted"}')).toBe(2);
  expect(after.get('ascenso_set_aside{kind="visit"}')).toBe(1);
});

test('the oldest that is due says for how long', async () => {
  await world.join('zoe@readers.example');
  await world.stand((await world.now()) + 90_000);
  const found = samples((await request(made(null)).get('/metrics')).text);
  expect(found.get('ascenso_oldest_due_seconds')).toBe(90);
});

test.each([
  ['from this machine', null, {}, 200],
  ['through a proxy', null, { 'X-Forwarded-For': '203.0.113.1' }, 403],
  ['through a proxy that says so otherwise', null, { Forwarded: 'for=203.0.113.1' }, 403],
  ['without the token', 'secret', {}, 403],
  ['with another token', 'secret', { Authorization: 'Bearer other' }, 403],
  ['with the token', 'secret', { Authorization: 'bearer secret', 'X-Forwarded-For': '203.0.113.1' }, 200],
] as const)('figures %s', async (_how, token, headers, status) => {
  const answer = await request(made(token)).get('/metrics').set(headers);
  expect(answer.status).toBe(status);
  if (status === 403) expect(answer.text).not.toContain('ascenso_');
});

test('the process lives, and is ready', async () => {
  expect((await request(made('secret')).get('/health').expect(200)).body).toEqual({ alive: true });
  expect((await request(made('secret')).get('/ready').expect(200)).body).toEqual({ ready: true });
});

test('a log tells of an error without anybody’s data', async () => {
  const error = await world.connection.db
    .execute(
      sql`insert into people (workspace_id, id, email, attributes, created_at) select workspace_id, id, 'marta.secret@readers.example', '{}', 0 from people where email = 'marta@readers.example'`,
    )
    .catch((e: unknown) => e);
  const line = told(error);
  expect(line).toMatchObject({ code: '23505', at: expect.stringContaining('people') });
  expect(JSON.stringify(line)).not.toMatch(/marta|secret|readers/);
  expect(JSON.stringify(told(new Error('no way to zoe@readers.example said "Zoë"')))).not.toMatch(/zoe|Zoë/);
});
