import { sql, type SQL } from 'drizzle-orm';
import type { Executor } from './connect.ts';
import { firstRow, rows } from './rows.ts';

/** One counter. */
export interface Tally {
  sequence: string;
  version: number;
  /** '' for what belongs to no step. */
  step: string;
  what: string;
  /** Arm, reason or currency; '' where there is none. */
  detail: string;
  n: number;
}

/** Days of the workspace's calendar, both included. */
export interface Days {
  from: number;
  to: number;
}

/** What counters are asked for; `whats` names what is counted. */
export interface TallyQuestion {
  sequence?: string;
  whats: readonly string[];
  /** Of the days on which passages began (of "day:" counters, days of the calendar); without them of all time. */
  days?: Days | null;
  /** Apart by version; otherwise over all of them, and `version` is 0. */
  versions?: boolean;
}

/** Which counters are meant, of the table called `t`. Increments that are not folded yet are part of every answer. */
const asked = (ws: string, { sequence, whats, days }: TallyQuestion): SQL =>
  sql`workspace_id = ${ws} and what = any (${sql.param(whats)}::text[]) ${sequence === undefined ? sql`` : sql`and sequence_id = ${sequence}::uuid`}
      ${days ? sql`and day between ${days.from} and ${days.to}` : sql``}`;

/** Counters as they stand. Those that have come to nothing are left out. */
export function readTallies(db: Executor, ws: string, question: TallyQuestion): Promise<Tally[]> {
  const { days, versions = false } = question;
  const version = versions ? sql`version` : sql`0`;
  const which = asked(ws, question);
  return rows(
    db,
    sql`select sequence_id as sequence, ${version} as version, step, what, detail, sum(n)::bigint as n from (
          select sequence_id, version, step, what, detail, n from ${days ? sql`tallies` : sql`tally_totals`} where ${which}
          union all select sequence_id, version, step, what, detail, n from tally_moves where ${which}) counted
        group by 1, ${versions ? sql`2` : sql`()`}, 3, 4, 5 having sum(n) <> 0`,
  );
}

/** Counters day by day, over all versions and steps. */
export const readDays = (
  db: Executor,
  ws: string,
  question: TallyQuestion & { days: Days },
): Promise<(Pick<Tally, 'sequence' | 'what' | 'detail' | 'n'> & { day: number })[]> => {
  const which = asked(ws, question);
  return rows(
    db,
    sql`select sequence_id as sequence, what, detail, day, sum(n)::bigint as n from (
          select sequence_id, what, detail, day, n from tallies where ${which}
          union all select sequence_id, what, detail, day, n from tally_moves where ${which}) counted
        group by 1, 2, 3, 4 having sum(n) <> 0`,
  );
};

/** Counters by the month ("2026-03") of their day, over all versions. */
export const readMonths = (
  db: Executor,
  ws: string,
  question: Omit<TallyQuestion, 'days' | 'versions'>,
): Promise<(Omit<Tally, 'version'> & { month: string })[]> => {
  const which = asked(ws, question);
  return rows(
    db,
    sql`select sequence_id as sequence, step, what, detail, to_char(date '1970-01-01' + day, 'YYYY-MM') as month, sum(n)::bigint as n from (
          select sequence_id, step, what, detail, day, n from tallies where ${which}
          union all select sequence_id, step, what, detail, day, n from tally_moves where ${which} and day is not null) counted
        group by 1, 2, 3, 4, 5 having sum(n) <> 0`,
  );
};

/** First day on which any of these was counted; null where none was. */
export async function firstDay(db: Executor, ws: string, whats: readonly string[]): Promise<number | null> {
  const which = asked(ws, { whats });
  const found = await firstRow<{ day: number | null }>(
    db,
    sql`select least((select min(day) from tallies where ${which}), (select min(day) from tally_moves where ${which})) as day`,
  );
  return found?.day ?? null;
}

/** Counters gathered by some part of them. */
export function tallied<T>(of: readonly T[], by: (t: T) => string): Map<string, T[]> {
  const out = new Map<string, T[]>();
  for (const t of of) {
    const known = out.get(by(t));
    if (known) known.push(t);
    else out.set(by(t), [t]);
  }
  return out;
}

/** The sum of those that count one thing. */
export const sumOf = (of: readonly Pick<Tally, 'what' | 'n'>[], what: string): number =>
  of.reduce((n, t) => (t.what === what ? n + t.n : n), 0);
