import { sql } from 'drizzle-orm';
import { localDay, nextEmailAt, zoneOf, type Advanced, type Facts, type Mailing } from '@ascenso/core';
import type { Tx } from '../db/connect.ts';
import { givenTo } from '../db/mail-days.ts';
import { batch, rows } from '../db/rows.ts';
import type { ClaimedRow } from './effects.ts';
import { lookAtVersion, type LoadedVersion } from '../db/versions.ts';
import { toVisit, VISIT_COLUMNS, type VisitRow } from '../people/visits.ts';

export interface Rules {
  cap: number | null;
  /** Highest priority among the open sequences; 1 goes first. */
  first: number;
}

export async function rulesOf(tx: Tx, workspaces: readonly string[]): Promise<Map<string, Rules>> {
  const found = await rows<{ id: string; cap: number | null; first: number | null }>(
    tx,
    sql`select w.id, w.daily_cap as cap,
          (select min(s.priority) from sequences s where s.workspace_id = w.id and s.status = 'live') as first
        from workspaces w where w.id = any (${sql.param(workspaces)}::uuid[])`,
  );
  return new Map(found.map((r) => [r.id, { cap: r.cap, first: r.first ?? 3 }]));
}

/** Emails that live sequences are about to send to the people of a batch, by person. */
async function othersOf(tx: Tx, people: readonly ClaimedRow[]): Promise<Map<string, Mailing['others']>> {
  const found = await rows<VisitRow & { workspace_id: string; zone: string }>(
    tx,
    sql`select v.workspace_id, ${VISIT_COLUMNS}, coalesce(p.zone, w.zone) as zone
        from (select distinct w, p from jsonb_to_recordset(${batch(people.map((r) => ({ w: r.workspace_id, p: r.person_id })))}) as k(w uuid, p uuid)) k
        join visits v on v.workspace_id = k.w and v.person_id = k.p and v.status = 'active'
        join sequences s on s.workspace_id = v.workspace_id and s.id = v.sequence_id and s.status = 'live'
        join people p on p.workspace_id = v.workspace_id and p.id = v.person_id join workspaces w on w.id = v.workspace_id`,
  );
  const out = new Map<string, Mailing['others'][number][]>();
  for (const row of found) {
    const run = (await lookAtVersion(tx, row.workspace_id, row.sequence_id, row.version))?.run;
    const at = !run || run.sequence.list === null ? null : nextEmailAt(run, toVisit(row), zoneOf(row.zone));
    if (!run || at === null) continue;
    const list = out.get(row.person_id) ?? [];
    const { priority, exempt } = run.sequence.cap;
    list.push({ at, priority, exempt, sequence: row.sequence_id });
    out.set(row.person_id, list);
  }
  return out;
}

const isMarketing = ({ run }: LoadedVersion) => run.sequence.list !== null;

/** Whether the daily cap counts for a visit. */
export const isCapped = (r: ClaimedRow, version: LoadedVersion, rules: ReadonlyMap<string, Rules>): boolean =>
  rules.get(r.workspace_id)?.cap != null && isMarketing(version);

/** Keeps the daily cap and the priorities over one batch: what it gives to a person counts for the rest of it. */
export class MailLedger {
  readonly #rules: Map<string, Rules>;
  readonly #given = new Map<string, Record<number, number>>();
  readonly #fresh = new Map<string, { w: string; person: string; day: number; n: number }>();
  readonly #others: Map<string, Mailing['others']>;

  private constructor(rules: Map<string, Rules>, others: Map<string, Mailing['others']>) {
    this.#rules = rules;
    this.#others = others;
  }

  /** Reads what a batch needs. The people under a cap are locked already. */
  static async open(
    tx: Tx,
    claimed: readonly ClaimedRow[],
    versionOf: (r: ClaimedRow) => LoadedVersion,
    rules: Map<string, Rules>,
  ): Promise<MailLedger> {
    const yielding = claimed.filter(
      (r) =>
        isCapped(r, versionOf(r), rules) &&
        versionOf(r).run.sequence.cap.priority > (rules.get(r.workspace_id)?.first ?? 0),
    );
    const ledger = new MailLedger(rules, yielding.length > 0 ? await othersOf(tx, yielding) : new Map<string, never>());
    const capped = claimed.filter((r) => isCapped(r, versionOf(r), rules));
    if (capped.length === 0) return ledger;
    const given = await givenTo(
      tx,
      capped.map((r) => ({ w: r.workspace_id, p: r.person_id })),
    );
    for (const [key, days] of given) ledger.#given.set(key, days);
    return ledger;
  }

  #givenTo(ws: string, person: string): Record<number, number> {
    const key = `${ws}/${person}`;
    const known = this.#given.get(key) ?? {};
    this.#given.set(key, known);
    return known;
  }

  /** Facts with what decides whether an email of this visit gives way; as they were where nothing can. */
  with(facts: Facts, row: ClaimedRow): Facts {
    const rules = this.#rules.get(row.workspace_id);
    const others = (this.#others.get(row.person_id) ?? []).filter((o) => o.sequence !== row.sequence_id);
    if (!rules || rules.cap === null) return facts;
    return { ...facts, mailing: { cap: rules.cap, given: this.#givenTo(row.workspace_id, row.person_id), others } };
  }

  /** Day of the person's calendar that an email of this visit counts for; null where no cap counts it. */
  capDay(row: ClaimedRow, { person }: Pick<Facts, 'person'>, { run }: LoadedVersion, dueAt: number): number | null {
    if (run.sequence.list === null || this.#rules.get(row.workspace_id)?.cap == null) return null;
    return localDay(zoneOf(person.zone), dueAt);
  }

  /** Notes what has just been given. */
  note(row: ClaimedRow, facts: Facts, version: LoadedVersion, { effects }: Advanced): void {
    for (const e of effects) {
      const day = e.kind === 'send' ? this.capDay(row, facts, version, e.dueAt) : null;
      if (day === null) continue;
      const given = this.#givenTo(row.workspace_id, row.person_id);
      given[day] = (given[day] ?? 0) + 1;
      const key = `${row.workspace_id}/${row.person_id}/${day}`;
      const known = this.#fresh.get(key) ?? { w: row.workspace_id, person: row.person_id, day, n: 0 };
      known.n++;
      this.#fresh.set(key, known);
    }
  }

  async write(tx: Tx): Promise<void> {
    if (this.#fresh.size === 0) return;
    await tx.execute(sql`
      insert into mail_days (workspace_id, person_id, day, given)
      select n.w, n.person, n.day, n.n from jsonb_to_recordset(${batch([...this.#fresh.values()])}) as n(w uuid, person uuid, day int, n int)
      on conflict (workspace_id, person_id, day) do update set given = mail_days.given + excluded.given`);
  }
}
