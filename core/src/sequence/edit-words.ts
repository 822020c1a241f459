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

const STEPS: Readonly<Record<Exclude<Step['kind'], 'email'>, string>> = {
  wait: 'a wait',
  branch: 'a branch',
  split: 'a split',
  until: 'a wait for something',
  action: 'an action',
  leave: 'a step at which they leave',
};

/** What the screens call the fields that a command can set, where that is not their own name. */
const FIELDS: Readonly<Record<string, string>> = {
  triggers: 'what starts it',
  filter: 'who may enter',
  entry: 'whether one may enter again',
  list: 'whom it mails',
  cap: 'how it stands beside other sequences',
  on: 'whether it is switched on',
  amount: 'how long',
  unit: 'how long',
  at: 'until when',
  window: 'when it may go out',
  forWhom: 'who gets it',
  thenTag: 'the tag added afterwards',
  thenPoints: 'the points added afterwards',
  condition: 'what it asks',
  action: 'what it does',
  rule: 'how it is decided',
  preview: 'preview text',
  language: 'what it is written in',
  replyTo: 'where answers go',
  toName: 'name in the To line',
  uncounted: 'what is counted of it',
  campaign: 'campaign parameters',
  attachments: 'files that go along',
  html: 'source',
  text: 'plain text',
  mode: 'how it is made',
  alt: 'alt text',
  doc: 'text',
  when: 'who sees it',
  only: 'on which screens it shows',
  off: 'whether it is switched on',
};
const fieldWords = (field: string): string => FIELDS[field] ?? field;

const nameOfStep = (step: Step | undefined): string =>
  !step
    ? 'a step that is gone'
    : step.kind === 'email'
      ? `“${step.name || step.email.subject || 'Email'}”`
      : STEPS[step.kind];

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
      return { where: 'The sequence', what: fieldWords(c.field), words: valueWords(c.value) };
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
      return { where: name(c.step), what: fieldWords(c.field), words: valueWords(c.value) };
    case 'email.set':
      return { where: name(c.step), what: fieldWords(c.field), words: valueWords(c.value) };
    case 'arm.insert':
      return { where: name(c.step), what: 'a new arm', words: '' };
    case 'arm.remove':
    case 'arm.move':
    case 'arm.set':
    case 'arm.weigh':
    case 'arm.name': {
      const what = {
        'arm.remove': 'deleting an arm',
        'arm.move': 'moving an arm',
        'arm.set': 'what an arm asks',
        'arm.weigh': 'the share of an arm',
        'arm.name': 'the name of an arm',
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
        what: `${c.field === 'text' ? 'words' : fieldWords(c.field)} of a ${kind(c.step, c.block)}`,
        words: valueWords(c.value),
      };
  }
}

/** Fields that hold words to be read: of anything else, such as an address or a sender, there cannot be both. */
const WORDS: ReadonlySet<string> = new Set(
  'name note subject preview doc text label title summary greeting reason by'.split(' '),
);

/** One command that says both: theirs first, then ours. Null where they are no texts. */
export function both(ours: Command, theirs: Command | null): Command | null {
  if (!theirs || !('value' in ours && 'field' in ours) || !('value' in theirs) || !WORDS.has(ours.field)) return null;
  const [a, b] = [theirs.value, ours.value];
  if (typeof a === 'string' && typeof b === 'string') return { ...ours, value: `${a} ${b}`.trim() };
  return isRich(a) && isRich(b) ? { ...ours, value: { ...a, content: [...a.content, ...b.content] } } : null;
}
