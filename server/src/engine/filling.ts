import { sql } from 'drizzle-orm';
import {
  askedTogether,
  earlyEnd,
  LATE,
  linksToNowhere,
  mailBar,
  offerState,
  valuesFor,
  type Facts,
  type EarlyEnd,
  type MergeContext,
  type Runnable,
  type Values,
} from '@ascenso/core';
import type { Tx } from '../db/connect.ts';
import { loadFacts } from '../db/facts.ts';
import { packValues, unpackValues } from '../db/packed.ts';
import type { Wanted } from '../db/wanted.ts';
import { batch, firstRow } from '../db/rows.ts';
import { loadProgram, loadVersion, type LoadedProgram, type LoadedVersion } from '../db/versions.ts';
import { cancelLeased } from '../people/cancelling.ts';
import { markIssued, type Shown } from '../people/grants.ts';
import { putOff, type LeasedRow } from './leasing.ts';
import { mergeContext } from './merging.ts';
import { opensAt, type Tried } from './outcomes.ts';
import { haltedSenders, WAITS } from './senders.ts';
import { handled, isOfTheRow, setAside } from './setting-aside.ts';

/** An email that is ready to be handed over. */
export interface Ready extends Tried {
  program: LoadedProgram;
  to: string;
  values: Values;
}

/** What is known around one leased email. */
interface Around {
  row: LeasedRow;
  /** Undefined for a test send, which belongs to no version. */
  version: LoadedVersion | undefined;
  program: LoadedProgram;
}

// While a visit is under way, `advance` sees to its early ends before its rows are let go. One that has ended may still
// have its last email in the queue, for hours when the receiving server is busy.
const endIsOpen = (row: LeasedRow) => row.visit_status === 'done';

/** Why a send may no longer go out, or null. */
function barOf({ row, version, program }: Around, facts: Facts, now: number): string | null {
  if (row.revoked) return row.revoked;
  if (!version || row.visit_id === null) return null;
  if (row.sequence_status === 'archived') return 'archived';
  const { run } = version;
  const bar = mailBar(run.sequence, facts);
  if (bar) return bar;
  const { offer } = program.program;
  const state = offer === undefined ? null : offerState(facts.offers?.[offer]?.given, now);
  if (state === 'closed' || state === 'used') return `offer-${state}`;
  return endIsOpen(row) ? endThatHolds(row, facts, run, now) : null;
}

function endThatHolds(row: LeasedRow, facts: Facts, run: Runnable, now: number): EarlyEnd | null {
  const asking = { facts, now, enteredAt: row.entered_at ?? 0, stepTimes: row.step_times ?? {} };
  const cause = row.cause_id?.replace(/#\d+$/, '');
  const end = earlyEnd(run, asking, cause);
  if (!end || !row.own_change) return end;
  // What the sequence itself changed after this email can have brought the end: then only something newer counts.
  const before = { ...facts, events: facts.events.filter((e) => e.at <= row.due_at) };
  return earlyEnd(run, { ...asking, facts: before }, cause) ? null : end;
}

/** Whether it was this very passage that took the person off the list, by a step behind the email: then the email was before. */
async function leftByItself(tx: Tx, row: LeasedRow): Promise<boolean> {
  if (!row.own_change) return false;
  const own = await firstRow(
    tx,
    sql`select 1 from memberships where workspace_id = ${row.workspace_id} and person_id = ${row.person_id} and state = 'left' and by_visit = ${row.visit_id}`,
  );
  return own !== undefined;
}

/** The facts that the early ends of a visit that has ended ask for, and the conditional parts of the email itself. */
function wantedFor({ row: r, version, program: { asks } }: Around): Wanted {
  const ends = endIsOpen(r) ? version?.needs : undefined;
  return {
    workspace_id: r.workspace_id,
    visit_id: r.visit_id ?? r.id,
    key: r.id,
    person_id: r.person_id,
    ...askedTogether([asks, ...(ends ? [{ ...ends, emails: false, links: false }] : [])]),
    // Whether it may be sent is a question about its list.
    lists: true,
  };
}

const emailOf = ({ row, version }: Around) => {
  const step = version?.run.steps.get(row.step)?.step;
  return step?.kind === 'email' ? step : undefined;
};

function contextOf(around: Around, facts: Facts, now: number): MergeContext {
  const { row, version, program } = around;
  return mergeContext(facts, {
    entry: row.entry,
    sender: program.sender,
    currency: row.currency,
    offer: program.program.offer,
    sequence: { name: version?.run.sequence.name ?? '', email: emailOf(around)?.name ?? '' },
    // What an email says is asked once, of what is known when it is handed over for the first time.
    asking: { now: Math.max(now, row.due_at), enteredAt: row.entered_at ?? 0, stepTimes: row.step_times ?? {} },
  });
}

/** What an email is filled with for its reader. Throws where a link of it would lead them nowhere: it waits until that is mended. */
function filled(around: Around, facts: Facts, now: number): Values {
  const { program } = around.program;
  const values = valuesFor(program, contextOf(around, facts, now));
  const [nowhere] = around.row.visit_id === null ? [] : linksToNowhere(program, values);
  if (nowhere !== undefined) throw new Error(`“${nowhere}” has no address for this reader, so the email waits`);
  return values;
}

/** The offer that an email shows for the first time; a retry shows what it showed before. */
function shownBy({ row, program: { program } }: Ready, facts: Facts | undefined): Shown[] {
  if (row.values !== null || row.visit_id === null || !program.offer) return [];
  const webhook = facts?.offers?.[program.offer]?.offer.webhook ?? '';
  return [
    {
      w: row.workspace_id,
      person: row.person_id,
      offer: program.offer,
      at: row.due_at,
      visit: row.visit_id,
      sequence: row.sequence_id,
      version: row.version,
      step: row.step,
      webhook,
    },
  ];
}

const itemOf = (row: LeasedRow) => ({ w: row.workspace_id, item: row.id });

/** Leaves an email for later, since it cannot be filled or built as things are. */
export async function setSendAside(tx: Tx, row: LeasedRow, error: unknown, now: number): Promise<void> {
  const what = { ...itemOf(row), kind: 'send', sequence: row.sequence_id, person: row.person_id } as const;
  const { nextAt } = await setAside(tx, what, error, now);
  await putOff(tx, row, nextAt);
}

async function aroundEach(tx: Tx, leased: readonly LeasedRow[], now: number): Promise<Around[]> {
  const out: Around[] = [];
  for (const row of leased)
    try {
      const version = row.visit_id ? await loadVersion(tx, row.workspace_id, row.sequence_id, row.version) : undefined;
      out.push({ row, version, program: await loadProgram(tx, row.workspace_id, row.program_hash) });
    } catch (error) {
      if (!isOfTheRow(error)) throw error;
      await setSendAside(tx, row, error, now);
    }
  return out;
}

/** Why an email waits although it may go: its sender is halted, or it is late and its window is closed. Null where it does not. */
function waitsUntil(around: Around, window: Tried['window'], halted: ReadonlySet<string>, now: number): number | null {
  const { row, program } = around;
  if (row.visit_id === null) return null;
  if (halted.has(`${row.workspace_id}/${program.sender.email}`)) return WAITS;
  const opens = now - row.due_at > LATE ? opensAt(window, now) : now;
  return opens > now ? opens : null;
}

/**
 * Fills each leased email once and keeps the values with it; cancels those that may no longer go out, puts off those that
 * have to wait, sets aside those that cannot be filled.
 */
export async function makeReady(tx: Tx, leased: readonly LeasedRow[], now: number): Promise<Ready[]> {
  const all = await aroundEach(tx, leased, now);
  const facts = await loadFacts(tx, all.map(wantedFor));
  const halted = await haltedSenders(tx, [...new Set(all.map((a) => a.row.workspace_id))]);
  const ready: Ready[] = [];
  const cancelled: { w: string; id: string; why: string }[] = [];
  for (const around of all) {
    const { row, program } = around;
    const known = facts.get(row.id);
    let why = known ? barOf(around, known, now) : 'deleted';
    if (why === 'left-list' && (await leftByItself(tx, row))) why = null;
    if (why || !known) {
      cancelled.push({ w: row.workspace_id, id: row.id, why: why ?? 'deleted' });
      continue;
    }
    const of = emailOf(around)?.window;
    const window = of ? { of, zone: known.person.zone } : null;
    const wait = waitsUntil(around, window, halted, now);
    if (wait !== null) await putOff(tx, row, wait);
    else
      try {
        const values = row.values ? unpackValues(row.values, program.dictionary) : filled(around, known, now);
        ready.push({ row, program, window, sender: program.sender.email, to: row.to ?? known.person.email, values });
      } catch (error) {
        await setSendAside(tx, row, error, now);
      }
  }
  const fresh = ready
    .filter((r) => r.row.values === null)
    .map((r) => ({
      w: r.row.workspace_id,
      id: r.row.id,
      to: r.to,
      vals: packValues(r.values, r.program.dictionary).toString('base64'),
    }));
  if (fresh.length > 0)
    await tx.execute(
      sql`update sends s set "to" = n."to", values = decode(n.vals, 'base64') from jsonb_to_recordset(${batch(fresh)}) as n(w uuid, id uuid, "to" text, vals text) where s.workspace_id = n.w and s.id = n.id`,
    );
  await markIssued(
    tx,
    ready.flatMap((r) => shownBy(r, facts.get(r.row.id))),
  );
  await cancelLeased(tx, cancelled, now);
  await handled(tx, 'send', [...ready.map((r) => itemOf(r.row)), ...cancelled.map((c) => ({ w: c.w, item: c.id }))]);
  return ready;
}
