import { and, eq, isNotNull, isNull, or, sql, type SQL } from 'drizzle-orm';
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
  suppressed,
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

/** Keeps the ends of mail of a person who is erased, under the hash of their address: they are mailed no more. */
async function keepEnds(tx: Tx, ws: string, id: string): Promise<void> {
  const [ended] = await tx
    .select({
      email: people.email,
      unsubscribedAt: people.unsubscribedAt,
      bouncedAt: people.bouncedAt,
      complainedAt: people.complainedAt,
    })
    .from(people)
    .where(
      and(
        eq(people.workspaceId, ws),
        eq(people.id, id),
        or(isNotNull(people.unsubscribedAt), isNotNull(people.bouncedAt), isNotNull(people.complainedAt)),
      ),
    );
  if (!ended) return;
  const { email, ...ends } = ended;
  await tx
    .insert(suppressed)
    .values({ workspaceId: ws, hash: hashOf(ws, email), ...ends })
    .onConflictDoUpdate({ target: [suppressed.workspaceId, suppressed.hash], set: ends });
}

/** The ends of mail of an address whose person was erased, handed on to the one who has it now. */
export async function takeEndsOver(tx: Tx, ws: string, id: string, email: string): Promise<void> {
  const [ends] = await tx
    .delete(suppressed)
    .where(and(eq(suppressed.workspaceId, ws), eq(suppressed.hash, hashOf(ws, email))))
    .returning();
  if (!ends) return;
  const { unsubscribedAt, bouncedAt, complainedAt } = ends;
  await tx
    .update(people)
    .set({ unsubscribedAt, bouncedAt, complainedAt })
    .where(and(eq(people.workspaceId, ws), eq(people.id, id)));
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
 * whether there was one. An email that is being handed over just now still arrives.
 */
export async function erase(tx: Tx, ws: string, id: string, now: number): Promise<boolean> {
  const [person] = await tx
    .select({ email: people.email })
    .from(people)
    .where(and(eq(people.workspaceId, ws), eq(people.id, id)))
    .for('update');
  if (!person) return false;
  await keepEnds(tx, ws, id);
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
