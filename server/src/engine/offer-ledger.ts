import { sql } from 'drizzle-orm';
import { isUnique, plainCode, type Advanced, type Discount, type Effect, type Facts, type Given } from '@ascenso/core';
import type { Tx } from '../db/connect.ts';
import { batch } from '../db/rows.ts';
import { holdCodes, type HeldCode } from './codes.ts';
import type { LoadedVersion } from '../db/versions.ts';
import type { ClaimedRow } from './effects.ts';

type GrantEffect = Extract<Effect, { kind: 'grant' }>;
interface Grant {
  w: string;
  person: string;
  offer: string;
  opened: number;
  closes: number | null;
  code: string | null;
  key: string | null;
  discount: Discount;
}

/**
 * Gives the offers of a batch in its transaction: one deadline and one code for each person and offer. Codes are locked
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

  /** Notes what has just been given. */
  note(row: ClaimedRow, { effects }: Advanced): void {
    for (const e of effects) if (e.kind === 'grant') this.#note(row, e);
  }

  #note(row: ClaimedRow, e: GrantEffect): void {
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
      discount: e.discount,
    });
    this.#grants.push({
      w: row.workspace_id,
      person: row.person_id,
      offer: e.offer,
      opened: e.at,
      closes: e.closes,
      code,
      key,
      discount: e.discount,
    });
  }

  async write(tx: Tx): Promise<void> {
    if (this.#grants.length === 0) return;
    const list = batch(this.#grants);
    await tx.execute(sql`
      with taken as (
        update offer_codes c set person_id = n.person from jsonb_to_recordset(${list}) as n(w uuid, person uuid, offer uuid, key text)
        where c.workspace_id = n.w and c.key = n.key and c.offer_id = n.offer)
      insert into offer_grants (workspace_id, person_id, offer_id, opened_at, closes_at, code, code_key, discount)
      select n.w, n.person, n.offer, n.opened, n.closes, n.code, n.key, n.discount
      from jsonb_to_recordset(${list}) as n(w uuid, person uuid, offer uuid, opened bigint, closes bigint, code text, key text, discount jsonb)`);
  }
}
