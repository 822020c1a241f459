import { sql } from 'drizzle-orm';
import { advance, type Effect, type Facts, type PersonFacts, type TraceCode } from '@ascenso/core';
import { newId } from '../app/ids.ts';
import type { Connection, Tx } from '../db/connect.ts';
import { loadFacts } from '../db/facts.ts';
import { batch, rows } from '../db/rows.ts';
import { again } from '../db/transact.ts';
import { loadVersion, type LoadedVersion } from '../db/versions.ts';
import { recallEmails } from '../people/cancelling.ts';
import { writeTraces } from '../people/traces.ts';
import { postponeVisit, toVisit, wakeOthers, writeVisits } from '../people/visits.ts';
import { claimAgain, claimDue } from './claiming.ts';
import { reasonOf, writeEffects, type ClaimedRow, type Moved } from './effects.ts';
import { isCapped, MailLedger, rulesOf, type Rules } from './mailing.ts';
import { OfferLedger } from './offer-ledger.ts';
import { handled, isOfTheRow, isolating, setAside } from './setting-aside.ts';
import { TestLedger } from './test-ledger.ts';

/** Visits advanced in one transaction: measured to be where the cost per visit levels out. */
export const ADVANCE_BATCH = 500;

/** Effects that change what is known of the person. */
const CHANGES: ReadonlySet<Effect['kind']> = new Set(['tag', 'set', 'points', 'list']);

/**
 * Claims one batch of due visits, advances them and writes visits, outbox, effects and trace, all in one transaction.
 * Any number of processes may run it against one database. A visit that cannot be handled is set aside, the rest of its
 * batch goes on. Answers how many it moved.
 */
export async function advanceRound(connection: Connection, now: number, size = ADVANCE_BATCH): Promise<number> {
  let tried: ClaimedRow[] = [];
  try {
    return await round(connection, now, async (tx) => (tried = await claimDue(tx, now, size)));
  } catch (error) {
    // Something in the batch broke the transaction itself: which one is found by halves.
    if (tried.length === 0 || !isOfTheRow(error)) throw error;
    let moved = 0;
    await isolating(
      tried,
      async (some) => {
        moved += await round(connection, now, (tx) => claimAgain(tx, now, some));
      },
      (row, reason) => connection.db.transaction((tx) => setVisitAside(tx, row, reason, now)),
    );
    return moved;
  }
}

async function round(connection: Connection, now: number, claim: (tx: Tx) => Promise<ClaimedRow[]>): Promise<number> {
  const moved = await connection.db.transaction(async (tx) => {
    const due = await claim(tx);
    if (due.length === 0) return [];
    const { versionOf, known, failed } = await versionsOf(tx, due);
    for (const { row, error } of failed) await setVisitAside(tx, row, error, now);
    const rules = await rulesOf(tx, [...new Set(known.map((r) => r.workspace_id))]);
    const claimed = await withTheirPeople(tx, known, (r) => {
      const version = versionOf(r);
      const paced = r.paced === true && version.run.sequence.list !== null;
      return paced || isCapped(r, version, rules) || version.needs.changes || version.makes.length > 0;
    });
    if (claimed.length === 0) return [];
    const moved = await moveAll(tx, claimed, versionOf, rules, now);
    await cancelEnded(tx, moved, now);
    await writeEffects(tx, moved, now);
    await handled(
      tx,
      'visit',
      moved.flatMap(({ row }) => (row.aside ? [{ w: row.workspace_id, item: row.id }] : [])),
    );
    return moved;
  });
  // After the commit, since another process may hold those visits; should it die in between, they see it when next due.
  const changed = moved.filter(({ result }) => result.effects.some((e) => CHANGES.has(e.kind)));
  const list = changed.map(({ row }) => ({ w: row.workspace_id, visit: row.id, person: row.person_id }));
  if (list.length > 0) await again(() => wakeOthers(connection.db, list, now));
  return moved.length;
}

/** Leaves a visit where it stands, to be looked at again later; told once in the person's story. */
async function setVisitAside(tx: Tx, row: ClaimedRow, error: unknown, now: number): Promise<void> {
  const what = {
    w: row.workspace_id,
    kind: 'visit',
    item: row.id,
    sequence: row.sequence_id,
    person: row.person_id,
  } as const;
  const { nextAt, failures, reason } = await setAside(tx, what, error, now);
  await postponeVisit(tx, row.workspace_id, row.id, nextAt);
  if (failures === 1) await writeTraces(tx, [reasonOf(row, row.step, now, 'set-aside', { why: reason })]);
}

/**
 * Locks the people of those visits that `touch` them (or others of their visits), and leaves out visits whose person is
 * held elsewhere: they are due still. Everybody else locks a person before their visits, so whoever waited for a person
 * here, with visits in hand, would wait for each other. Under the lock nobody is given an offer, or the last email of a
 * day, twice.
 */
async function withTheirPeople(tx: Tx, due: ClaimedRow[], touch: (row: ClaimedRow) => boolean): Promise<ClaimedRow[]> {
  const touching = new Set(due.filter(touch));
  if (touching.size === 0) return due;
  const keys = batch([...touching].map((r) => ({ w: r.workspace_id, p: r.person_id })));
  const held = await rows<{ id: string }>(
    tx,
    sql`select id from people where (workspace_id, id) in (select w, p from jsonb_to_recordset(${keys}) as k(w uuid, p uuid)) for update skip locked`,
  );
  const people = new Set(held.map((p) => p.id));
  const missing = [...touching].filter((r) => !people.has(r.person_id));
  if (missing.length === 0) return due;
  // Whoever was deleted is locked by nobody: their visit goes on, and ends.
  const others = await rows<{ id: string }>(
    tx,
    sql`select id from people where (workspace_id, id) in (select w, p from jsonb_to_recordset(${batch(missing.map((r) => ({ w: r.workspace_id, p: r.person_id })))}) as k(w uuid, p uuid))`,
  );
  const elsewhere = new Set(others.map((p) => p.id));
  return due.filter((r) => !touching.has(r) || people.has(r.person_id) || !elsewhere.has(r.person_id));
}

type VersionOf = (row: ClaimedRow) => LoadedVersion;

/** The versions of a batch. A visit whose version cannot be read is told apart. */
async function versionsOf(
  tx: Tx,
  due: readonly ClaimedRow[],
): Promise<{ versionOf: VersionOf; known: ClaimedRow[]; failed: { row: ClaimedRow; error: unknown }[] }> {
  const versions = new Map<string, LoadedVersion | Error>();
  const keyOf = (r: ClaimedRow) => `${r.sequence_id}/${r.version}`;
  for (const r of due)
    if (!versions.has(keyOf(r)))
      versions.set(
        keyOf(r),
        await loadVersion(tx, r.workspace_id, r.sequence_id, r.version).catch((error: unknown) => {
          if (!isOfTheRow(error)) throw error;
          return error as Error;
        }),
      );
  const failed = due.flatMap((row) => {
    const error = versions.get(keyOf(row));
    return error instanceof Error ? [{ row, error }] : [];
  });
  const bad = new Set(failed.map((f) => f.row));
  return { versionOf: (r) => versions.get(keyOf(r)) as LoadedVersion, known: due.filter((r) => !bad.has(r)), failed };
}

async function moveAll(
  tx: Tx,
  claimed: readonly ClaimedRow[],
  versionOf: VersionOf,
  rules: Map<string, Rules>,
  now: number,
): Promise<Moved[]> {
  const facts = await loadFacts(
    tx,
    claimed.map((r) => ({
      workspace_id: r.workspace_id,
      visit_id: r.id,
      person_id: r.person_id,
      ...versionOf(r).needs,
    })),
  );
  const ledger = await MailLedger.open(tx, claimed, versionOf, rules);
  const offers = await OfferLedger.open(tx, claimed, facts, versionOf);
  const tests = await TestLedger.open(tx, claimed, versionOf);
  // A person can be in a batch twice: what the first visit changes about them, the second sees.
  const changed = new Map<string, PersonFacts>();
  const moved: Moved[] = [];
  for (const row of claimed) {
    const version = versionOf(row);
    const loaded = facts.get(row.id);
    const visit = toVisit(row);
    // The person was deleted: the visit ends without a word.
    if (!loaded) {
      const person = {} as PersonFacts;
      const ended = { ...visit, status: 'done' as const, step: null, dueAt: 0, endedAt: now, ending: 'left' as const };
      moved.push({ row, version, result: { visit: ended, effects: [], trace: [], person } });
      continue;
    }
    const known: Facts = { ...loaded, person: changed.get(row.person_id) ?? loaded.person };
    try {
      const result = advance(visit, version.run, tests.with(offers.with(ledger.with(known, row), row), row), now);
      ledger.note(row, known, version, result);
      offers.note(row, result);
      tests.note(row, version, result);
      if (result.person !== known.person) changed.set(row.person_id, result.person);
      moved.push({ row, version, result });
    } catch (error) {
      await setVisitAside(tx, row, error, now);
    }
  }
  await ledger.write(tx);
  await writePaces(tx, moved, facts);
  await offers.write(tx);
  await tests.write(tx);
  await writeVisits(
    tx,
    moved.map(({ row, result: { visit } }) => ({ w: row.workspace_id, visit })),
  );
  await queueSends(tx, moved, ledger, facts);
  await writeTraces(
    tx,
    moved.flatMap(({ row, result }) => result.trace.map((t) => reasonOf(row, t.step, t.at, t.code, t.data))),
  );
  return moved;
}

/** Keeps when the last email went to those who want some days between them. Their people are locked. */
async function writePaces(tx: Tx, moved: readonly Moved[], facts: ReadonlyMap<string, Facts>): Promise<void> {
  const paced = moved.flatMap(({ row, result }) => {
    const last = result.person.pace?.last ?? null;
    return last === null || last === facts.get(row.id)?.person.pace?.last
      ? []
      : [{ w: row.workspace_id, person: row.person_id, last }];
  });
  if (paced.length === 0) return;
  await tx.execute(
    sql`update people p set paced_at = greatest(p.paced_at, n.last)
        from (select w, person, max(last) as last from jsonb_to_recordset(${batch(paced)}) as r(w uuid, person uuid, last bigint) group by 1, 2) n
        where p.workspace_id = n.w and p.id = n.person`,
  );
}

async function queueSends(
  tx: Tx,
  moved: readonly Moved[],
  ledger: MailLedger,
  facts: ReadonlyMap<string, Facts>,
): Promise<void> {
  const list = moved.flatMap(({ row, version, result }) =>
    result.effects.flatMap((e) =>
      e.kind === 'send'
        ? [
            {
              w: row.workspace_id,
              id: newId(),
              visit: row.id,
              seq: row.sequence_id,
              version: row.version,
              step: e.step,
              person: row.person_id,
              hash: version.programs[e.step],
              due: e.dueAt,
              own: result.effects.some((k) => CHANGES.has(k.kind)),
              day: ledger.capDay(row, facts.get(row.id) as Facts, version, e.dueAt),
            },
          ]
        : [],
    ),
  );
  if (list.length === 0) return;
  await tx.execute(sql`
    insert into sends (workspace_id, id, visit_id, sequence_id, version, step, person_id, program_hash, status, due_at, next_at, own_change, cap_day)
    select n.w, n.id, n.visit, n.seq, n.version, n.step, n.person, n.hash, 'queued', n.due, n.due, n.own, n.day
    from jsonb_to_recordset(${batch(list)}) as n(w uuid, id uuid, visit uuid, seq uuid, version int, step text, person uuid, hash text, due bigint, own boolean, day int)
    on conflict do nothing`);
}

/** Ends that take back what is queued, and why; with null, the reason is told with it. */
const TAKES_BACK: Partial<Record<TraceCode, string | null>> = {
  'goal-reached': 'goal',
  'left-by-rule': 'exit',
  'mail-stopped': null,
};

/**
 * A goal, a rule or a stop also takes back what is queued and not yet under way. What the sequence itself changed right after an
 * email may have been the goal: whether that email still goes is for the send loop, which knows what is newer.
 */
async function cancelEnded(tx: Tx, moved: readonly Moved[], now: number): Promise<void> {
  const ended = new Map<string, { w: string; visit: string }[]>();
  for (const { row, result } of moved) {
    const end = result.trace.find((t) => t.code in TAKES_BACK);
    if (!end) continue;
    const why = TAKES_BACK[end.code] ?? String(end.data.why);
    ended.set(why, [...(ended.get(why) ?? []), { w: row.workspace_id, visit: row.id }]);
  }
  for (const [why, visits] of ended)
    await recallEmails(
      tx,
      sql`(s.workspace_id, s.visit_id) in (select w, visit from jsonb_to_recordset(${batch(visits)}) as n(w uuid, visit uuid)) and not s.own_change`,
      { why, at: now },
    );
}
