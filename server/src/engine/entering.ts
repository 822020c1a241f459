import { sql } from 'drizzle-orm';
import { enter, evaluate, readPath, testField, type Sequence } from '@ascenso/core';
import { newId } from '../app/ids.ts';
import type { Tx } from '../db/connect.ts';
import { firstRow, rows } from '../db/rows.ts';
import { loadFacts } from './facts.ts';
import { loadVersion, type LoadedVersion } from './versions.ts';

/** Something that can start sequences for one person. `id` makes it count once per sequence. */
export type Cause =
  | { kind: 'list'; id: string; list: string }
  | { kind: 'event'; id: string; event: string; payload: Record<string, unknown> };

interface LiveRow {
  id: string;
  live_version: number;
  trigger: Sequence['trigger'];
  reentry: Sequence['reentry'];
}

function starts(trigger: Sequence['trigger'], cause: Cause): boolean {
  if (trigger.kind === 'list') return cause.kind === 'list' && trigger.list === cause.list;
  return (
    cause.kind === 'event' &&
    trigger.event === cause.event &&
    trigger.where.every((t) => testField(t, readPath(cause.payload, t.field)))
  );
}

/**
 * Makes the visits that a cause starts, in the caller's transaction and under the person's lock, which decides "once"
 * and "again after leaving". `at` is the business clock, epoch ms.
 */
export async function enterSequences(
  tx: Tx,
  workspaceId: string,
  personId: string,
  cause: Cause,
  at: number,
): Promise<void> {
  const live = await rows<LiveRow>(
    tx,
    sql`select s.id, s.live_version, v.doc->'trigger' as trigger, v.doc->>'reentry' as reentry
        from sequences s join versions v on v.workspace_id = s.workspace_id and v.sequence_id = s.id and v.number = s.live_version
        where s.workspace_id = ${workspaceId} and s.status = 'live'`,
  );
  const started = live.filter((s) => starts(s.trigger, cause));
  if (started.length === 0) return;
  await tx.execute(sql`select 1 from people where workspace_id = ${workspaceId} and id = ${personId} for update`);
  for (const s of started) {
    const before = await firstRow<{ any: number; active: number }>(
      tx,
      sql`select count(*) as any, count(*) filter (where status = 'active') as active from visits
          where workspace_id = ${workspaceId} and sequence_id = ${s.id} and person_id = ${personId}`,
    );
    if ((before?.active ?? 0) > 0 || (s.reentry === 'once' && (before?.any ?? 0) > 0)) continue;
    const version = await loadVersion(tx, workspaceId, s.id, s.live_version);
    const entry = cause.kind === 'event' ? cause.payload : {};
    if (version.run.sequence.filter && !(await passesFilter(tx, workspaceId, personId, version, at))) {
      await tellEntry(tx, workspaceId, personId, newId(), s, at, 'not-entered', {});
      continue;
    }
    const visit = enter(newId(), s.id, s.live_version, version.run, at, entry);
    const made = await rows(
      tx,
      sql`insert into visits (workspace_id, id, sequence_id, version, person_id, cause_id, status, step, entered_at, arrived_at, due_at, next_due_at, held, step_times, entry)
          values (${workspaceId}, ${visit.id}, ${s.id}, ${s.live_version}, ${personId}, ${cause.id}, ${visit.status}, ${visit.step}, ${at}, ${at}, ${at}, ${at}, false, '{}', ${JSON.stringify(entry)}::jsonb)
          on conflict do nothing returning id`,
    );
    if (made.length === 0) continue;
    const data = cause.kind === 'event' ? { event: cause.event } : { list: cause.list };
    await tellEntry(tx, workspaceId, personId, visit.id, s, at, 'entered', data);
  }
}

/** Whether a person may enter, asked in the moment of entry: only what is known of them then can count. */
async function passesFilter(
  tx: Tx,
  workspaceId: string,
  personId: string,
  { run, needs }: LoadedVersion,
  at: number,
): Promise<boolean> {
  const wanted = { workspace_id: workspaceId, visit_id: personId, person_id: personId };
  const facts = await loadFacts(tx, [{ ...wanted, events: needs.events, emails: false, links: false }]);
  const known = facts.get(personId);
  const { filter } = run.sequence;
  return !filter || (known !== undefined && evaluate(filter, { facts: known, now: at, enteredAt: at, stepTimes: {} }));
}

async function tellEntry(
  tx: Tx,
  workspaceId: string,
  personId: string,
  visitId: string,
  s: LiveRow,
  at: number,
  code: 'entered' | 'not-entered',
  data: object,
): Promise<void> {
  await tx.execute(
    sql`insert into traces (workspace_id, person_id, id, visit_id, sequence_id, version, at, step, code, data)
        values (${workspaceId}, ${personId}, ${newId()}, ${visitId}, ${s.id}, ${s.live_version}, ${at}, null, ${code}, ${JSON.stringify(data)}::jsonb)`,
  );
}

/** A fact about a person changed: their visits are looked at now, so that a goal or a stop takes hold before the next email. */
export async function wakeVisits(tx: Tx, workspaceId: string, personId: string, at: number): Promise<void> {
  await tx.execute(
    sql`update visits set next_due_at = least(next_due_at, ${at}) where workspace_id = ${workspaceId} and person_id = ${personId} and status = 'active'`,
  );
}
