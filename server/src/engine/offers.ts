import { sql } from 'drizzle-orm';
import { isUnique, plainCode, type Advanced, type Effect, type Facts, type Given } from '@ascenso/core';
import type { Tx } from '../db/connect.ts';
import { newId } from '../app/ids.ts';
import { batch, rows } from '../db/rows.ts';
import { holdCodes, type HeldCode } from './codes.ts';
import type { ClaimedRow } from './effects.ts';
import type { LoadedVersion } from './versions.ts';

type Open = Extract<Effect, { kind: 'open' }>;
interface Grant {
  w: string;
  person: string;
  offer: string;
  opened: number;
  closes: number | null;
  code: string | null;
  key: string | null;
}

/**
 * Opens the offers of a batch in its transaction: one deadline and one code for each person and offer. Codes are locked
 * before anything is decided, so that whoever is told that there is one gets it.
 */
export class OfferLedger {
  readonly #stock = new Map<string, HeldCode[]>();
  /** What this batch has given already: a person can be in it twice. */
  readonly #given = new Map<string, Given>();
  readonly #grants: Grant[] = [];

  /** `facts` by visit id. The people whose offers may be opened are locked already. */
  static async open(
    tx: Tx,
    claimed: readonly ClaimedRow[],
    facts: ReadonlyMap<string, Facts>,
    versionOf: (r: ClaimedRow) => LoadedVersion,
  ): Promise<OfferLedger> {
    const ledger = new OfferLedger();
    const wanted = new Map<string, { ws: string; offer: string; known: Facts; count: number }>();
    for (const r of claimed)
      for (const offer of versionOf(r).makes) {
        const known = facts.get(r.id);
        const fact = known?.offers?.[offer];
        if (!known || !fact || fact.given || !isUnique(fact.offer)) continue;
        const entry = wanted.get(`${r.workspace_id}/${offer}`) ?? { ws: r.workspace_id, offer, known, count: 0 };
        entry.count++;
        wanted.set(`${r.workspace_id}/${offer}`, entry);
      }
    for (const [key, { ws, offer, known, count }] of [...wanted].sort(([a], [b]) => (a < b ? -1 : 1))) {
      const doc = known.offers?.[offer]?.offer;
      if (doc) ledger.#stock.set(key, await holdCodes(tx, ws, offer, doc, count));
    }
    return ledger;
  }

  /** Facts with what this batch has given and what is left. */
  with(facts: Facts, row: ClaimedRow): Facts {
    if (!facts.offers) return facts;
    const offers = Object.fromEntries(
      Object.entries(facts.offers).map(([id, fact]) => {
        const stock = this.#stock.get(`${row.workspace_id}/${id}`);
        const given = this.#given.get(`${row.workspace_id}/${row.person_id}/${id}`) ?? fact.given;
        return [id, { ...fact, given, stock: stock === undefined ? fact.stock : stock.length > 0 }];
      }),
    );
    return { ...facts, offers };
  }

  /** Notes what has just been opened. */
  note(row: ClaimedRow, { effects }: Advanced): void {
    for (const e of effects) if (e.kind === 'open') this.#note(row, e);
  }

  #note(row: ClaimedRow, e: Open): void {
    const own = e.code === 'own' ? this.#stock.get(`${row.workspace_id}/${e.offer}`)?.shift() : undefined;
    if (e.code === 'own' && !own) throw new Error(`A code of offer ${e.offer} was promised and is not there.`);
    const same = e.code !== 'own' && e.code ? e.code.same : null;
    const code = own?.code ?? same;
    const key = own?.key ?? (same && plainCode(same));
    this.#given.set(`${row.workspace_id}/${row.person_id}/${e.offer}`, {
      openedAt: e.at,
      closesAt: e.closes,
      code,
      usedAt: null,
    });
    this.#grants.push({
      w: row.workspace_id,
      person: row.person_id,
      offer: e.offer,
      opened: e.at,
      closes: e.closes,
      code,
      key,
    });
  }

  async write(tx: Tx): Promise<void> {
    if (this.#grants.length === 0) return;
    const list = batch(this.#grants);
    await tx.execute(sql`
      with taken as (
        update offer_codes c set person_id = n.person from jsonb_to_recordset(${list}) as n(w uuid, person uuid, offer uuid, key text)
        where c.workspace_id = n.w and c.key = n.key and c.offer_id = n.offer)
      insert into offer_grants (workspace_id, person_id, offer_id, opened_at, closes_at, code, code_key)
      select n.w, n.person, n.offer, n.opened, n.closes, n.code, n.key
      from jsonb_to_recordset(${list}) as n(w uuid, person uuid, offer uuid, opened bigint, closes bigint, code text, key text)`);
  }
}

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
