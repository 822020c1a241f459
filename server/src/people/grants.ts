import { sql } from 'drizzle-orm';
import { newId } from '../app/ids.ts';
import type { Tx } from '../db/connect.ts';
import { batch, rows } from '../db/rows.ts';

// What people have been given of offers, after the engine has decided it.

/** A send by its key. */
export interface SendId {
  w: string;
  id: string;
}

/**
 * What was reserved for emails that have just been cancelled is free again, as long as no email has shown it and none
 * that will is on its way.
 */
export async function freeUnsent(tx: Tx, sends: readonly SendId[]): Promise<void> {
  if (sends.length === 0) return;
  await tx.execute(sql`
    with gone as (
      delete from offer_grants g using jsonb_to_recordset(${batch(sends)}) as n(w uuid, id uuid)
        join sends s on s.workspace_id = n.w and s.id = n.id
        join programs p on p.workspace_id = s.workspace_id and p.hash = s.program_hash
      where g.workspace_id = s.workspace_id and g.person_id = s.person_id and g.offer_id::text = p.program->>'offer' and g.issued_at is null
        and not exists (
          select 1 from sends o join programs q on q.workspace_id = o.workspace_id and q.hash = o.program_hash
          where o.workspace_id = g.workspace_id and o.person_id = g.person_id and o.id <> s.id and o.status in ('queued', 'leased') and q.program->>'offer' = g.offer_id::text)
      returning g.workspace_id, g.person_id, g.code_key)
    update offer_codes c set person_id = null from gone where c.workspace_id = gone.workspace_id and c.key = gone.code_key and c.person_id = gone.person_id`);
}

/** An email that shows an offer has been filled. */
export interface Shown {
  w: string;
  person: string;
  offer: string;
  /** Decided moment of the email, epoch ms. */
  at: number;
  visit: string;
  sequence: string;
  version: number;
  step: string;
  /** Address that is told of codes, or ''. */
  webhook: string;
}

/** What an email shows is the person's from now on; whoever is to be told of codes is told of the new ones. */
export async function markIssued(tx: Tx, shown: readonly Shown[]): Promise<void> {
  if (shown.length === 0) return;
  const fresh = await rows<{
    person: string;
    offer: string;
    code: string | null;
    closes: number | null;
    email: string;
  }>(
    tx,
    sql`update offer_grants g set issued_at = n."at" from jsonb_to_recordset(${batch(shown)}) as n(w uuid, person uuid, offer uuid, "at" bigint)
          join people p on p.workspace_id = n.w and p.id = n.person
        where g.workspace_id = n.w and g.person_id = n.person and g.offer_id = n.offer and g.issued_at is null
        returning g.person_id as person, g.offer_id as offer, g.code, g.closes_at as closes, p.email`,
  );
  const calls = fresh.flatMap((f) => {
    const from = shown.find((s) => s.person === f.person && s.offer === f.offer);
    if (!from?.webhook || f.code === null) return [];
    const until = f.closes === null ? null : new Date(f.closes).toISOString();
    const body = {
      type: 'code.issued',
      timestamp: new Date(from.at).toISOString(),
      data: { offer: f.offer, code: f.code, for: f.email, until },
    };
    return [{ ...from, id: newId(), text: JSON.stringify(body) }];
  });
  if (calls.length > 0)
    await tx.execute(sql`
      insert into notices (workspace_id, id, visit_id, sequence_id, version, step, person_id, kind, "to", text, status, due_at, next_at)
      select n.w, n.id, n.visit, n.sequence, n.version, n.step, n.person, 'call', n.webhook, n.text, 'queued', n."at", n."at"
      from jsonb_to_recordset(${batch(calls)}) as n(w uuid, id uuid, visit uuid, sequence uuid, version int, step text, person uuid, webhook text, text text, "at" bigint)
      on conflict do nothing`);
}
