import { eq, sql } from 'drizzle-orm';
import type { MoneyAnswer, MoneyRules } from '@ascenso/contracts';
import { notFound } from '../app/errors.ts';
import type { Kept } from '../app/kept.ts';
import type { Executor } from './connect.ts';
import { firstRow } from './rows.ts';
import { workspaces } from './schema/index.ts';

/** Events of a name, and orders by what they are counted to. */
async function countOrders(
  db: Executor,
  ws: string,
  event: string,
): Promise<Pick<MoneyAnswer, 'events' | 'orders' | 'by'>> {
  const events = await firstRow<{ n: number }>(
    db,
    sql`select count(*) as n from events where workspace_id = ${ws} and name = ${event}`,
  );
  const orders = await firstRow<{ n: number; code: number; click: number }>(
    db,
    sql`select count(*) as n, count(*) filter (where "by" = 'code') as code, count(*) filter (where "by" = 'click') as click from orders where workspace_id = ${ws}`,
  );
  const { n = 0, code = 0, click = 0 } = orders ?? {};
  return { events: events?.n ?? 0, orders: n, by: { code, click, none: n - code - click } };
}

/** How a workspace's orders are told and counted, with what came of it. */
export async function moneyOf(db: Executor, ws: string, kept: Kept): Promise<MoneyAnswer> {
  const [w] = await db
    .select({ rules: workspaces.money, currency: workspaces.currency, recounting: workspaces.moneyDue })
    .from(workspaces)
    .where(eq(workspaces.id, ws));
  if (!w) throw notFound('workspace');
  const upon = JSON.stringify([w.rules, w.recounting]);
  return { ...w, ...(await kept(`orders ${upon}`, () => countOrders(db, ws, w.rules.event))) };
}

/** Sets the rules: all orders are counted anew by them, in the background. */
export async function setMoney(db: Executor, ws: string, money: MoneyRules): Promise<void> {
  await db.update(workspaces).set({ money, moneyDue: true }).where(eq(workspaces.id, ws));
}
