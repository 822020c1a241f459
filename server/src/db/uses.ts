import { sql } from 'drizzle-orm';
import type { AttributeUse, FieldUse } from '@ascenso/contracts';
import type { Condition, ImportPlan, Sequence, SignUpForm, Step } from '@ascenso/core';
import { walk } from '@ascenso/core';
import type { Executor } from './connect.ts';
import { rows } from './rows.ts';

/** A field that something speaks of, and where. */
export interface Spoken {
  field: string;
  where: string;
}

/** A step by itself: what stands in its arms is told of the steps there. */
const alone = (step: Step): string =>
  JSON.stringify('arms' in step ? { ...step, arms: step.arms.map((arm) => ({ ...arm, steps: [] })) } : step);

/** Fields of a group that are written in a sequence as "group.name": in words, addresses, repeats, waits. */
export function writtenIn(doc: Sequence, group: 'event' | 'subscriber'): Spoken[] {
  const places = [
    ...walk(doc).map(({ step }) => ({ text: alone(step), where: 'name' in step && step.name ? step.name : 'a step' })),
    { text: JSON.stringify([doc.entry, doc.goal, doc.exit, doc.filter]), where: 'how it starts' },
  ];
  return places.flatMap(({ text, where }) =>
    [...text.matchAll(new RegExp(`\\b${group}\\.([a-z_][a-z0-9_]*)`, 'gi'))].map((m) => ({ field: m[1] ?? '', where })),
  );
}

/** Where fields are used: drafts and live versions of all sequences that are not put away. `spoken` reads one of them. */
export async function usesIn(db: Executor, ws: string, spoken: (doc: Sequence) => Spoken[]): Promise<FieldUse[]> {
  const found = await rows<{ id: string; name: string; draft: Sequence; live: Sequence | null }>(
    db,
    sql`select s.id, s.name, s.draft, v.doc as live from sequences s
        left join versions v on v.workspace_id = s.workspace_id and v.sequence_id = s.id and v.number = s.live_version
        where s.workspace_id = ${ws} and s.template_id is null and s.status <> 'archived' order by s.name`,
  );
  const uses = found.flatMap(({ id, name, draft, live }) => {
    const inLive = live ? spoken(live) : [];
    const inDraft = spoken(draft);
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

/** A use of something that has a key, told by the name of what uses it. */
export interface NamedUse extends AttributeUse {
  key: string;
}

/** Where segments speak of something: `keys` reads one rule. */
export async function inSegments(db: Executor, ws: string, keys: (rule: Condition) => string[]): Promise<NamedUse[]> {
  const segments = await rows<{ name: string; rule: Condition }>(
    db,
    sql`select name, rule from segments where workspace_id = ${ws}`,
  );
  return segments.flatMap(({ name, rule }) =>
    keys(rule).map((key) => ({ key, name, where: 'a segment', path: '/people/segments', live: true })),
  );
}

/** Where forms speak of something: `keys` reads one. */
export async function inForms(db: Executor, ws: string, keys: (form: SignUpForm) => string[]): Promise<NamedUse[]> {
  const forms = await rows<{ id: string; doc: SignUpForm; open: boolean }>(
    db,
    sql`select id, doc, status = 'open' as open from forms where workspace_id = ${ws}`,
  );
  return forms.flatMap(({ id, doc, open }) =>
    keys(doc).map((key) => ({ key, name: doc.name, where: 'a form', path: `/library/forms/${id}`, live: open })),
  );
}

/** What the options of a form's choices do. */
export const setsOf = (form: SignUpForm) =>
  form.fields.flatMap((f) => (f.kind === 'choice' ? f.options.map((o) => o.sets) : []));

/** Where files that are being taken in, or wait for it, speak of something: `keys` reads the plan of one. */
export async function inImports(db: Executor, ws: string, keys: (plan: ImportPlan) => string[]): Promise<NamedUse[]> {
  const files = await rows<{ id: string; name: string; plan: ImportPlan }>(
    db,
    sql`select id, name, plan from imports where workspace_id = ${ws} and state in ('checking', 'checked', 'running', 'undoing') and plan is not null`,
  );
  return files.flatMap(({ id, name, plan }) =>
    keys(plan).map((key) => ({ key, name, where: 'a file of people', path: `/people/import/${id}`, live: true })),
  );
}
