import { sql } from 'drizzle-orm';
import { emailsOfEvent, startedBy, type Happening, type TraceEntry, type Trigger } from '@ascenso/core';
import type { Executor, Tx } from '../db/connect.ts';
import { firstRow, rows } from '../db/rows.ts';
import { loadVersion } from '../db/versions.ts';
import { enterAll, type Cause, type OpenSequence, type When } from './passages.ts';
import { causeId, chainOf } from './visits.ts';

/** A sequence that starts another that starts another …: a chain of causes ends here (architecture, 19). */
const LONGEST_CHAIN = 8;

const OPEN = sql`s.status in ('live', 'paused') and s.live_version is not null`;

/** How the story tells of something that happened. */
export function toldBy(it: Happening): TraceEntry['data'] {
  switch (it.kind) {
    case 'event':
      return { event: it.event };
    case 'list':
      return { list: it.list, what: it.what };
    case 'tag':
      return { tag: it.tag, what: it.what };
    case 'reading':
      return { reading: it.what, of: it.sequence, email: it.step };
    case 'attribute':
      return {};
  }
}

/** The name of the attribute that started it is in the trigger, not in what happened. */
const toldAttribute = (triggers: readonly Trigger[], it: Happening): TraceEntry['data'] => {
  const trigger = triggers.find((t) => t.kind === 'attribute' && startedBy(t, it));
  return trigger?.kind === 'attribute' ? { attribute: trigger.test.field } : {};
};

/**
 * Starts the sequences that something starts for a person, in the caller's transaction. `id` tells it from every other
 * thing that happened; `chain` is how many sequences started each other before it.
 */
export async function happen(
  tx: Tx,
  ws: string,
  personId: string,
  it: Happening,
  id: string,
  when: When,
  chain = 0,
): Promise<void> {
  if (chain > LONGEST_CHAIN) return;
  const open = await rows<OpenSequence & { triggers: Trigger[] }>(
    tx,
    sql`select s.id, s.live_version, s.triggers from sequences s where s.workspace_id = ${ws} and ${OPEN}`,
  );
  for (const s of open)
    if (s.triggers.some((t) => startedBy(t, it)))
      await enterSequence(
        tx,
        ws,
        personId,
        s,
        {
          id: causeId(id, chain),
          event: it.kind === 'event' ? it.event : null,
          entry: it.kind === 'event' ? it.payload : {},
          told: it.kind === 'attribute' ? toldAttribute(s.triggers, it) : toldBy(it),
        },
        when,
      );
}

/** A sequence that people can enter now, or undefined. */
export const openSequence = (db: Executor, ws: string, id: string): Promise<OpenSequence | undefined> =>
  firstRow<OpenSequence>(
    db,
    sql`select s.id, s.live_version from sequences s where s.workspace_id = ${ws} and s.id::text = ${id} and ${OPEN}`,
  );

/**
 * Starts one sequence for a person because another one says so. A chain of these ends after eight. Answers what came of
 * it: they are inside, its rules kept them out, or there is nothing to enter.
 */
export async function startFrom(
  tx: Tx,
  ws: string,
  personId: string,
  sequence: string,
  from: { visit: string; sequence: string; step: string; cause: string },
  when: When,
): Promise<'started' | 'rules' | 'not-live'> {
  const chain = chainOf(from.cause) + 1;
  const open = chain > LONGEST_CHAIN ? undefined : await openSequence(tx, ws, sequence);
  if (!open) return 'not-live';
  // Published before this was asked of a step: its emails would speak of what nobody has done.
  if (emailsOfEvent((await loadVersion(tx, ws, open.id, open.live_version)).run.sequence).length > 0) return 'rules';
  const id = causeId(`start:${from.visit}:${from.step}`, chain);
  const cause = { id, event: null, entry: {}, told: { by: from.sequence } };
  return (await enterSequence(tx, ws, personId, open, cause, when)) ? 'started' : 'rules';
}

/** Lets one person into a sequence. Answers whether they are inside now because of it. */
export const enterSequence = async (
  tx: Tx,
  ws: string,
  person: string,
  s: OpenSequence,
  cause: Cause,
  { at, now }: When,
): Promise<boolean> => (await enterAll(tx, ws, s, [{ person, cause, at }], now)).has(person);
