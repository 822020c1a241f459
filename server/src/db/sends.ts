import { and, eq, isNull, sql } from 'drizzle-orm';
import type { HouseStyle, Program, Values } from '@ascenso/core';
import { idAt, newId } from '../app/ids.ts';
import type { SendKey } from '../mail/token.ts';
import type { Executor, Tx } from './connect.ts';
import { packValues, unpackValues } from './packed.ts';
import { firstRow, rows } from './rows.ts';
import { programs, sends, tests } from './schema/index.ts';
import { loadProgram } from './versions.ts';

// Emails as they were sent: what their addresses lead back to.

const one = (key: SendKey) => and(eq(sends.workspaceId, key.workspaceId), eq(sends.id, key.sendId));

const itsProgram = and(eq(programs.workspaceId, sends.workspaceId), eq(programs.hash, sends.programHash));

/** An email as it was filled, with the program that it was made of. */
export async function filledSend(
  db: Executor,
  key: SendKey,
): Promise<{ values: Values; to: string | null; sentAt: number | null; program: Program } | undefined> {
  const [row] = await db
    .select({
      values: sends.values,
      to: sends.to,
      sentAt: sends.sentAt,
      program: programs.program,
      dictionary: programs.dictionary,
    })
    .from(sends)
    .innerJoin(programs, itsProgram)
    .where(one(key));
  return row?.values ? { ...row, values: unpackValues(row.values, row.dictionary) } : undefined;
}

/** Whom an email went to, as the page for leaving meets them. */
export interface SendReader {
  person: string;
  to: string;
  zone: string;
  pausedUntil: number | null;
  pace: number | null;
  /** What is known of their language, or null; and whether the workspace keeps one. */
  language: string | null;
  hasLanguage: boolean;
  style: HouseStyle;
}

export const readerOfSend = (db: Executor, key: SendKey): Promise<SendReader | undefined> =>
  firstRow(
    db,
    sql`select p.id as person, coalesce(s."to", p.email) as "to", coalesce(p.zone, w.zone) as zone, p.paused_until as "pausedUntil", p.pace, p.attributes->>'language' as language,
          exists (select 1 from attributes a where a.workspace_id = p.workspace_id and a.key = 'language' and a.type = 'text') as "hasLanguage", w.style
        from sends s join people p on p.workspace_id = s.workspace_id and p.id = s.person_id join workspaces w on w.id = s.workspace_id
        where s.workspace_id = ${key.workspaceId} and s.id = ${key.sendId}`,
  );

/** The moment that a timer of an email counts to, and its program. */
export async function timerOf(
  db: Executor,
  key: SendKey,
  n: number,
): Promise<{ hash: string; value: { at: number | null; language: string } | null } | undefined> {
  const [row] = await db
    .select({ hash: sends.programHash, values: sends.values, dictionary: programs.dictionary })
    .from(sends)
    .innerJoin(programs, itsProgram)
    .where(one(key));
  const values = row?.values && unpackValues(row.values, row.dictionary);
  return row && { hash: row.hash, value: values?.timers?.[n] ?? null };
}

/** The same test within this is one that was asked for twice, ms. */
const ASKED_TWICE = 10_000;

/**
 * Keeps a test as it is sent: it counts nowhere. Answers its id; undefined where the same one has just been asked for (a
 * double click).
 */
export async function keepTest(
  tx: Tx,
  ws: string,
  test: { sequence: string; step: string; person: string; programHash: string; to: string; values: Values; at: number },
): Promise<string | undefined> {
  const { at } = test;
  const { dictionary } = await loadProgram(tx, ws, test.programHash);
  const values = packValues(test.values, dictionary);
  await tx.execute(sql`select pg_advisory_xact_lock(hashtextextended(${`${ws} ${test.step} ${test.to}`}, 0))`);
  const twice = await firstRow(
    tx,
    sql`select 1 from sends where workspace_id = ${ws} and id > ${idAt(Date.now() - ASKED_TWICE)} and visit_id is null and sequence_id = ${test.sequence}
        and step = ${test.step} and person_id = ${test.person} and program_hash = ${test.programHash} and "to" = ${test.to} and "values" = ${values}`,
  );
  if (twice) return undefined;
  const id = newId();
  await tx.insert(sends).values({
    workspaceId: ws,
    id,
    visitId: null,
    sequenceId: test.sequence,
    version: 0,
    step: test.step,
    personId: test.person,
    programHash: test.programHash,
    status: 'sent',
    dueAt: at,
    nextAt: at,
    to: test.to,
    values,
    sentAt: at,
  });
  return id;
}

/** Forgets a test that was not taken. */
export async function forgetTest(db: Executor, key: SendKey): Promise<void> {
  await db.delete(sends).where(and(one(key), isNull(sends.visitId)));
}

/** Which of these ids are emails, or messages to the team, of one workspace. */
export async function ownMail(db: Executor, ws: string, ids: readonly string[]): Promise<Set<string>> {
  const found = await rows<{ id: string }>(
    db,
    sql`with asked as (select unnest(${sql.param(ids)}::uuid[]) as id)
        select s.id from asked a join sends s on s.workspace_id = ${ws} and s.id = a.id
        union all select n.id from asked a join notices n on n.workspace_id = ${ws} and n.id = a.id`,
  );
  return new Set(found.map((f) => f.id));
}

/** Notes that an email has been tested as it is now. */
export async function noteTested(
  db: Executor,
  ws: string,
  tested: { sequenceId: string; step: string; sign: string; at: number },
): Promise<void> {
  await db
    .insert(tests)
    .values({ workspaceId: ws, ...tested })
    .onConflictDoUpdate({
      target: [tests.workspaceId, tests.sequenceId, tests.step],
      set: { sign: tested.sign, at: tested.at },
    });
}

/** Id of the person that an email was sent to; undefined for a test. */
export const personOfSend = async (db: Executor, key: SendKey): Promise<string | undefined> =>
  (
    await firstRow<{ person: string }>(
      db,
      sql`select person_id as person from sends where workspace_id = ${key.workspaceId} and id = ${key.sendId} and visit_id is not null`,
    )
  )?.person;
