import { blockParts, partsOfRich, readTemplate, type Field } from '../email/index.ts';
import { emailSteps, type EmailStep, type Sequence } from '../sequence/index.ts';
import { at, type FindingPlace } from './check.ts';

/** Every template of an email with its place: the envelope, the blocks, and the addresses of links. */
export function templatesOf(step: EmailStep): { source: string; place: FindingPlace; address: boolean }[] {
  const out = [
    { source: step.email.subject, place: at(step.id, null, 'subject'), address: false },
    { source: step.email.preview, place: at(step.id, null, 'preview'), address: false },
  ];
  for (const block of step.email.blocks) {
    const parts = blockParts(block);
    for (const t of parts.templates)
      out.push({ source: t.source, place: at(step.id, block.id, t.place), address: false });
    const links = [...parts.links.map((l) => l.address), ...parts.rich.flatMap((r) => partsOfRich(r.doc).links)];
    for (const source of links) out.push({ source, place: at(step.id, block.id, 'link'), address: true });
  }
  return out;
}

/** Every merge field with its place. */
export function fieldsOf(step: EmailStep): { field: Field; place: FindingPlace; address: boolean }[] {
  const written = templatesOf(step).flatMap((t) =>
    readTemplate(t.source).pieces.flatMap((p) =>
      typeof p === 'string' ? [] : [{ field: p, place: t.place, address: t.address }],
    ),
  );
  const rich = step.email.blocks.flatMap((b) =>
    blockParts(b).rich.flatMap((r) =>
      partsOfRich(r.doc).fields.map((field) => ({ field, place: at(step.id, b.id, r.place), address: false })),
    ),
  );
  return [...written, ...rich];
}

/** Email steps that are switched on: the ones that go out. */
export const liveEmails = (sequence: Sequence): EmailStep[] => emailSteps(sequence).filter((s) => s.on);
