import { and, eq, sql } from 'drizzle-orm';
import type { Program, Values } from '@ascenso/core';
import { newId } from '../app/ids.ts';
import type { SendKey } from '../mail/token.ts';
import type { Executor } from './connect.ts';
import { firstRow } from './rows.ts';
import { programs, sends, tests } from './schema/index.ts';

// Emails as they were sent: what their addresses lead back to.

const one = (key: SendKey) => and(eq(sends.workspaceId, key.workspaceId), eq(sends.id, key.sendId));

/** An email as it was filled, with the program that it was made of. */
export async function filledSend(
  db: Executor,
  key: SendKey,
): Promise<{ values: Values; to: string | null; sentAt: number | null; program: Program } | undefined> {
  const [row] = await db
    .select({ values: sends.values, to: sends.to, sentAt: sends.sentAt, program: programs.program })
    .from(sends)
    .innerJoin(programs, and(eq(programs.workspaceId, sends.workspaceId), eq(programs.hash, sends.programHash)))
    .where(one(key));
  return row?.values ? { ...row, values: row.values } : undefined;
}

/** Whom an email went to, and in whose name. */
export const recipientOf = (db: Executor, key: SendKey): Promise<{ to: string; name: string } | undefined> =>
  firstRow(
    db,
    sql`select coalesce(s."to", p.email) as "to", w.name from sends s join people p on p.workspace_id = s.workspace_id and p.id = s.person_id join workspaces w on w.id = s.workspace_id
        where s.workspace_id = ${key.workspaceId} and s.id = ${key.sendId}`,
  );

/** The moment that a timer of an email counts to, and its program. */
export async function timerOf(
  db: Executor,
  key: SendKey,
  n: number,
): Promise<{ hash: string; value: { at: number | null; language: string } | null } | undefined> {
  const [row] = await db.select({ hash: sends.programHash, values: sends.values }).from(sends).where(one(key));
  return row && { hash: row.hash, value: row.values?.timers?.[n] ?? null };
}

/** Keeps a test as it is sent: it counts nowhere. Answers its id. */
export async function keepTest(
  db: Executor,
  ws: string,
  test: { sequence: string; step: string; person: string; programHash: string; to: string; values: Values; at: number },
): Promise<string> {
  const id = newId();
  const { at } = test;
  await db.insert(sends).values({
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
    values: test.values,
    sentAt: at,
  });
  return id;
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
