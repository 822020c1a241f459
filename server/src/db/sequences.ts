import { and, eq, sql } from 'drizzle-orm';
import type { NumbersAnswer, SequenceAnswer, SequenceRow } from '@ascenso/contracts';
import { emailSteps, modeOf, rhythmOf, type Sequence, type StepCounts } from '@ascenso/core';
import { notFound } from '../app/errors.ts';
import { newId } from '../app/ids.ts';
import type { Executor } from './connect.ts';
import { sequencesBehind } from './behind.ts';
import { firstRow, rows } from './rows.ts';
import { sequences, versions } from './schema/index.ts';

interface Row {
  id: string;
  name: string;
  status: SequenceRow['status'];
  live_version: number | null;
  revision: number;
  published_revision: number | null;
  draft: Sequence;
  /** The draft is another than what is live, or nothing is. */
  unpublished: boolean;
  created_at: number;
  inside: number;
}

/** Sequences with whether their draft differs from what is live: an edit that was taken back is none. */
const SEQUENCES = sql`select s.*, v.doc is distinct from s.draft as unpublished`;
const LIVE = sql`left join versions v on v.workspace_id = s.workspace_id and v.sequence_id = s.id and v.number = s.live_version`;

interface CountRow extends Omit<StepCounts, 'here'> {
  sequence_id: string;
  step: string;
  queued: number;
}

/** Counts of people at each step: whoever came twice is one, and opened it if they opened either. Never clicks. */
const countSends = (db: Executor, ws: string, sequenceId: string | null) =>
  rows<CountRow>(
    db,
    sql`select sequence_id, step, count(*) filter (where sent) as sent, count(*) filter (where delivered) as delivered,
          count(*) filter (where opened) as opened, count(*) filter (where clicked) as clicked,
          count(*) filter (where gone) as "left", count(*) filter (where bounced) as bounced, sum(queued)::int as queued
        from (
          select s.sequence_id, s.step, bool_or(s.status in ('sent', 'bounced')) as sent, bool_or(s.status = 'sent') as delivered,
            bool_or(s.opened_at is not null) as opened, bool_or(s.clicked_at is not null) as clicked,
            bool_or(s.left_at is not null) as gone, bool_or(s.status = 'bounced') as bounced,
            count(*) filter (where s.status in ('queued', 'leased')) as queued
          from sends s
          where s.workspace_id = ${ws} and s.visit_id is not null and (${sequenceId}::uuid is null or s.sequence_id = ${sequenceId}::uuid)
          group by s.sequence_id, s.step, s.person_id) people
        group by sequence_id, step`,
  );

/** All sequences with their rhythm and counts. */
export async function listSequences(db: Executor, ws: string): Promise<SequenceRow[]> {
  const found = await rows<Row>(
    db,
    sql`${SEQUENCES}, (select count(*) from visits i where i.workspace_id = s.workspace_id and i.sequence_id = s.id and i.status = 'active') as inside
        from sequences s ${LIVE} where s.workspace_id = ${ws} and s.person_id is null order by s.status = 'draft', s.created_at`,
  );
  const counts = await countSends(db, ws, null);
  const behind = await sequencesBehind(db, ws);
  return found.map((s) => {
    const rhythmAt = rhythmOf(s.draft);
    const rhythm = emailSteps(s.draft).flatMap((step) => {
      const at = rhythmAt.get(step.id);
      const c = counts.find((k) => k.sequence_id === s.id && k.step === step.id);
      return at !== undefined
        ? [
            {
              step: step.id,
              name: step.name,
              at,
              sent: c?.sent ?? 0,
              opened: c?.opened ?? 0,
              clicked: c?.clicked ?? 0,
            },
          ]
        : [];
    });
    const own = counts.filter((c) => c.sequence_id === s.id);
    const sum = (key: 'sent' | 'opened' | 'clicked') => own.reduce((n, c) => n + c[key], 0);
    return {
      id: s.id,
      name: s.name,
      status: s.status,
      liveVersion: s.live_version,
      unpublished: s.unpublished,
      behind: behind.find((b) => b.id === s.id)?.behind ?? [],
      triggers: s.draft.triggers,
      emails: emailSteps(s.draft).length,
      inside: s.inside,
      sent: sum('sent'),
      opened: sum('opened'),
      clicked: sum('clicked'),
      rhythm,
      createdAt: s.created_at,
    };
  });
}

/** Whom a letter is written to, and whether it has gone to them; null for what is no letter. */
const readerOfLetter = async (db: Executor, ws: string, id: string): Promise<SequenceAnswer['person']> =>
  (await firstRow<NonNullable<SequenceAnswer['person']>>(
    db,
    sql`select p.id, coalesce(nullif(p.attributes->>'first_name', ''), p.email) as name,
          exists (select 1 from visits v where v.workspace_id = s.workspace_id and v.sequence_id = s.id) as sent
        from sequences s join people p on p.workspace_id = s.workspace_id and p.id = s.person_id where s.workspace_id = ${ws} and s.id = ${id}`,
  )) ?? null;

/** How far a draft is. */
export const draftRevision = (db: Executor, ws: string, id: string): Promise<{ revision: number } | undefined> =>
  firstRow(db, sql`select revision from sequences where workspace_id = ${ws} and id = ${id}`);

/** Whether the draft is another than what is live, or nothing is. */
export async function isUnpublished(db: Executor, ws: string, id: string): Promise<boolean> {
  const s = await firstRow<Row>(
    db,
    sql`${SEQUENCES} from sequences s ${LIVE} where s.workspace_id = ${ws} and s.id = ${id}`,
  );
  return s?.unpublished ?? true;
}

/** A sequence as it stands, without the log of its edits. */
export async function getSequence(db: Executor, ws: string, id: string): Promise<Omit<SequenceAnswer, 'log'>> {
  const s = await firstRow<Row>(
    db,
    sql`${SEQUENCES} from sequences s ${LIVE} where s.workspace_id = ${ws} and s.id = ${id}`,
  );
  if (!s) throw notFound('sequence');
  const [behind] = await sequencesBehind(db, ws, id);
  const tests = await rows<{ step: string; sign: string }>(
    db,
    sql`select step, sign from tests where workspace_id = ${ws} and sequence_id = ${id}`,
  );
  return {
    tested: Object.fromEntries(tests.map((t) => [t.step, t.sign])),
    id: s.id,
    status: s.status,
    liveVersion: s.live_version,
    revision: s.revision,
    unpublished: s.unpublished,
    behind: behind?.behind ?? [],
    draft: s.draft,
    person: await readerOfLetter(db, ws, id),
  };
}

/** The climb of one sequence, and who stands where. */
export async function sequenceNumbers(db: Executor, ws: string, id: string): Promise<NumbersAnswer> {
  const totals = await firstRow<{ joined: number; heldOut: number; inside: number }>(
    db,
    sql`select count(distinct person_id) filter (where not held_out) as joined, count(distinct person_id) filter (where held_out) as "heldOut", count(distinct person_id) filter (where status = 'active') as inside from visits where workspace_id = ${ws} and sequence_id = ${id}`,
  );
  const counts = await countSends(db, ws, id);
  const standing = await rows<{ step: string; n: number }>(
    db,
    sql`select step, count(*) as n from visits where workspace_id = ${ws} and sequence_id = ${id} and status = 'active' group by step`,
  );
  const arms = await rows<{ arm: string; n: number }>(
    db,
    sql`select data->>'arm' as arm, count(distinct visit_id) as n from reasons where workspace_id = ${ws} and sequence_id = ${id} and code in ('branch-taken', 'branch-otherwise', 'split-taken', 'until-happened', 'until-passed') group by 1`,
  );
  const waiting = Object.fromEntries(standing.map((r) => [r.step, r.n]));
  const steps = Object.fromEntries(
    counts.map(({ step, queued, sequence_id: _, ...c }) => [step, { ...c, here: queued + (waiting[step] ?? 0) }]),
  );
  const gone = await goneEmails(db, ws, id, Object.keys(steps));
  const joined = totals?.joined ?? 0;
  const inside = totals?.inside ?? 0;
  return {
    joined,
    inside,
    finished: joined - inside,
    heldOut: totals?.heldOut ?? 0,
    steps,
    arms: Object.fromEntries(arms.map((a) => [a.arm, a.n])),
    waiting,
    gone,
  };
}

/** Emails among these that the draft no longer has, as the last version that had them calls them. */
async function goneEmails(
  db: Executor,
  ws: string,
  id: string,
  counted: readonly string[],
): Promise<NumbersAnswer['gone']> {
  const row = await firstRow<{ draft: Sequence }>(
    db,
    sql`select draft from sequences where workspace_id = ${ws} and id = ${id}`,
  );
  const there = new Set(row ? emailSteps(row.draft).map((s) => s.id) : []);
  const missing = counted.filter((step) => !there.has(step));
  if (missing.length === 0) return [];
  const versions = await rows<{ doc: Sequence }>(
    db,
    sql`select doc from versions where workspace_id = ${ws} and sequence_id = ${id} order by number desc`,
  );
  return missing.map((step) => {
    for (const { doc } of versions) {
      const found = emailSteps(doc).find((s) => s.id === step);
      if (found) return { step, name: found.name, textOnly: modeOf(found.email) === 'text' };
    }
    return { step, name: 'An email of an older version', textOnly: false };
  });
}

export async function hasSequence(db: Executor, ws: string, id: string): Promise<boolean> {
  const found = await db
    .select({ id: sequences.id })
    .from(sequences)
    .where(and(eq(sequences.workspaceId, ws), eq(sequences.id, id)));
  return found.length > 0;
}

/** A new draft. Answers its id. */
export async function addDraft(
  db: Executor,
  ws: string,
  draft: Sequence,
  createdAt: number,
  personId: string | null = null,
): Promise<string> {
  const id = newId();
  await db
    .insert(sequences)
    .values({ workspaceId: ws, id, name: draft.name, status: 'draft', createdAt, revision: 0, draft, personId });
  return id;
}

/** What has been published of a sequence, the latest first, with who is on it. */
export const listVersions = (
  db: Executor,
  ws: string,
  id: string,
): Promise<
  { number: number; doc: Sequence; published_at: number; by: string | null; inside: number; sent: number }[]
> =>
  rows(
    db,
    sql`select v.number, v.doc, v.published_at, u.name as by,
          (select count(*) from visits i where i.workspace_id = v.workspace_id and i.sequence_id = v.sequence_id and i.version = v.number and i.status = 'active') as inside,
          (select count(*) from sends s where s.workspace_id = v.workspace_id and s.sequence_id = v.sequence_id and s.version = v.number and s.status = 'sent' and s.visit_id is not null) as sent
        from versions v left join users u on u.id = v.published_by
        where v.workspace_id = ${ws} and v.sequence_id = ${id} order by v.number desc`,
  );

/** A version as it was published; `number` is as the address has it. */
export async function versionDoc(db: Executor, ws: string, id: string, number: string): Promise<Sequence | undefined> {
  const [row] = await db
    .select({ doc: versions.doc })
    .from(versions)
    .where(and(eq(versions.workspaceId, ws), eq(versions.sequenceId, id), sql`${versions.number}::text = ${number}`));
  return row?.doc;
}
