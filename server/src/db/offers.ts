import { sql, type SQL } from 'drizzle-orm';
import type { OfferAnswer, OfferFunnel, OfferResult, OfferRow, OfferUse } from '@ascenso/contracts';
import { emailSteps, isUnique, type Sequence } from '@ascenso/core';
import type { Kept } from '../app/kept.ts';
import type { Executor } from './connect.ts';
import { rows } from './rows.ts';

/** Where offers are made: in drafts and in live versions, by offer. */
export async function usesOfOffers(db: Executor, ws: string): Promise<Map<string, OfferUse[]>> {
  const docs = await rows<{ id: string; name: string; draft: Sequence; live: Sequence | null }>(
    db,
    sql`select s.id, s.name, s.draft, v.doc as live from sequences s
        left join versions v on v.workspace_id = s.workspace_id and v.sequence_id = s.id and v.number = s.live_version
        where s.workspace_id = ${ws} and s.template_id is null and s.status <> 'archived' and (s.draft::text like '%"offer":%' or v.doc::text like '%"offer":%') order by s.name`,
  );
  const out = new Map<string, OfferUse[]>();
  for (const { id, name, draft, live } of docs) {
    const running = live ? emailSteps(live) : [];
    const steps = new Map([...running, ...emailSteps(draft)].map((s) => [`${s.id}/${s.email.offer}`, s]));
    for (const step of steps.values()) {
      const offer = step.email.offer;
      if (offer === undefined) continue;
      const isLive = running.some((s) => s.id === step.id && s.email.offer === offer);
      out.set(offer, [
        ...(out.get(offer) ?? []),
        { sequence: id, name, step: step.id, email: step.name, live: isLive },
      ]);
    }
  }
  return out;
}

/** What came back of each offer, at a moment (epoch ms). */
async function funnels(db: Executor, ws: string, now: number): Promise<Map<string, OfferFunnel>> {
  const found = await rows<{ offer_id: string } & Omit<OfferFunnel, 'money'>>(
    db,
    sql`select offer_id, count(*) as issued, count(seen_at) as seen, count(used_at) as used,
          count(*) filter (where used_at is null and closes_at <= ${now}) as expired
        from offer_grants where workspace_id = ${ws} and issued_at is not null group by 1`,
  );
  const money = await rows<{ offer_id: string; currency: string; total: number }>(
    db,
    sql`select offer_id, currency, sum(total) as total from offer_uses where workspace_id = ${ws} and cancelled_at is null group by 1, 2`,
  );
  const moneyOf = (id: string) =>
    Object.fromEntries(money.filter((m) => m.offer_id === id).map((m) => [m.currency, Number(m.total)]));
  return new Map(found.map(({ offer_id, ...f }) => [offer_id, { ...f, money: moneyOf(offer_id) }]));
}

/** What each offer brought between two moments (epoch ms), or ever; those of which nothing is known then are left out. */
export async function offerResults(
  db: Executor,
  ws: string,
  between: { from: number; to: number } | null,
  now: number,
): Promise<OfferResult[]> {
  const within = (column: SQL) =>
    between ? sql`and ${column} >= ${between.from} and ${column} < ${between.to}` : sql``;
  const found = await rows<Omit<OfferResult, 'money'> & { money: OfferResult['money'] | null }>(
    db,
    sql`with given as (
          select offer_id, count(*) as given, count(seen_at) as seen, count(used_at) as used, count(*) filter (where used_at is null and closes_at <= ${now}) as "ranOut"
          from offer_grants where workspace_id = ${ws} and issued_at is not null ${within(sql`opened_at`)} group by 1),
        paid as (
          select offer_id, currency, count(*) as orders, sum(total) as total from offer_uses
          where workspace_id = ${ws} and cancelled_at is null ${within(sql`at`)} group by 1, 2),
        taken as (select offer_id, sum(orders)::int as orders, jsonb_object_agg(currency, total) as money from paid group by 1)
        select o.id, o.doc->>'name' as name, coalesce(g.given, 0) as given, coalesce(g.seen, 0) as seen, coalesce(g.used, 0) as used, coalesce(g."ranOut", 0) as "ranOut",
          coalesce(t.orders, 0) as orders, t.money
        from offers o left join given g on g.offer_id = o.id left join taken t on t.offer_id = o.id
        where o.workspace_id = ${ws} and (g.given > 0 or t.orders > 0) order by t.orders desc nulls last, g.given desc nulls last, 2`,
  );
  return found.map((o) => ({ ...o, money: o.money ?? {} }));
}

/** The first of some days on whose expected number a stock runs out, or null where it lasts. */
function emptyOn(left: number, days: readonly number[], perDay: readonly number[]): number | null {
  let rest = left;
  const day = perDay.findIndex((n) => (rest -= n) < 0);
  return day < 0 ? null : (days[day] ?? null);
}

/** All offers with where they are used, what came back, and how long their codes last. */
export async function offersInFull(
  db: Executor,
  ws: string,
  offers: readonly OfferRow[],
  ahead: { days: number[]; offers: Record<string, number[]> },
  now: number,
  kept: Kept,
): Promise<OfferAnswer[]> {
  const uses = await usesOfOffers(db, ws);
  const came = await kept('funnels of offers', () => funnels(db, ws, now));
  return offers.map((o) => {
    const perDay = ahead.offers[o.id] ?? ahead.days.map(() => 0);
    return {
      ...o,
      usedIn: uses.get(o.id) ?? [],
      funnel: came.get(o.id) ?? { issued: 0, seen: 0, used: 0, expired: 0, money: {} },
      forecast: perDay,
      emptyOn: o.left !== null && isUnique(o.offer) ? emptyOn(o.left, ahead.days, perDay) : null,
    };
  });
}
