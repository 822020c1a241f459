import { sql } from 'drizzle-orm';
import { findStep, goesOnAt, LEAST_AHEAD, seenArm, verdictOf, zoneOf } from '@ascenso/core';
import { armResults } from '../db/arms.ts';
import type { Connection, Tx } from '../db/connect.ts';
import { batch, firstRow, rows } from '../db/rows.ts';
import { loadVersion } from '../db/versions.ts';
import { LOOK_EVERY, type SplitTestRow } from '../sequences/split-tests.ts';

interface Due extends SplitTestRow {
  live_version: number;
  currency: string;
}

/** An arm that is none: everybody goes on by lot. */
const BY_LOT = '';

/**
 * Which arm is ahead by now, and whether that is settled; null where the split is not in the live version any more. Where too
 * few took part nothing is ahead, and what was chosen for that is done.
 */
async function judged(tx: Tx, t: Due): Promise<{ arm: string; settled: boolean; few: boolean } | null> {
  const { run } = await loadVersion(tx, t.workspace_id, t.sequence_id, t.live_version);
  const step = findStep(run.sequence, t.step)?.step;
  if (step?.kind !== 'split') return null;
  const { tests } = await armResults(tx, t.workspace_id, t.sequence_id, t.currency);
  const seen = tests.find((r) => r.step === t.step)?.arms ?? [];
  const none = { people: 0, opened: 0, clicked: 0, goal: 0, ordered: 0, money: 0, squares: 0 };
  // An arm that is closed is no candidate.
  const arms = step.arms.filter((a) => a.weight > 0);
  const verdict = verdictOf(arms.map((a) => seenArm(seen.find((s) => s.arm === a.id) ?? none, t.rule.measure)));
  const took = (arm: string) => seen.find((s) => s.arm === arm)?.people ?? 0;
  const few = arms.some((a) => took(a.id) < LEAST_AHEAD);
  const leader = arms[few ? 0 : Math.max(0, verdict.leader)];
  if (!leader) return null;
  return { arm: few && t.rule.few === 'lot' ? BY_LOT : leader.id, settled: verdict.settled && !few, few };
}

/** Whoever waits for it goes on: it is their moment, or, of a send at an hour of their own clock, that hour when it comes next. */
async function letGo(tx: Tx, t: Due, now: number): Promise<void> {
  const { run } = await loadVersion(tx, t.workspace_id, t.sequence_id, t.live_version);
  const those = sql`v.workspace_id = ${t.workspace_id} and v.sequence_id = ${t.sequence_id} and v.step = ${t.step} and v.status = 'active'`;
  const found = await rows<{ zone: string }>(
    tx,
    sql`select distinct coalesce(p.zone, w.zone) as zone from visits v join people p on p.workspace_id = v.workspace_id and p.id = v.person_id join workspaces w on w.id = v.workspace_id where ${those}`,
  );
  const at = found.map(({ zone }) => ({ zone, at: goesOnAt(run.sequence, zoneOf(zone), now) }));
  await tx.execute(sql`
    update visits v set due_at = n."at", wake_at = n."at" from people p, workspaces w, jsonb_to_recordset(${batch(at)}) as n(zone text, "at" bigint)
    where ${those} and p.workspace_id = v.workspace_id and p.id = v.person_id and w.id = v.workspace_id and n.zone = coalesce(p.zone, w.zone)`);
}

/**
 * Decides one test whose time has come, or that is settled. Any number of processes may: each takes another. Those of
 * sequences that are held wait. Answers how many it looked at.
 */
export async function decideRound(connection: Connection, now: number): Promise<number> {
  return connection.db.transaction(async (tx) => {
    const t = await firstRow<Due>(
      tx,
      sql`select t.workspace_id, t.sequence_id, t.step, t.rule, t.next_at, t.arm, t.decided_at, t.settled, t.few, s.live_version, w.currency
          from split_tests t join sequences s on s.workspace_id = t.workspace_id and s.id = t.sequence_id join workspaces w on w.id = t.workspace_id
          where t.arm is null and t.next_at <= ${now} and s.status = 'live' order by t.next_at, t.workspace_id, t.sequence_id, t.step limit 1 for update of t skip locked`,
    );
    if (!t) return 0;
    const verdict = await judged(tx, t);
    const those = sql`workspace_id = ${t.workspace_id} and sequence_id = ${t.sequence_id} and step = ${t.step}`;
    if (!verdict) await tx.execute(sql`delete from split_tests where ${those}`);
    else if (t.rule.after || verdict.settled) {
      await tx.execute(
        sql`update split_tests set arm = ${verdict.arm}, decided_at = ${now}, settled = ${verdict.settled}, few = ${verdict.few}, next_at = null where ${those}`,
      );
      await letGo(tx, t, now);
    } else await tx.execute(sql`update split_tests set next_at = ${now + LOOK_EVERY} where ${those}`);
    return 1;
  });
}
