import { sql } from 'drizzle-orm';
import type { ArmResult, TestsAnswer } from '@ascenso/contracts';
import { emailSteps, walk, type Sequence } from '@ascenso/core';
import type { Executor } from './connect.ts';
import { batch, rows } from './rows.ts';

/** A round in which somebody took an arm, in the words of the index that holds these and no others (`traces_splits`). */
const TAKEN = sql.raw(`t.reasons @> '[{"code": "split-taken"}]'`);

/** The emails of each arm of a split, in the draft and every version, as rows of arm and step. */
async function emailsOfArms(db: Executor, ws: string, sequence: string): Promise<{ arm: string; step: string }[]> {
  const docs = await rows<{ doc: Sequence }>(
    db,
    sql`select draft as doc from sequences where workspace_id = ${ws} and id = ${sequence}
        union all select doc from versions where workspace_id = ${ws} and sequence_id = ${sequence}`,
  );
  return docs.flatMap(({ doc }) =>
    walk(doc).flatMap(({ step }) =>
      step.kind === 'split'
        ? step.arms.flatMap((arm) => emailSteps(arm).map((email) => ({ arm: arm.id, step: email.id })))
        : [],
    ),
  );
}

/**
 * What people did who took an arm of a split by lot, within that passage: whether they opened or clicked an email of the arm, reached
 * the goal, and what they ordered from then on by any email of the sequence. A person keeps their arm, and is one for each
 * passage.
 */
export async function armResults(
  db: Executor,
  ws: string,
  sequence: string,
  currency: string,
): Promise<Omit<TestsAnswer, 'tests'> & { tests: Omit<TestsAnswer['tests'][number], 'decided'>[] }> {
  const emails = await emailsOfArms(db, ws, sequence);
  const found = await rows<ArmResult & { step: string; since: number; latest: number }>(
    db,
    sql`with emails as (select arm, step from jsonb_to_recordset(${batch(emails)}) as e(arm text, step text)), taken as (
          select t.visit_id as id, t.person_id, r->>'step' as step, r->'data'->>'arm' as arm, (r->>'at')::bigint as at
          from traces t cross join lateral jsonb_array_elements(t.reasons) r
          where t.workspace_id = ${ws} and t.sequence_id = ${sequence} and ${TAKEN} and r->>'code' = 'split-taken' and r->'data'->>'decided' is null),
        mailed as (
          select s.visit_id as id, e.arm, bool_or(s.opened_at is not null) as opened, bool_or(s.clicked_at is not null) as clicked
          from sends s join emails e on e.step = s.step
          where s.workspace_id = ${ws} and s.sequence_id = ${sequence} and (s.opened_at is not null or s.clicked_at is not null) group by 1, 2),
        earned as (
          select t.id, t.step, sum(o.amount) as money
          from taken t join orders o on o.workspace_id = ${ws} and o.sequence_id = ${sequence} and o.visit_id = t.id and o.at >= t.at and o.currency = ${currency} group by 1, 2)
        select t.step, t.arm, min(t.at) as since, max(t.at) as latest, count(*) as people, count(*) filter (where m.opened) as opened, count(*) filter (where m.clicked) as clicked,
          count(*) filter (where v.ending = 'goal') as goal, count(*) filter (where o.money > 0) as ordered,
          coalesce(sum(o.money), 0)::bigint as money, coalesce(sum(o.money::float8 * o.money), 0) as squares
        from taken t
        join visits v on v.workspace_id = ${ws} and v.id = t.id
        left join mailed m on m.id = t.id and m.arm = t.arm
        left join earned o on o.id = t.id and o.step = t.step
        group by 1, 2 order by 1, 2`,
  );
  const steps = [...new Set(found.map((f) => f.step))];
  return {
    currency,
    tests: steps.map((step) => {
      const own = found.filter((f) => f.step === step);
      return {
        step,
        since: Math.min(...own.map((f) => f.since)),
        latest: Math.max(...own.map((f) => f.latest)),
        arms: own.map(({ step: _, since: __, latest: ___, ...arm }) => arm),
      };
    }),
  };
}
