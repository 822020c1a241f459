import { sql } from 'drizzle-orm';
import type { CloudEvent } from '@ascenso/contracts';
import { isZone } from '@ascenso/core';
import { invalid, UserError } from '../app/errors.ts';
import { newId } from '../app/ids.ts';
import { sha256 } from '../app/sessions.ts';
import type { Executor, Tx } from '../db/connect.ts';
import { firstRow, rows } from '../db/rows.ts';
import { happen, wakeVisits } from '../engine/entering.ts';

const MINUTE = 60_000;
/** A sender's clock may be ahead by this much, ms. */
const AHEAD = 5 * MINUTE;
/** An event that comes later than this is kept, but starts nothing: its email would speak of old news. */
export const TOO_LATE = 24 * 60 * MINUTE;

type FieldType = 'text' | 'number' | 'date' | 'yes-no' | 'list';

const typeOf = (value: unknown): FieldType => {
  if (typeof value === 'number') return 'number';
  if (typeof value === 'boolean') return 'yes-no';
  if (Array.isArray(value)) return 'list';
  return typeof value === 'string' && /^\d{4}-\d{2}-\d{2}/.test(value) && !Number.isNaN(Date.parse(value))
    ? 'date'
    : 'text';
};

const fits = (type: FieldType, value: unknown) =>
  value === null ||
  (type === 'text'
    ? typeof value === 'string' || typeof value === 'number'
    : type === 'date'
      ? typeOf(value) === 'date'
      : typeOf(value) === type);

/** Checks a payload against its declared kind, or learns the kind from the first event of that name. */
async function checkKind(tx: Tx, workspaceId: string, event: CloudEvent, at: string): Promise<void> {
  const kind = await firstRow<{ fields: { name: string; type: FieldType }[]; learned: boolean }>(
    tx,
    sql`select fields, learned from event_kinds where workspace_id = ${workspaceId} and name = ${event.type}`,
  );
  if (!kind) {
    const fields = Object.entries(event.data).map(([name, value]) => ({ name, type: typeOf(value) }));
    const label = event.type.replace(/[._-]+/g, ' ').replace(/^./, (c) => c.toUpperCase());
    await tx.execute(
      sql`insert into event_kinds (workspace_id, name, label, fields, sample, learned)
          values (${workspaceId}, ${event.type}, ${label}, ${JSON.stringify(fields)}::jsonb, ${JSON.stringify(event.data)}::jsonb, true) on conflict do nothing`,
    );
    return;
  }
  for (const field of kind.fields) {
    const value = event.data[field.name];
    if (value !== undefined && !fits(field.type, value))
      throw invalid(
        `${at}data.${field.name}`,
        `${at}data.${field.name}: “${event.type}” declares it as ${field.type}. Send it so, or change the declaration.`,
      );
  }
}

/** The person with an address, added when there is none. */
export async function personByEmail(tx: Tx, workspaceId: string, email: string, now: number): Promise<string> {
  const id = newId();
  const made = await firstRow<{ id: string }>(
    tx,
    sql`insert into people (workspace_id, id, email, attributes, created_at) values (${workspaceId}, ${id}, ${email}, '{}', ${now})
        on conflict (workspace_id, email) do update set email = excluded.email returning id`,
  );
  return made?.id ?? id;
}

async function insertEvent(
  tx: Tx,
  workspaceId: string,
  personId: string,
  name: string,
  at: number,
  payload: Record<string, unknown>,
): Promise<string> {
  const id = newId();
  await tx.execute(
    sql`insert into events (workspace_id, person_id, id, name, occurred_at, payload) values (${workspaceId}, ${personId}, ${id}, ${name}, ${at}, ${JSON.stringify(payload)}::jsonb)`,
  );
  return id;
}

/** Something that happened here: kept as an event, so that conditions can ask for it. Starts sequences like any other. */
export async function storeInternalEvent(
  tx: Tx,
  workspaceId: string,
  personId: string,
  name: string,
  payload: Record<string, unknown>,
  at: number,
): Promise<void> {
  const id = await insertEvent(tx, workspaceId, personId, name, at, payload);
  await wakeVisits(tx, workspaceId, personId, at);
  await happen(tx, workspaceId, personId, { kind: 'event', event: name, payload }, id, at);
}

/**
 * Stores events, all or none, in the caller's transaction. The same source and id twice counts once; with another
 * body it is refused. Answers how many were new.
 */
export async function storeEvents(
  tx: Tx,
  workspaceId: string,
  events: readonly CloudEvent[],
  now: number,
  batch: boolean,
): Promise<{ stored: number; repeated: number }> {
  let stored = 0;
  for (const [i, event] of events.entries()) {
    const at = batch ? `${i}.` : '';
    const occurred = event.time ? Date.parse(event.time) : now;
    if (occurred > now + AHEAD)
      throw invalid(`${at}time`, `${at}time lies in the future: check the clock of the sender.`);
    const body = sha256(JSON.stringify([event.type, event.subject, event.time ?? null, event.data]));
    const fresh = await firstRow(
      tx,
      sql`insert into event_ids (workspace_id, source, id, body_hash) values (${workspaceId}, ${event.source}, ${event.id}, ${body}) on conflict do nothing returning id`,
    );
    if (!fresh) {
      const known = await firstRow<{ body_hash: string }>(
        tx,
        sql`select body_hash from event_ids where workspace_id = ${workspaceId} and source = ${event.source} and id = ${event.id}`,
      );
      if (known?.body_hash !== body)
        throw new UserError(
          409,
          'changed-event',
          `${at}id: an event with this source and id came before with another body. Give a new event a new id.`,
          `${at}id`,
        );
      continue;
    }
    await checkKind(tx, workspaceId, event, at);
    const personId = await personByEmail(tx, workspaceId, event.subject, now);
    const id = await insertEvent(tx, workspaceId, personId, event.type, occurred, event.data);
    await wakeVisits(tx, workspaceId, personId, now);
    if (now - occurred <= TOO_LATE)
      await happen(tx, workspaceId, personId, { kind: 'event', event: event.type, payload: event.data }, id, now);
    stored++;
  }
  return { stored, repeated: events.length - stored };
}

/** Refuses attributes that do not exist or have the wrong type, by name. */
export async function checkAttributes(
  db: Executor,
  workspaceId: string,
  values: Record<string, unknown>,
): Promise<void> {
  const known = await rows<{ key: string; type: FieldType }>(
    db,
    sql`select key, type from attributes where workspace_id = ${workspaceId}`,
  );
  for (const [key, value] of Object.entries(values)) {
    const attribute = known.find((k) => k.key === key);
    if (!attribute)
      throw invalid(
        `attributes.${key}`,
        `There is no attribute “${key}”. Known ones: ${known.map((k) => k.key).join(', ')}.`,
      );
    if (!fits(attribute.type, value) || (attribute.type === 'text' && typeof value === 'number'))
      throw invalid(`attributes.${key}`, `“${key}” is a ${attribute.type}: “${String(value)}” does not fit.`);
    if (key === 'time_zone' && value !== null && !isZone(String(value)))
      throw invalid('attributes.time_zone', 'Use an IANA time zone such as Europe/Lisbon.');
  }
}
