import { sql } from 'drizzle-orm';
import { startedBy, type Trigger } from '@ascenso/core';
import type { Tx } from '../db/connect.ts';
import { rows } from '../db/rows.ts';
import { enterSequence, openSequence, toldBy } from './entering.ts';
import { endedEarly, keyOf, type When } from './passages.ts';
import { loadVersion } from '../db/versions.ts';
import { TOO_LATE } from './too-late.ts';

/** A passage under way that a newer event of its kind went into, after something that has only now been told. */
interface Mixed {
  id: string;
  sequence: string;
  event: string;
  key: string;
  /** When it was given its last email, epoch ms, or null. */
  mailed: number | null;
}

interface Newer {
  id: string;
  at: number;
  payload: Record<string, unknown>;
}

/**
 * Something is told that happened before what has gone into a passage since: a first cart was paid before the second one was
 * begun, and told after it. Where it ends the passage, the newer event begins one of its own, as it would have, had all been
 * told in their order. One about which the old passage has mailed already does not: that email has gone.
 */
export async function setRight(tx: Tx, ws: string, person: string, { at, now }: When): Promise<void> {
  const mixed = await rows<Mixed>(
    tx,
    sql`select v.id, v.sequence_id as sequence, v.entry_event as event, v.entry_key as key,
          (select max(t.value::bigint) from jsonb_each_text(v.step_times) t) as mailed
        from visits v where v.workspace_id = ${ws} and v.person_id = ${person} and v.status = 'active' and v.entry_event is not null and v.entered_at <= ${at} and v.entry_at > ${at}
        order by v.id`,
  );
  for (const v of mixed) {
    const open = await openSequence(tx, ws, v.sequence);
    if (!open) continue;
    const { sequence } = (await loadVersion(tx, ws, v.sequence, open.live_version)).run;
    const newer = (await newerThan(tx, ws, person, v.event, at)).filter(
      (e) =>
        keyOf(e.payload, sequence.entry.key) === v.key &&
        sequence.triggers.some((t: Trigger) => startedBy(t, { kind: 'event', event: v.event, payload: e.payload })),
    );
    const [first] = newer;
    if (!first || (v.mailed !== null && v.mailed >= first.at)) continue;
    if (!(await endedEarly(tx, ws, person, v.id, first.at))) continue;
    for (const e of newer.filter((n) => now - n.at <= TOO_LATE)) {
      const told = toldBy({ kind: 'event', event: v.event, payload: e.payload });
      await enterSequence(
        tx,
        ws,
        person,
        open,
        { id: e.id, event: v.event, entry: e.payload, told },
        { at: e.at, now },
      );
    }
  }
}

const newerThan = (tx: Tx, ws: string, person: string, name: string, at: number): Promise<Newer[]> =>
  rows<Newer>(
    tx,
    sql`select e.id, e.occurred_at as at, e.payload from events e
        where e.workspace_id = ${ws} and e.person_id = ${person} and e.name = ${name} and e.occurred_at > ${at} order by e.occurred_at, e.id limit 100`,
  );
