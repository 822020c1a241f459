import { sql } from 'drizzle-orm';
import { namesOf, type Unmet } from '@ascenso/contracts';
import { armLabel, armsOf, DAY, stepWords, walk, type Sequence, type Step } from '@ascenso/core';
import type { Executor } from './connect.ts';
import { ARMS_TAKEN } from './numbers.ts';
import { rows } from './rows.ts';
import { loadNamed } from './surroundings.ts';
import { readTallies } from './tallies.ts';

/** A version that is younger says nothing yet, nor do fewer people who came by. */
const WEEKS = 14 * DAY;
const ENOUGH = 20;

/** The arms of a step that something has to be true for; "otherwise", and a lot, are nobody's to meet. */
const asked = (step: Step): string[] => {
  if (step.kind === 'until') return [step.arms[0].id];
  return step.kind === 'branch' ? step.arms.filter((a) => a.condition !== null).map((a) => a.id) : [];
};

/** Waits and arms of live versions that nobody has met in weeks, though people came by: what they ask may never come true. */
export async function unmetOf(db: Executor, ws: string, now: number): Promise<Unmet[]> {
  const live = await rows<{ id: string; version: number; at: number; doc: Sequence }>(
    db,
    sql`select s.id, v.number as version, v.published_at as at, v.doc from sequences s
        join versions v on v.workspace_id = s.workspace_id and v.sequence_id = s.id and v.number = s.live_version
        where s.workspace_id = ${ws} and s.status = 'live' and v.published_at <= ${now - WEEKS} order by s.name, s.id`,
  );
  if (live.length === 0) return [];
  const taken = new Map<string, number>();
  for (const t of await readTallies(db, ws, { whats: ARMS_TAKEN, versions: true }))
    taken.set(`${t.sequence}/${t.version}/${t.detail}`, t.n);
  const names = namesOf(await loadNamed(db, ws));
  return live.flatMap(({ id, version, at, doc }) => {
    const own = { ...names, step: (other: string) => nameOf(doc, other) };
    return walk(doc).flatMap(({ step }) => {
      const through = (arm: string) => taken.get(`${id}/${version}/${arm}`) ?? 0;
      const people = armsOf(step).reduce((sum, a) => sum + through(a.id), 0);
      if (people < ENOUGH) return [];
      return asked(step)
        .filter((arm) => through(arm) === 0)
        .map((arm) => ({
          sequence: { id, name: doc.name },
          step: step.id,
          words: stepWords(step, own),
          arm: step.kind === 'until' ? null : armLabel(step, arm, own),
          people,
          since: at,
        }));
    });
  });
}

const nameOf = (doc: Sequence, id: string): string => {
  const step = walk(doc).find((v) => v.step.id === id)?.step;
  return step?.kind === 'email' ? step.name : 'a step';
};
