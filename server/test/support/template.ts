import { createHash } from 'node:crypto';
import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import pg from 'pg';
import { connect } from '../../src/db/connect.ts';
import { migrateSchema } from '../../src/db/migrating.ts';

// A database with the schema as it is, made once for all tests of a cluster: each of them works on a copy.

/** The advisory lock of whoever makes it. */
const LOCK = 7_461_900;

const signOf = (migrations: string): string => {
  const hash = createHash('sha256');
  for (const file of readdirSync(migrations).filter((f) => f.endsWith('.sql')))
    hash.update(readFileSync(path.join(migrations, file)));
  return hash.digest('hex').slice(0, 12);
};

/**
 * Makes a database `name` on the cluster of an address, with the schema up to date and partitions around `now` (epoch ms).
 * Answers its address.
 */
export async function databaseFor(base: string, name: string, migrations: string, now: number): Promise<string> {
  const at = (database: string) => Object.assign(new URL(base), { pathname: `/${database}` }).href;
  const template = `template_${signOf(migrations)}`;
  const admin = new pg.Client(base);
  await admin.connect();
  try {
    await admin.query('select pg_advisory_lock($1)', [LOCK]);
    const { rowCount } = await admin.query('select 1 from pg_database where datname = $1', [template]);
    if (rowCount === 0) {
      // Under another name until it is whole: a run that was broken off leaves nothing half made behind.
      await admin.query(`drop database if exists ${template}_making`);
      await admin.query(`create database ${template}_making`);
      const connection = connect(at(`${template}_making`));
      await migrateSchema(connection, migrations, now);
      await connection.close();
      await admin.query(`alter database ${template}_making rename to ${template}`);
    }
    await admin.query('select pg_advisory_unlock($1)', [LOCK]);
    await admin.query(`create database ${name} template ${template} strategy file_copy`);
  } finally {
    await admin.end();
  }
  return at(name);
}
