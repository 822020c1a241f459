import { sql } from 'drizzle-orm';
import type { Tx } from '../db/connect.ts';
import { firstRow } from '../db/rows.ts';
import { noteConsent, sequenceSource, type ConsentSource } from './consent.ts';
import { happen } from './entering.ts';
import { openMailAgain } from './permission.ts';
import { wakeVisits } from './visits.ts';

/**
 * Who changes a membership: the person themself (a form, or a shop that tells when they confirmed), somebody of the team,
 * or a step of a passage. Only the first two are a consent that opens mail again after an unsubscribe; and of a shop only
 * what it tells with its moment: one that sends all its people every night confirms nobody anew.
 */
export type By =
  | { kind: 'owner'; confirmedAt: number | null; source: ConsentSource; where?: string | null }
  | { kind: 'team'; source: ConsentSource }
  | { kind: 'visit'; visit: string; chain: number };

/** Sets a membership at `now`. Confirming anew what is confirmed changes nothing, unless mail had been stopped since. */
export async function setMembership(
  tx: Tx,
  ws: string,
  personId: string,
  listId: string,
  state: 'confirmed' | 'left',
  now: number,
  by: By,
): Promise<void> {
  const consent = by.kind === 'team' ? now : by.kind === 'owner' ? by.confirmedAt : null;
  const reopened =
    state === 'confirmed' &&
    consent !== null &&
    (await openMailAgain(tx, ws, personId, listId, now, { by, at: consent }));
  const visit = by.kind === 'visit' ? by.visit : null;
  // Who has left a list stays off it, until they confirm it after that.
  const changed = await firstRow(
    tx,
    sql`insert into memberships (workspace_id, person_id, list_id, state, at, by_visit) values (${ws}, ${personId}, ${listId}, ${state}, ${now}, ${visit})
        on conflict (workspace_id, person_id, list_id) do update set state = excluded.state, at = excluded.at, by_visit = excluded.by_visit
          where memberships.state <> excluded.state and (${by.kind !== 'owner'} or memberships.state <> 'left' or memberships.at <= ${consent ?? -1}) or ${reopened}
        returning list_id`,
  );
  if (!changed) return;
  const what = state === 'confirmed' ? 'joined' : 'left';
  await noteConsent(tx, ws, personId, {
    list: listId,
    what,
    at: (state === 'confirmed' && consent) || now,
    source: by.kind === 'visit' ? await sequenceSource(tx, ws, by.visit) : by.source,
    where: by.kind === 'owner' ? (by.where ?? null) : null,
  });
  await wakeVisits(tx, ws, personId, now);
  const chain = by.kind === 'visit' ? by.chain : 0;
  const id = `list:${listId}:${what}:${now}`;
  await happen(tx, ws, personId, { kind: 'list', list: listId, what }, id, { at: now, now }, chain);
}
