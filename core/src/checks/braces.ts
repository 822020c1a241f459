import { contentOf, fieldsWithPlaces, readTemplate, withChips, walkBlocks, type Email } from '../email/index.ts';
import { walk, type Command } from '../sequence/index.ts';
import { at, emailCheck, type Check, type EmailFinding } from './check.ts';

const BRACES = /\{\{|\}\}/;
const FIX = 'Pick the field from the list instead, or take the braces out.';

/** The braces of a text with some words around, for a sentence. */
function shown(text: string): string {
  const at = text.search(BRACES);
  return text
    .slice(at, at + 40)
    .replace(/\s+/g, ' ')
    .trim();
}
const arrives = (text: string): string => `“${shown(text)}” would arrive as it stands, braces and all.`;

/** What is wrong with a template: what opens no field, or closes none. */
function faultsOf(source: string): string[] {
  const { pieces, faults } = readTemplate(source);
  if (faults.length > 0) return faults.map((f) => f.message);
  const still = pieces.find((p) => typeof p === 'string' && BRACES.test(p));
  const fallback = pieces.find((p) => typeof p !== 'string' && p.fallback !== null && BRACES.test(p.fallback));
  if (typeof still === 'string') return [arrives(still)];
  return fallback && typeof fallback !== 'string' ? [arrives(fallback.fallback ?? '')] : [];
}

/** Sets the fields that stand as plain words in a running text as chips. */
function repairOf(email: Email, step: string, block: string | null): EmailFinding['repair'] {
  const found = walkBlocks(email.blocks).find((p) => p.block.id === block)?.block;
  if (!found || !('doc' in found)) return undefined;
  const doc = withChips(found.doc);
  if (JSON.stringify(doc) === JSON.stringify(found.doc)) return undefined;
  const commands: Command[] = [{ type: 'block.set', step, block: found.id, field: 'doc', value: doc }];
  return { label: 'Make fields of them', commands };
}

/** No brace ever leaves: wherever words can stand, what is written as a field is one. */
export const rawBrace = emailCheck('raw-brace', 'error', ({ id, email }) => {
  const { templates, links, still } = contentOf(email);
  const chips = fieldsWithPlaces(email).filter((f) => f.chip);
  const findings: EmailFinding[] = [
    ...templates.flatMap(({ source, block, place }) =>
      faultsOf(source).map((message) => ({ block, part: place, message, fix: FIX })),
    ),
    ...links.flatMap(({ address, block, place }) =>
      faultsOf(address).map((message) => ({ block, part: place, message, fix: FIX })),
    ),
    ...still
      .filter((s) => BRACES.test(s.text))
      .map(({ block, place, text }) => {
        const repair = repairOf(email, id, block);
        return { block, part: place, message: arrives(text), fix: FIX, ...(repair ? { repair } : {}) };
      }),
    ...chips
      .filter(({ field }) => field.fallback !== null && BRACES.test(field.fallback))
      .map(({ block, place, field }) => ({ block, part: place, message: arrives(field.fallback ?? ''), fix: FIX })),
  ];
  return findings;
});

/** The same of what is told to the team. */
export const rawBraceInNote: Check = {
  id: 'raw-brace-in-note',
  run: (sequence) =>
    walk(sequence).flatMap(({ step }) =>
      step.on && step.kind === 'action' && step.action.type === 'tell-team'
        ? faultsOf(step.action.text).map((message) => ({
            check: 'raw-brace-in-note',
            level: 'error' as const,
            place: at(step.id, null, 'text'),
            message,
            fix: FIX,
          }))
        : [],
    ),
};
