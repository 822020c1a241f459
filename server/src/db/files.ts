import { createHash } from 'node:crypto';
import { and, eq, sql } from 'drizzle-orm';
import { fileTypeFromBuffer } from 'file-type';
import { invalid } from '../app/errors.ts';
import { newId } from '../app/ids.ts';
import { checkPicture } from '../app/picture.ts';
import type { Executor } from './connect.ts';
import { firstRow } from './rows.ts';
import { files } from './schema/index.ts';

/** What may be hosted, by content and not by name. SVG is left out: it can carry script. */
const ALLOWED = new Set(['image/png', 'image/jpeg', 'image/gif', 'image/webp', 'application/pdf', 'application/zip']);

/**
 * Keeps a file; the same content under the same name is kept once, and the same picture under any name. Answers its id, and
 * the name under which it was there already, if that is another.
 */
export async function keepFile(
  db: Executor,
  ws: string,
  name: string,
  content: Buffer,
  now: number,
): Promise<{ id: string; known: string | null }> {
  const type = await fileTypeFromBuffer(content);
  if (!type || !ALLOWED.has(type.mime))
    throw invalid('file', 'That is no picture, PDF or ZIP. Choose a PNG, JPEG, GIF, WebP, PDF or ZIP file.');
  const size = type.mime.startsWith('image/') ? await checkPicture(content) : null;
  const hash = createHash('sha256').update(content).digest('hex');
  const same = size
    ? await firstRow<{ id: string; name: string }>(
        db,
        sql`select id, name from files where workspace_id = ${ws} and sha256 = ${hash} order by name = ${name} desc, created_at limit 1`,
      )
    : undefined;
  if (same) return { id: same.id, known: same.name === name ? null : same.name };
  const id = newId();
  const row = await firstRow<{ id: string }>(
    db,
    sql`insert into files (workspace_id, id, name, mime, size, sha256, width, height, content, created_at)
        values (${ws}, ${id}, ${name}, ${type.mime}, ${content.length}, ${hash}, ${size?.width ?? null}, ${size?.height ?? null}, ${content}, ${now})
        on conflict (workspace_id, sha256, name) do update set name = excluded.name returning id`,
  );
  return { id: row?.id ?? id, known: null };
}

/** What can be changed about a file; what is absent stays. */
export interface FileChange {
  name?: string | undefined;
  folder?: string | undefined;
  alt?: string | undefined;
  keywords?: string[] | undefined;
}

const one = (ws: string, id: string) => and(eq(files.workspaceId, ws), eq(files.id, id));

/** Answers whether there is such a file. */
export async function changeFile(db: Executor, ws: string, id: string, change: FileChange): Promise<boolean> {
  if (Object.values(change).every((v) => v === undefined)) return hasFile(db, ws, id);
  const changed = await db.update(files).set(change).where(one(ws, id)).returning({ id: files.id });
  return changed.length > 0;
}

export async function hasFile(db: Executor, ws: string, id: string): Promise<boolean> {
  return (await db.select({ id: files.id }).from(files).where(one(ws, id))).length > 0;
}

/** A file as anybody may fetch it who has its id. */
export async function hostedFile(
  db: Executor,
  id: string,
): Promise<{ name: string; mime: string; content: Buffer } | undefined> {
  const [file] = await db
    .select({ name: files.name, mime: files.mime, content: files.content })
    .from(files)
    .where(eq(files.id, id));
  return file;
}

export async function fileName(db: Executor, ws: string, id: string): Promise<string | undefined> {
  const [file] = await db
    .select({ name: files.name })
    .from(files)
    .where(and(eq(files.workspaceId, ws), sql`${files.id}::text = ${id}`));
  return file?.name;
}

/** Bytes of a picture of the library, or undefined. */
export async function pictureOf(db: Executor, ws: string, file: string): Promise<Buffer | undefined> {
  const [found] = await db
    .select({ content: files.content })
    .from(files)
    .where(and(eq(files.workspaceId, ws), sql`${files.id}::text = ${file} and ${files.mime} like 'image/%'`));
  return found?.content;
}
