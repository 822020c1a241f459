import { sql } from 'drizzle-orm';
import { atomsOf, emailSteps, everyCondition, fieldsIn, startingEvents, type Sequence } from '@ascenso/core';
import type { FieldUse } from '@ascenso/contracts';
import type { Executor } from './connect.ts';
import { rows } from './rows.ts';

/** Fields of a kind of event that one version or draft speaks of: in its emails, filters and conditions. */
function spoken(doc: Sequence, kind: string): { field: string; where: string }[] {
  const starts = startingEvents(doc.triggers).includes(kind);
  const written = starts
    ? emailSteps(doc).flatMap((step) =>
        fieldsIn(step.email)
          .filter((path) => path.startsWith('event.'))
          .map((path) => ({ field: path.slice(6).split('.')[0] ?? '', where: step.name })),
      )
    : [];
  const asked = [
    ...doc.triggers.flatMap((t) => (t.kind === 'event' && t.event === kind ? t.where : [])),
    ...everyCondition(doc)
      .flatMap(atomsOf)
      .flatMap((a) => (a.kind === 'event' && a.event === kind ? a.where : [])),
  ].map((test) => ({ field: test.field, where: 'a condition' }));
  return [...written, ...asked];
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
