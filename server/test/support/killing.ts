import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync } from 'node:fs';
import path from 'node:path';
import { sql } from 'drizzle-orm';
import request from 'supertest';
import type { Step } from '@ascenso/core';
import { firstRow } from '../../src/db/rows.ts';
import { cloudEvent, emailStep, type World } from './world.ts';

const ENGINE = path.resolve(import.meta.dirname, '../../dist/engine.js');

/** Waits until something holds, asking every few ms. Throws after `within` ms. */
export async function until(what: string, holds: () => Promise<boolean> | boolean, within = 120_000): Promise<void> {
  const end = Date.now() + within;
  while (!(await holds())) {
    if (Date.now() > end) throw new Error(`It did not come about in time that ${what}.`);
    await new Promise((resolve) => setTimeout(resolve, 5));
  }
}

/** An engine process as `npm start` runs it, on the world's database and mailbox. */
export async function startEngine(
  world: World,
  leaseMs: number,
  env: Record<string, string> = {},
): Promise<ChildProcess> {
  if (!existsSync(ENGINE)) throw new Error('The server has not been built: run the tests with "npm test".');
  const child = spawn('node', [ENGINE], {
    env: {
      ...process.env,
      DATABASE_URL: world.databaseUrl,
      SMTP_URL: `smtp://127.0.0.1:${world.mailbox.smtpPort}`,
      PUBLIC_BASE: world.sending.base,
      LEASE_MS: String(leaseMs),
      LOG_LEVEL: 'silent',
      ...env,
    },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  await new Promise<void>((resolve, reject) => {
    child.stdout?.once('data', () => resolve());
    child.once('exit', () => reject(new Error('An engine process ended before it was ready.')));
  });
  child.removeAllListeners('exit');
  return child;
}

export const ended = (child: ChildProcess) =>
  child.exitCode !== null || child.signalCode !== null
    ? Promise.resolve()
    : new Promise<void>((resolve) => child.once('exit', () => resolve()));

export interface KillResult {
  /** Messages that should have come, as "address subject". */
  expected: string[];
  /** Every message that came, by Message-ID: all its copies. */
  came: Map<string, { what: string; sources: string[] }>;
}

/**
 * Engine processes send to `people`; again and again one is killed with SIGKILL in the middle of its work and
 * replaced. Answers what should have come, two emails to each, and what came.
 */
export async function killRun(
  world: World,
  people: number,
  kills: number,
  leaseMs: number,
  { steps = [emailStep('First'), emailStep('Second')], processes = 2 }: { steps?: Step[]; processes?: number } = {},
): Promise<KillResult> {
  await world.live({
    name: 'Killed',
    triggers: [{ kind: 'event', event: 'kit.bought', where: [] }],
    list: null,
    steps,
  });
  const engines = await Promise.all(Array.from({ length: processes }, () => startEngine(world, leaseMs)));
  const came = () => world.mailbox.store.summaries.length;
  try {
    for (let at = 0; at < people; at += 500) {
      const batch = Array.from({ length: Math.min(500, people - at) }, (_, i) =>
        cloudEvent({ type: 'kit.bought', subject: `reader${at + i}@readers.example` }),
      );
      await request(world.app)
        .post('/intake/events')
        .set('Authorization', `Bearer ${world.key}`)
        .set('Content-Type', 'application/cloudevents-batch+json')
        .send(JSON.stringify(batch))
        .expect(202);
    }
    const begun = came();
    const total = people * 2;
    for (let k = 1; k <= kills; k++) {
      // Spread over the whole of the work, so that the last kill still finds some.
      const mark = begun + Math.floor(((total - begun) * k) / (kills + 1));
      await until(`${mark} messages have come before kill ${k}`, () => came() >= mark);
      const victim = engines.shift() as ChildProcess;
      victim.kill('SIGKILL');
      await ended(victim);
      engines.push(await startEngine(world, leaseMs));
    }
    await until('nothing is left to do', async () => {
      const left = await firstRow<{ n: number }>(
        world.connection.db,
        sql`select (select count(*) from sends where status in ('queued', 'leased')) + (select count(*) from visits where status = 'active') as n`,
      );
      return left?.n === 0;
    });
  } finally {
    for (const e of engines) e.kill('SIGTERM');
    await Promise.all(engines.map(ended));
  }
  const messages = new Map<string, { what: string; sources: string[] }>();
  for (const s of world.mailbox.store.summaries) {
    const known = messages.get(s.messageId) ?? { what: `${s.to} ${s.subject}`, sources: [] };
    known.sources.push(world.mailbox.store.source(s).toString('latin1'));
    messages.set(s.messageId, known);
  }
  const expected = Array.from({ length: people }, (_, i) =>
    ['First', 'Second'].map((subject) => `reader${i}@readers.example ${subject}`),
  ).flat();
  return { expected, came: messages };
}

/** Copies beyond one per message. */
export const extraCopies = ({ came }: KillResult) =>
  [...came.values()].reduce((sum, { sources }) => sum + sources.length - 1, 0);
