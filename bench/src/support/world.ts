import { randomUUID } from 'node:crypto';
import path from 'node:path';
import { sql } from 'drizzle-orm';
import pg from 'pg';
import { bootstrap } from '../../../server/src/bootstrap.ts';
import { publish } from '../../../server/src/sequences/publishing.ts';
import { newId } from '../../../server/src/app/ids.ts';
import { connect, type Connection } from '../../../server/src/db/connect.ts';
import { SEND_LANES } from '../../../server/src/engine/loops.ts';
import { sendRound } from '../../../server/src/engine/send-loop.ts';
import { type SendSettings } from '../../../server/src/engine/settings.ts';
import { blankSequence, type Sequence, type Step } from '@ascenso/core';

export const NOW = Date.UTC(2026, 2, 6, 12);

/** A database of its own with one workspace, on the cluster that `npm run bench` started. */
export async function openWorld(): Promise<{ connection: Connection; ws: string; close: () => Promise<void> }> {
  const base = process.env.BENCH_DATABASE_URL;
  if (!base) throw new Error('BENCH_DATABASE_URL is not set: measure with "npm run bench".');
  const name = `bench_${randomUUID().replaceAll('-', '').slice(0, 16)}`;
  const admin = new pg.Client(base);
  await admin.connect();
  await admin.query(`create database ${name}`);
  const url = new URL(base);
  url.pathname = `/${name}`;
  const connection = connect(url.href);
  const { workspaceId: ws } = await bootstrap(connection, path.resolve('server/drizzle'), {
    workspace: { name: 'Foldwell Bindery', zone: 'Europe/Lisbon', currency: 'EUR' },
    users: [{ email: 'ines@foldwell.example', name: 'Inês Rocha', password: 'fold-along-the-grain', role: 'owner' }],
    attributes: ['first_name', 'skill', 'plan'].map((key) => ({ key, label: key, type: 'text' })),
    sender: { name: 'Inês at Foldwell', email: 'ines@foldwell.example' },
    practiceFrom: NOW,
  });
  await connection.db.execute(
    sql`update workspaces set style = style || '{"postalAddress":"Rua das Gáveas 12, Lisboa"}'`,
  );
  return {
    connection,
    ws,
    close: async () => {
      await connection.close();
      await admin.query(`drop database ${name}`);
      await admin.end();
    },
  };
}

/** Publishes a sequence of service mail and answers its id. */
export async function live(connection: Connection, ws: string, steps: Step[]): Promise<string> {
  const id = newId();
  const draft: Sequence = {
    ...blankSequence('Measured', null),
    triggers: [{ kind: 'event', event: 'kit.bought', where: [] }],
    steps,
  };
  await connection.db.execute(
    sql`insert into sequences (workspace_id, id, name, status, created_at, revision, draft) values (${ws}, ${id}, 'Measured', 'draft', 0, 0, ${JSON.stringify(draft)}::jsonb)`,
  );
  await connection.db.transaction((tx) => publish(tx, ws, id, 0, null, NOW));
  return id;
}

/** People 0 to n-1. */
export async function addPeople(connection: Connection, ws: string, n: number): Promise<void> {
  await connection.db.execute(sql`
    insert into people (workspace_id, id, email, attributes, created_at)
    select ${ws}, gen_random_uuid(), 'reader' || i || '@readers.example',
      jsonb_build_object('first_name', 'Marta ' || i, 'skill', 'new', 'plan', 'paper club'), ${NOW}
    from generate_series(0, ${n - 1}::int) i`);
}

/** Every person stands anew before the first step of a sequence, due now. */
export async function enterEverybody(
  connection: Connection,
  ws: string,
  sequence: string,
  first: string,
): Promise<void> {
  await connection.db.execute(sql`truncate visits, sends, traces`);
  await connection.db.execute(sql`
    insert into visits (workspace_id, id, sequence_id, version, person_id, cause_id, status, step, entered_at, arrived_at, due_at, wake_at, held, step_times, entry, entry_at)
    select workspace_id, gen_random_uuid(), ${sequence}, 1, id, 'bench', 'active', ${first}, ${NOW}, ${NOW}, ${NOW}, ${NOW}, false, '{}', '{}', ${NOW}
    from people where workspace_id = ${ws}`);
  await connection.db.execute(sql`analyze visits`);
}

/** Sends all that is decided, over as many lanes as an engine has. Answers how many. */
export async function sendAll(connection: Connection, settings: SendSettings, now: number): Promise<number> {
  let total = 0;
  const lane = async () => {
    for (let done = -1; done !== 0;) {
      done = await sendRound(connection, settings, now);
      total += done;
    }
  };
  await Promise.all(Array.from({ length: SEND_LANES }, lane));
  return total;
}
