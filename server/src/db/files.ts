import { createHash } from 'node:crypto';
import { sql } from 'drizzle-orm';
import { fileTypeFromBuffer } from 'file-type';
import { imageSize } from 'image-size';
import { invalid } from '../app/errors.ts';
import { newId } from '../app/ids.ts';
import type { Executor } from './connect.ts';
import { firstRow } from './rows.ts';

/** What may be hosted, by content and not by name. SVG is left out: it can carry script. */
const ALLOWED = new Set(['image/png', 'image/jpeg', 'image/gif', 'image/webp', 'application/pdf', 'application/zip']);
/** Keeps a file; the same content under the same name is kept once. Answers its id. */
export async function keepFile(db: Executor, ws: string, name: string, content: Buffer, now: number): Promise<string> {
  const type = await fileTypeFromBuffer(content);
  if (!type || !ALLOWED.has(type.mime))
    throw invalid('file', 'That is no picture, PDF or ZIP. Choose a PNG, JPEG, GIF, WebP, PDF or ZIP file.');
  const size = type.mime.startsWith('image/') ? imageSize(content) : null;
  const hash = createHash('sha256').update(content).digest('hex');
  const id = newId();
  const row = await firstRow<{ id: string }>(
    db,
    sql`insert into files (workspace_id, id, name, mime, size, sha256, width, height, content, created_at)
        values (${ws}, ${id}, ${name}, ${type.mime}, ${content.length}, ${hash}, ${size?.width ?? null}, ${size?.height ?? null}, ${content}, ${now})
        on conflict (workspace_id, sha256, name) do update set name = excluded.name returning id`,
  );
  return row?.id ?? id;
}
