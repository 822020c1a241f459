import { and, eq, isNull, sql, type SQL } from 'drizzle-orm';
import type { Tx } from '../db/connect.ts';
import {
  asks,
  consents,
  events,
  mailDays,
  memberships,
  notices,
  offerGrants,
  people,
  setAside,
  sweepMembers,
  sweptDates,
  traces,
} from '../db/schema/index.ts';
import { eraseLetters } from './letters.ts';
import { endVisits } from './visits.ts';

// Erasure: what is personal goes, what is counted stays (emails with their openings and clicks, passages, orders and
// uses of codes with their money), under an id that is nobody's any more.

/**
 * What an address is known by after its erasure: SHA-256 of the installation's secret, the workspace and the address, so
 * that nobody who reads the table can try addresses out.
 */
export const hashOf = (ws: string, email: string | SQL) =>
  sql<string>`encode(sha256(convert_to((select secret from installation where id = 1) || ${ws}::text || (${email})::text, 'UTF8')), 'hex')`;

/**
 * Keeps what a person who is erased has said no to, under the hash of their address: the ends of mail, and the lists that they
 * left. Of an ask that nobody confirmed (`forgotten`) an address that was put here by hand is shown as before.
 */
async function keepEnds(tx: Tx, ws: string, id: string, email: string, forgotten: boolean): Promise<void> {
  const hash = hashOf(ws, email);
  await tx.execute(sql`
    insert into suppressed (workspace_id, hash, unsubscribed_at, bounced_at, complained_at)
    select p.workspace_id, ${hash}, p.unsubscribed_at, p.bounced_at, p.complained_at from people p
    where p.workspace_id = ${ws} and p.id = ${id} and p.mail_status <> 'ok'
    on conflict (workspace_id, hash) do update set unsubscribed_at = excluded.unsubscribed_at, bounced_at = excluded.bounced_at,
      complained_at = excluded.complained_at, email = case when ${forgotten} then suppressed.email end, held_by = null`);
  // What they had taken back stands no longer; another address that was theirs keeps what was said of it.
  await tx.execute(sql`delete from suppressed where workspace_id = ${ws} and hash = ${hash} and held_by = ${id}`);
  await freeEnds(tx, ws, id);
  await tx.execute(sql`delete from left_lists where workspace_id = ${ws} and hash = ${hash}`);
  await tx.execute(sql`
    insert into left_lists (workspace_id, hash, list_id, at)
    select m.workspace_id, ${hash}, m.list_id, m.at from memberships m where m.workspace_id = ${ws} and m.person_id = ${id} and m.state = 'left'`);
}

/** Ends of mail that somebody held stand by themselves again: the address is nobody's. */
export const freeEnds = (tx: Tx, ws: string, id: string) =>
  tx.execute(sql`update suppressed set held_by = null where workspace_id = ${ws} and held_by = ${id}`);

/** What an address had said no to before its person was erased, handed on to the one who has it now. */
export async function takeEndsOver(tx: Tx, ws: string, id: string, email: string): Promise<void> {
  const hash = hashOf(ws, email);
  await tx.execute(sql`
    with ends as (update suppressed set held_by = ${id} where workspace_id = ${ws} and hash = ${hash} returning unsubscribed_at, bounced_at, complained_at)
    update people p set unsubscribed_at = ends.unsubscribed_at, bounced_at = ends.bounced_at, complained_at = ends.complained_at
    from ends where p.workspace_id = ${ws} and p.id = ${id}`);
  await tx.execute(sql`
    insert into memberships (workspace_id, person_id, list_id, state, at)
    select l.workspace_id, ${id}, l.list_id, 'left', l.at from left_lists l join lists on lists.workspace_id = l.workspace_id and lists.id = l.list_id
    where l.workspace_id = ${ws} and l.hash = ${hash} on conflict do nothing`);
}

/** Answers of receiving servers, and samples of events, may repeat what somebody is called or where they are written to. */
async function scrub(tx: Tx, ws: string, id: string, email: string): Promise<void> {
  await tx.execute(
    sql`update sender_health set answer = replace(answer, ${email}, '…') where workspace_id = ${ws} and position(${email} in answer) > 0`,
  );
  // A kind that was learned shows the first values that came: those of this person go, the next event brings others.
  await tx.execute(sql`
    update event_kinds k set sample = coalesce((
      select jsonb_object_agg(s.key, s.value) from jsonb_each(k.sample) s where not exists (
        select 1 from events e where e.workspace_id = k.workspace_id and e.person_id = ${id} and e.name = k.name and e.payload->s.key = s.value)), '{}')
    where k.workspace_id = ${ws} and k.learned and exists (
      select 1 from events e where e.workspace_id = k.workspace_id and e.person_id = ${id} and e.name = k.name)`);
}

/**
 * Erases a person, in the caller's transaction: address, attributes, events, story, and what emails were filled with. Answers
 * whether there was one. `forgotten` where it is only an ask that nobody confirmed. An email that is being handed over just now still arrives.
 */
export async function erase(tx: Tx, ws: string, id: string, now: number, forgotten = false): Promise<boolean> {
  const [person] = await tx
    .select({ email: people.email })
    .from(people)
    .where(and(eq(people.workspaceId, ws), eq(people.id, id)))
    .for('update');
  if (!person) return false;
  await keepEnds(tx, ws, id, person.email, forgotten);
  await scrub(tx, ws, id, person.email);
  await endVisits(tx, ws, { person: id }, now);
  await tx.execute(
    sql`update visits set entry = '{}', entry_key = '', step_times = '{}' where workspace_id = ${ws} and person_id = ${id}`,
  );
  await tx.execute(
    sql`update sends set status = case when status in ('queued', 'leased') then 'cancelled' else status end, lease_until = null, "to" = null, "values" = null, answer = null
        where workspace_id = ${ws} and person_id = ${id}`,
  );
  await tx.execute(
    sql`update offer_uses set person_id = null, answer = null where workspace_id = ${ws} and person_id = ${id}`,
  );
  await tx.execute(sql`update orders set number = null where workspace_id = ${ws} and person_id = ${id}`);
  // A code that was shown is used up, and good for whoever holds it; one that was only reserved is free again.
  await tx.execute(
    sql`update offer_codes c set person_id = null from offer_grants g
        where g.workspace_id = ${ws} and g.person_id = ${id} and g.issued_at is null and c.workspace_id = g.workspace_id and c.key = g.code_key`,
  );
  const reserved = and(eq(offerGrants.workspaceId, ws), eq(offerGrants.personId, id), isNull(offerGrants.issuedAt));
  await tx.delete(offerGrants).where(reserved);
  await tx.execute(
    sql`delete from import_rows where workspace_id = ${ws} and (person_id = ${id} or email = ${person.email})`,
  );
  // What an attribute of theirs was, before it was set for many, is kept for the way back: theirs goes.
  await tx.execute(sql`
    update bin set row = jsonb_set(row, '{people}', (select coalesce(jsonb_agg(e), '[]') from jsonb_array_elements(row->'people') e where e->>0 <> ${id}))
    where workspace_id = ${ws} and kind = 'set' and row->'people' @> jsonb_build_array(jsonb_build_array(${id}::text))`);
  await eraseLetters(tx, ws, id);
  for (const table of [
    memberships,
    asks,
    consents,
    events,
    traces,
    mailDays,
    notices,
    setAside,
    sweepMembers,
    sweptDates,
  ])
    await tx.delete(table).where(and(eq(table.workspaceId, ws), eq(table.personId, id)));
  await tx.delete(people).where(and(eq(people.workspaceId, ws), eq(people.id, id)));
  return true;
}
