import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { Writable } from 'node:stream';
import { stringify } from 'csv-stringify';
import { sql } from 'drizzle-orm';
import { COLUMNS_OF_EVERYBODY, type PersonRow } from '@ascenso/contracts';
import { joinParts, type Value } from '@ascenso/core';
import type { Executor } from '../db/connect.ts';
import { peopleWhere, type PeopleFilter } from '../db/people.ts';
import { rows } from '../db/rows.ts';
import { CSV } from './csv.ts';

/** People read at once: what is held of a file of any length. */
const BATCH = 1000;

interface Row extends PersonRow {
  /** Names of the lists that they have confirmed. */
  lists: string[];
}

const cell = (value: Value | undefined): string | number | boolean => {
  if (value === null || value === undefined) return '';
  return typeof value === 'object' ? joinParts(value) : value;
};

async function* people(db: Executor, ws: string, filter: PeopleFilter, keys: readonly string[]) {
  const [email, ...behind] = COLUMNS_OF_EVERYBODY;
  yield [email, ...keys, ...behind];
  let last: string | null = null;
  for (;;) {
    const found: Row[] = await rows<Row>(
      db,
      sql`select id, email, attributes, tags, points, zone, mail_status as "mailStatus", created_at as "createdAt",
            array(select l.name from memberships m join lists l on l.workspace_id = m.workspace_id and l.id = m.list_id
                  where m.workspace_id = people.workspace_id and m.person_id = people.id and m.state = 'confirmed' order by l.name) as lists
          from people where ${peopleWhere(ws, filter)} ${last === null ? sql`` : sql`and id > ${last}`} order by id limit ${BATCH}`,
    );
    for (const p of found)
      yield [
        p.email,
        ...keys.map((k) => cell(p.attributes[k])),
        p.zone ?? '',
        joinParts(p.tags),
        p.points,
        joinParts(p.lists),
        p.mailStatus,
        new Date(p.createdAt).toISOString(),
      ];
    const end = found.at(-1);
    if (found.length < BATCH || !end) return;
    last = end.id;
  }
}

/**
 * Writes the people of a filter as CSV, as they are read: a line of names, then one line for each. Attributes are columns by
 * their key; instants are ISO 8601. Brought in again, everybody is as they were: an import reads what stands here.
 */
export async function writePeople(
  db: Executor,
  ws: string,
  filter: PeopleFilter,
  into: Writable,
  signal: AbortSignal,
): Promise<void> {
  const attributes = await rows<{ key: string }>(
    db,
    sql`select key from attributes where workspace_id = ${ws} order by position, key`,
  );
  const lines = Readable.from(
    people(
      db,
      ws,
      filter,
      attributes.map((a) => a.key),
    ),
  );
  await pipeline(lines, stringify(CSV), into, { signal });
}
