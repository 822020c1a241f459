import { sql } from 'drizzle-orm';
import type { ArmResult, TestsAnswer } from '@ascenso/contracts';
import { emailSteps, walk, type Sequence } from '@ascenso/core';
import type { Executor } from './connect.ts';
import { batch, rows } from './rows.ts';

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
          select v.id, v.person_id, v.ending, r.step, r.data->>'arm' as arm, r.at
          from visits v join reasons r on r.workspace_id = v.workspace_id and r.person_id = v.person_id and r.visit_id = v.id and r.code = 'split-taken' and r.data->>'decided' is null
          where v.workspace_id = ${ws} and v.sequence_id = ${sequence})
        select t.step, t.arm, min(t.at) as since, max(t.at) as latest, count(*) as people, count(*) filter (where e.opened) as opened, count(*) filter (where e.clicked) as clicked,
          count(*) filter (where t.ending = 'goal') as goal, count(*) filter (where o.money > 0) as ordered,
          coalesce(sum(o.money), 0)::bigint as money, coalesce(sum(o.money::float8 * o.money), 0) as squares
        from taken t
        cross join lateral (
          select bool_or(s.opened_at is not null) as opened, bool_or(s.clicked_at is not null) as clicked
          from sends s where s.workspace_id = ${ws} and s.visit_id = t.id and (t.arm, s.step) in (select arm, step from emails)) e
        cross join lateral (
          select sum(o.amount) as money from orders o
          where o.workspace_id = ${ws} and o.person_id = t.person_id and o.visit_id = t.id and o.at >= t.at and o.currency = ${currency}) o
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
