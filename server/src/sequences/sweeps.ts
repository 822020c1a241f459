import { sql, type SQL } from 'drizzle-orm';
import { isSwept, MINUTE, momentRange, type Condition, type Sequence } from '@ascenso/core';
import type { Tx } from '../db/connect.ts';
import { matchingPeople } from '../db/conditions.ts';
import { NEVER } from '../db/leaving.ts';
import { firstRow, rows } from '../db/rows.ts';

/** Brings the list of who is in a segment up to date; answers who came in since it was looked at last. */
export async function newcomers(tx: Tx, ws: string, sequence: string, segment: string, now: number): Promise<string[]> {
  const row = await firstRow<{ rule: Condition }>(
    tx,
    sql`select rule from segments where workspace_id = ${ws} and id::text = ${segment}`,
  );
  const inside = row ? await matchingPeople(tx, ws, row.rule, now) : [];
  const those = sql`workspace_id = ${ws} and sequence_id = ${sequence} and segment_id::text = ${segment}`;
  await tx.execute(
    sql`delete from sweep_members where ${those} and not person_id = any (${sql.param(inside)}::uuid[])`,
  );
  const came = await rows<{ person_id: string }>(
    tx,
    sql`insert into sweep_members (workspace_id, sequence_id, segment_id, person_id)
        select ${ws}, ${sequence}, ${segment}::uuid, p from unnest(${sql.param(inside)}::uuid[]) p on conflict do nothing returning person_id`,
  );
  return came.map((c) => c.person_id);
}

/**
 * People who come in by a file are no newcomers to a segment (architecture, 15): they are noted as having been in it. `people`
 * selects their ids.
 */
export async function keepOutOfSegments(tx: Tx, ws: string, people: SQL, now: number): Promise<void> {
  const swept = await rows<{ sequence: string; segment: string; rule: Condition }>(
    tx,
    sql`select w.sequence_id as sequence, s.id as segment, s.rule from sweeps w join segments s on s.workspace_id = w.workspace_id and s.id::text = w.trigger->>'segment'
        where w.workspace_id = ${ws} and w.trigger->>'kind' = 'segment'`,
  );
  for (const { sequence, segment, rule } of swept) {
    const inside = await matchingPeople(tx, ws, rule, now, people);
    await tx.execute(
      sql`insert into sweep_members (workspace_id, sequence_id, segment_id, person_id)
          select ${ws}, ${sequence}, ${segment}, p from unnest(${sql.param(inside)}::uuid[]) p on conflict do nothing`,
    );
  }
}

/**
 * Sets up the sweeps of a version that goes live. What the version before it had goes on; a new one looks from now on, and
 * nobody who is in its segment already is taken in (architecture, 15); a moment takes in everybody, also where it has passed.
 */
export async function setSweeps(tx: Tx, ws: string, sequence: string, doc: Sequence, now: number): Promise<void> {
  const wanted = doc.triggers.filter(isSwept).map((trigger) => ({ key: JSON.stringify(trigger), trigger }));
  await tx.execute(
    sql`delete from sweeps where workspace_id = ${ws} and sequence_id = ${sequence} and not key = any (${sql.param(wanted.map((t) => t.key))}::text[])`,
  );
  const { grace, held } = (await firstRow<{ grace: number; held: boolean }>(
    tx,
    sql`select w.grace_minutes as grace, s.status = 'paused' as held from workspaces w join sequences s on s.workspace_id = w.id and s.id = ${sequence} where w.id = ${ws}`,
  )) ?? { grace: 0, held: false };
  for (const { key, trigger } of wanted) {
    // What would go out at once can be held for some minutes yet.
    const first = now + grace * MINUTE;
    const atOnce = trigger.kind === 'moment' && (momentRange(trigger)?.first ?? now) <= first;
    const made = await firstRow(
      tx,
      sql`insert into sweeps (workspace_id, sequence_id, key, trigger, swept_to, next_at, begun_at) values (${ws}, ${sequence}, ${key}, ${key}::jsonb, ${trigger.kind === 'moment' ? 0 : now}, ${atOnce ? (held ? NEVER : first) : now}, ${now})
          on conflict do nothing returning key`,
    );
    if (made && trigger.kind === 'segment') await newcomers(tx, ws, sequence, trigger.segment, now);
    if (made && trigger.kind === 'moment')
      await tx.execute(sql`update sequences set let_in_at = null where workspace_id = ${ws} and id = ${sequence}`);
  }
}
