import { sql, type SQL } from 'drizzle-orm';
import { DAY, fromWall, type Zone } from '@ascenso/core';
import {
  LETTERS,
  type DomainResult,
  type ListDay,
  type ResultFigures,
  type ResultsAnswer,
  type SenderResult,
  type SequenceResult,
} from '@ascenso/contracts';
import type { Executor } from './connect.ts';
import { firstRow, rows } from './rows.ts';
import { firstDay, readDays, readTallies, sumOf, tallied, type Days } from './tallies.ts';

// Results across sequences: counted on the days of the calendar on which they happened.

/** The sequence under which orders are counted that no email brought. */
const NOBODY = '00000000-0000-0000-0000-000000000000';
const CALENDAR = ['day:mailed', 'day:orders', 'day:money'];

const none = (): ResultFigures => ({ orders: 0, money: {}, mailed: 0 });

function count(into: ResultFigures, { what, detail, n }: { what: string; detail: string; n: number }): void {
  if (what === 'day:mailed') into.mailed += n;
  else if (what === 'day:orders') into.orders += n;
  else into.money[detail] = (into.money[detail] ?? 0) + n;
}

/** How the mail of each sender fares, told by what was sent of every version. */
async function sendersOf(db: Executor, ws: string): Promise<SenderResult[]> {
  const emails = await rows<{ email: string; key: string }>(
    db,
    sql`select g.sender->>'email' as email, v.sequence_id || '/' || v.number || '/' || p.key as key from versions v cross join lateral jsonb_each_text(v.programs) p
        join programs g on g.workspace_id = v.workspace_id and g.hash = p.value where v.workspace_id = ${ws}`,
  );
  const senders = new Map(emails.map((e) => [e.key, e.email]));
  const whats = ['sent', 'bounced', 'complained', 'opened', 'clicked'];
  const counted = await readTallies(db, ws, { whats, versions: true });
  const bySender = tallied(counted, (t) => senders.get(`${t.sequence}/${t.version}/${t.step}`) ?? '');
  return [...bySender]
    .map(([email, of]) => ({
      email,
      sent: sumOf(of, 'sent'),
      bounced: sumOf(of, 'bounced'),
      complained: sumOf(of, 'complained'),
      opened: sumOf(of, 'opened'),
      clicked: sumOf(of, 'clicked'),
    }))
    .filter((s) => s.email !== '' && s.sent > 0)
    .sort((a, b) => b.sent - a.sent);
}

/** Receiving domains that are told; the others are one line. */
const DOMAINS = 12;

/**
 * How mail arrives, by the domain behind the @ of the addresses that it went to on some days, or ever: those with the most
 * mail, and under '' all others.
 */
export async function domainsOf(db: Executor, ws: string, zone: Zone, days: Days | null): Promise<DomainResult[]> {
  const period = days
    ? sql`and s.sent_at >= ${fromWall(zone, days.from * DAY)} and s.sent_at < ${fromWall(zone, (days.to + 1) * DAY)}`
    : sql``;
  return rows<DomainResult>(
    db,
    sql`with mailed as (
          select split_part(lower(s."to"), '@', 2) as domain, count(*) as sent, count(*) filter (where s.status = 'bounced' or s.returned_at is not null) as bounced,
            count(s.complained_at) as complained, count(s.opened_at) as opened, count(s.clicked_at) as clicked
          from sends s where s.workspace_id = ${ws} and s.visit_id is not null and s.status in ('sent', 'bounced') and s."to" is not null ${period} group by 1),
        ranked as (select *, row_number() over (order by sent desc, domain) as rank from mailed)
        select case when rank <= ${DOMAINS} then domain else '' end as domain, sum(sent)::int as sent, sum(bounced)::int as bounced, sum(complained)::int as complained,
          sum(opened)::int as opened, sum(clicked)::int as clicked
        from ranked group by 1 order by min(rank)`,
  );
}

/** Days of all zones begin at a quarter of an hour (tz database, since 1972), so the day of a quarter is that of all in it, ms. */
const QUARTER = 900_000;

/** What is told of a day, and where it stands of a person. */
const ENDS: [keyof Omit<ListDay, 'day'>, SQL][] = [
  ['came', sql`created_at`],
  ['unsubscribed', sql`unsubscribed_at`],
  ['bounced', sql`bounced_at`],
  ['complained', sql`complained_at`],
];

/** Who came, and who can no longer be mailed and why, day by day. */
async function listDays(db: Executor, ws: string, zone: Zone, days: Days): Promise<ListDay[]> {
  const [from, to] = [fromWall(zone, days.from * DAY), fromWall(zone, (days.to + 1) * DAY)];
  const found = await rows<{ day: number; what: keyof Omit<ListDay, 'day'>; n: number }>(
    db,
    sql`with quarters as (
          ${sql.join(
            ENDS.map(
              ([what, column]) =>
                sql`select ${column} / ${QUARTER} as quarter, ${what}::text as what, count(*) as n from people
                    where workspace_id = ${ws} and ${column} >= ${from} and ${column} < ${to} group by 1`,
            ),
            sql` union all `,
          )})
        select tally_day(q.quarter * ${QUARTER}, w.zone) as day, q.what, sum(q.n)::int as n
        from quarters q cross join (select tally_zone(${ws}) as zone offset 0) w group by 1, 2`,
  );
  const out = new Map<number, ListDay>();
  for (const { day, what, n } of found) {
    const one = out.get(day) ?? { day, came: 0, unsubscribed: 0, bounced: 0, complained: 0 };
    out.set(day, { ...one, [what]: n });
  }
  return [...out.values()].sort((a, b) => a.day - b.day);
}

/** Where one group of people with points ends and the next begins: none, little, some, much (ours, no published source). */
const POINTS = [0, 1, 50, 200];

/** How many of those who may be mailed have so many points. */
async function pointsOf(db: Executor, ws: string): Promise<ResultsAnswer['points']> {
  const found = await rows<{ group: number; people: number }>(
    db,
    sql`select width_bucket(greatest(points, 0), ${sql.param(POINTS)}::int[]) as "group", count(*) as people from people where workspace_id = ${ws} and mail_status = 'ok' group by 1`,
  );
  return POINTS.map((from, i) => ({ from, people: found.find((f) => f.group === i + 1)?.people ?? 0 }));
}

/** What went out and came back on some days, or since the first one, across all sequences. */
export async function resultsOf(
  db: Executor,
  ws: string,
  { zone, currency, today, days }: { zone: Zone; currency: string; today: number; days: Days | null },
): Promise<ResultsAnswer> {
  const period = days
    ? { from: Math.min(days.from, today), to: Math.min(days.to, today) }
    : { from: (await firstDay(db, ws, CALENDAR)) ?? today, to: today };
  const length = period.to - period.from + 1;
  const before = { from: period.from - length, to: period.from - 1 };
  const all = await rows<{ id: string; name: string; letter: boolean }>(
    db,
    sql`select id, name, person_id is not null as letter from sequences where workspace_id = ${ws}`,
  );
  const known = new Map(all.map((s) => [s.id, s]));
  /** What a sequence is gathered under. */
  const keyOf = (sequence: string) => (sequence === NOBODY ? null : known.get(sequence)?.letter ? LETTERS : sequence);
  const found = new Map<string | null, SequenceResult>();
  const of = (sequence: string): SequenceResult => {
    const id = keyOf(sequence);
    const one = found.get(id) ?? { id, name: known.get(sequence)?.name ?? '', ...none(), before: none() };
    found.set(id, one);
    return one;
  };
  const counted = await readDays(db, ws, { whats: CALENDAR, days: period });
  for (const t of counted) count(of(t.sequence), t);
  for (const t of await readTallies(db, ws, { whats: CALENDAR, days: before })) count(of(t.sequence).before, t);
  const byDay = new Map<string, ResultsAnswer['byDay'][number]>();
  for (const { sequence, what, detail, day, n } of counted) {
    const key = `${day} ${keyOf(sequence)}`;
    const one = byDay.get(key) ?? { day, sequence: keyOf(sequence), money: 0, mailed: 0 };
    if (what === 'day:money' && detail === currency) one.money += n;
    if (what === 'day:mailed') one.mailed += n;
    byDay.set(key, one);
  }
  const people = await firstRow<{ mailable: number; all: number }>(
    db,
    sql`select count(*) filter (where mail_status = 'ok') as mailable, count(*) as all from people where workspace_id = ${ws}`,
  );
  return {
    currency,
    days: period,
    sequences: [...found.values()],
    byDay: [...byDay.values()].sort((a, b) => a.day - b.day),
    senders: await sendersOf(db, ws),
    people: people ?? { mailable: 0, all: 0 },
    list: await listDays(db, ws, zone, period),
    points: await pointsOf(db, ws),
  };
}

/** What emails earned on some days of the calendar. */
export async function earnedByEmail(db: Executor, ws: string, days: Days): Promise<Omit<ResultFigures, 'mailed'>> {
  const all = none();
  for (const t of await readTallies(db, ws, { whats: ['day:orders', 'day:money'], days }))
    if (t.sequence !== NOBODY) count(all, t);
  return { orders: all.orders, money: all.money };
}
