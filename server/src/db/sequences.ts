import { and, eq, sql, type SQL } from 'drizzle-orm';
import type { SequenceAnswer, SequenceRow } from '@ascenso/contracts';
import { emailSteps, rhythmOf, type Sequence, type Trigger } from '@ascenso/core';
import { notFound } from '../app/errors.ts';
import { newId } from '../app/ids.ts';
import type { Executor } from './connect.ts';
import { sequencesBehind } from './behind.ts';
import { moneyIn } from './numbers.ts';
import { firstRow, rows } from './rows.ts';
import { readTallies, sumOf, tallied, type Tally } from './tallies.ts';
import { sequences, versions } from './schema/index.ts';

interface Row {
  id: string;
  name: string;
  status: SequenceRow['status'];
  live_version: number | null;
  revision: number;
  published_revision: number | null;
  draft: Sequence;
  triggers: Trigger[];
  /** The draft is another than what is live, or nothing is. */
  unpublished: boolean;
  created_at: number;
  let_in_at: number | null;
  template_id: string | null;
}

/** Sequences with whether their draft differs from what is live: an edit that was taken back is none. */
const SEQUENCES = sql`select s.*, v.doc is distinct from s.draft as unpublished`;
const LIVE = sql`left join versions v on v.workspace_id = s.workspace_id and v.sequence_id = s.id and v.number = s.live_version`;

/** All sequences with their rhythm and counts. */
export async function listSequences(db: Executor, ws: string): Promise<SequenceRow[]> {
  const found = await rows<Row>(
    db,
    sql`${SEQUENCES} from sequences s ${LIVE} where s.workspace_id = ${ws} and s.listed order by s.status = 'draft', s.created_at`,
  );
  const counted = await readTallies(db, ws, { whats: ['inside', 'sent', 'opened', 'clicked', 'money'] });
  const bySequence = tallied(counted, (t) => t.sequence);
  const behind = await sequencesBehind(db, ws);
  return found.map((s) => {
    const rhythmAt = rhythmOf(s.draft);
    const own = bySequence.get(s.id) ?? [];
    const bySteps = tallied(own, (t) => t.step);
    const readings = (of: readonly Tally[]) => ({
      sent: sumOf(of, 'sent'),
      opened: sumOf(of, 'opened'),
      clicked: sumOf(of, 'clicked'),
    });
    const rhythm = emailSteps(s.draft).flatMap(({ id, name }) => {
      const at = rhythmAt.get(id);
      return at === undefined ? [] : [{ step: id, name, at, ...readings(bySteps.get(id) ?? []) }];
    });
    return {
      id: s.id,
      name: s.name,
      status: s.status,
      liveVersion: s.live_version,
      unpublished: s.unpublished,
      behind: behind.find((b) => b.id === s.id)?.behind ?? [],
      triggers: s.draft.triggers,
      liveTriggers: s.live_version === null ? [] : s.triggers,
      letInAt: s.let_in_at,
      about: s.draft.about ?? '',
      subject: emailSteps(s.draft)[0]?.email.subject ?? '',
      emails: emailSteps(s.draft).length,
      inside: sumOf(own, 'inside'),
      ...readings(own),
      money: moneyIn(own),
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

/** How far a draft is, and which version is live. */
export const draftRevision = (
  db: Executor,
  ws: string,
  id: string,
): Promise<{ revision: number; live: number | null } | undefined> =>
  firstRow(db, sql`select revision, live_version as live from sequences where workspace_id = ${ws} and id = ${id}`);

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
    liveTriggers: s.live_version === null ? [] : s.triggers,
    letInAt: s.let_in_at,
    draft: s.draft,
    person: await readerOfLetter(db, ws, id),
    template: s.template_id,
  };
}

export async function hasSequence(db: Executor, ws: string, id: string): Promise<boolean> {
  const found = await db
    .select({ id: sequences.id })
    .from(sequences)
    .where(and(eq(sequences.workspaceId, ws), eq(sequences.id, id)));
  return found.length > 0;
}

/** Other sequences and forms that speak of one, by name. */
export async function usesOfSequence(db: Executor, ws: string, id: string): Promise<string[]> {
  const found = await rows<{ name: string }>(
    db,
    sql`select s.name from sequences s left join versions v on v.workspace_id = s.workspace_id and v.sequence_id = s.id and v.number = s.live_version
        where s.workspace_id = ${ws} and s.id::text <> ${id} and s.template_id is null and s.status <> 'archived' and (s.draft::text like ${`%${id}%`} or v.doc::text like ${`%${id}%`})
        union select doc->>'name' from forms where workspace_id = ${ws} and sequence_id::text = ${id} order by 1`,
  );
  return found.map((f) => f.name);
}

/** A new draft: of everybody's, to one person, or of a template. Answers its id. */
export async function addDraft(
  db: Executor,
  ws: string,
  draft: Sequence,
  createdAt: number,
  of: { person?: string; template?: string } = {},
): Promise<string> {
  const id = newId();
  await db.insert(sequences).values({
    workspaceId: ws,
    id,
    name: draft.name,
    status: 'draft',
    createdAt,
    revision: 0,
    draft,
    personId: of.person ?? null,
    templateId: of.template ?? null,
  });
  return id;
}

/** Deletes sequences for good, with what was saved of them and said about them. `which` is a condition on their rows. */
export async function deleteSequences(db: Executor, ws: string, which: SQL): Promise<void> {
  const ids = sql`(select id from sequences where workspace_id = ${ws} and ${which})`;
  for (const table of ['versions', 'draft_log', 'tests', 'comments', 'approvals', 'presence'])
    await db.execute(sql`delete from ${sql.identifier(table)} where workspace_id = ${ws} and sequence_id in ${ids}`);
  await db.execute(sql`delete from sequences where workspace_id = ${ws} and ${which}`);
}

/** What has been published of a sequence, the latest first, with who is on it. */
export async function listVersions(
  db: Executor,
  ws: string,
  id: string,
): Promise<{ number: number; doc: Sequence; published_at: number; by: string | null; inside: number; sent: number }[]> {
  const found = await rows<{ number: number; doc: Sequence; published_at: number; by: string | null }>(
    db,
    sql`select v.number, v.doc, v.published_at, u.name as by from versions v left join users u on u.id = v.published_by
        where v.workspace_id = ${ws} and v.sequence_id = ${id} order by v.number desc`,
  );
  const counted = await readTallies(db, ws, { sequence: id, whats: ['inside', 'sent', 'bounced'], versions: true });
  return found.map((v) => {
    const own = counted.filter((t) => t.version === v.number);
    return { ...v, inside: sumOf(own, 'inside'), sent: sumOf(own, 'sent') - sumOf(own, 'bounced') };
  });
}

/** A version as it was published; `number` is as the address has it. */
export async function versionDoc(db: Executor, ws: string, id: string, number: string): Promise<Sequence | undefined> {
  const [row] = await db
    .select({ doc: versions.doc })
    .from(versions)
    .where(and(eq(versions.workspaceId, ws), eq(versions.sequenceId, id), sql`${versions.number}::text = ${number}`));
  return row?.doc;
}
