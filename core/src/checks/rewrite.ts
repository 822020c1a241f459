import { walkBlocks, type Email, type RichText } from '../email/index.ts';
import type { Command } from '../sequence/index.ts';

const inDoc = (doc: RichText, from: string, to: string): RichText =>
  JSON.parse(
    JSON.stringify(doc, (key, v: unknown) => (key === 'text' && typeof v === 'string' ? v.replace(from, to) : v)),
  ) as RichText;

const FIELD_OF: Readonly<Record<string, string>> = {
  heading: 'text',
  label: 'label',
  'alt text': 'alt',
  title: 'title',
  summary: 'summary',
  reason: 'reason',
  greeting: 'greeting',
};

/** The edit that writes one thing for another where it stands in an email, or null where it cannot be told how. */
export function rewrite(
  { step, email }: { step: string; email: Email },
  { block, place, text }: { block: string | null; place: string; text: string },
  from: string,
  to: string,
): Command | null {
  if (block === null)
    return place === 'subject' || place === 'preview'
      ? { type: 'email.set', step, field: place, value: text.replace(from, to) }
      : null;
  const found = walkBlocks(email.blocks).find((p) => p.block.id === block)?.block;
  if (!found) return null;
  if ((found.kind === 'text' || found.kind === 'quote') && place === 'text')
    return { type: 'block.set', step, block, field: 'doc', value: inDoc(found.doc, from, to) };
  const field = FIELD_OF[place];
  return field ? { type: 'block.set', step, block, field, value: text.replace(from, to) } : null;
}
