import { sql } from 'drizzle-orm';
import { sharedOf, startingKinds, type testSendRequest } from '@ascenso/contracts';
import {
  withSamples,
  compileEmail,
  contentSign,
  encodeProgram,
  valuesFor,
  type EmailStep,
  type Sequence,
} from '@ascenso/core';
import type { z } from 'zod';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { invalid, UserError } from '../app/errors.ts';
import { newId } from '../app/ids.ts';
import { firstRow } from '../db/rows.ts';
import { loadSurroundings } from '../db/surroundings.ts';
import { loadFacts } from '../db/facts.ts';
import { mergeContext } from '../engine/merging.ts';
import { messageOf } from '../engine/message.ts';
import { asksOf } from '../db/versions.ts';
import { keepProgram, senderOf } from '../sequences/publishing.ts';

/** Sends an email of a draft to somebody of the team, as one reader would get it. It counts nowhere, and is noted as tested. */
export async function sendTest(
  ctx: AppContext,
  ws: string,
  sequence: { id: string; draft: Sequence },
  step: EmailStep,
  body: z.infer<typeof testSendRequest>,
): Promise<void> {
  const { db } = ctx.connection;
  const around = await loadSurroundings(db, ws);
  const sender = senderOf(step.email.sender, around);
  const program = await compileEmail(step.email, around.style, { shared: sharedOf(around) });
  const wanted = { workspace_id: ws, visit_id: newId(), key: 'test', person_id: body.person };
  const facts = (await loadFacts(db, [{ ...wanted, ...asksOf(program), lists: true }])).get('test');
  if (!facts) throw invalid('person', 'There is no such person.');
  const event = body.event
    ? await firstRow<{ payload: Record<string, unknown> }>(
        db,
        sql`select payload from events where workspace_id = ${ws} and person_id = ${body.person} and id = ${body.event}`,
      )
    : undefined;
  if (body.event && !event) throw invalid('event', 'That event is not theirs.');
  const now = await businessNow(db);
  const values = valuesFor(
    program,
    mergeContext(withSamples(facts, now), {
      offer: program.offer,
      entry: event?.payload ?? startingKinds(sequence.draft, around)[0]?.sample ?? null,
      sender,
      currency: around.currency,
      sequence: { name: sequence.draft.name, email: step.name },
      asking: { now, enteredAt: now, stepTimes: {} },
    }),
  );
  const id = newId();
  const hash = await keepProgram(db, ws, program, sender);
  await db.execute(
    sql`insert into sends (workspace_id, id, visit_id, sequence_id, version, step, person_id, program_hash, status, due_at, next_at, "to", "values", sent_at)
        values (${ws}, ${id}, null, ${sequence.id}, 0, ${step.id}, ${body.person}, ${hash}, 'sent', ${now}, ${now}, ${body.to}, ${JSON.stringify(values)}::jsonb, ${now})`,
  );
  const message = messageOf(
    { workspace_id: ws, id, due_at: now, list_id: null, list_name: null },
    { program, encoded: encodeProgram(program), sender },
    body.to,
    values,
    ctx.sending,
  );
  const delivery = await ctx.sending.transport.deliver(sender.email, body.to, message);
  if (delivery.kind !== 'accepted')
    throw new UserError(502, 'not-delivered', `The test was not taken: ${delivery.answer}`, 'to');
  await db.execute(
    sql`insert into tests (workspace_id, sequence_id, step, sign, at) values (${ws}, ${sequence.id}, ${step.id}, ${contentSign(step.email, sharedOf(around))}, ${now})
        on conflict (workspace_id, sequence_id, step) do update set sign = excluded.sign, at = excluded.at`,
  );
}
