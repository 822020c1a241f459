import { describe, type Names } from '../audience/index.ts';
import { blockKinds, modeOf, type Block, type Email, type emailFields, type EmailMode } from '../email/index.ts';
import type { Command } from './commands/index.ts';
import { armLabel, capWords, entryWords, ruleWords, stepWords, triggersWords, windowWords } from './describe.ts';
import { innerWords } from './edit-words.ts';
import { difference } from './difference.ts';
import type { EmailStep, Sequence, Step } from './schema.ts';
import { armsOf, findStep, walk } from './tree.ts';
import { waitWords } from './waiting.ts';

/** What changed at one step, or on the sequence itself (`step` null), in words. */
export interface Change {
  step: string | null;
  kind: 'added' | 'removed' | 'moved' | 'changed';
  title: string;
  words: string[];
}

const quoted = (text: string) => (text === '' ? 'nothing' : `“${text}”`);
const became = (what: string, old: string, now: string) => `${what}: ${old} became ${now}.`;

function sequenceWords(c: Extract<Command, { type: 'set' }>, before: Sequence, after: Sequence, names: Names): string {
  const condition = (s: Sequence, field: 'goal' | 'exit' | 'filter') => (s[field] ? describe(s[field], names) : 'none');
  switch (c.field) {
    case 'name':
      return became('Name', quoted(before.name), quoted(after.name));
    case 'triggers':
      return became('Starts', triggersWords(before.triggers, names), triggersWords(after.triggers, names));
    case 'filter':
      return became('Who may enter', condition(before, 'filter'), condition(after, 'filter'));
    case 'goal':
      return became('Goal', condition(before, 'goal'), condition(after, 'goal'));
    case 'exit':
      return became('Leaves early', condition(before, 'exit'), condition(after, 'exit'));
    case 'about':
      return became('What it is for', quoted(before.about ?? ''), quoted(after.about ?? ''));
    case 'list': {
      const list = (s: Sequence) =>
        s.list === null ? 'service mail' : s.list === '' ? 'nobody yet' : quoted(names.list(s.list));
      return became('Mails under', list(before), list(after));
    }
    case 'entry':
      return became('The same person enters', entryWords(before.entry), entryWords(after.entry));
    case 'cap':
      return became('Beside other sequences', capWords(before.cap), capWords(after.cap));
  }
}

function fieldWords(field: string, old: Step, now: Step, names: Names): string | null {
  const email = (s: Step) => s as EmailStep;
  switch (field) {
    case 'on':
      return now.on ? 'Switched on.' : 'Switched off.';
    case 'name':
      return became('Name', quoted(stepWords(old, names)), quoted(stepWords(now, names)));
    case 'note':
      return null;
    case 'amount':
    case 'unit':
    case 'more': {
      if (!('amount' in old) || !('amount' in now)) return null;
      return became('Wait', waitWords(old), waitWords(now));
    }
    case 'window':
      return became('Goes out', windowWords(email(old).window), windowWords(email(now).window));
    case 'rule': {
      const rule = (s: Step) => (s.kind === 'split' ? ruleWords(s.rule ?? null) : '');
      return became('Decided', rule(old), rule(now));
    }
    case 'thenPoints':
      return became('Points added afterwards', String(email(old).thenPoints), String(email(now).thenPoints));
    case 'thenTag':
      return became('Adds afterwards', quoted(email(old).thenTag), quoted(email(now).thenTag));
    case 'forWhom': {
      const whom = (s: Step) => (email(s).forWhom ? describe(email(s).forWhom as never, names) : 'everyone');
      return became('Goes to', whom(old), whom(now));
    }
    default:
      return became('What it does', quoted(stepWords(old, names)), quoted(stepWords(now, names)));
  }
}

const MODES: Record<EmailMode, string> = {
  designed: 'designed',
  letter: 'a letter',
  text: 'text only',
  html: 'a source of one’s own',
};

function envelopeWords(field: (typeof emailFields)[number], old: Email, now: Email): string {
  switch (field) {
    case 'sender':
      return 'The sender changed.';
    case 'mode':
      return became('Made as', MODES[modeOf(old)], MODES[modeOf(now)]);
    case 'html':
      return 'The source was changed.';
    case 'text':
      return now.text ? 'The plain text was written by hand.' : 'The plain text is made automatically again.';
    case 'subject':
      return became('Subject', quoted(old.subject), quoted(now.subject));
    case 'preview':
      return became('Preview text', quoted(old.preview), quoted(now.preview));
    case 'language':
      return 'It is written in another language.';
    case 'replyTo':
      return became('Answers go to', quoted(old.replyTo ?? ''), quoted(now.replyTo ?? ''));
    case 'toName':
      return became('Name in the To line', quoted(old.toName ?? ''), quoted(now.toName ?? ''));
    case 'offer':
      return now.offer
        ? old.offer
          ? 'It makes another offer.'
          : 'It makes an offer now.'
        : 'It makes no offer any more.';
    case 'template':
      return 'It was begun anew from a template.';
    case 'uncounted':
      return now.uncounted ? `Not counted: ${now.uncounted.join(' and ')}.` : 'Openings and clicks are counted.';
    case 'campaign':
      return now.campaign
        ? 'Its links carry campaign parameters of their own.'
        : 'Its links carry the campaign parameters of the house.';
    case 'attachments': {
      const n = now.attachments?.length ?? 0;
      return n === 0 ? 'No file goes along with it.' : `${n} ${n === 1 ? 'file goes' : 'files go'} along with it.`;
    }
  }
}

type BlockCommand = Extract<Command, { type: `block.${string}` }>;

const blockWords = (c: BlockCommand, old: EmailStep, now: EmailStep): string => {
  const kind = (blocks: readonly Block[], id: string) =>
    blockKinds[blocks.find((b) => b.id === id)?.kind ?? 'text'].name.toLowerCase();
  switch (c.type) {
    case 'block.insert':
      return `A ${blockKinds[c.block.kind].name.toLowerCase()} was added.`;
    case 'block.remove':
      return `A ${kind(old.email.blocks, c.block)} was removed.`;
    case 'block.move':
      return `A ${kind(now.email.blocks, c.block)} was moved.`;
    case 'block.set':
      return `A ${kind(now.email.blocks, c.block)} was changed.`;
  }
};

function stepOf(c: Command, before: Sequence, after: Sequence): string | null {
  if (c.type === 'set') return null;
  if (c.type === 'step.insert') return c.step.id;
  if ('step' in c) return c.step;
  const fork = [...walk(after), ...walk(before)].find(({ step }) => armsOf(step).some((a) => a.id === c.arm));
  return fork?.step.id ?? null;
}

function wordsOf(c: Command, before: Sequence, after: Sequence, names: Names): string | null {
  if (c.type === 'set') return sequenceWords(c, before, after, names);
  const id = stepOf(c, before, after) ?? '';
  const old = findStep(before, id)?.step;
  const now = findStep(after, id)?.step;
  switch (c.type) {
    case 'step.set':
      return old && now ? fieldWords(c.field, old, now, names) : null;
    case 'email.set': {
      if (old?.kind !== 'email' || now?.kind !== 'email') return null;
      return envelopeWords(c.field, old.email, now.email);
    }
    case 'step.remove': {
      const inner = old ? innerWords(old) : '';
      return inner ? `Gone${inner}.` : null;
    }
    case 'arm.insert':
      return now ? `New arm: ${armLabel(now, c.arm.id, names)}.` : null;
    case 'arm.remove':
      return old ? `Arm gone: ${armLabel(old, c.arm, names)}.` : null;
    case 'arm.set':
    case 'arm.weigh':
    case 'arm.name':
      return old && now ? became('Arm', armLabel(old, c.arm, names), armLabel(now, c.arm, names)) : null;
    case 'arm.move':
      return 'Its arms are asked in another order.';
    case 'step.insert':
    case 'step.move':
      return null;
    case 'block.insert':
    case 'block.remove':
    case 'block.move':
    case 'block.set':
      return old?.kind === 'email' && now?.kind === 'email' ? blockWords(c, old, now) : null;
  }
}

/** What changed between two versions in plain words, step by step in the order of the plan. */
export function changes(before: Sequence, after: Sequence, names: { before: Names; after: Names }): Change[] {
  const found = new Map<string | null, Change>();
  for (const c of difference(before, after)) {
    const step = stepOf(c, before, after);
    const there = step === null ? undefined : (findStep(after, step) ?? findStep(before, step))?.step;
    const title = there ? stepWords(there, step && findStep(after, step) ? names.after : names.before) : 'The sequence';
    const kind =
      c.type === 'step.insert'
        ? 'added'
        : c.type === 'step.remove'
          ? 'removed'
          : c.type === 'step.move'
            ? 'moved'
            : 'changed';
    const known = found.get(step) ?? { step, kind, title, words: [] };
    // A step that was moved and changed is spoken of as changed; its words say the rest.
    if (known.kind === 'moved' && kind === 'changed') known.kind = 'changed';
    const words = wordsOf(c, before, after, names.after);
    if (words && !known.words.includes(words)) known.words.push(words);
    if (words !== null || kind !== 'changed') found.set(step, known);
  }
  const order = [...walk(after), ...walk(before)].map((v) => v.step.id);
  return [...found.values()].sort((a, b) => order.indexOf(a.step ?? '') - order.indexOf(b.step ?? ''));
}
