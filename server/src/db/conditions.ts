import { sql, type SQL } from 'drizzle-orm';
import {
  addPeriod,
  atomsOf,
  DATE_TEXT,
  NUMBER_TEXT,
  zoneOf,
  type Atom,
  type Condition,
  type FieldTest,
  type Since,
} from '@ascenso/core';
import { ONCE, type Executor } from './connect.ts';
import { firstRow, rows } from './rows.ts';

/** A condition that can only be asked about one person's passage through a sequence: about its emails, or since entry. */
export class AboutVisit extends Error {}

interface Asked {
  /** Epoch ms. */
  now: number;
  /** Instants (epoch ms) by zone of the people, for each period asked: days keep the wall time of a zone. */
  periods: Map<string, { zone: string; at: number }[]>;
  /** Rules by segment id. */
  segments: Map<string, Condition>;
}

/** A period counted from now in the zone of each person; back where the amount is negative. */
interface Period {
  amount: number;
  unit: 'hours' | 'days' | 'weeks';
}
const periodKey = (p: Period) => `${p.amount} ${p.unit}`;
const backKey = (p: Period) => periodKey({ ...p, amount: -p.amount });

/** The instant that lies a period from now by the calendar of the person's zone. */
const zoneInstant = (key: string, asked: Asked) =>
  sql`(select f."at" from jsonb_to_recordset(${json(asked.periods.get(key) ?? [])}) as f(zone text, "at" bigint) where f.zone = coalesce(p.zone, w.zone))`;
const json = (value: unknown) => sql`${JSON.stringify(value)}::jsonb`;

/** The text of a jsonb value, as core's `textOf` writes it. */
const text = (value: SQL) => sql`lower(${value} #>> '{}')`;
const scalar = (value: SQL) => sql`jsonb_typeof(${value}) in ('string', 'number', 'boolean')`;
const empty = (value: SQL) => sql`(${value} is null or ${value} in ('null', '""', '[]'))`;
const numeric = (value: SQL) =>
  sql`case jsonb_typeof(${value}) when 'number' then (${value} #>> '{}')::numeric when 'string' then case when ${value} #>> '{}' ~ ${NUMBER_TEXT} then (${value} #>> '{}')::numeric end end`;
const day = (value: SQL) =>
  sql`case when jsonb_typeof(${value}) = 'string' and ${value} #>> '{}' ~ ${DATE_TEXT} then left(${value} #>> '{}', 10) end`;

const NUMBER = new RegExp(NUMBER_TEXT);
const DATE = new RegExp(DATE_TEXT);

/** The SQL of core's `testField`: true or false, never null. */
function testSql(test: FieldTest, value: SQL): SQL {
  const wanted = test.value === undefined ? 'undefined' : String(test.value).toLowerCase();
  const items = sql`jsonb_array_elements(case when jsonb_typeof(${value}) = 'array' then ${value} else jsonb_build_array(${value}) end) as i(v)`;
  switch (test.op) {
    case 'is set':
      return sql`not ${empty(value)}`;
    case 'is not set':
      return empty(value);
    case 'is':
      return sql`(not ${empty(value)} and exists (select 1 from ${items} where case when ${scalar(sql`i.v`)} then ${text(sql`i.v`)} else '' end = ${wanted}))`;
    case 'is not':
      return sql`not ${testSql({ ...test, op: 'is' }, value)}`;
    case 'contains': {
      const part = test.value === undefined ? '' : wanted;
      return sql`(not ${empty(value)} and exists (select 1 from ${items} where strpos(case when ${scalar(sql`i.v`)} then ${text(sql`i.v`)} else '' end, ${part}) > 0))`;
    }
    case 'over':
    case 'under': {
      const limit = typeof test.value === 'number' || NUMBER.test(String(test.value)) ? Number(test.value) : null;
      if (limit === null || typeof test.value === 'boolean') return sql`false`;
      return sql`coalesce(${numeric(value)} ${sql.raw(test.op === 'over' ? '>' : '<')} ${limit}::numeric, false)`;
    }
    case 'before':
    case 'after': {
      const limit = typeof test.value === 'string' && DATE.test(test.value) ? test.value.slice(0, 10) : null;
      if (limit === null) return sql`false`;
      return sql`coalesce(${day(value)} collate "C" ${sql.raw(test.op === 'before' ? '<' : '>')} ${limit}, false)`;
    }
  }
}

const pathOf = (field: string) => sql`${sql.param(field.split('.'))}::text[]`;

function sinceSql(since: Since, asked: Asked): SQL | null {
  switch (since.kind) {
    case 'ever':
      return null;
    case 'period':
      return sql`e.occurred_at >= ${zoneInstant(backKey(since), asked)}`;
    default:
      throw new AboutVisit();
  }
}

function eventSql(atom: Extract<Atom, { kind: 'event' }>, asked: Asked): SQL {
  const tests = [
    sql`e.workspace_id = p.workspace_id and e.person_id = p.id and e.name = ${atom.event} and e.occurred_at <= ${asked.now}`,
    sinceSql(atom.since, asked),
    ...atom.where.map((t) => testSql(t, sql`(e.payload #> ${pathOf(t.field)})`)),
  ].filter((s) => s !== null);
  const found = sql`from events e where ${sql.join(tests, sql` and `)}`;
  const value = atom.per === undefined ? null : sql`(e.payload #> ${pathOf(atom.per)})`;
  const same = value && sql`case when ${scalar(value)} then ${value} #>> '{}' end`;
  const did = same
    ? sql`exists (select 1 ${found} and ${same} <> '' group by ${same} having count(*) >= ${atom.times ?? 1})`
    : atom.times
      ? sql`(select count(*) ${found}) >= ${atom.times}`
      : sql`exists (select 1 ${found})`;
  return atom.done ? did : sql`not (${did})`;
}

/** The SQL of core's `isOfferState`. */
function offerSql({ offer, state, within, is }: Extract<Atom, { kind: 'offer' }>, asked: Asked): SQL {
  const { now } = asked;
  const used = sql`coalesce(g.used_at <= ${now}, false)`;
  const closed = sql`coalesce(g.closes_at <= ${now}, false)`;
  const open = sql`not ${used} and not ${closed}`;
  const test = {
    used,
    open,
    closed: sql`${closed} and not ${used}`,
    closing: sql`${open} and coalesce(g.closes_at <= ${zoneInstant(periodKey(within), asked)}, false)`,
  }[state];
  const found = sql`exists (select 1 from offer_grants g where g.workspace_id = p.workspace_id and g.person_id = p.id and g.offer_id::text = ${offer} and g.opened_at <= ${now} and ${test})`;
  return is ? found : sql`not ${found}`;
}

/**
 * A condition about people as SQL over `people p join workspaces w`: the same answer as core's `evaluate`, which a property
 * test holds it to. Throws AboutVisit for what only a visit can answer.
 */
function conditionSql(condition: Condition, asked: Asked): SQL {
  switch (condition.kind) {
    case 'all':
    case 'any': {
      if (condition.of.length === 0) return condition.kind === 'all' ? sql`true` : sql`false`;
      const parts = condition.of.map((c) => conditionSql(c, asked));
      return sql`(${sql.join(parts, condition.kind === 'all' ? sql` and ` : sql` or `)})`;
    }
    case 'not':
      return sql`not ${conditionSql(condition.of, asked)}`;
    case 'attribute':
      return testSql(condition.test, sql`(p.attributes #> ${pathOf(condition.test.field)})`);
    case 'tag':
      return condition.has ? sql`${condition.tag} = any (p.tags)` : sql`not ${condition.tag} = any (p.tags)`;
    case 'list': {
      const on = sql`exists (select 1 from memberships m where m.workspace_id = p.workspace_id and m.person_id = p.id and m.list_id::text = ${condition.list} and m.state = 'confirmed')`;
      return condition.on ? on : sql`not ${on}`;
    }
    case 'event':
      return eventSql(condition, asked);
    case 'offer':
      return offerSql(condition, asked);
    case 'points':
      return sql`p.points ${sql.raw(condition.op === 'over' ? '>' : '<')} ${condition.value}::numeric`;
    case 'segment': {
      const rule = asked.segments.get(condition.segment);
      const inside = rule ? conditionSql(rule, asked) : sql`false`;
      return condition.in ? inside : sql`not ${inside}`;
    }
    case 'email':
      throw new AboutVisit();
  }
}

/** Periods from now that a condition asks about. */
const periodsOf = (condition: Condition): Period[] =>
  atomsOf(condition).flatMap((a) => {
    if (a.kind === 'event' && a.since.kind === 'period') return [{ ...a.since, amount: -a.since.amount }];
    return a.kind === 'offer' && a.state === 'closing' ? [a.within] : [];
  });

async function ask(db: Executor, ws: string, condition: Condition, now: number): Promise<SQL> {
  const segments = atomsOf(condition).flatMap((a) => (a.kind === 'segment' ? [a.segment] : []));
  const rules = segments.length
    ? await rows<{ id: string; rule: Condition }>(
        db,
        sql`select id, rule from segments where workspace_id = ${ws} and id::text = any (${sql.param(segments)}::text[])`,
      )
    : [];
  const asked: Asked = { now, periods: new Map(), segments: new Map(rules.map((r) => [r.id, r.rule])) };
  const periods = [condition, ...rules.map((r) => r.rule)].flatMap(periodsOf);
  if (periods.length > 0) {
    const zones = await rows<{ zone: string }>(
      db,
      sql`select distinct coalesce(p.zone, w.zone) as zone from people p join workspaces w on w.id = p.workspace_id where p.workspace_id = ${ws}`,
    );
    for (const s of periods)
      asked.periods.set(
        periodKey(s),
        zones.map(({ zone }) => ({ zone, at: addPeriod(zoneOf(zone), now, s.amount, s.unit) })),
      );
  }
  return sql`from people p join workspaces w on w.id = p.workspace_id where p.workspace_id = ${ws} and ${conditionSql(condition, asked)}`;
}

/** Ids of the people of a workspace for whom a condition is true at `now` (epoch ms). */
export async function matchingPeople(db: Executor, ws: string, condition: Condition, now: number): Promise<string[]> {
  const found = await rows<{ id: string }>(
    db,
    sql`select ${sql.raw(ONCE)} p.id ${await ask(db, ws, condition, now)} order by p.id`,
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
