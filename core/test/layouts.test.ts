import { describe, expect, test } from 'vitest';
import { layouts, plainStyle, compileEmail, walkBlocks, type Email } from '../src/email/index.ts';
import { runChecks } from '../src/checks/index.ts';
import { context, good } from './check-case.ts';
import { id, sequence } from './support.ts';

const emailOf = ({ build, mode }: (typeof layouts)[number]): Email => ({
  ...good().email,
  blocks: build(id),
  ...(mode ? { mode } : {}),
});

test('eight layouts at least, each with a name of its own', () => {
  expect(layouts.length).toBeGreaterThanOrEqual(8);
  expect(new Set(layouts.map((l) => l.name)).size).toBe(layouts.length);
});

describe.each(layouts.map((l) => [l.name, l] as const))('%s', (_name, layout) => {
  test('compiles, has a footer, and each of its blocks has an id of its own', async () => {
    const email = emailOf(layout);
    const { html } = await compileEmail(email, plainStyle, { shared: {}, service: false });
    expect(JSON.stringify(html)).toContain('[Your ');
    const blocks = walkBlocks(email.blocks).map((p) => p.block);
    expect(new Set(blocks.map((b) => b.id)).size).toBe(blocks.length);
    expect(blocks.at(-1)?.kind).toBe('footer');
  });

  test('cannot go out while its words are to be filled in, and has nothing else against it but what is to be filled', () => {
    const found = runChecks(sequence([{ ...good(), email: emailOf(layout) }]), context());
    expect(found.map((f) => f.check)).toContain('fill-in-words');
    // Addresses, pictures, the offer and the sender's photo are one's own to choose.
    const expected = new Set(['fill-in-words', 'dead-link', 'no-picture', 'without-offer', 'sender-without']);
    expect(found.map((f) => f.check).filter((c) => !expected.has(c))).toEqual([]);
  });
});
