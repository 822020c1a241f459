import { sql, type SQL } from 'drizzle-orm';
import { type AtomName, type AtomOf, type Condition, type Period, type Since } from '@ascenso/core';
import { pathOf, scalar, testSql } from './field-sql.ts';

/** A condition that can only be asked about one person's passage through a sequence: about its emails, or since entry. */
export class AboutVisit extends Error {}

export interface Asked {
  /** Epoch ms. */
  now: number;
  /** Instants (epoch ms) by zone of the people, for each period asked: days keep the wall time of a zone. */
  periods: Map<string, { zone: string; at: number }[]>;
  /** Rules by segment id. */
  segments: Map<string, Condition>;
}

/** A period counted from now in the zone of each person, as a key; back where the amount is negative. */
export const periodKey = (p: Period) => `${p.amount} ${p.unit}`;

/** The instant that lies a period from now by the calendar of the person's zone. */
const zoneInstant = (period: Period, asked: Asked) =>
  sql`(select f."at" from jsonb_to_recordset(${JSON.stringify(asked.periods.get(periodKey(period)) ?? [])}::jsonb) as f(zone text, "at" bigint) where f.zone = coalesce(p.zone, w.zone))`;

function sinceSql(since: Since, asked: Asked): SQL | null {
  switch (since.kind) {
    case 'ever':
      return null;
    case 'period':
      return sql`e.occurred_at >= ${zoneInstant({ ...since, amount: -since.amount }, asked)}`;
    case 'entry':
    case 'step':
      throw new AboutVisit();
  }
}

function eventSql(atom: AtomOf<'event'>, asked: Asked): SQL {
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
function offerSql({ offer, state, within, is }: AtomOf<'offer'>, asked: Asked): SQL {
  const { now } = asked;
  const used = sql`coalesce(g.used_at <= ${now}, false)`;
  const closed = sql`coalesce(g.closes_at <= ${now}, false)`;
  const open = sql`not ${used} and not ${closed}`;
  const test = {
    used,
    open,
    closed: sql`${closed} and not ${used}`,
    closing: sql`${open} and coalesce(g.closes_at <= ${zoneInstant(within, asked)}, false)`,
  }[state];
  const found = sql`exists (select 1 from offer_grants g where g.workspace_id = p.workspace_id and g.person_id = p.id and g.offer_id::text = ${offer} and g.opened_at <= ${now} and ${test})`;
  return is ? found : sql`not ${found}`;
}

type AtomSql = {
  [K in AtomName]: (atom: AtomOf<K>, asked: Asked, answer: (rule: Condition, asked: Asked) => SQL) => SQL;
};

/** Each kind of question about people as SQL over `people p join workspaces w`: the same answer as its `holds` in core. */
export const atomSql: AtomSql = {
  attribute: ({ test }) => testSql(test, sql`(p.attributes #> ${pathOf(test.field)})`),
  tag: ({ tag, has }) => (has ? sql`${tag} = any (p.tags)` : sql`not ${tag} = any (p.tags)`),
  list: ({ list, on }) => {
    const found = sql`exists (select 1 from memberships m where m.workspace_id = p.workspace_id and m.person_id = p.id and m.list_id::text = ${list} and m.state = 'confirmed')`;
    return on ? found : sql`not ${found}`;
  },
  event: eventSql,
  email: () => {
    throw new AboutVisit();
  },
  segment: (atom, asked, answer) => {
    const rule = asked.segments.get(atom.segment);
    const inside = rule ? answer(rule, asked) : sql`false`;
    return atom.in ? inside : sql`not ${inside}`;
  },
  offer: offerSql,
  points: ({ op, value }) => sql`p.points ${sql.raw(op === 'over' ? '>' : '<')} ${value}::numeric`,
};
