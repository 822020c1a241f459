import { readFileSync } from 'node:fs';
import { sql } from 'drizzle-orm';
import { plainStyle } from '@ascenso/core';
import { followSeed } from './app/chance.ts';
import { ensureInstallation, noteRelease } from './app/clock.ts';
import { openConnection, readConfig } from './app/config.ts';
import { newId } from './app/ids.ts';
import { hashPassword } from './app/sessions.ts';
import type { Connection } from './db/connect.ts';
import { migrateSchema } from './db/migrating.ts';
import { declareOwnKinds } from './db/own-kinds.ts';
import { rows } from './db/rows.ts';
import release from '../package.json' with { type: 'json' };

/** What a new installation begins with, as JSON. */
export interface Bootstrap {
  workspace: { name: string; zone: string; currency: string };
  users: { email: string; name: string; password: string; role: 'owner' | 'editor' | 'reviewer' }[];
  attributes: { key: string; label: string; type: string; options?: string[] }[];
  sender: { name: string; email: string };
  /** Start of the practice clock, epoch ms, or null for the real clock. */
  practiceFrom: number | null;
}

/** Brings the schema up to date and, in an empty database, makes the workspace and its users. Answers whether it was new. */
export async function bootstrap(
  connection: Connection,
  migrations: string,
  what: Bootstrap,
): Promise<{ fresh: boolean; workspaceId: string }> {
  await migrateSchema(connection, migrations, what.practiceFrom ?? Date.now());
  const { db } = connection;
  await noteRelease(db, release.version);
  const [known, ...others] = await rows<{ id: string }>(db, sql`select id from workspaces`);
  // A release may bring kinds that an older one did not know.
  for (const { id } of known ? [known, ...others] : []) await declareOwnKinds(db, id);
  if (known) return { fresh: false, workspaceId: known.id };
  await ensureInstallation(db, what.practiceFrom);
  await noteRelease(db, release.version);
  return { fresh: true, workspaceId: await makeWorkspace(connection, what) };
}

/** A new workspace with its users, attributes and first sender. */
export async function makeWorkspace({ db }: Connection, what: Omit<Bootstrap, 'practiceFrom'>): Promise<string> {
  const ws = newId();
  const { workspace, sender } = what;
  await db.transaction(async (tx) => {
    await tx.execute(
      sql`insert into workspaces (id, name, zone, currency, style) values (${ws}, ${workspace.name}, ${workspace.zone}, ${workspace.currency}, ${JSON.stringify({ ...plainStyle, brand: workspace.name })}::jsonb)`,
    );
    for (const u of what.users) {
      const id = newId();
      await tx.execute(
        sql`insert into users (id, email, name, password_hash) values (${id}, ${u.email}, ${u.name}, ${await hashPassword(u.password)})`,
      );
      await tx.execute(sql`insert into members (workspace_id, user_id, role) values (${ws}, ${id}, ${u.role})`);
    }
    for (const [i, a] of what.attributes.entries())
      await tx.execute(
        sql`insert into attributes (workspace_id, key, label, type, options, position) values (${ws}, ${a.key}, ${a.label}, ${a.type}, ${sql.param(a.options ?? [])}::text[], ${i})`,
      );
    await tx.execute(
      sql`insert into senders (workspace_id, id, name, email, is_default, untouched, fields) values (${ws}, ${newId()}, ${sender.name}, ${sender.email}, true, true, '{}')`,
    );
    await declareOwnKinds(tx, ws);
  });
  return ws;
}

// An empty name asks only whether the settings can be read.
if (process.env.BOOTSTRAP_FILE === '') readConfig();
if (process.env.BOOTSTRAP_FILE) {
  const config = readConfig();
  if (config.seed) followSeed(`bootstrap ${config.seed.text}`, config.seed.from);
  const connection = openConnection(config);
  const result = await bootstrap(
    connection,
    config.migrations,
    JSON.parse(readFileSync(process.env.BOOTSTRAP_FILE, 'utf8')) as Bootstrap,
  );
  console.log(JSON.stringify(result));
  await connection.close();
}
