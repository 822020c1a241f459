import { sql, type SQL } from 'drizzle-orm';
import type { FindAnswer, FoundEmail, FoundThing } from '@ascenso/contracts';
import { emailSteps, saidBy, type EmailStep, type Sequence } from '@ascenso/core';
import type { Executor } from './connect.ts';
import { rows } from './rows.ts';

/** Things of one kind, and emails, that are told at most. */
const THINGS = 6;
const EMAILS = 20;
/** Drafts that are read for one question: words that every document has, such as the names of its parts, find all of them. */
const DRAFTS = 200;
/** Letters told before and behind what was found in a text. */
const AROUND = 40;

/** Every word stands somewhere in a text. */
const holds = (text: SQL, words: readonly string[]): SQL =>
  sql.join(
    words.map((w) => sql`position(lower(${w}) in lower(${text})) > 0`),
    sql` and `,
  );

/** Whatever has a name, and whom it is shown to. */
async function thingsNamed(db: Executor, ws: string, user: string, words: readonly string[]): Promise<FoundThing[]> {
  const named = (kind: string, table: string, name: SQL, note: SQL, more = sql``) =>
    sql`(select ${kind} as kind, id::text, ${name} as name, ${note} as note from ${sql.identifier(table)} where workspace_id = ${ws} and ${holds(name, words)} ${more} order by length(${name}), 3 limit ${THINGS})`;
  const none = sql`''`;
  const person = sql`concat_ws(' ', nullif(attributes->>'first_name', ''), nullif(attributes->>'last_name', ''))`;
  return rows<FoundThing>(
    db,
    sql.join(
      [
        named('sequence', 'sequences', sql`name`, none, sql`and listed and status <> 'archived'`),
        named('offer', 'offers', sql`doc->>'name'`, none),
        named('list', 'lists', sql`name`, none),
        named('segment', 'segments', sql`name`, none),
        named('form', 'forms', sql`doc->>'name'`, none),
        named('template', 'templates', sql`name`, none, sql`and (owner_id is null or owner_id = ${user})`),
        sql`(select 'person' as kind, id::text, coalesce(nullif(${person}, ''), email) as name, email as note from people
             where workspace_id = ${ws} and ${holds(sql`${person} || ' ' || email`, words)} order by created_at desc limit ${THINGS})`,
      ],
      sql` union all `,
    ),
  );
}

/** The words around the first that was found. */
function excerptOf(text: string, words: readonly string[]): string {
  const at = Math.max(0, text.toLowerCase().indexOf(words[0]?.toLowerCase() ?? ''));
  const [from, to] = [Math.max(0, at - AROUND), Math.min(text.length, at + AROUND + (words[0]?.length ?? 0))];
  return `${from > 0 ? '…' : ''}${text.slice(from, to)}${to < text.length ? '…' : ''}`;
}

/** Where an email has every word: 'called' by name or subject, 'said' in its text; null where it has not. */
function whereFound({ name, email }: EmailStep, words: readonly string[]): { excerpt: string; called: boolean } | null {
  const has = (text: string) => words.every((w) => text.toLowerCase().includes(w.toLowerCase()));
  if (has(`${name} ${email.subject} ${email.preview}`)) return { excerpt: '', called: true };
  const said = saidBy(email);
  return has(`${name} ${email.subject} ${said}`) ? { excerpt: excerptOf(said, words), called: false } : null;
}

/** Emails of drafts with every word, those that are called so first; the newest where no word is asked. */
async function emailsWith(db: Executor, ws: string, words: readonly string[]): Promise<FoundEmail[]> {
  // As text a document has its quotes escaped.
  const escaped = words.map((w) => JSON.stringify(w).slice(1, -1));
  const asked = words.length === 0 ? sql`` : sql`and ${holds(sql`draft::text`, escaped)}`;
  const drafts = await rows<{ id: string; name: string; draft: Sequence }>(
    db,
    sql`select id, name, draft from sequences where workspace_id = ${ws} and listed and status <> 'archived' ${asked} order by created_at desc limit ${DRAFTS}`,
  );
  const found = drafts.flatMap(({ id, name, draft }) =>
    emailSteps(draft).flatMap((step) => {
      const where = whereFound(step, words);
      if (!where) return [];
      const { excerpt, called } = where;
      return [{ sequence: { id, name }, step: step.id, name: step.name, subject: step.email.subject, excerpt, called }];
    }),
  );
  return found
    .sort((a, b) => Number(b.called) - Number(a.called))
    .slice(0, EMAILS)
    .map(({ called: _, ...email }) => email);
}

/** Whatever is called by these words, and emails that say them. With no words, the emails of the newest sequences. */
export async function find(db: Executor, ws: string, user: string, text: string): Promise<FindAnswer> {
  const words = text.split(/\s+/).filter(Boolean);
  return {
    things: words.length === 0 ? [] : await thingsNamed(db, ws, user, words),
    emails: await emailsWith(db, ws, words),
  };
}
