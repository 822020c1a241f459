import { sql } from 'drizzle-orm';
import { base64Body, type Attachment } from '../mail/mime.ts';
import type { Executor } from './connect.ts';
import { Kept } from './kept.ts';
import { firstRow } from './rows.ts';

// The content of a file never changes; a few are kept as they are sent, since an email goes to many.
const files = new Kept<Attachment>(12);

/** Files of the library as they go along with an email, in this order. Throws where one is not there. */
export async function loadAttachments(
  db: Executor,
  ws: string,
  ids: readonly string[] | undefined,
): Promise<Attachment[]> {
  const out: Attachment[] = [];
  for (const id of ids ?? [])
    out.push(
      await files.get(`${ws}/${id}`, async () => {
        const file = await firstRow<{ name: string; mime: string; content: Buffer }>(
          db,
          sql`select name, mime, content from files where workspace_id = ${ws} and id::text = ${id}`,
        );
        if (!file) throw new Error('A file that goes along is missing');
        return { name: file.name, mime: file.mime, base64: base64Body(file.content) };
      }),
    );
  return out;
}
