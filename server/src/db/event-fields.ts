import { sql } from 'drizzle-orm';
import { atomsOf, everyCondition, startingEvents, walk, type Sequence, type Step } from '@ascenso/core';
import type { FieldUse } from '@ascenso/contracts';
import type { Executor } from './connect.ts';
import { rows } from './rows.ts';

/** A step by itself: what stands in its arms is told of the steps there. */
const alone = (step: Step): string =>
  JSON.stringify('arms' in step ? { ...step, arms: step.arms.map((arm) => ({ ...arm, steps: [] })) } : step);

/**
 * Fields of a kind of event that one version or draft speaks of. Within a sequence that it starts they are spoken of as
 * event.name, wherever that stands: in words, addresses, repeats, waits; conditions about the kind name them by themselves.
 */
function spoken(doc: Sequence, kind: string): { field: string; where: string }[] {
  const places = startingEvents(doc.triggers).includes(kind)
    ? [
        ...walk(doc).map(({ step }) => ({
          text: alone(step),
          where: 'name' in step && step.name ? step.name : 'a step',
        })),
        { text: JSON.stringify([doc.entry, doc.goal, doc.filter]), where: 'how it starts' },
      ]
    : [];
  const written = places.flatMap(({ text, where }) =>
    [...text.matchAll(/\bevent\.([a-z_][a-z0-9_]*)/gi)].map((m) => ({ field: m[1] ?? '', where })),
  );
  const asked = [
    ...doc.triggers.flatMap((t) => (t.kind === 'event' && t.event === kind ? t.where : [])),
    ...everyCondition(doc)
      .flatMap(atomsOf)
      .flatMap((a) => (a.kind === 'event' && a.event === kind ? a.where : [])),
  ].map((test) => ({ field: test.field, where: 'a condition' }));
  const byEntry = doc.entry.key ? [{ field: doc.entry.key.split('.')[0] ?? '', where: 'how it starts' }] : [];
  return [...written, ...asked, ...(places.length > 0 ? byEntry : [])];
}

/** Where the fields of a kind of event are used: drafts and live versions of all sequences that are not put away. */
export async function usesOfFields(db: Executor, ws: string, kind: string): Promise<FieldUse[]> {
  const found = await rows<{ id: string; name: string; draft: Sequence; live: Sequence | null }>(
    db,
    sql`select s.id, s.name, s.draft, v.doc as live from sequences s
        left join versions v on v.workspace_id = s.workspace_id and v.sequence_id = s.id and v.number = s.live_version
        where s.workspace_id = ${ws} and s.status <> 'archived' order by s.name`,
  );
  const uses = found.flatMap(({ id, name, draft, live }) => {
    const inLive = live ? spoken(live, kind) : [];
    const inDraft = spoken(draft, kind);
    return [
      ...inLive.map((u) => ({ ...u, sequence: { id, name }, live: true })),
      ...inDraft
        .filter((d) => !inLive.some((l) => l.field === d.field && l.where === d.where))
        .map((u) => ({ ...u, sequence: { id, name }, live: false })),
    ];
  });
  const key = (u: FieldUse) => `${u.sequence.id} ${u.field} ${u.where}`;
  return [...new Map(uses.map((u) => [key(u), u])).values()];
}
