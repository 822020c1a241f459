import { and, eq, max, sql } from 'drizzle-orm';
import {
  behindOf,
  changes,
  CompileError,
  compileEmail,
  emailSteps,
  materialsOf,
  runChecks,
  traceNames,
  type Finding,
  type Materials,
  type Program,
  type Sequence,
} from '@ascenso/core';
import { checkContext, compiledWith, namesOf } from '@ascenso/contracts';
import type { ChangesAnswer, Inside, Surroundings } from '@ascenso/contracts';
import { UserError } from '../app/errors.ts';
import { sha256 } from '../app/hash.ts';
import type { Executor, Tx } from '../db/connect.ts';
import { dictionaryOf } from '../db/packed.ts';
import { firstRow, rows } from '../db/rows.ts';
import { programs, sequences, versions } from '../db/schema/index.ts';
import { moveInside } from './carrying-over.ts';
import { setSplitTests } from './split-tests.ts';
import { setSweeps } from './sweeps.ts';
import { mustBeAgreed, sameMoments } from './whom.ts';
import { loadNamed, loadSurroundings } from '../db/surroundings.ts';

export type ProgramSender = { name: string; email: string; fields: Record<string, string> };

/** Every finding about a draft, and its compiled emails by step. */
export async function checkDraft(
  self: string | null,
  sequence: Sequence,
  around: Surroundings,
): Promise<{ findings: Finding[]; programs: Record<string, Program> }> {
  const programs: Record<string, Program> = {};
  const uncompiled: Finding[] = [];
  for (const step of emailSteps(sequence))
    try {
      programs[step.id] = await compileEmail(step.email, around.style, compiledWith(sequence, around));
    } catch (error) {
      if (!(error instanceof CompileError)) throw error;
      uncompiled.push({
        check: 'not-compiled',
        level: 'error',
        place: { step: step.id, block: null, part: 'source' },
        message: error.message,
        fix: 'Move the field into the text or into the value of an attribute.',
      });
    }
  const bytes = Object.fromEntries(Object.entries(programs).map(([id, p]) => [id, p.bytes]));
  const findings = [...uncompiled, ...runChecks(sequence, checkContext(self, sequence, around, bytes))];
  return { findings, programs };
}

/** The sender of an email, as the version keeps it. */
export function senderOf(id: string, around: Surroundings): ProgramSender {
  const sender = around.senders.find((s) => s.id === id) ?? around.senders.find((s) => s.isDefault);
  if (!sender) throw new UserError(422, 'no-sender', 'There is no sender. Add one under Library.', 'sender');
  return { name: sender.name, email: sender.email, fields: sender.fields };
}

/** Keeps a program by its content hash and answers the hash. */
export async function keepProgram(tx: Executor, ws: string, program: Program, sender: ProgramSender): Promise<string> {
  const hash = sha256(JSON.stringify([program, sender]));
  await tx
    .insert(programs)
    .values({
      workspaceId: ws,
      hash,
      program,
      sender,
      dictionary: dictionaryOf(program, { name: sender.name, email: sender.email, ...sender.fields }),
    })
    .onConflictDoNothing();
  return hash;
}

/**
 * Makes the next version from the draft and lets it run. Errors found by the checks refuse it. `inside` says what becomes
 * of the people who are inside; `agreed`, of a send to everybody, to how many people it was agreed to go.
 */
export async function publish(
  tx: Tx,
  ws: string,
  id: string,
  revision: number,
  userId: string | null,
  now: number,
  inside: Inside = 'finish',
  agreed?: number,
): Promise<number> {
  const one = and(eq(sequences.workspaceId, ws), eq(sequences.id, id));
  const [s] = await tx
    .select({
      draft: sequences.draft,
      revision: sequences.revision,
      published: sequences.publishedRevision,
      live: sequences.liveVersion,
      letInAt: sequences.letInAt,
      triggers: sequences.triggers,
      template: sequences.templateId,
    })
    .from(sequences)
    .where(one)
    .for('update');
  if (!s) throw new UserError(404, 'not-found', 'There is no such sequence.');
  if (s.template)
    throw new UserError(409, 'template', 'A template goes out to nobody: begin an email from it in a sequence.');
  if (s.revision !== revision)
    throw new UserError(
      409,
      'changed',
      'The draft changed while you were looking at it. Look at the changes, then publish again.',
    );
  // Pressed twice, or by two at once: it is published already.
  if (s.published === revision && s.live !== null) return s.live;
  if (s.letInAt === null || !sameMoments(s.triggers, s.draft.triggers))
    await mustBeAgreed(tx, ws, id, s.draft, agreed, now);
  const number = await putOut(tx, ws, id, s.draft, userId, now, inside, await loadSurroundings(tx, ws));
  await tx.update(sequences).set({ publishedRevision: revision }).where(one);
  return number;
}

/**
 * Makes the next version from the live one as it is, with what the house has changed since: what is edited in the draft
 * stays there. The people inside go on in it. Where nothing has changed, the live version stays.
 */
export async function republish(
  tx: Tx,
  ws: string,
  id: string,
  userId: string,
  now: number,
  around: Surroundings,
): Promise<number> {
  const live = await firstRow<{ doc: Sequence; number: number; made: Materials }>(
    tx,
    sql`select v.doc, v.number, v.made from sequences s join versions v on v.workspace_id = s.workspace_id and v.sequence_id = s.id and v.number = s.live_version
        where s.workspace_id = ${ws} and s.id = ${id} and s.status in ('live', 'paused') for update of s`,
  );
  if (!live) throw new UserError(404, 'not-found', 'There is no live sequence of that kind.');
  if (behindOf(live.made, around).length === 0) return live.number;
  return putOut(tx, ws, id, live.doc, userId, now, 'carry-on', around);
}

/** Makes a version of a document that has passed the checks, and lets it run. */
async function putOut(
  tx: Tx,
  ws: string,
  id: string,
  doc: Sequence,
  userId: string | null,
  now: number,
  inside: Inside,
  around: Surroundings,
): Promise<number> {
  const { findings, programs: compiled } = await checkDraft(id, doc, around);
  const errors = findings.filter((f) => f.level === 'error');
  if (errors.length > 0)
    throw new UserError(
      422,
      'checks',
      `${errors.length === 1 ? 'One thing has' : `${errors.length} things have`} to be fixed before publishing: ${errors[0]?.message}`,
    );
  const hashes: Record<string, string> = {};
  for (const step of emailSteps(doc))
    hashes[step.id] = await keepProgram(tx, ws, compiled[step.id] as Program, senderOf(step.email.sender, around));
  const [last] = await tx
    .select({ number: max(versions.number) })
    .from(versions)
    .where(and(eq(versions.workspaceId, ws), eq(versions.sequenceId, id)));
  const number = (last?.number ?? 0) + 1;
  await tx.insert(versions).values({
    workspaceId: ws,
    sequenceId: id,
    number,
    doc,
    programs: hashes,
    made: materialsOf(
      emailSteps(doc).map((step) => step.email),
      around,
    ),
    publishedAt: now,
    publishedBy: userId,
  });
  await tx
    .update(sequences)
    .set({
      status: sql`case when ${sequences.status} = 'paused' then 'paused' else 'live' end`,
      liveVersion: number,
      triggers: doc.triggers,
      priority: doc.cap.priority,
    })
    .where(and(eq(sequences.workspaceId, ws), eq(sequences.id, id)));
  await setSweeps(tx, ws, id, doc, now);
  await setSplitTests(tx, ws, id, doc);
  await moveInside(tx, ws, id, { version: number, doc }, inside, now);
  return number;
}

/** What publishing the draft would change since the live version, and whom it would touch. */
export async function pendingChanges(db: Executor, ws: string, id: string, zone: string): Promise<ChangesAnswer> {
  const s = await firstRow<{ draft: Sequence; live: Sequence | null }>(
    db,
    sql`select s.draft, v.doc as live from sequences s
        left join versions v on v.workspace_id = s.workspace_id and v.sequence_id = s.id and v.number = s.live_version
        where s.workspace_id = ${ws} and s.id = ${id}`,
  );
  if (!s) throw new UserError(404, 'not-found', 'There is no such sequence.');
  const standing = await rows<{ step: string; n: number }>(
    db,
    sql`select step, count(*) as n from visits where workspace_id = ${ws} and sequence_id = ${id} and status = 'active' group by step`,
  );
  const inside = standing.reduce((sum, r) => sum + r.n, 0);
  if (!s.live) return { changes: [], inside, touched: {} };
  const words = namesOf(await loadNamed(db, ws));
  const names = { before: traceNames(s.live, words, zone), after: traceNames(s.draft, words, zone) };
  const changed = changes(s.live, s.draft, names);
  const touched = standing.filter((r) => changed.some((c) => c.step === r.step && c.kind !== 'added'));
  return { changes: changed, inside, touched: Object.fromEntries(touched.map((r) => [r.step, r.n])) };
}
