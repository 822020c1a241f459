import { sql } from 'drizzle-orm';
import { roughLength, ruledSplits, type RuledSplit, type Sequence, type SplitRule } from '@ascenso/core';
import type { TestDecision } from '@ascenso/contracts';
import type { Executor, Tx } from '../db/connect.ts';
import { batch, rows } from '../db/rows.ts';

// Splits that decide themselves: set up with the version that has them, begun by the first who takes part, decided by the
// engine (../engine/deciding.ts).

/** Sets up the tests of a version that goes live: one whose arms or rule have changed begins anew, what was decided included. */
export async function setSplitTests(tx: Tx, ws: string, sequence: string, doc: Sequence): Promise<void> {
  const wanted = ruledSplits(doc).map(({ id, arms, rule }) => ({
    step: id,
    key: JSON.stringify([arms.map((a) => a.id), rule]),
    rule,
  }));
  await tx.execute(
    sql`delete from split_tests where workspace_id = ${ws} and sequence_id = ${sequence} and not step = any (${sql.param(wanted.map((t) => t.step))}::text[])`,
  );
  await tx.execute(sql`
    insert into split_tests (workspace_id, sequence_id, step, key, rule)
    select ${ws}, ${sequence}, n.step, n.key, n.rule from jsonb_to_recordset(${batch(wanted)}) as n(step text, key text, rule jsonb)
    on conflict (workspace_id, sequence_id, step) do update set key = excluded.key, rule = excluded.rule, first_at = null, next_at = null, arm = null, decided_at = null, settled = false, few = false
    where split_tests.key <> excluded.key`);
}

/** How often a test is looked at that is decided only once it is settled, ms. */
export const LOOK_EVERY = roughLength(6, 'hours');

/** The first have taken part: from now on the time of a test runs. Those that have begun stay as they are. */
export async function beginSplitTests(
  db: Executor,
  begun: readonly { w: string; sequence: string; step: RuledSplit; at: number; runsFrom: number }[],
): Promise<void> {
  if (begun.length === 0) return;
  const list = begun.map(({ w, sequence, step: { id, rule }, at, runsFrom }) => ({
    w,
    sequence,
    step: id,
    at,
    next: runsFrom + (rule.after ? roughLength(rule.after.amount, rule.after.unit) : LOOK_EVERY),
  }));
  await db.execute(sql`
    update split_tests t set first_at = n."at", next_at = n.next
    from (select distinct on (w, sequence, step) * from jsonb_to_recordset(${batch(list)}) as n(w uuid, sequence uuid, step text, "at" bigint, next bigint) order by w, sequence, step, "at") n
    where t.workspace_id = n.w and t.sequence_id = n.sequence and t.step = n.step and t.first_at is null`);
}

export interface SplitTestRow {
  workspace_id: string;
  sequence_id: string;
  step: string;
  rule: SplitRule;
  next_at: number | null;
  arm: string | null;
  decided_at: number | null;
  settled: boolean;
  few: boolean;
}

/** What a test has decided, or null. */
export const decisionOf = (t: SplitTestRow | undefined): TestDecision | null =>
  t?.arm != null && t.decided_at !== null
    ? { arm: t.arm, at: t.decided_at, measure: t.rule.measure, settled: t.settled, few: t.few }
    : null;

/** The tests of some sequences, as they stand. */
export const splitTestsOf = (db: Executor, sequences: readonly string[]): Promise<SplitTestRow[]> =>
  sequences.length === 0
    ? Promise.resolve([])
    : rows<SplitTestRow>(
        db,
        sql`select workspace_id, sequence_id, step, rule, next_at, arm, decided_at, settled, few from split_tests where sequence_id = any (${sql.param(sequences)}::uuid[])`,
      );
