import { and, eq } from 'drizzle-orm';
import type { Executor } from '../db/connect.ts';
import { eventKinds } from '../db/schema/index.ts';
import { fits, typeOf, type FieldType } from './field-types.ts';

export interface EventKind {
  fields: { name: string; type: FieldType }[];
  sample: Record<string, unknown>;
  learned: boolean;
}

/** Fields that a kind learns at most, and the size of its sample: whatever a sender does, the kind stays readable. */
const MAX_FIELDS = 200;
const MAX_SAMPLE = 16_000;
const MAX_NAME = 120;

export async function kindOf(db: Executor, ws: string, name: string): Promise<EventKind | undefined> {
  const [kind] = await db
    .select({ fields: eventKinds.fields, sample: eventKinds.sample, learned: eventKinds.learned })
    .from(eventKinds)
    .where(and(eq(eventKinds.workspaceId, ws), eq(eventKinds.name, name)));
  return kind;
}

/** The first field of a payload that does not fit what was declared by hand. What was learned from samples refuses nothing. */
export function misfit(
  kind: EventKind | undefined,
  data: Record<string, unknown>,
): { name: string; type: FieldType } | null {
  if (!kind || kind.learned) return null;
  return kind.fields.find((f) => data[f.name] !== undefined && !fits(f.type, data[f.name])) ?? null;
}

/** Letters that a field takes in a sample: its name, its value, and what stands around them. */
const lettersOf = (name: string, value: unknown): number =>
  JSON.stringify(name).length + JSON.stringify(value).length + 2;

/**
 * A kind that has seen one more payload: what it did not know is added, what changes its type is told as text. Each field is
 * looked at once, however many there are.
 */
export function learnt(kind: EventKind | undefined, data: Record<string, unknown>): EventKind {
  const fields = new Map((kind?.fields ?? []).map((f) => [f.name, f.type]));
  const sample = { ...kind?.sample };
  let letters = JSON.stringify(sample).length;
  for (const [name, value] of Object.entries(data)) {
    // Null shows no type: the first value that is one decides.
    if (value === null || value === undefined || name.length > MAX_NAME) continue;
    const known = fields.get(name);
    // What is not learned is not shown in a sample either.
    if (!known && fields.size >= MAX_FIELDS) continue;
    if (!known) fields.set(name, typeOf(value));
    else if (!fits(known, value)) fields.set(name, 'text');
    if (sample[name] !== undefined || letters > MAX_SAMPLE) continue;
    const more = lettersOf(name, value);
    if (letters + more > MAX_SAMPLE) continue;
    sample[name] = value;
    letters += more;
  }
  return { fields: [...fields].map(([name, type]) => ({ name, type })), sample, learned: true };
}

const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

/** Learns a kind from an event of it, unless it was declared by hand. */
export async function learnKind(
  db: Executor,
  ws: string,
  event: { type: string; data: Record<string, unknown> },
): Promise<void> {
  const kind = await kindOf(db, ws, event.type);
  if (kind && !kind.learned) return;
  const next = learnt(kind, event.data);
  if (kind && same(kind.fields, next.fields)) return;
  const label = event.type.replace(/[._-]+/g, ' ').replace(/^./, (c) => c.toUpperCase());
  const { fields, sample } = next;
  await db
    .insert(eventKinds)
    .values({ workspaceId: ws, name: event.type, label, ...next })
    .onConflictDoUpdate({
      target: [eventKinds.workspaceId, eventKinds.name],
      set: { fields, sample },
      setWhere: eq(eventKinds.learned, true),
    });
}
