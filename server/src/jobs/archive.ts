import { PassThrough, Readable, type Writable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { stringify } from 'csv-stringify';
import { sql, type SQL } from 'drizzle-orm';
import { ZipFile } from 'yazl';
import { sequenceFileJsonSchema, workspaceFileJsonSchema } from '@ascenso/contracts';
import type { Executor } from '../db/connect.ts';
import { firstRow, rows } from '../db/rows.ts';
import { exportSequence } from '../db/sequence-file.ts';
import { suppressedAddresses } from '../db/suppressed.ts';
import { workspaceFile } from '../db/workspace-file.ts';
import { CSV } from './csv.ts';
import { writePeople } from './people-csv.ts';

/** Rows read at once: what is held of a table of any length. */
const BATCH = 2_000;

type Row = Record<string, string | number | null>;

/** A table as CSV, page by page behind the last `id` (a text that sorts as the query does). */
function csv(
  columns: readonly string[],
  page: (after: string) => Promise<(Row & { id: string })[]>,
): NodeJS.ReadableStream {
  async function* lines() {
    yield columns;
    for (let after = ''; ;) {
      const found = await page(after);
      for (const row of found) yield columns.map((c) => row[c] ?? '');
      const last = found.at(-1);
      if (found.length < BATCH || !last) return;
      after = last.id;
    }
  }
  const format = stringify(CSV);
  return Readable.from(lines())
    .on('error', (e) => format.destroy(e))
    .pipe(format);
}

/** Epoch ms as ISO 8601. */
const iso = (column: SQL) =>
  sql`to_char(to_timestamp(${column} / 1000.0) at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"')`;

const consents = (db: Executor, ws: string) =>
  csv(['email', 'at', 'list', 'what', 'how', 'source', 'words', 'where'], (after) =>
    rows(
      db,
      sql`select c.person_id || ' ' || c.id as id, p.email, ${iso(sql`c.at`)} as at, coalesce(l.name, '') as list, c.what, s.how, s.label as source, s.words, c."where"
          from consents c join people p on p.workspace_id = c.workspace_id and p.id = c.person_id
          join consent_sources s on s.workspace_id = c.workspace_id and s.id = c.source_id
          left join lists l on l.workspace_id = c.workspace_id and l.id = c.list_id
          where c.workspace_id = ${ws} and (c.person_id, c.id) > (${uuids(after)[0]}::uuid, ${uuids(after)[1]}::uuid) order by c.person_id, c.id limit ${BATCH}`,
    ),
  );

const emails = (db: Executor, ws: string) =>
  csv(['email', 'sequence', 'version', 'step', 'status', 'due', 'sent', 'opened', 'clicked', 'left'], (after) =>
    rows(
      db,
      sql`select s.id::text as id, coalesce(p.email, '') as email, q.name as sequence, s.version, s.step, s.status, ${iso(sql`s.due_at`)} as due, ${iso(sql`s.sent_at`)} as sent,
            ${iso(sql`s.opened_at`)} as opened, ${iso(sql`s.clicked_at`)} as clicked, ${iso(sql`s.left_at`)} as left
          from sends s join sequences q on q.workspace_id = s.workspace_id and q.id = s.sequence_id
          left join people p on p.workspace_id = s.workspace_id and p.id = s.person_id
          where s.workspace_id = ${ws} and s.visit_id is not null and s.id > ${uuids(after)[0]}::uuid order by s.id limit ${BATCH}`,
    ),
  );

const FIRST = '00000000-0000-0000-0000-000000000000';
const uuids = (after: string): [string, string] => {
  const [a = FIRST, b = FIRST] = after.split(' ').filter(Boolean);
  return [a, b];
};

/** Every event as one line of JSON, in the order of people and time. */
async function* events(db: Executor, ws: string): AsyncGenerator<string> {
  for (let last = { person: FIRST, at: 0, id: FIRST }; ;) {
    const found = await rows<{ person: string; at: number; id: string; email: string; line: string }>(
      db,
      sql`select e.person_id as person, e.occurred_at as at, e.id,
            jsonb_build_object('id', e.id, 'email', p.email, 'name', e.name, 'time', ${iso(sql`e.occurred_at`)}, 'data', e.payload)::text as line
          from events e join people p on p.workspace_id = e.workspace_id and p.id = e.person_id
          where e.workspace_id = ${ws} and (e.person_id, e.occurred_at, e.id) > (${last.person}::uuid, ${last.at}, ${last.id}::uuid)
          order by e.person_id, e.occurred_at, e.id limit ${BATCH}`,
    );
    if (found.length > 0) yield `${found.map((f) => f.line).join('\n')}\n`;
    const end = found.at(-1);
    if (found.length < BATCH || !end) return;
    last = end;
  }
}

async function* noMail(db: Executor, ws: string) {
  yield ['email', 'why', 'since'];
  for await (const page of suppressedAddresses(db, ws, {}))
    for (const r of page) yield [r.email, r.why, new Date(r.at).toISOString()];
}

/** What a name can be in any file system; told apart by the beginning of the id. */
const fileName = ({ id, name }: { id: string; name: string }, end: string): string =>
  `${name.replace(/[^\p{L}\p{N} ._-]+/gu, '_').slice(0, 80)} ${id.slice(-6)}${end}`;

const README = `Everything of one workspace, as it was at the moment of the export.

workspace.json           what it is set up with; workspace.schema.json describes it (JSON Schema, draft 2020-12)
people.csv               everybody, with attributes, tags, lists and points
consents.csv             who agreed to what, when and how, and took it back
no-mail.csv              addresses that get no mail, and why
events.jsonl             what people did: one JSON object on each line
emails.csv               every email that was decided, with what became of it
sequences/               each draft as a file that can be imported; sequence.schema.json describes them
files/                   pictures and documents of the library

CSV as RFC 4180, UTF-8 with its mark; times are ISO 8601 in UTC. A cell that a spreadsheet would run as a formula begins with an
apostrophe. Keys, passwords, secrets and unused codes are not in here, nor what was erased.
`;

/** Writes everything of a workspace as one ZIP archive, as it is read: no part of it is held as a whole but single files. */
export async function writeArchive(
  db: Executor,
  ws: string,
  user: string,
  into: Writable,
  signal: AbortSignal,
): Promise<void> {
  const nameOf = (kind: 'sequences' | 'files', thing: { id: string; name: string }) => {
    const dot = thing.name.lastIndexOf('.');
    const end = kind === 'sequences' ? '.json' : dot > 0 ? thing.name.slice(dot) : '';
    return `${kind}/${fileName({ ...thing, name: end && kind === 'files' ? thing.name.slice(0, dot) : thing.name }, end)}`;
  };
  const zip = new ZipFile();
  const text = (what: string, at: string) => zip.addBuffer(Buffer.from(what), at);
  const lazily = (at: string, make: () => NodeJS.ReadableStream) =>
    zip.addReadStreamLazy(at, (give) => give(null, make()));
  const setUp = await workspaceFile(db, ws, user, nameOf);
  text(README, 'README.txt');
  text(JSON.stringify(setUp, null, 2), 'workspace.json');
  text(JSON.stringify(workspaceFileJsonSchema(), null, 2), 'workspace.schema.json');
  text(JSON.stringify(sequenceFileJsonSchema(), null, 2), 'sequences/sequence.schema.json');
  lazily('people.csv', () => {
    const out = new PassThrough();
    writePeople(db, ws, { search: '' }, out, signal).catch((e: Error) => out.destroy(e));
    return out;
  });
  lazily('consents.csv', () => consents(db, ws));
  lazily('no-mail.csv', () => {
    const format = stringify(CSV);
    return Readable.from(noMail(db, ws))
      .on('error', (e) => format.destroy(e))
      .pipe(format);
  });
  lazily('emails.csv', () => emails(db, ws));
  lazily('events.jsonl', () => Readable.from(events(db, ws)));
  for (const s of setUp.sequences)
    lazily(s.file, () =>
      Readable.from(
        (async function* () {
          yield JSON.stringify(await exportSequence(db, ws, s.id));
        })(),
      ),
    );
  for (const f of setUp.files)
    lazily(f.file, () =>
      Readable.from(
        (async function* () {
          const found = await firstRow<{ content: Buffer }>(
            db,
            sql`select content from files where workspace_id = ${ws} and id = ${f.id}`,
          );
          if (found) yield found.content;
        })(),
      ),
    );
  zip.end();
  const out = zip.outputStream as Readable;
  zip.on('error', (e: Error) => out.destroy(e));
  await pipeline(out, into, { signal });
}
