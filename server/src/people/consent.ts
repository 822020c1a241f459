import { sql } from 'drizzle-orm';
import { v5 } from 'uuid';
import { newId } from '../app/ids.ts';
import type { Executor, Tx } from '../db/connect.ts';
import { consents, consentSources, type ConsentHow } from '../db/schema/index.ts';

/** Where a consent, or its end, comes from. */
export interface ConsentSource {
  how: ConsentHow;
  /** What it is called: a form with its version, a file, a key, a colleague, a sequence. */
  label: string;
  /** The words that were agreed to, or '' where there were none. */
  words: string;
  /** Id of one that is told from others of the same name and words: an import. */
  ref?: string;
}

/** Notes a source, once for each wording. Answers its id. */
export async function sourceOf(tx: Executor, ws: string, source: ConsentSource): Promise<string> {
  const { how, label, words, ref } = source;
  const id = v5(JSON.stringify([how, label, words, ref]), ws);
  await tx.insert(consentSources).values({ workspaceId: ws, id, how, label, words }).onConflictDoNothing();
  return id;
}

export interface ConsentEntry {
  /** Null for all mail. */
  list: string | null;
  what: 'asked' | 'joined' | 'left';
  at: number;
  source: ConsentSource;
  /** Network address or page, or null. */
  where?: string | null;
}

/** Writes into a person's record of consent. Nothing in it is ever changed. */
export async function noteConsent(tx: Tx, ws: string, personId: string, entry: ConsentEntry): Promise<void> {
  const { list, what, at, where } = entry;
  const sourceId = await sourceOf(tx, ws, entry.source);
  await tx
    .insert(consents)
    .values({ workspaceId: ws, personId, id: newId(), listId: list, what, at, sourceId, where: where ?? null });
}

/** The name of the sequence that a passage is of: whoever is put on a list by it can see why. */
export const sequenceSource = async (tx: Tx, ws: string, visit: string): Promise<ConsentSource> => {
  const found = await tx.execute(
    sql`select s.name from visits v join sequences s on s.workspace_id = v.workspace_id and s.id = v.sequence_id where v.workspace_id = ${ws} and v.id = ${visit}`,
  );
  return { how: 'sequence', label: String(found.rows[0]?.['name'] ?? ''), words: '' };
};
