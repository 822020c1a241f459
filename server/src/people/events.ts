import { and, eq } from 'drizzle-orm';
import { cloudEvent, type CloudEvent } from '@ascenso/contracts';
import type { BusinessClock } from '../app/clock.ts';
import { UserError } from '../app/errors.ts';
import { parseOrThrow } from '../app/parse.ts';
import { sha256 } from '../app/hash.ts';
import type { Tx } from '../db/connect.ts';
import { eventIds } from '../db/schema/index.ts';
import { extensionsOf, payloadIn } from './cloud-events.ts';
import { kindOf, learnKind, misfit } from './event-kinds.ts';
import { eventHappened, insertEvent } from './internal-events.ts';
import { setRight } from './set-right.ts';
import { momentTold } from './told-moment.ts';
import { TOO_LATE } from './too-late.ts';
import { unkeepable } from './unkeepable.ts';
import { personByEmail } from './people.ts';
import { wakeVisits } from './visits.ts';

/** What became of one event of a sender. */
export type Taken =
  { id: string | null; status: 'stored' | 'repeated' } | { id: string | null; status: 'refused'; error: UserError };

const refuse = (status: number, code: string, field: string, message: string) =>
  new UserError(status, code, `${field}: ${message}`, field);

/** When an event happened, epoch ms; without a time just now. */
const happenedAt = ({ time }: CloudEvent, clock: BusinessClock): number =>
  time === undefined ? clock.now : momentTold(time, clock, 'time');

/** Why an event cannot be taken as it is, thrown: asked before anything of it is written. */
async function check(tx: Tx, ws: string, event: CloudEvent, data: Record<string, unknown>): Promise<void> {
  const extensions = extensionsOf(event);
  const bad = unkeepable(event.data, 'data') ?? unkeepable(data, 'data') ?? unkeepable(extensions, 'extensions');
  if (bad) throw refuse(422, 'invalid', bad.field, bad.why);
  const wrong = misfit(await kindOf(tx, ws, event.type), data);
  if (wrong)
    throw refuse(
      422,
      'invalid',
      `data.${wrong.name}`,
      `“${event.type}” declares it as ${wrong.type}. Send it so, or change the declaration.`,
    );
}

/** Notes source and id. Answers whether they are new; with another body than before they are refused. */
async function isFresh(tx: Tx, ws: string, event: CloudEvent): Promise<boolean> {
  const { type, subject, time, data, data_base64: base64 } = event;
  const body = sha256(JSON.stringify([type, subject, time ?? null, ...(base64 === undefined ? [data] : [base64])]));
  const [fresh] = await tx
    .insert(eventIds)
    .values({ workspaceId: ws, source: event.source, id: event.id, bodyHash: body })
    .onConflictDoNothing()
    .returning({ id: eventIds.id });
  if (fresh) return true;
  const [known] = await tx
    .select({ bodyHash: eventIds.bodyHash })
    .from(eventIds)
    .where(and(eq(eventIds.workspaceId, ws), eq(eventIds.source, event.source), eq(eventIds.id, event.id)));
  if (known?.bodyHash !== body)
    throw refuse(
      409,
      'changed-event',
      'id',
      'an event with this source and id came before with another body. Give a new event a new id.',
    );
  return false;
}

async function takeOne(tx: Tx, ws: string, given: unknown, clock: BusinessClock): Promise<Taken> {
  const event = parseOrThrow(cloudEvent, given);
  const { now } = clock;
  const at = happenedAt(event, clock);
  const data = payloadIn(event);
  await check(tx, ws, event, data);
  if (!(await isFresh(tx, ws, event))) return { id: event.id, status: 'repeated' };
  await learnKind(tx, ws, { type: event.type, data });
  const person = await personByEmail(tx, ws, event.subject, now);
  const extensions = extensionsOf(event);
  if (now - at <= TOO_LATE) await eventHappened(tx, ws, person, event.type, data, { at, now }, extensions);
  else {
    await insertEvent(tx, ws, person, event.type, at, data, extensions);
    await wakeVisits(tx, ws, person, now);
  }
  await setRight(tx, ws, person, { at, now });
  return { id: event.id, status: 'stored' };
}

const idOf = (given: unknown): string | null =>
  typeof given === 'object' && given !== null && 'id' in given && typeof given.id === 'string' ? given.id : null;

/** When an event says that it happened; what does not say so has just happened. */
function timeOf(given: unknown): number {
  const time = typeof given === 'object' && given !== null && 'time' in given ? Date.parse(String(given.time)) : NaN;
  return Number.isNaN(time) ? Number.MAX_SAFE_INTEGER : time;
}

/**
 * Takes events in the caller's transaction, each for itself: what cannot be taken is refused and leaves the others as they
 * are. The same source and id twice counts once. Answers for each, in the order given.
 */
export async function takeEvents(
  tx: Tx,
  ws: string,
  events: readonly unknown[],
  clock: BusinessClock,
): Promise<Taken[]> {
  const taken: Taken[] = [];
  // In the order in which they happened, so that a batch reads as the person lived it.
  for (const { given, i } of events
    .map((given, i) => ({ given, i }))
    .sort((a, b) => timeOf(a.given) - timeOf(b.given) || a.i - b.i))
    try {
      taken[i] = await takeOne(tx, ws, given, clock);
    } catch (error) {
      if (!(error instanceof UserError)) throw error;
      taken[i] = { id: idOf(given), status: 'refused', error };
    }
  return taken;
}
