import { contentOf } from './content.ts';
import type { Email } from './schema.ts';

/** What an email says as one reads it, in one line: its text with fields as they are written, without subject and preview text. */
export function saidBy(email: Email): string {
  const { templates, texts } = contentOf(email);
  const all = [
    ...templates.filter((t) => t.place !== 'subject' && t.place !== 'preview').map((t) => t.source),
    ...texts.map((t) => t.text),
  ];
  return all.join(' ').replace(/\s+/g, ' ').trim();
}
