import { sql } from 'drizzle-orm';
import type { Advanced, Effect, Value } from '@ascenso/core';
import { newId } from '../app/ids.ts';
import type { Tx } from '../db/connect.ts';
import { batch, rows } from '../db/rows.ts';
import type { LoadedVersion } from '../db/versions.ts';
import { attributesHappened } from '../people/attributes.ts';
import { isAwaited } from '../people/awaited.ts';
import { startFrom } from '../people/entering.ts';
import { setMembership } from '../people/memberships.ts';
import { stopVisits } from '../people/stopping.ts';
import { tagsHappened } from '../people/tags.ts';
import { writeTraces, type Reason } from '../people/traces.ts';
import { chainOf, type VisitRow } from '../people/visits.ts';

export interface ClaimedRow extends VisitRow {
  workspace_id: string;
  /** True for one that had been set aside. */
  aside: boolean;
  /** True where its person wants some days between emails; null where they are gone. */
  paced: boolean | null;
}

/** A visit that has been advanced, not yet written. */
export interface Moved {
  row: ClaimedRow;
  version: LoadedVersion;
  result: Advanced;
}

interface Told<K extends Effect['kind']> {
  row: ClaimedRow;
  effect: Extract<Effect, { kind: K }>;
}
const every = <K extends Effect['kind']>(moved: readonly Moved[], kind: K): Told<K>[] =>
  moved.flatMap(({ row, result }) =>
    result.effects.flatMap((e) => (e.kind === kind ? [{ row, effect: e as Told<K>['effect'] }] : [])),
  );
const personKey = (row: ClaimedRow) => `${row.workspace_id}/${row.person_id}`;

/** Makes everything but emails happen that a batch of advanced visits asks for, in their transaction. */
export async function writeEffects(tx: Tx, moved: readonly Moved[], now: number): Promise<void> {
  await writeTags(tx, every(moved, 'tag'), now);
  await writeAttributes(tx, every(moved, 'set'), now);
  await writePoints(tx, every(moved, 'points'));
  await writeNotices(tx, [...every(moved, 'tell'), ...every(moved, 'call')], now);
  // Last come those that start or end other visits: what this batch decided stands by then.
  for (const { row, effect: e } of every(moved, 'list'))
    await setMembership(tx, row.workspace_id, row.person_id, e.list, e.state, now, {
      kind: 'visit',
      visit: row.id,
      chain: chainOf(row.cause_id) + 1,
    });
  const told: Reason[] = [];
  for (const { row, effect: e } of every(moved, 'stop'))
    if (await stopVisits(tx, row.workspace_id, row.person_id, e.sequence, now, row.sequence_id))
      told.push(reasonOf(row, e.step, now, 'sequence-stopped', { sequence: e.sequence }));
  for (const { row, effect: e } of every(moved, 'start')) {
    const from = { visit: row.id, sequence: row.sequence_id, step: e.step, cause: row.cause_id };
    const came = await startFrom(tx, row.workspace_id, row.person_id, e.sequence, from, { at: e.at, now });
    told.push(
      came === 'started'
        ? reasonOf(row, e.step, now, 'sequence-started', { sequence: e.sequence })
        : reasonOf(row, e.step, now, 'start-refused', { sequence: e.sequence, why: came }),
    );
  }
  await writeTraces(tx, told);
}

/** A reason that belongs to a visit of the batch. */
export const reasonOf = (
  row: ClaimedRow,
  step: string | null,
  at: number,
  code: Reason['code'],
  data: Reason['data'],
): Reason => ({
  w: row.workspace_id,
  person: row.person_id,
  visit: row.id,
  seq: row.sequence_id,
  version: row.version,
  at,
  step,
  code,
  data,
});

/** What one batch does to one person, the last word of it winning. */
function byPerson<K extends Effect['kind'], T>(
  told: readonly Told<K>[],
  blank: () => T,
  add: (change: T, effect: Told<K>['effect']) => void,
): { row: ClaimedRow; change: T }[] {
  const found = new Map<string, { row: ClaimedRow; change: T }>();
  for (const { row, effect } of told) {
    const known = found.get(personKey(row)) ?? { row, change: blank() };
    add(known.change, effect);
    found.set(personKey(row), known);
  }
  return [...found.values()];
}

async function writeTags(tx: Tx, told: readonly Told<'tag'>[], now: number): Promise<void> {
  const people = byPerson(
    told,
    () => new Map<string, boolean>(),
    (tags, e) => tags.set(e.tag, e.add),
  );
  if (people.length === 0) return;
  const list = people.map(({ row, change }) => ({
    w: row.workspace_id,
    person: row.person_id,
    add: [...change].flatMap(([tag, on]) => (on ? [tag] : [])),
    remove: [...change].flatMap(([tag, on]) => (on ? [] : [tag])),
  }));
  const before = await rows<{ w: string; person: string; tags: string[] }>(
    tx,
    sql`update people p set tags = (select coalesce(array_agg(distinct t), '{}') from unnest(p.tags || n.add) t where t <> all (n.remove))
        from jsonb_to_recordset(${batch(list)}) as n(w uuid, person uuid, add text[], remove text[])
        join people o on o.workspace_id = n.w and o.id = n.person
        where p.workspace_id = n.w and p.id = n.person returning p.workspace_id as w, p.id as person, o.tags`,
  );
  const awaited = new Map<string, boolean>();
  for (const { row, change } of people) {
    const had = before.find((b) => b.person === row.person_id && b.w === row.workspace_id)?.tags ?? [];
    const ws = row.workspace_id;
    if (!awaited.has(ws)) awaited.set(ws, await isAwaited(tx, ws, 'tag'));
    if (!awaited.get(ws)) continue;
    const add = [...change].flatMap(([tag, on]) => (on && !had.includes(tag) ? [tag] : []));
    const remove = [...change].flatMap(([tag, on]) => (!on && had.includes(tag) ? [tag] : []));
    await tagsHappened(tx, ws, row.person_id, { add, remove }, now, chainOf(row.cause_id) + 1);
  }
}

async function writeAttributes(tx: Tx, told: readonly Told<'set'>[], now: number): Promise<void> {
  const people = byPerson(
    told,
    (): Record<string, unknown> => ({}),
    (change, e) => (change[e.key] = e.value),
  );
  if (people.length === 0) return;
  const list = people.map(({ row, change }) => ({ w: row.workspace_id, person: row.person_id, change }));
  const changed = await rows<{
    w: string;
    person: string;
    before: Record<string, Value>;
    after: Record<string, Value>;
  }>(
    tx,
    sql`update people p set attributes = jsonb_strip_nulls(p.attributes || n.change)
        from jsonb_to_recordset(${batch(list)}) as n(w uuid, person uuid, change jsonb)
        join people o on o.workspace_id = n.w and o.id = n.person
        where p.workspace_id = n.w and p.id = n.person returning p.workspace_id as w, p.id as person, o.attributes as before, p.attributes as after`,
  );
  for (const { row } of people) {
    const c = changed.find((k) => k.person === row.person_id && k.w === row.workspace_id);
    if (c) await attributesHappened(tx, c.w, c.person, c.before, c.after, now, chainOf(row.cause_id) + 1);
  }
}

async function writePoints(tx: Tx, told: readonly Told<'points'>[]): Promise<void> {
  const people = byPerson(
    told,
    () => ({ points: 0 }),
    (sum, e) => (sum.points += e.points),
  );
  if (people.length === 0) return;
  await tx.execute(sql`
    update people p set points = p.points + n.points
    from jsonb_to_recordset(${batch(people.map(({ row, change }) => ({ w: row.workspace_id, person: row.person_id, points: change.points })))}) as n(w uuid, person uuid, points int)
    where p.workspace_id = n.w and p.id = n.person`);
}

async function writeNotices(tx: Tx, told: readonly (Told<'tell'> | Told<'call'>)[], now: number): Promise<void> {
  if (told.length === 0) return;
  const list = told.map(({ row, effect: e }) => ({
    w: row.workspace_id,
    id: newId(),
    visit: row.id,
    seq: row.sequence_id,
    version: row.version,
    step: e.step,
    person: row.person_id,
    kind: e.kind,
    to: e.kind === 'tell' ? e.to : e.url,
    text: e.kind === 'tell' ? e.text : '',
  }));
  await tx.execute(sql`
    insert into notices (workspace_id, id, visit_id, sequence_id, version, step, person_id, kind, "to", text, status, due_at, next_at)
    select n.w, n.id, n.visit, n.seq, n.version, n.step, n.person, n.kind, n."to", n.text, 'queued', ${now}, ${now}
    from jsonb_to_recordset(${batch(list)}) as n(w uuid, id uuid, visit uuid, seq uuid, version int, step text, person uuid, kind text, "to" text, text text)
    on conflict do nothing`);
}
