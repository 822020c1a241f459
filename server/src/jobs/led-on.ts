import { sql } from 'drizzle-orm';
import { together, type Effect, type Facts, type Inside, type Step } from '@ascenso/core';
import type { Executor } from '../db/connect.ts';
import { loadFacts } from '../db/facts.ts';
import { dailyCapOf, givenTo } from '../db/mail-days.ts';
import { rows } from '../db/rows.ts';
import { lookAtVersion, type LoadedVersion } from '../db/versions.ts';
import { toVisit, VISIT_COLUMNS, type VisitRow } from '../people/visits.ts';
import { splitTestsOf } from '../sequences/split-tests.ts';
import { likelyArm } from './likely.ts';
import { andChosen } from './sampling.ts';

/** People led on at once. */
const CHUNK = 1000;

/** Something that somebody inside a sequence is expected to meet. */
export interface Met {
  sequence: string;
  person: string;
  effect: Effect;
}

/** The passages of some people, each person's together. */
async function insideOf(
  db: Executor,
  ws: string,
  some: readonly VisitRow[],
  counts: ReadonlyMap<string, number>,
  decided: NonNullable<Facts['tests']>,
): Promise<Map<string, Inside[]>> {
  const standing: { row: VisitRow; version: LoadedVersion }[] = [];
  for (const row of some) {
    const version = await lookAtVersion(db, ws, row.sequence_id, row.version);
    if (version) standing.push({ row, version });
  }
  const facts = await loadFacts(
    db,
    standing.map(({ row, version }) => ({
      workspace_id: ws,
      visit_id: row.id,
      person_id: row.person_id,
      ...version.needs,
    })),
  );
  const out = new Map<string, Inside[]>();
  for (const { row, version } of standing) {
    const known = facts.get(row.id);
    if (!known) continue;
    const run = { ...version.run, choose: (fork: Step) => likelyArm(fork, row.person_id, counts) };
    const inside = out.get(row.person_id) ?? [];
    out.set(row.person_id, inside);
    inside.push({ visit: toVisit(row), run, facts: { ...known, tests: decided } });
  }
  return out;
}

/**
 * What one in `sample` of the people inside sequences are expected to be sent and given until `end`, each led on by
 * `advance`, all sequences of a person together, under the daily cap there is; of `only` some people, where they are named.
 */
export async function* insideUntil(
  db: Executor,
  ws: string,
  sequences: readonly string[],
  counts: ReadonlyMap<string, number>,
  now: number,
  end: number,
  sample: number,
  only?: readonly string[],
): AsyncGenerator<Met> {
  // What is not decided yet is walked as if by lot.
  const decided = Object.fromEntries(
    (await splitTestsOf(db, sequences)).flatMap((t) => (t.arm ? [[t.step, { arm: t.arm, decidesAt: null }]] : [])),
  );
  const cap = await dailyCapOf(db, ws);
  for (let after = '00000000-0000-0000-0000-000000000000'; sequences.length > 0;) {
    const some = await rows<VisitRow>(
      db,
      sql`select ${VISIT_COLUMNS} from visits v
          where v.workspace_id = ${ws} and v.sequence_id = any (${sql.param(sequences)}::uuid[]) and v.status = 'active' and v.due_at <= ${end} and v.person_id in (
            select distinct o.person_id from visits o
            where o.workspace_id = ${ws} and o.sequence_id = any (${sql.param(sequences)}::uuid[]) and o.status = 'active' and o.due_at <= ${end} and o.person_id > ${after} ${only ? sql`and o.person_id = any (${sql.param(only)}::uuid[])` : sql``} ${andChosen(sql`o.person_id`, sample)}
            order by o.person_id limit ${CHUNK})
          order by v.person_id, v.id`,
    );
    const given =
      cap === null
        ? new Map<string, Record<number, number>>()
        : await givenTo(
            db,
            some.map((r) => ({ w: ws, p: r.person_id })),
          );
    for (const [person, inside] of await insideOf(db, ws, some, counts, decided))
      for (const brought of together(inside, { cap, given: given.get(`${ws}/${person}`) ?? {} }, now, end))
        yield { ...brought, person };
    if (new Set(some.map((r) => r.person_id)).size < CHUNK) return;
    after = some.at(-1)?.person_id ?? after;
  }
}
