import { eq, sql } from 'drizzle-orm';
import type { ImportCounts } from '@ascenso/contracts';
import { rowReader, type Knowing } from '@ascenso/core';
import { businessNow } from '../../app/clock.ts';
import { newId } from '../../app/ids.ts';
import type { Connection, Db } from '../../db/connect.ts';
import { firstRow, rows } from '../../db/rows.ts';
import { attributes, lists } from '../../db/schema/index.ts';
import { hashOf } from '../../people/erasing.ts';
import { finish, noteProgress, type Job } from './job.ts';
import { changes, mine } from './merging.ts';
import { readRows, type FileRow } from './reading.ts';
import { array, copyInto, escaped, NOTHING } from './staging.ts';
import { countStarts } from './starting.ts';

const NONE = `\t${NOTHING}`;
const STAGED =
  'import_rows (workspace_id, import_id, n, line, email, attributes, zone, tags, lists, consent_at, mail, fault, person_id, before)';

/** What has to be known to read the people of a workspace. */
async function knowledgeOf(db: Db, ws: string, either: (text: string) => void): Promise<Knowing> {
  const known = await db.select().from(attributes).where(eq(attributes.workspaceId, ws));
  const named = await db.select().from(lists).where(eq(lists.workspaceId, ws));
  return {
    attributes: new Map(known.map((a) => [a.key, { type: a.type, label: a.label, options: a.options }])),
    lists: new Map(named.map((l) => [l.name.toLowerCase(), l.id])),
    now: await businessNow(db),
    either,
  };
}

/** Makes the lines of `STAGED`: a row as it is kept until the people are taken in. Of one that cannot be read, its cells are kept. */
function stager(job: Job, knowing: Knowing): (row: FileRow, n: number) => string {
  const reader = rowReader(job.plan, knowing);
  const shown = (text: string) => text.replaceAll('\u0000', '');
  return (row, n) => {
    const place = `${job.ws}\t${job.id}\t${n}\t${row.line}`;
    const read = row.broken ? { fault: 'A quotation mark stands in the middle of a cell.' } : reader(row.cells);
    if ('fault' in read)
      return `${place}${NONE.repeat(7)}\t${escaped(shown(read.fault))}${NONE}\t${escaped(JSON.stringify(row.cells.map(shown)))}`;
    const [zone, consentAt, mail] = [read.zone ?? NOTHING, read.consentAt ?? NOTHING, read.mail ?? NOTHING];
    return `${place}\t${escaped(read.email)}\t${escaped(JSON.stringify(read.attributes))}\t${zone}\t${array(read.tags)}\t${array(read.lists)}\t${consentAt}\t${mail}${NONE}\t${newId()}${NONE}`;
  };
}

/** Rows that are written at once. */
const AT_ONCE = 4_000;

/** What a file came to: how many rows, and the numbers among them that could be read another way. */
type Staged = { total: number } & Pick<ImportCounts, 'either' | 'eitherAs'>;

/** Reads the whole file into the database, row by row, with what is wrong with each. */
async function stage(connection: Connection, job: Job): Promise<Staged> {
  const { db } = connection;
  let [either, eitherAs] = [0, null as string | null];
  const line = stager(
    job,
    await knowledgeOf(db, job.ws, (text) => {
      either++;
      eitherAs ??= text;
    }),
  );
  let n = 0;
  let heading = job.plan.heading;
  let lines: string[] = [];
  let writing: Promise<void> = Promise.resolve();
  const total = Math.round(job.file.bytes / 1000);
  const write = async (read: number) => {
    // While the database takes these, the next are read.
    await writing;
    await noteProgress(db, job, read, total);
    writing = copyInto(connection, STAGED, lines);
    writing.catch(() => undefined);
    lines = [];
  };
  for await (const { rows: batch, read } of readRows(db, job.ws, job.id, job.file)) {
    for (const row of batch) {
      if (heading) heading = false;
      else lines.push(line(row, n++));
    }
    if (lines.length >= AT_ONCE) await write(read);
  }
  await write(total);
  await writing;
  return { total: n, either, eitherAs };
}

async function count(db: Db, job: Job, { either, eitherAs }: Staged): Promise<ImportCounts> {
  const told = await firstRow<Omit<ImportCounts, 'starts' | 'started' | 'kept' | 'either' | 'eitherAs'>>(
    db,
    sql`select count(*)::int as rows, count(r.fault)::int as faults,
          (count(*) filter (where r.fault is null and p.id is null))::int as fresh,
          (count(*) filter (where p.id is not null and ${changes(job)}))::int as changed,
          (count(*) filter (where p.id is not null and not ${changes(job)}))::int as same,
          (count(*) filter (where r.mail <> 'ok' or p.mail_status <> 'ok'))::int as suppressed
        from import_rows r left join people p on p.workspace_id = r.workspace_id and p.email = r.email and r.fault is null
        where ${mine(job)}`,
  );
  // Hashing every address is worth it only where there is any to be found.
  const erased = await firstRow<{ n: number }>(
    db,
    sql`with known as materialized (select hash from suppressed where workspace_id = ${job.ws} and held_by is null)
        select count(*)::int as n from import_rows r where ${mine(job)} and r.fault is null and coalesce(r.mail, 'ok') = 'ok'
          and exists (select 1 from known) and ${hashOf(job.ws, sql`r.email`)} in (select hash from known)`,
  );
  return {
    ...(told ?? { rows: 0, faults: 0, fresh: 0, changed: 0, same: 0, suppressed: 0 }),
    suppressed: (told?.suppressed ?? 0) + (erased?.n ?? 0),
    starts: await countStarts(db, job),
    started: 0,
    kept: 0,
    either,
    eitherAs,
  };
}

/** Reads a file with its plan, and tells what would come of it. Nobody is changed. */
export async function check(connection: Connection, job: Job): Promise<void> {
  const { db } = connection;
  await db.execute(sql`delete from import_rows r where ${mine(job)}`);
  const staged = await stage(connection, job);
  const { total } = staged;
  // Planned by what the table held before, the next statement would go through every row for every row.
  await db.execute(sql`analyze import_rows`);
  // The first row with an address counts.
  await db.execute(sql`
    with twice as materialized (
      select email, min(n) as first from import_rows r where ${mine(job)} and fault is null group by email having count(*) > 1)
    update import_rows r set fault = 'This address stands in line ' || f.line || ' already.', email = null
    from twice t join import_rows f on f.workspace_id = ${job.ws} and f.import_id = ${job.id} and f.n = t.first
    where ${mine(job)} and r.fault is null and r.email = t.email and r.n > t.first`);
  await noteProgress(db, job, job.total, job.total);
  const counts = await count(db, job, staged);
  await db.execute(
    sql`update imports set total = ${total}, done = 0 where workspace_id = ${job.ws} and id = ${job.id}`,
  );
  await finish(db, job, 'checked', { counts });
}

/** The rows of an import that cannot be read, a page at a time, in order. */
export const faultsOf = (db: Db, ws: string, id: string, after: number, limit: number) =>
  rows<{ n: number; line: number; why: string; cells: string[] | null }>(
    db,
    sql`select n, line, fault as why, before as cells from import_rows where workspace_id = ${ws} and import_id = ${id} and fault is not null and n > ${after} order by n limit ${limit}`,
  );
