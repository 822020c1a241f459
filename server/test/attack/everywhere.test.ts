import { monitorEventLoopDelay } from 'node:perf_hooks';
import path from 'node:path';
import fc from 'fast-check';
import request from 'supertest';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { sendBack } from '../../../standins/src/mailbox/returning.ts';
import { routeTable } from '../../src/app/routes.ts';
import { openInbox, type Inbox } from '../../src/mail/inbox.ts';
import { ReportReader } from '../../src/mail/reading-reports.ts';
import { SEED } from '../support/chance.ts';
import { owner, useWorld } from '../support/world.ts';

// For every address that strangers can reach, read from the router so that a new one is among them: whatever is sent to it, of 10 kB
// to its limit, nobody else waits for an answer. What is measured is how long the process could not attend to anything.

/** 200 ms is the promise; a busy machine is given as much again. */
const MOST_MS = 400;
const world = useWorld();
let form = '';
let app: ReturnType<typeof world.serve>;
let network = 0;
let inbox: Inbox;

interface Layer {
  route?: { path: string; methods: Record<string, boolean> };
  handle?: { stack?: Layer[] };
}
function routesOf(stack: readonly Layer[]): { path: string; method: string }[] {
  return stack.flatMap((layer) => [
    ...(layer.route
      ? Object.keys(layer.route.methods).map((method) => ({ path: String(layer.route?.path), method }))
      : []),
    ...(layer.handle?.stack ? routesOf(layer.handle.stack) : []),
  ]);
}

beforeAll(async () => {
  const as = request.agent(world.app);
  await as.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
  form = ((await as.post('/api/forms').send({ name: 'Gift' }).expect(200)).body as { id: string }).id;
  const { form: blank } = (await as.get(`/api/forms/${form}`).expect(200)).body as { form: object };
  await as
    .put(`/api/forms/${form}`)
    .send({ ...blank, lists: [world.list], consent: 'I want the letters.' })
    .expect(200);
  await as.post(`/api/forms/${form}/status`).send({ status: 'open' }).expect(200);
  // Behind a proxy, so that each request comes from a network of its own and no limit answers in its place.
  app = world.serve({ trustProxy: 1 });
  const reader = new ReportReader(
    new URL(`file://${path.resolve(import.meta.dirname, '../../dist/report-worker.js')}`),
  );
  const { secret } = world.sending;
  inbox = await openInbox({ db: world.connection.db, secret, reader, onError: () => undefined }, '127.0.0.1', 0);
});
afterAll(() => inbox.close());

/** Looks at one thing, at most: what is long each time is the reader's doing, what is long once is the machine's. */
const LOOKS = 5;

/** How long the process was away at most while something was done, ms: the least of several looks where one was too long. */
async function awayFor(work: () => Promise<unknown>): Promise<number> {
  let least = Infinity;
  for (let i = 0; i < LOOKS && least >= MOST_MS; i++) {
    const late = monitorEventLoopDelay({ resolution: 5 });
    late.enable();
    await work();
    late.disable();
    least = Math.min(least, late.max / 1e6);
  }
  return least;
}

/** Shapes that make a pattern, a parser or a loop go over the same letters again and again. */
const PIECES = [
  '(',
  ' ',
  '<',
  '%',
  '%25',
  '&',
  '=',
  '+',
  '{{',
  '[',
  '"',
  '\\',
  ',',
  '@',
  '.',
  'a',
  '\t',
  '../',
  '0',
  '-',
  ';q=',
  'é',
];
const filled = (bytes: number) =>
  fc.array(fc.constantFrom(...PIECES), { minLength: 1, maxLength: 3 }).map((some) => {
    const piece = some.join('');
    return piece.repeat(Math.ceil(bytes / piece.length));
  });
const run = <T>(of: fc.Arbitrary<T>, look: (value: T) => Promise<void>, numRuns = 6) =>
  fc.assert(fc.asyncProperty(of, look), { numRuns, seed: SEED, endOnFailure: true });

describe(`whatever is sent to an address, nobody waits (seed ${SEED})`, () => {
  const ours = new Set(routeTable.map((r) => r.path));
  const all = () =>
    routesOf((app as unknown as { router: { stack: Layer[] } }).router.stack).filter((r) => !ours.has(r.path));

  test('the addresses are found', () => {
    const found = all().map((r) => `${r.method} ${r.path}`);
    for (const known of ['get /o/:token.gif', 'post /form/:id', 'post /u/:token', 'post /v', 'get /t/:token/:n.gif'])
      expect(found).toContain(known);
  });

  test('in the address, its query, its heads and its body', async () => {
    for (const { path: pattern, method } of all()) {
      await run(filled(7_000), async (long) => {
        const address = pattern
          .replace(/:id\b/g, form)
          .replace(/:(\w+)/g, () => encodeURIComponent(long).slice(0, 6_000));
        const ask = () =>
          (method === 'get' ? request(app).get(address) : request(app).post(address))
            .set('X-Forwarded-For', `198.51.${Math.floor(++network / 250)}.${network % 250}`)
            .query({ a: long.slice(0, 2_000) })
            .set('User-Agent', long.replace(/[^ -~]/g, 'e').slice(0, 3_000))
            .set('Accept', `text/html,${long.replace(/[^ -~]/g, 'e').slice(0, 1_000)}`);
        const away = await awayFor(() =>
          method === 'get'
            ? ask()
            : ask()
                .type('form')
                .send({
                  email: long,
                  agree: 'yes',
                  t: long.slice(0, 2_000),
                  first_name: long.slice(0, 500),
                  why: long.slice(0, 500),
                }),
        );
        expect([method, pattern, away < MOST_MS]).toEqual([method, pattern, true]);
      });
    }
  });

  const event = { specversion: '1.0', type: 'order.paid', source: '/shop', id: 'x', subject: 'a@x.example' };
  const deep = (levels: number) => `${'{"a":'.repeat(levels)}1${'}'.repeat(levels)}`;
  test.each(['type', 'source', 'id', 'subject', 'time', 'data', 'datacontenttype', 'comexample'])(
    'an event whose %s is long, or deep',
    async (field) => {
      const post = (body: string) =>
        request(world.app)
          .post('/intake/events')
          .set('Authorization', `Bearer ${world.key}`)
          .set('Content-Type', 'application/cloudevents+json')
          .send(body);
      await run(
        filled(200_000),
        async (long) => {
          const value = field === 'data' ? { note: long } : long;
          expect(await awayFor(() => post(JSON.stringify({ ...event, [field]: value })))).toBeLessThan(MOST_MS);
        },
        3,
      );
      const body = JSON.stringify({ ...event, [field]: 0 }).replace(`"${field}":0`, `"${field}":${deep(5_000)}`);
      expect(await awayFor(() => post(body))).toBeLessThan(MOST_MS);
    },
  );

  test.each(['email', 'zone', 'lists', 'attributes', 'confirmed_at'])(
    'a subscriber whose %s is long',
    async (field) => {
      await run(
        filled(200_000),
        async (long) => {
          const value = field === 'lists' ? [long] : field === 'attributes' ? { [long.slice(0, 100)]: long } : long;
          const away = await awayFor(() =>
            request(world.app)
              .post('/intake/subscribers')
              .set('Authorization', `Bearer ${world.key}`)
              .send({ email: 'a@x.example', [field]: value }),
          );
          expect(away).toBeLessThan(MOST_MS);
        },
        3,
      );
    },
  );

  test.each([
    'To',
    'From',
    'Subject',
    'Content-Type',
    'Message-ID',
    'References',
    'List-Unsubscribe',
    'X-Failed-Recipients',
  ])('returned mail whose %s is long', async (field) => {
    await run(
      filled(40_000),
      async (long) => {
        const plain = long.replace(/[^ -~]/g, 'e');
        const away = await awayFor(() =>
          sendBack(
            inbox.port,
            'feedback@back.example',
            `From: mailer-daemon@x.example\r\n${field}: ${plain}\r\n\r\n${plain}\r\n`,
          ),
        );
        expect(away).toBeLessThan(MOST_MS);
      },
      2,
    );
  });
});
