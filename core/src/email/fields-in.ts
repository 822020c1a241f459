import { blockParts } from './blocks/index.ts';
import { readTemplate } from './fields.ts';
import { partsOfRich } from './rich.ts';
import type { Email } from './schema.ts';

/** Paths of all merge fields of an email: "subscriber.first_name". */
export function fieldsIn(email: Email): string[] {
  const parts = email.blocks.map(blockParts);
  const rich = parts.flatMap((p) => p.rich.map((r) => partsOfRich(r.doc)));
  const sources = [
    email.subject,
    email.preview,
    ...parts.flatMap((p) => [...p.templates.map((t) => t.source), ...p.links.map((l) => l.address)]),
    ...rich.flatMap((r) => r.links),
  ];
  const written = sources.flatMap((s) =>
    readTemplate(s).pieces.flatMap((p) => (typeof p === 'string' ? [] : [p.path])),
  );
  return [...new Set([...written, ...rich.flatMap((r) => r.fields.map((f) => f.path))])];
}
