import { sql } from 'drizzle-orm';
import type { BreakdownAnswer, BreakdownRow, Money, NumbersAnswer, StepNumbers } from '@ascenso/contracts';
import { emailSteps, unseenOf, type Sequence } from '@ascenso/core';
import type { Executor } from './connect.ts';
import { firstRow, rows } from './rows.ts';
import { readMonths, readTallies, sumOf, tallied, type Days, type Tally } from './tallies.ts';

/** Sums of counters by some part of them. */
const sums = <T extends { n: number }>(of: readonly T[], by: (t: T) => string): Record<string, number> => {
  const out: Record<string, number> = {};
  for (const t of of) out[by(t)] = (out[by(t)] ?? 0) + t.n;
  return out;
};

/** Money of some counters, by currency. */
export const moneyIn = (of: readonly Pick<Tally, 'what' | 'detail' | 'n'>[]): Money =>
  sums(
    of.filter((t) => t.what === 'money'),
    (t) => t.detail,
  );

/** What is counted as it stands now. */
const NOW = ['inside', 'held', 'awaits', 'queued'];
/** What is counted by the day on which a passage began. */
const EMAILS = ['sent', 'bounced', 'failed', 'opened', 'clicked', 'left', 'complained', 'orders', 'money'];
const PASSAGES = ['joined', 'held-out', 'ended', 'why:not-entered'];
/** Why an email did not go out to somebody who was there for it. */
const KEPT = ['why:email-skipped', 'why:email-cancelled', 'why:email-too-late'];
/** Why passages ended where they did. */
const ENDED = [
  ...['why:goal-reached', 'why:left-by-rule', 'why:mail-stopped', 'why:left-by-step', 'why:left-by-publishing'],
  ...['why:reached-end', 'why:stopped-by', 'why:taken-out', 'why:archived'],
];
/** Counters of the arms that people took, by arm. */
export const ARMS_TAKEN = ['branch-taken', 'branch-otherwise', 'split-taken', 'until-happened', 'until-passed'].map(
  (c) => `why:${c}`,
);

/** "mail-stopped unsubscribed" of the counter of a reason with a detail. */
const reasonOf = ({ what, detail }: Tally): string => `${what.slice('why:'.length)}${detail ? ` ${detail}` : ''}`;

function stepNumbers(of: readonly Tally[]): StepNumbers {
  const [sent, bounced] = [sumOf(of, 'sent'), sumOf(of, 'bounced')];
  return {
    here: sumOf(of, 'inside') + sumOf(of, 'queued'),
    held: sumOf(of, 'held'),
    awaits: sumOf(of, 'awaits'),
    queued: sumOf(of, 'queued'),
    sent,
    delivered: sent - bounced,
    bounced,
    opened: sumOf(of, 'opened'),
    clicked: sumOf(of, 'clicked'),
    left: sumOf(of, 'left'),
    complained: sumOf(of, 'complained'),
    failed: sumOf(of, 'failed'),
    orders: sumOf(of, 'orders'),
    money: moneyIn(of),
    kept: sums(
      of.filter((t) => KEPT.includes(t.what)),
      reasonOf,
    ),
    ended: sums(
      of.filter((t) => ENDED.includes(t.what)),
      reasonOf,
    ),
  };
}

/**
 * What came of a sequence: of the passages that began on some days, or of all. Who stands where is as it is now, whenever
 * they came.
 */
export async function sequenceNumbers(db: Executor, ws: string, id: string, days: Days | null): Promise<NumbersAnswer> {
  const then = await readTallies(db, ws, {
    sequence: id,
    whats: [...EMAILS, ...PASSAGES, ...KEPT, ...ENDED, ...ARMS_TAKEN],
    days,
  });
  const all = [...then, ...(await readTallies(db, ws, { sequence: id, whats: NOW }))];
  const byStep = tallied(
    all.filter((t) => t.step !== ''),
    (t) => t.step,
  );
  const steps = Object.fromEntries([...byStep].map(([step, of]) => [step, stepNumbers(of)]));
  const ended = sums(
    all.filter((t) => t.what === 'ended'),
    (t) => t.detail,
  );
  return {
    joined: sumOf(all, 'joined'),
    inside: sumOf(all, 'inside'),
    finished: sumOf(all, 'ended'),
    goal: ended.goal ?? 0,
    heldOut: sumOf(all, 'held-out'),
    notEntered: sumOf(all, 'why:not-entered'),
    orders: sumOf(all, 'orders'),
    money: moneyIn(all),
    steps,
    arms: sums(
      all.filter((t) => ARMS_TAKEN.includes(t.what)),
      (t) => t.detail,
    ),
    waiting: sums(
      all.filter((t) => t.what === 'inside'),
      (t) => t.step,
    ),
    gone: await goneEmails(
      db,
      ws,
      id,
      Object.keys(steps).filter((step) => (steps[step]?.sent ?? 0) > 0),
    ),
  };
}

/** Emails among these that the draft no longer has, as the last version that had them calls them. */
async function goneEmails(
  db: Executor,
  ws: string,
  id: string,
  counted: readonly string[],
): Promise<NumbersAnswer['gone']> {
  const row = await firstRow<{ draft: Sequence }>(
    db,
    sql`select draft from sequences where workspace_id = ${ws} and id = ${id}`,
  );
  const there = new Set(row ? emailSteps(row.draft).map((s) => s.id) : []);
  const missing = counted.filter((step) => !there.has(step));
  if (missing.length === 0) return [];
  const versions = await rows<{ doc: Sequence }>(
    db,
    sql`select doc from versions where workspace_id = ${ws} and sequence_id = ${id} order by number desc`,
  );
  return missing.map((step) => {
    for (const { doc } of versions) {
      const found = emailSteps(doc).find((s) => s.id === step);
      if (found) return { step, name: found.name, unseen: unseenOf(found.email) };
    }
    return { step, name: 'An email of an older version', unseen: { openings: false, clicks: false } };
  });
}

const BROKEN_DOWN = ['joined', 'sent', 'opened', 'clicked', 'left', 'orders', 'money'];

function breakdownRow(key: string, of: readonly Omit<Tally, 'version'>[]): BreakdownRow {
  const byStep = tallied(
    of.filter((t) => t.what === 'sent' || t.what === 'clicked'),
    (t) => t.step,
  );
  return {
    key,
    joined: sumOf(of, 'joined'),
    sent: sumOf(of, 'sent'),
    opened: sumOf(of, 'opened'),
    clicked: sumOf(of, 'clicked'),
    left: sumOf(of, 'left'),
    orders: sumOf(of, 'orders'),
    money: moneyIn(of),
    steps: Object.fromEntries(
      [...byStep].map(([step, own]) => [step, { sent: sumOf(own, 'sent'), clicked: sumOf(own, 'clicked') }]),
    ),
  };
}

/** The numbers of a sequence by month of joining, and by version. */
export async function breakdownOf(db: Executor, ws: string, id: string): Promise<BreakdownAnswer> {
  const byMonth = tallied(await readMonths(db, ws, { sequence: id, whats: BROKEN_DOWN }), (t) => t.month);
  const counted = await readTallies(db, ws, { sequence: id, whats: BROKEN_DOWN, versions: true });
  const byVersion = tallied(counted, (t) => String(t.version));
  const published = await rows<{ number: number; at: number }>(
    db,
    sql`select number, published_at as at from versions where workspace_id = ${ws} and sequence_id = ${id}`,
  );
  const latest = <T extends { key: string }>(all: T[], key: (t: T) => number) => all.sort((a, b) => key(b) - key(a));
  return {
    months: latest(
      [...byMonth].map(([month, of]) => breakdownRow(month, of)),
      (r) => Date.parse(`${r.key}-01`),
    ),
    versions: latest(
      [...byVersion].map(([version, of]) => ({
        ...breakdownRow(version, of),
        publishedAt: published.find((p) => String(p.number) === version)?.at ?? null,
      })),
      (r) => Number(r.key),
    ),
  };
}
