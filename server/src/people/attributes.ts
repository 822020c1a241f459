import { and, eq, sql } from 'drizzle-orm';
import { isZone, type Value } from '@ascenso/core';
import { invalid } from '../app/errors.ts';
import { newId } from '../app/ids.ts';
import type { Executor, Tx } from '../db/connect.ts';
import { attributes, people } from '../db/schema/index.ts';
import { datesSet } from './dates-set.ts';
import { happen } from './entering.ts';
import { fits } from './field-types.ts';
import { wakeVisits } from './visits.ts';

/** Changes attributes of a person; null takes a value away. */
export async function changeAttributes(
  tx: Tx,
  ws: string,
  personId: string,
  change: Record<string, unknown>,
  now: number,
  chain = 0,
): Promise<void> {
  const one = and(eq(people.workspaceId, ws), eq(people.id, personId));
  const [person] = await tx.select({ attributes: people.attributes }).from(people).where(one).for('update');
  if (!person || Object.keys(change).length === 0) return;
  const [changed] = await tx
    .update(people)
    .set({ attributes: sql`jsonb_strip_nulls(${people.attributes} || ${JSON.stringify(change)}::jsonb)` })
    .where(one)
    .returning({ attributes: people.attributes });
  await wakeVisits(tx, ws, personId, now);
  await attributesHappened(tx, ws, personId, person.attributes, changed?.attributes ?? {}, now, chain);
}

/** What follows from attributes that have just changed: also a date that a sweep would come to too late. */
export async function attributesHappened(
  tx: Tx,
  ws: string,
  personId: string,
  before: Record<string, Value>,
  after: Record<string, Value>,
  now: number,
  chain: number,
): Promise<void> {
  const keys = Object.keys({ ...before, ...after }).filter(
    (k) => JSON.stringify(before[k]) !== JSON.stringify(after[k]),
  );
  if (keys.length === 0) return;
  await datesSet(tx, ws, keys, now);
  await happen(tx, ws, personId, { kind: 'attribute', before, after }, `attribute:${newId()}`, { at: now, now }, chain);
}

/** Whether a value is one of those to choose from, where there are some. */
const isAmong = (options: readonly string[], value: unknown): boolean =>
  options.length === 0 || value === null || options.includes(String(value));

/** Refuses attributes that do not exist or have the wrong type, by name. */
export async function checkAttributes(
  db: Executor,
  workspaceId: string,
  values: Record<string, unknown>,
): Promise<void> {
  const known = await db
    .select({ key: attributes.key, type: attributes.type, options: attributes.options })
    .from(attributes)
    .where(eq(attributes.workspaceId, workspaceId));
  for (const [key, value] of Object.entries(values)) {
    const attribute = known.find((k) => k.key === key);
    if (!attribute)
      throw invalid(
        `attributes.${key}`,
        `There is no attribute “${key}”. Known ones: ${known.map((k) => k.key).join(', ')}.`,
      );
    if (!fits(attribute.type, value) || (attribute.type === 'text' && typeof value === 'number'))
      throw invalid(`attributes.${key}`, `“${key}” is a ${attribute.type}: “${String(value)}” does not fit.`);
    if (!isAmong(attribute.options, value))
      throw invalid(
        `attributes.${key}`,
        `“${key}” is one of ${attribute.options.join(', ')}: “${String(value)}” is none of them.`,
      );
    if (key === 'time_zone' && value !== null && !isZone(String(value)))
      throw invalid('attributes.time_zone', 'Use an IANA time zone such as Europe/Lisbon.');
  }
}

/** Of some values, those that fit attributes there are: a form may be older than its attributes. */
export async function fittingAttributes(
  db: Executor,
  workspaceId: string,
  values: Record<string, unknown>,
): Promise<Record<string, unknown>> {
  const known = await db
    .select({ key: attributes.key, type: attributes.type, options: attributes.options })
    .from(attributes)
    .where(eq(attributes.workspaceId, workspaceId));
  const kinds = new Map(known.map((a) => [a.key, a]));
  return Object.fromEntries(
    Object.entries(values).filter(([key, value]) => {
      const kind = kinds.get(key);
      return kind !== undefined && fits(kind.type, value) && isAmong(kind.options, value);
    }),
  );
}
