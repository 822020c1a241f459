import {
  blockKinds,
  blockParts,
  findBlock,
  partsOfRich,
  walkBlocks,
  type Block,
  type RichText,
} from '../email/index.ts';
import { armsOf, findStep, withInner } from './tree.ts';
import type { Command, Saved } from './commands/index.ts';
import type { Sequence, Step } from './schema.ts';

/** A command for whoever has to decide about it: where, what, and the words it sets. */
export interface EditWords {
  where: string;
  what: string;
  /** Words that it writes, '' where it writes none. */
  words: string;
}

const isRich = (value: unknown): value is RichText =>
  typeof value === 'object' && value !== null && 'type' in value && value.type === 'doc';

/** The words of a value: a text as it is read, anything that is no text as nothing. */
function valueWords(value: unknown): string {
  if (typeof value === 'string') return value;
  if (typeof value === 'number') return String(value);
  return isRich(value) ? partsOfRich(value).text : '';
}

/** All that a block says, as it is read. */
const wordsOfBlock = (block: Block): string =>
  walkBlocks([block])
    .flatMap(({ block: b }) => {
      const { rich, templates } = blockParts(b);
      return [...rich.map((r) => partsOfRich(r.doc).text), ...templates.map((t) => t.source)];
    })
    .filter((text) => text !== '')
    .join('\n');

const nameOfStep = (step: Step | undefined): string =>
  !step
    ? 'a step that is gone'
    : step.kind === 'email'
      ? `“${step.name || step.email.subject || 'Email'}”`
      : `a ${step.kind}`;

/** How much goes or comes with a step: " with 12 steps", '' where nothing does. */
export function innerWords(step: Step): string {
  const inner = withInner(step).length - 1;
  return inner === 0 ? '' : ` with ${inner} ${inner === 1 ? 'step' : 'steps'}`;
}

/** Describes a command over a document, with what others took away of it for names that are gone. */
export function editWords(c: Command, doc: Sequence, over: Saved | null): EditWords {
  const taken = (over?.inverses ?? []).flatMap((i) => (i.type === 'step.insert' ? withInner(i.step) : []));
  const stepOf = (id: string) => findStep(doc, id)?.step ?? taken.find((s) => s.id === id);
  const name = (id: string) => nameOfStep(stepOf(id));
  const innerOf = (id: string) => {
    const step = stepOf(id);
    return step ? innerWords(step) : '';
  };
  const kind = (step: string, block: string) => {
    const email = stepOf(step);
    const found = email?.kind === 'email' ? findBlock(email.email.blocks, block)?.block : undefined;
    return found ? blockKinds[found.kind].name.toLowerCase() : 'block';
  };
  const armOf = (arm: string) =>
    [...doc.steps.flatMap(withInner), ...taken].find((s) => armsOf(s).some((a) => a.id === arm));
  switch (c.type) {
    case 'set':
      return { where: 'The sequence', what: c.field, words: valueWords(c.value) };
    case 'step.insert':
      return {
        where: 'The plan',
        what: `new: ${nameOfStep(c.step)}${innerWords(c.step)}`,
        words: c.step.kind === 'email' ? c.step.email.blocks.map(wordsOfBlock).join('\n') : '',
      };
    case 'step.remove':
      return { where: 'The plan', what: `deleting ${name(c.step)}${innerOf(c.step)}`, words: '' };
    case 'step.move':
      return { where: 'The plan', what: `moving ${name(c.step)}`, words: '' };
    case 'step.set':
      return { where: name(c.step), what: c.field, words: valueWords(c.value) };
    case 'email.set':
      return { where: name(c.step), what: c.field, words: valueWords(c.value) };
    case 'arm.insert':
      return { where: name(c.step), what: 'a new arm', words: '' };
    case 'arm.remove':
    case 'arm.move':
    case 'arm.set':
    case 'arm.weigh': {
      const what = {
        'arm.remove': 'deleting an arm',
        'arm.move': 'moving an arm',
        'arm.set': 'what an arm asks',
        'arm.weigh': 'the share of an arm',
      };
      return { where: nameOfStep(armOf(c.arm)), what: what[c.type], words: '' };
    }
    case 'block.insert':
      return {
        where: name(c.step),
        what: `a new ${blockKinds[c.block.kind].name.toLowerCase()}`,
        words: wordsOfBlock(c.block),
      };
    case 'block.remove':
      return { where: name(c.step), what: `deleting a ${kind(c.step, c.block)}`, words: '' };
    case 'block.move':
      return { where: name(c.step), what: `moving a ${kind(c.step, c.block)}`, words: '' };
    case 'block.set':
      return {
        where: name(c.step),
        what: `${c.field === 'doc' ? 'text' : c.field} of a ${kind(c.step, c.block)}`,
        words: valueWords(c.value),
      };
  }
}

/** One command that says both: theirs first, then ours. Null where they are no texts. */
export function both(ours: Command, theirs: Command | null): Command | null {
  if (!theirs || !('value' in ours) || !('value' in theirs)) return null;
  const [a, b] = [theirs.value, ours.value];
  if (typeof a === 'string' && typeof b === 'string') return { ...ours, value: `${a} ${b}`.trim() };
  return isRich(a) && isRich(b) ? { ...ours, value: { ...a, content: [...a.content, ...b.content] } } : null;
}
