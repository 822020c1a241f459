import { expect } from 'vitest';
import { runChecks, type CheckContext, type Finding } from '../src/checks/index.ts';
import { paragraphs, plainStyle, type Block } from '../src/email/index.ts';
import { applyCommands, type EmailStep, type Sequence } from '../src/sequence/index.ts';
import { emailStep, id } from './support.ts';

/** Surroundings in which nothing is wrong. */
export const context = (more: Partial<CheckContext> = {}): CheckContext => ({
  style: { ...plainStyle, postalAddress: 'Rua das Gáveas 12, Lisboa' },
  fields: { subscriber: ['email', 'first_name', 'skill'], event: [], sender: ['name', 'phone'] },
  always: [],
  items: {},
  senders: [{ id: 'ines', isDefault: true, untouched: false, fields: {} }],
  files: [{ id: 'guide', mime: 'application/pdf', size: 90_000, width: null, height: null }],
  shared: {},
  offers: [],
  lists: ['letters'],
  segments: ['quiet'],
  self: 'here',
  sequences: [
    { id: 'here', name: 'Welcome', starts: [], status: 'live' },
    { id: 'back', name: 'Course', starts: ['here'], status: 'live' },
    { id: 'on', name: 'Paper club', starts: [], status: 'live' },
    { id: 'draft', name: 'Next course', starts: [], status: 'draft' },
    { id: 'cart', name: 'Left at checkout', starts: [], status: 'live', ofEvent: ['Your cart'] },
  ],
  bytes: {},
  ...more,
});

/** An email with nothing to be said against it. */
export function good(change: Partial<EmailStep['email']> = {}, more: Block[] = []): EmailStep {
  const step = emailStep('Letter');
  const link = { type: 'link' as const, attrs: { href: 'https://foldwell.example/guide' } };
  const linked = { type: 'text' as const, text: 'The whole guide', marks: [link] };
  const doc = paragraphs('Fold along the grain.', '');
  doc.content[1] = { type: 'paragraph', content: [linked] };
  return {
    ...step,
    email: {
      ...step.email,
      subject: 'Your guide',
      blocks: [{ kind: 'text', id: id(), doc }, ...more, { kind: 'footer', id: id(), reason: '' }],
      ...change,
    },
  };
}

export interface Case {
  check: string;
  what: string;
  bad: Sequence;
  /** Looks much the same and is right. */
  near: Sequence;
  place: Partial<Finding['place']>;
  level: Finding['level'];
  context?: Partial<CheckContext>;
  /** The finding offers a repair, which has to make it go away, and to be taken back without a trace. */
  repairs?: true;
}

/** Holds a check to its case: it finds the sample at its place, lets the near miss pass, and its repair mends. */
export function checkCase({ check, bad, near, place, level, context: around, repairs }: Case): void {
  const found = runChecks(bad, context(around)).filter((f) => f.check === check);
  expect(found.length).toBeGreaterThan(0);
  expect(found[0]).toMatchObject({ level, place });
  expect(found[0]?.message).toMatch(/^\S.*[.!]$/);
  expect(found[0]?.fix).toMatch(/^\S.*[.?]$/);
  // Where both are the same, the surroundings are at fault.
  const clean = runChecks(near, context(near === bad ? {} : around));
  expect(clean.filter((f) => f.check === check)).toEqual([]);
  expect(found[0]?.repair !== undefined).toBe(repairs === true);
  if (!found[0]?.repair) return;
  const { doc, inverses } = applyCommands(bad, found[0].repair.commands);
  const left = runChecks(doc, context(around)).filter((f) => f.check === check);
  expect(left.length).toBe(found.length - 1);
  expect(applyCommands(doc, inverses).doc).toEqual(bad);
}
