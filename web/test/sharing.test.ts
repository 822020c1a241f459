import { describe, expect, test } from 'vitest';
import { applyCommands, blankEmail, blankSequence, findStep, type Block, type EmailStep } from '@ascenso/core';
import { asShared, cameFrom, takeApart } from '../src/composer/sharing.ts';

const teacher = { chain: 'if' as const, condition: { kind: 'tag' as const, tag: 'teacher', has: true } };
const divider = (id: string): Block => ({ kind: 'divider', id });
const shared = (more: object = {}): Extract<Block, { kind: 'shared' }> => ({
  kind: 'shared',
  id: 's',
  shared: 'banner',
  ...more,
});
const banner = { name: 'Banner', blocks: [divider('inside'), divider('too')] };

/** An email of these blocks, and what it is after some commands. */
function email(blocks: Block[]): {
  step: EmailStep;
  after: (commands: Parameters<typeof applyCommands>[1]) => EmailStep;
} {
  const step = { ...blankEmail(() => 'mail', 'Mail') };
  step.email = { ...step.email, blocks };
  const doc = { ...blankSequence('Welcome', 'letters'), steps: [step] };
  return { step, after: (commands) => findStep(applyCommands(doc, commands).doc, 'mail')?.step as EmailStep };
}

describe('a shared block taken apart and given back', () => {
  test.each([
    ['for some people', { when: teacher }],
    ['on a phone only', { only: 'phone' }],
    ['switched off', { off: true }],
    ['for everyone', {}],
  ])('stays %s, in its place, at both turns', (_what, more) => {
    const { step, after } = email([divider('a'), shared(more), divider('z')]);
    const apart = after(takeApart(step, shared(more), banner, true));
    const section = apart.email.blocks[1] as Block;
    expect(section).toMatchObject({ kind: 'section', ...more });
    expect(cameFrom(section)).toBe('Banner');
    // Its blocks are copies: the library's own cannot be changed by accident.
    expect(JSON.stringify(section)).not.toContain('"inside"');
    // Unlinked, it is the email's own, and nothing leads back.
    const [, own] = after(takeApart(step, shared(more), banner, false)).email.blocks;
    expect([own?.name, cameFrom(own as Block)]).toEqual(['Banner', undefined]);
    const back = asShared(apart, [section], 'banner', section);
    const again = email(apart.email.blocks).after(back?.commands ?? []);
    expect(again.email.blocks).toEqual([divider('a'), { ...shared(more), id: back?.block }, divider('z')]);
  });

  test('blocks out of a section stand behind it, not at the top: no section holds a shared block', () => {
    const section = { id: 'sec', kind: 'section', picture: '', blocks: [divider('one'), divider('two')] } as Block;
    const { step, after } = email([divider('a'), section, divider('z')]);
    const made = asShared(step, [divider('two')], 'banner', null);
    const kinds = after(made?.commands ?? []).email.blocks.map((b) => b.kind);
    expect(kinds).toEqual(['divider', 'section', 'shared', 'divider']);
  });

  test('what is gone meanwhile is not shared', () => {
    expect(asShared(email([divider('a')]).step, [divider('gone')], 'banner', null)).toBeNull();
  });
});
