import { sql } from 'drizzle-orm';
import { rows } from '../../src/db/rows.ts';
import type { World } from './world.ts';

// Counters judged from the rows they count, read whole and counted here: nothing of the triggers is used.

interface SendRow {
  id: string;
  visit: string | null;
  seq: string;
  version: number;
  step: string;
  status: string;
  due: number;
  sent: number | null;
  opened: number | null;
  clicked: number | null;
  gone: number | null;
  complained: number | null;
}
interface VisitRow {
  id: string;
  seq: string;
  version: number;
  status: string;
  step: string | null;
  entered: number;
  held: boolean;
  heldOut: boolean;
  awaits: string | null;
  ending: string | null;
}
interface ReasonRow {
  visit: string;
  seq: string;
  version: number;
  step: string | null;
  code: string;
  at: number;
  arm: string | null;
  why: string | null;
}
interface OrderRow {
  at: number;
  amount: number;
  currency: string;
  by: string | null;
  visit: string | null;
  seq: string | null;
  version: number | null;
  step: string | null;
}

const NOBODY = '00000000-0000-0000-0000-000000000000';
/** What ends a passage, sends it one way, or keeps an email back: what the numbers of a sequence tell of. */
const TOLD = new Set(
  'not-entered email-skipped email-cancelled email-too-late email-yields branch-taken branch-otherwise split-taken until-happened until-passed goal-reached mail-stopped left-by-step left-by-publishing reached-end stopped-by archived'.split(
    ' ',
  ),
);

type Counted = Map<string, number>;
const add = (to: Counted, key: unknown[], n = 1) => {
  const k = key.join(' | ');
  const sum = (to.get(k) ?? 0) + n;
  if (sum === 0) to.delete(k);
  else to.set(k, sum);
};

/** What the counters of a workspace should say, by day ('' for what stands now), counted from its rows. */
async function fromRows({ connection: { db }, ws }: World, reasonsToo: boolean): Promise<Counted> {
  const [workspace] = await rows<{ zone: string }>(db, sql`select zone from workspaces where id = ${ws}`);
  const calendar = new Intl.DateTimeFormat('en-CA', { timeZone: workspace?.zone, dateStyle: 'short' });
  const dayOf = (at: number) => Date.parse(`${calendar.format(at)}T00:00:00Z`) / 86_400_000;
  const out: Counted = new Map();

  const visits = await rows<VisitRow>(
    db,
    sql`select id, sequence_id as seq, version, status, step, entered_at as entered, held, held_out as "heldOut", awaits, ending from visits where workspace_id = ${ws}`,
  );
  const entered = new Map(visits.map((v) => [v.id, v.entered]));
  for (const v of visits) {
    const day = dayOf(v.entered);
    if (v.heldOut) add(out, [v.seq, v.version, '', 'held-out', '', day]);
    else add(out, [v.seq, v.version, '', 'joined', '', day]);
    if (v.status !== 'active') {
      if (!v.heldOut) add(out, [v.seq, v.version, '', 'ended', v.ending ?? '', day]);
      continue;
    }
    add(out, [v.seq, v.version, v.step ?? '', 'inside', '', '']);
    if (v.held) add(out, [v.seq, v.version, v.step ?? '', 'held', '', '']);
    if (v.awaits) add(out, [v.seq, v.version, v.step ?? '', 'awaits', '', '']);
  }
  const joined = (visit: string | null, otherwise: number) => dayOf((visit && entered.get(visit)) || otherwise);

  for (const s of await rows<SendRow>(
    db,
    sql`select id, visit_id as visit, sequence_id as seq, version, step, status, due_at as due, sent_at as sent, opened_at as opened, clicked_at as clicked, left_at as gone, complained_at as complained from sends where workspace_id = ${ws}`,
  )) {
    if (!s.visit) continue;
    const count = (what: string) => add(out, [s.seq, s.version, s.step, what, '', joined(s.visit, s.due)]);
    if (s.status === 'queued' || s.status === 'leased') add(out, [s.seq, s.version, s.step, 'queued', '', '']);
    if (s.status === 'sent' || s.status === 'bounced') {
      count('sent');
      add(out, [s.seq, 0, '', 'day:mailed', '', dayOf(s.sent ?? s.due)]);
    }
    if (s.status === 'bounced') count('bounced');
    if (s.status === 'failed') count('failed');
    if (s.status === 'cancelled') count('cancelled');
    if (s.opened !== null) count('opened');
    if (s.clicked !== null) count('clicked');
    if (s.gone !== null) count('left');
    if (s.complained !== null) count('complained');
  }

  for (const o of await rows<OrderRow>(
    db,
    sql`select at, amount, currency, "by", visit_id as visit, sequence_id as seq, version, step from orders where workspace_id = ${ws}`,
  )) {
    add(out, [o.seq ?? NOBODY, 0, '', 'day:orders', o.by ?? '', dayOf(o.at)]);
    add(out, [o.seq ?? NOBODY, 0, '', 'day:money', o.currency, dayOf(o.at)], o.amount);
    if (!o.seq) continue;
    add(out, [o.seq, o.version, o.step, 'orders', o.by, joined(o.visit, o.at)]);
    add(out, [o.seq, o.version, o.step, 'money', o.currency, joined(o.visit, o.at)], o.amount);
  }

  if (reasonsToo)
    for (const r of await rows<ReasonRow>(
      db,
      sql`select visit_id as visit, sequence_id as seq, version, step, code, at, data->>'arm' as arm, data->>'why' as why from reasons where workspace_id = ${ws}`,
    ))
      if (TOLD.has(r.code))
        add(out, [r.seq, r.version, r.step ?? '', `why:${r.code}`, r.arm ?? r.why ?? '', joined(r.visit, r.at)]);
  return out;
}

async function asCounted({ connection: { db }, ws }: World, reasonsToo: boolean): Promise<[Counted, Counted]> {
  const counters = (table: string, day: string) =>
    rows<{ key: [string, number, string, string, string, number | null]; n: number }>(
      db,
      sql`select jsonb_build_array(sequence_id, version, step, what, detail, ${sql.raw(day)}) as key, n from ${sql.identifier(table)} where workspace_id = ${ws}`,
    );
  const [byDay, overAll]: [Counted, Counted] = [new Map(), new Map()];
  const moves = await counters('tally_moves', 'day');
  const kept = ({ key: [, , , what] }: { key: unknown[] }) => reasonsToo || !String(what).startsWith('why:');
  for (const { key, n } of [...(await counters('tallies', 'day')), ...moves].filter(kept))
    add(byDay, [...key.slice(0, 5), key[5] ?? ''], n);
  for (const { key, n } of [...(await counters('tally_totals', 'null')), ...moves].filter(kept))
    add(overAll, key.slice(0, 5), n);
  return [byDay, overAll];
}

const sorted = (of: Counted) => Object.fromEntries([...of].sort(([a], [b]) => (a < b ? -1 : 1)));

/**
 * What the counters say and what the rows say, to be held against each other. Reasons are left out where people were
 * erased: their stories are gone, and what was counted of them stays.
 */
export async function recount(
  world: World,
  { reasons = true } = {},
): Promise<{ counters: object; rows: object; size: number }> {
  const should = await fromRows(world, reasons);
  const overAll: Counted = new Map();
  for (const [key, n] of should) add(overAll, key.split(' | ').slice(0, 5), n);
  const [byDay, totals] = await asCounted(world, reasons);
  // What stands now has no day, and is kept as a total alone.
  const days = [...byDay].filter(([key]) => !key.endsWith(' | '));
  const shouldDays = [...should].filter(([key]) => !key.endsWith(' | '));
  return {
    counters: { days: sorted(new Map(days)), totals: sorted(totals) },
    rows: { days: sorted(new Map(shouldDays)), totals: sorted(overAll) },
    size: should.size,
  };
}
