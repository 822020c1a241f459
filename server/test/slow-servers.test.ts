import { sql } from 'drizzle-orm';
import { afterEach, expect, test } from 'vitest';
import { rows } from '../src/db/rows.ts';
import { advanceRound } from '../src/engine/advance-loop.ts';
import { delivered, sendRound } from '../src/engine/send-loop.ts';
import { SmtpTransport } from '../src/mail/transport.ts';
import { until } from './support/killing.ts';
import { startReceiver } from './support/receiver.ts';
import { emailStep, useWorld } from './support/world.ts';

// No delivery outlives its lease. The times of the issue (25 s, 70 s, never, under a lease of 60 s) in proportion: a
// lease of 600 ms, and answers after 250 ms, 2 s, and never.
const LEASE = 600;
const world = useWorld();
const closing: (() => void)[] = [];
afterEach(() => closing.splice(0).forEach((close) => close()));

/** A server that answers the end of a message after so many ms, or never. */
async function slow(afterMs: number) {
  const came: string[] = [];
  const { port, close } = await startReceiver({
    onData: (stream, session, done) => {
      stream.on('end', () => {
        came.push(session.envelope.rcptTo[0]?.address ?? '');
        if (afterMs !== Infinity) setTimeout(() => done(), afterMs);
      });
      stream.resume();
    },
  });
  closing.push(close);
  const url = `smtp://127.0.0.1:${port}`;
  const transportOf = () => {
    const transport = new SmtpTransport(url, { answerMs: 4_000 });
    closing.push(() => transport.close());
    return { ...world.sending, transport, leaseMs: LEASE };
  };
  return { came, transportOf };
}

let n = 0;
async function queue(count: number): Promise<string> {
  const name = `slow${++n}`;
  await world.live({ name, triggers: [{ kind: 'event', event: name, where: [] }], steps: [emailStep(name)] });
  for (let i = 0; i < count; i++) {
    await world.join(`${name}-${i}@readers.example`);
    await world.event({ type: name, subject: `${name}-${i}@readers.example` }).expect(202);
  }
  await advanceRound(world.connection, await world.now());
  return name;
}
const outcome = (name: string) =>
  rows<{ status: string; attempts: number; n: number }>(
    world.connection.db,
    sql`select s.status, s.attempts, count(*)::int as n from sends s join people p on p.workspace_id = s.workspace_id and p.id = s.person_id where p.email like ${`${name}-%`} group by 1, 2 order by 1`,
  );

/** Two processes' worth of rounds, until nothing is in the queue or in anybody's hand. */
async function drain(transportOf: () => typeof world.sending, name: string) {
  const now = await world.now();
  const [one, two] = [transportOf(), transportOf()];
  await until(`every email of ${name} has an outcome`, async () => {
    await Promise.all([sendRound(world.connection, one, now), sendRound(world.connection, two, now)]);
    return (await outcome(name)).every((o) => o.status === 'sent' || o.status === 'failed');
  });
  await delivered();
}

test.each([250, 2_000])('answers after %i ms under a lease of 600: each message is delivered once', async (ms) => {
  const { came, transportOf } = await slow(ms);
  const name = await queue(8);
  await drain(transportOf, name);
  expect(came.sort()).toEqual([...new Set(came)]);
  expect(came).toHaveLength(8);
  expect(await outcome(name)).toEqual([{ status: 'sent', attempts: 1, n: 8 }]);
});

test('never answers: handed over once, given up when the server’s time is over, and said so', async () => {
  const { came, transportOf } = await slow(Infinity);
  const name = await queue(2);
  await drain(transportOf, name);
  expect(came).toHaveLength(2);
  expect(await outcome(name)).toEqual([{ status: 'failed', attempts: 1, n: 2 }]);
  expect((await world.trace(`${name}-0@readers.example`)).map((t) => t.code)).toContain('email-unanswered');
});

test('what a round has leased and not begun is no try, and is free for others before the lease is over', async () => {
  const { transportOf } = await slow(2_000);
  const name = await queue(6);
  const one = { ...transportOf(), parallel: 1 };
  await sendRound(world.connection, one, await world.now());
  expect(await outcome(name)).toEqual([
    { status: 'leased', attempts: 0, n: 1 },
    { status: 'queued', attempts: 0, n: 5 },
  ]);
  await delivered();
  await drain(transportOf, name);
  expect(await outcome(name)).toEqual([{ status: 'sent', attempts: 1, n: 6 }]);
});
