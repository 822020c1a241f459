import { loadAttachments } from '../db/attachments.ts';
import { compiledWith, sharedOf, startingKinds, type testSendRequest } from '@ascenso/contracts';
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
import { payloadOf } from '../db/people.ts';
import { forgetTest, keepTest, noteTested } from '../db/sends.ts';
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
  const program = await compileEmail(step.email, around.style, compiledWith(sequence.draft, around));
  const wanted = { workspace_id: ws, visit_id: newId(), key: 'test', person_id: body.person };
  const facts = (await loadFacts(db, [{ ...wanted, ...asksOf(program), lists: true }])).get('test');
  if (!facts) throw invalid('person', 'There is no such person.');
  const event = body.event ? await payloadOf(db, ws, body.person, body.event) : undefined;
  if (body.event && !event) throw invalid('event', 'That event is not theirs.');
  const now = await businessNow(db);
  const values = valuesFor(
    program,
    mergeContext(withSamples(facts, now), {
      offer: program.offer,
      entry: event ?? startingKinds(sequence.draft, around)[0]?.sample ?? null,
      sender,
      currency: around.currency,
      sequence: { name: sequence.draft.name, email: step.name },
      asking: { now, enteredAt: now, stepTimes: {} },
    }),
  );
  const hash = await keepProgram(db, ws, program, sender);
  const test = {
    sequence: sequence.id,
    step: step.id,
    person: body.person,
    programHash: hash,
    to: body.to,
    values,
    at: now,
  };
  const id = await db.transaction((tx) => keepTest(tx, ws, test));
  if (!id) return;
  const message = messageOf(
    { workspace_id: ws, id, due_at: now, list_id: null, list_name: null },
    { program, encoded: encodeProgram(program), sender },
    body.to,
    values,
    ctx.sending,
    await loadAttachments(db, ws, program.attachments),
  );
  const delivery = await ctx.sending.transport.deliver(sender.email, body.to, message);
  if (delivery.kind !== 'accepted') {
    await forgetTest(db, { workspaceId: ws, sendId: id });
    const what = delivery.kind === 'unready' ? 'The mail server does not take mail just now' : 'The test was not taken';
    throw new UserError(502, 'not-delivered', `${what}: ${delivery.answer}`, 'to');
  }
  const sign = contentSign(step.email, sharedOf(around));
  await noteTested(db, ws, { sequenceId: sequence.id, step: step.id, sign, at: now });
}
