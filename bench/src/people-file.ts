import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { sql } from 'drizzle-orm';
import { from as copyFrom } from 'pg-copy-streams';
import type { ImportPlan } from '@ascenso/core';
import { newId } from '../../server/src/app/ids.ts';
import { moveImport } from '../../server/src/db/imports.ts';
import { firstRow } from '../../server/src/db/rows.ts';
import { importRound, receiveFile } from '../../server/src/jobs/importing/index.ts';
import { inTurn } from './support/measure.ts';
import { NOW, openWorld } from './support/world.ts';

const ROWS = 1_000_000;
const HEADING = 'email,first_name,skill,plan,orders,born_on,glad,tags,zone,city\n';

/** A file of ten columns, in parts as they come from a socket. */
function* file(round: number): Generator<Buffer> {
  let part = HEADING;
  for (let i = 0; i < ROWS; i++) {
    part += `reader${i}@r${round}.example,"Marta, ${i}",new,paper club,${i % 40},19${10 + (i % 90)}-03-${String(1 + (i % 28)).padStart(2, '0')},${i % 2 ? 'yes' : 'no'},kit-owner;teacher,Europe/Lisbon,Lisboa ${i % 500}\n`;
    if (part.length > 60_000) {
      yield Buffer.from(part);
      part = '';
    }
  }
  yield Buffer.from(part);
}

/**
 * A million people of a file of ten columns, from its first byte to their last list, with what is told before: rows per
 * second against COPY of the same rows into a table of ten texts. Tells on stderr how much memory it took at most.
 */
export async function peopleFile(): Promise<void> {
  const { connection, ws, close } = await openWorld();
  const { db } = connection;
  let most = 0;
  const watch = setInterval(() => (most = Math.max(most, process.memoryUsage().rss)), 200);
  try {
    for (const [key, type] of [
      ['orders', 'number'],
      ['born_on', 'date'],
      ['glad', 'yes-no'],
      ['city', 'text'],
    ] as const)
      await db.execute(
        sql`insert into attributes (workspace_id, key, label, type, position) values (${ws}, ${key}, ${key}, ${type}, 20)`,
      );
    const list = newId();
    await db.execute(sql`insert into lists (workspace_id, id, name) values (${ws}, ${list}, 'Letters')`);
    const attribute = (key: string) => ({ to: 'attribute', key }) as const;
    const plan: ImportPlan = {
      columns: [
        { to: 'email' },
        ...['first_name', 'skill', 'plan', 'orders', 'born_on', 'glad'].map(attribute),
        { to: 'tags' },
        { to: 'zone' },
        attribute('city'),
      ],
      heading: true,
      days: 'ymd',
      decimal: '.',
      yes: ['yes'],
      no: ['no'],
      known: 'fill',
      lists: [list],
      tags: [],
      consent: 'They signed a card at the fair.',
      starts: [],
    };
    let round = 0;
    await inTurn(
      'people-file',
      'rows/s',
      {
        before: async () => {
          await db.execute(sql`truncate people, memberships, consents, import_rows, import_pieces, imports`);
        },
        run: async () => {
          const begun = performance.now();
          const told = (what: string) => console.error(`${what}: ${((performance.now() - begun) / 1000).toFixed(1)} s`);
          const id = await receiveFile(db, ws, { name: 'people.csv', by: 'Inês' }, Readable.from(file(round++)), NOW);
          told('received');
          await moveImport(db, ws, id, ['uploaded'], 'checking', plan);
          await importRound(connection, NOW, () => false);
          told('checked');
          await moveImport(db, ws, id, ['checked'], 'running');
          await importRound(connection, NOW, () => false);
          told('in');
          const made = await firstRow<{ n: number }>(db, sql`select count(*)::int as n from memberships`);
          if (made?.n !== ROWS) throw new Error(`Of ${ROWS} people ${made?.n} came in.`);
          return ROWS;
        },
      },
      {
        before: async () => {
          await db.execute(
            sql`create table if not exists copied (a text, b text, c text, d text, e text, f text, g text, h text, i text, j text)`,
          );
          await db.execute(sql`truncate copied`);
        },
        run: async () => {
          const client = await connection.pool.connect();
          await pipeline(
            Readable.from(file(round++)),
            client.query(copyFrom('copy copied from stdin with (format csv, header)')),
          );
          client.release();
          return ROWS;
        },
      },
      1,
    );
    console.error(`at most ${Math.round(most / 1e6)} MB of memory`);
  } finally {
    clearInterval(watch);
    await close();
  }
}
