import { describe, expect, test } from 'vitest';
import { contentSign, runChecks, type CheckContext } from '../src/checks/index.ts';
import { blockKinds, paragraphs, type Block, type Email } from '../src/email/index.ts';
import type { EmailStep } from '../src/sequence/index.ts';
import { context } from './check-case.ts';
import { emailStep, id, sequence } from './support.ts';

const words = (source: string): Block => ({ kind: 'heading', id: 'inner', text: source, level: 2 });
const field = (path: string): Block => ({
  kind: 'text',
  id: 'inner',
  doc: paragraphs([{ path, fallback: '', filters: [] }]),
});
const placed = (more: Partial<Block> = {}): Block =>
  ({ ...blockKinds.shared.blank(id), id: 'here', shared: 'mast', ...more }) as Block;
const footer = (): Block => ({ kind: 'footer', id: id(), reason: '' });
const letter = (blocks: Block[], change: Partial<Email> = {}): EmailStep => {
  const step = emailStep('Letter');
  return { ...step, email: { ...step.email, subject: 'Your guide', blocks, ...change } };
};
const found = (blocks: Block[], inside: Block[], more: Partial<CheckContext> = {}) =>
  runChecks(sequence([letter(blocks)]), context({ shared: { mast: inside }, ...more }));

describe('what a shared block holds is checked where it stands', () => {
  test('a field that this sequence does not provide, in a shared block that is right elsewhere', () => {
    const inside = [field('event.total')];
    const told = found([placed(), footer()], inside).filter((f) => f.check === 'unknown-field');
    expect(told).toMatchObject([{ level: 'error', place: { block: 'here', part: 'shared block' } }]);
    expect(told[0]?.fix).toMatch(/^It stands in a shared block: change it in the library/);
    // What stands in the library is not changed by a command of this draft.
    expect(told[0]).not.toHaveProperty('repair');
    const known = { fields: { ...context().fields, event: ['total'] }, always: ['total'] };
    expect(found([placed(), footer()], inside, known).filter((f) => f.check === 'unknown-field')).toEqual([]);
    // Switched off it is not sent, and in a section it is.
    expect(found([placed({ off: true }), footer()], inside).filter((f) => f.check === 'unknown-field')).toEqual([]);
    const section = { ...blockKinds.section.blank(id), blocks: [placed()] } as Block;
    expect(found([section, footer()], inside).map((f) => f.check)).toContain('unknown-field');
  });

  test('its code needs an offer, and its half of a chain stays one', () => {
    const code = blockKinds.code.blank(id);
    expect(found([placed(), footer()], [code])).toContainEqual(
      expect.objectContaining({
        check: 'without-offer',
        level: 'error',
        place: expect.objectContaining({ block: 'here' }),
      }),
    );
    const teacher = { kind: 'tag', tag: 'teacher', has: true } as const;
    const chain = [
      placed({ when: { chain: 'if', condition: teacher } }),
      { ...words('For the others'), when: { chain: 'else' as const } },
      footer(),
    ];
    expect(found(chain, [words('For teachers')]).map((f) => f.check)).not.toContain('broken-chain');
  });

  test('a change of it asks for another test of every email that it stands in', () => {
    const { email } = letter([placed(), footer()]);
    const sign = contentSign(email, { mast: [words('Hello')] });
    expect(contentSign(email, { mast: [words('Hello')], other: [words('Bye')] })).toBe(sign);
    expect(contentSign(email, { mast: [words('Hello!')] })).not.toBe(sign);
  });
});
