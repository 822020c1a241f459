import { sql } from 'drizzle-orm';
import {
  askedByAtoms,
  atomsOf,
  momentFor,
  zoneOf,
  type Condition,
  type Sequence,
  type Trigger,
  type TriggerOf,
} from '@ascenso/core';
import type { Whom } from '@ascenso/contracts';
import { invalid, UserError } from '../app/errors.ts';
import { countWhom } from '../db/audience.ts';
import { AboutVisit } from '../db/conditions.ts';
import type { Executor } from '../db/connect.ts';
import { rows } from '../db/rows.ts';

const momentOf = (doc: Sequence): TriggerOf<'moment'> | undefined => doc.triggers.find((t) => t.kind === 'moment');

/** One-off sends that are looked back at for the segments they were for. */
const LOOKED_BACK = 20;

/** Segments that one-off sends were for of late, the latest first. */
async function recentSegments(db: Executor, ws: string): Promise<string[]> {
  const found = await rows<{ filter: Condition | null }>(
    db,
    sql`select draft->'filter' as filter from sequences where workspace_id = ${ws} and triggers @> '[{"kind": "moment"}]' order by created_at desc limit ${LOOKED_BACK}`,
  );
  return [...new Set(found.flatMap(({ filter }) => (filter ? askedByAtoms(atomsOf(filter)).segments : [])))];
}

/** What is asked of the audience has to be asked of people, wherever they are: nobody is inside yet. */
async function counted(...asked: Parameters<typeof countWhom>): ReturnType<typeof countWhom> {
  try {
    return await countWhom(...asked);
  } catch (error) {
    if (!(error instanceof AboutVisit)) throw error;
    throw invalid('filter', 'Who gets it asks about a passage that nobody has begun: ask about a time before now.');
  }
}

/** Whom a send to everybody is for at `now`, and when they get it. */
export async function whomOf(db: Executor, ws: string, sequence: string, doc: Sequence, now: number): Promise<Whom> {
  const trigger = momentOf(doc);
  const { zones, ...counts } = await counted(db, ws, sequence, doc, now);
  const there = zones.flatMap(({ zone, people }) => {
    const at = trigger?.when === 'published' ? now : trigger && momentFor(trigger, zoneOf(zone));
    return at == null ? [] : [{ at, people }];
  });
  const moments = there.map((z) => Math.max(now, z.at));
  return {
    ...counts,
    late: there.filter((z) => z.at < now).reduce((n, z) => n + z.people, 0),
    from: moments.length === 0 ? null : Math.min(...moments),
    to: moments.length === 0 ? null : Math.max(...moments),
    recent: await recentSegments(db, ws),
  };
}

/** Whether the same moments take people in: what has gone out at them is over. */
export const sameMoments = (before: readonly Trigger[], after: readonly Trigger[]): boolean => {
  const moments = (of: readonly Trigger[]) =>
    of.filter((t) => t.kind === 'moment').map((t) => JSON.stringify(momentKey(t)));
  return moments(after).every((m) => moments(before).includes(m));
};
const momentKey = (t: TriggerOf<'moment'>) => [t.when, t.day, t.minute, t.zone];

/** People may join while one reads the number: so many more are no surprise. */
const ALLOWED = (agreed: number) => agreed + Math.max(10, agreed * 0.1);

/** What goes to everybody at a moment goes to as many as were agreed to: a refusal where it is far more by now. */
export async function mustBeAgreed(
  db: Executor,
  ws: string,
  sequence: string,
  doc: Sequence,
  agreed: number | undefined,
  now: number,
): Promise<void> {
  if (!momentOf(doc)) return;
  if (agreed === undefined)
    throw new UserError(422, 'invalid', 'Say to how many people it goes: the number that you have seen.', 'people');
  const { gets } = await countWhom(db, ws, sequence, doc, now);
  if (gets > ALLOWED(agreed))
    throw new UserError(
      409,
      'grown',
      `It would go to ${gets} people by now, not to the ${agreed} that you saw. Look at the number again.`,
      'people',
    );
}
