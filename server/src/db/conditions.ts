import { sql, type SQL } from 'drizzle-orm';
import { atomsOf, askedByAtoms, isAtom, zoneNames, zoneOf, type Atom, type Condition, type Zone } from '@ascenso/core';
import { atomSql, type Asked } from './atom-sql.ts';
import { ONCE, type Executor } from './connect.ts';
import { firstRow, rows } from './rows.ts';

// The one place where an atom meets its SQL: TypeScript cannot follow the pairing through the record.
const sqlOf = (atom: Atom) =>
  atomSql[atom.kind] as (atom: Atom, asked: Asked, answer: (rule: Condition, asked: Asked) => SQL) => SQL;

export { AboutVisit } from './atom-sql.ts';

/**
 * A condition about people as SQL over `people p`: the same answer as core's `evaluate`, which a property
 * test holds it to. Throws AboutVisit for what only a visit can answer.
 */
function conditionSql(condition: Condition, asked: Asked): SQL {
  if (isAtom(condition)) return sqlOf(condition)(condition, asked, conditionSql);
  switch (condition.kind) {
    case 'all':
    case 'any': {
      if (condition.of.length === 0) return condition.kind === 'all' ? sql`true` : sql`false`;
      const parts = condition.of.map((c) => conditionSql(c, asked));
      return sql`(${sql.join(parts, condition.kind === 'all' ? sql` and ` : sql` or `)})`;
    }
    case 'not':
      return sql`not ${conditionSql(condition.of, asked)}`;
  }
}

/**
 * The people for whom a condition is true at `now`, as the end of a statement over `people p`. `percent` is the share of the
 * table's pages that is looked at. Nothing is joined: what is, keeps PostgreSQL from counting with several processes.
 */
export async function ask(db: Executor, ws: string, condition: Condition, now: number, percent = 100): Promise<SQL> {
  const { segments } = askedByAtoms(atomsOf(condition));
  const rules = segments.length
    ? await rows<{ id: string; rule: Condition }>(
        db,
        sql`select id, rule from segments where workspace_id = ${ws} and id::text = any (${sql.param(segments)}::text[])`,
      )
    : [];
  const workspace = await firstRow<{ zone: string }>(db, sql`select zone from workspaces where id = ${ws}`);
  const known = new Map<string, SQL>();
  const asked: Asked = {
    now,
    segments: new Map(rules.map((r) => [r.id, r.rule])),
    inZone: (key, type, value) => {
      const found = known.get(key) ?? valueInZone(workspace?.zone ?? 'UTC', type, value);
      known.set(key, found);
      return found;
    },
  };
  const where = conditionSql(condition, asked);
  const sampled = percent < 100 ? sql`tablesample system (${percent})` : sql``;
  return sql`from people p ${sampled} where p.workspace_id = ${ws} and ${where}`;
}

/**
 * A value that hangs on the zone of a person: many zones have the same one, so they are told apart by it, and what most of
 * them have stands for the rest.
 */
function valueInZone(usual: string, type: 'bigint' | 'text' | 'text[]', value: (zone: Zone) => unknown): SQL {
  const zones = new Map<string, { value: unknown; names: string[] }>();
  for (const name of zoneNames) {
    const own = value(zoneOf(name));
    const key = JSON.stringify(own);
    const alike = zones.get(key) ?? { value: own, names: [] };
    alike.names.push(name);
    zones.set(key, alike);
  }
  const [most, ...others] = [...zones.values()].sort((a, b) => b.names.length - a.names.length);
  const as = (v: unknown) => sql`${sql.param(v)}::${sql.raw(type)}`;
  if (others.length === 0) return as(most?.value);
  const cases = others.map(
    (o) => sql`when coalesce(p.zone, ${usual}) = any (${sql.param(o.names)}::text[]) then ${as(o.value)}`,
  );
  return sql`(case ${sql.join(cases, sql` `)} else ${as(most?.value)} end)`;
}

/** Ids of the people of a workspace for whom a condition is true at `now` (epoch ms); of those alone whose ids `among` selects. */
export async function matchingPeople(
  db: Executor,
  ws: string,
  condition: Condition,
  now: number,
  among?: SQL,
): Promise<string[]> {
  const those = among ? sql`and p.id in (${among})` : sql``;
  const found = await rows<{ id: string }>(
    db,
    sql`select ${sql.raw(ONCE)} p.id ${await ask(db, ws, condition, now)} ${those} order by p.id`,
  );
  return found.map((p) => p.id);
}

/** Ids of some people for whom a condition is true at `now` (epoch ms), those who get mail first. */
export async function someMatching(
  db: Executor,
  ws: string,
  condition: Condition,
  now: number,
  limit: number,
): Promise<string[]> {
  const found = await rows<{ id: string }>(
    db,
    sql`select ${sql.raw(ONCE)} p.id ${await ask(db, ws, condition, now)} order by p.mail_status <> 'ok', p.id limit ${limit}`,
  );
  return found.map((p) => p.id);
}

/** How many people a condition is true for at `now` (epoch ms). Throws AboutVisit for what only a visit can answer. */
export async function countMatching(db: Executor, ws: string, condition: Condition, now: number): Promise<number> {
  const found = await firstRow<{ n: number }>(
    db,
    sql`select ${sql.raw(ONCE)} count(*) as n ${await ask(db, ws, condition, now)}`,
  );
  return found?.n ?? 0;
}

/** People looked at for an estimate: few enough for 200 ms, many enough for two figures. */
const SAMPLE = 6_000;

/** People of the installation from which on counting takes longer than anybody waits for a figure that is typed at. */
const MANY = 5 * SAMPLE;

const peopleAbout = async (db: Executor): Promise<number> =>
  (
    await firstRow<{ n: number }>(
      db,
      sql`select greatest(reltuples, 0)::bigint as n from pg_class where oid = 'people'::regclass`,
    )
  )?.n ?? 0;

/** Whether there are so few people that counting them takes no time. */
export const countsFast = async (db: Executor): Promise<boolean> => (await peopleAbout(db)) < MANY;

/**
 * About how many people a condition is true for at `now`, from some pages of the table; null where they are counted as fast.
 * A condition that is rare is told badly: whoever shows it counts behind it.
 */
export async function estimateMatching(
  db: Executor,
  ws: string,
  condition: Condition,
  now: number,
): Promise<number | null> {
  const all = await peopleAbout(db);
  if (all < MANY) return null;
  const percent = (100 * SAMPLE) / all;
  const found = await firstRow<{ n: number }>(
    db,
    sql`select ${sql.raw(ONCE)} count(*) as n ${await ask(db, ws, condition, now, percent)}`,
  );
  return Math.round(((found?.n ?? 0) * 100) / percent);
}
