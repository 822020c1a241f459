import { sql } from 'drizzle-orm';
import { DAY, plainCode, readPath, toMinor } from '@ascenso/core';
import type { MoneyRules } from '@ascenso/contracts';
import type { Executor, Tx } from '../db/connect.ts';
import { batch, firstRow, rows } from '../db/rows.ts';

// Orders: events of the kind that a workspace calls one, each counted to one email at most.

const NIL = '00000000-0000-0000-0000-000000000000';
/** What no order comes to, minor units: a total like this is a mistake, and would spoil every sum. */
const MOST = 1_000_000_000_000;

/** An event that may be an order. `at` is epoch ms. */
export interface OrderEvent {
  id: string;
  person: string;
  at: number;
  payload: Record<string, unknown>;
}

interface Order {
  id: string;
  person: string;
  at: number;
  /** Minor units. */
  amount: number;
  currency: string;
  number: string | null;
  /** Its code as it is looked up, or null. */
  code: string | null;
}

const textAt = (payload: Record<string, unknown>, field: string): string | null => {
  const value = field === '' ? undefined : readPath(payload, field);
  return (typeof value === 'string' && value.trim() !== '') || typeof value === 'number' ? String(value).trim() : null;
};

/**
 * An event read as an order; null where its total cannot be read. `home` is the currency of orders that name none
 * (ISO 4217).
 */
export function orderOf({ id, person, at, payload }: OrderEvent, rules: MoneyRules, home: string): Order | null {
  const total = Number(textAt(payload, rules.amount) ?? NaN);
  const said = textAt(payload, rules.currency)?.toUpperCase();
  const currency = said && /^[A-Z]{3}$/.test(said) ? said : home;
  const amount = Number.isFinite(total) && Math.abs(total) < MOST ? toMinor(total, currency) : -1;
  if (amount < 0 || amount >= MOST) return null;
  const code = textAt(payload, rules.code);
  return { id, person, at, amount, currency, number: textAt(payload, rules.number), code: code && plainCode(code) };
}

/**
 * Keeps orders, each counted to one email: to the last that made the offer whose code was used, otherwise to the one with
 * the last click in the days before. An order whose number is known is not counted again.
 */
export async function writeOrders(
  db: Executor,
  ws: string,
  orders: readonly Order[],
  { days }: Pick<MoneyRules, 'days'>,
): Promise<void> {
  if (orders.length === 0) return;
  await db.execute(sql`
    insert into orders (workspace_id, id, person_id, at, amount, currency, number, "by", send_id, visit_id, sequence_id, version, step)
    select ${ws}::uuid, n.id, n.person, n.at, n.amount, n.currency, n.number,
      case when coded.id is not null then 'code' when clicked.id is not null then 'click' end, s.id, s.visit_id, s.sequence_id, s.version, s.step
    from jsonb_to_recordset(${batch(orders)}) as n(id uuid, person uuid, at bigint, amount bigint, currency text, number text, code text)
    left join lateral (
      select s.id from offer_grants g
      join sends s on s.workspace_id = g.workspace_id and s.person_id = g.person_id and s.visit_id is not null and s.sent_at <= n.at and s.status = 'sent'
      join programs p on p.workspace_id = s.workspace_id and p.hash = s.program_hash and p.program->>'offer' = g.offer_id::text
      where g.workspace_id = ${ws} and g.person_id = n.person and g.code_key = n.code
      order by s.sent_at desc, s.id desc limit 1) coded on true
    left join lateral (
      select s.id from sends s join readings r on r.workspace_id = s.workspace_id and r.send_id = s.id
      where coded.id is null and s.workspace_id = ${ws} and s.person_id = n.person and s.visit_id is not null and s.clicked_at <= n.at
        and r.kind = 'click' and not r.prefetched and r.at <= n.at and r.at > n.at - ${days * DAY}
      order by r.at desc, r.id desc limit 1) clicked on true
    left join sends s on s.workspace_id = ${ws} and s.id = coalesce(coded.id, clicked.id)
    on conflict do nothing`);
}

interface Money {
  rules: MoneyRules;
  currency: string;
}

/** The rules as they are, held fast until the transaction ends where an order is counted by them. */
const moneyOf = (db: Executor, ws: string, lock: 'share' | 'no key update'): Promise<Money | undefined> =>
  firstRow(db, sql`select money as rules, currency from workspaces where id = ${ws} for ${sql.raw(lock)}`);

/** An event that the workspace calls an order has come. One whose total cannot be read is an event and no order. */
export async function noteOrder(tx: Tx, ws: string, event: OrderEvent): Promise<void> {
  const money = await moneyOf(tx, ws, 'share');
  const order = money && orderOf(event, money.rules, money.currency);
  if (order) await writeOrders(tx, ws, [order], money.rules);
}

/** Events that are read at once. */
const PAGE = 5_000;

/**
 * Counts all orders of a workspace anew, by the rules as they are now, in the caller's transaction. Of people who were
 * erased the events are gone: their orders stay as they were counted.
 */
export async function recountOrders(tx: Tx, ws: string): Promise<void> {
  const money = await moneyOf(tx, ws, 'no key update');
  if (!money) return;
  await tx.execute(
    sql`delete from orders o using people p where o.workspace_id = ${ws} and p.workspace_id = o.workspace_id and p.id = o.person_id`,
  );
  let [at, last] = [Number.MIN_SAFE_INTEGER, NIL];
  for (;;) {
    const page = await rows<OrderEvent>(
      tx,
      sql`select id, person_id as person, occurred_at as at, payload from events
          where workspace_id = ${ws} and name = ${money.rules.event} and (occurred_at, id) > (${at}, ${last}::uuid) order by occurred_at, id limit ${PAGE}`,
    );
    const found = page.flatMap((e) => orderOf(e, money.rules, money.currency) ?? []);
    await writeOrders(tx, ws, found, money.rules);
    const end = page.at(-1);
    if (!end) return;
    [at, last] = [end.at, end.id];
  }
}
