import { describe, expect, test } from 'vitest';
import { paragraphs } from '../src/email/index.ts';
import { both, editWords, opposed, type Command, type Saved } from '../src/sequence/index.ts';
import { branchStep, emailStep, sequence, waitStep } from './support.ts';

const email = emailStep('Guide');
const fork = branchStep({ kind: 'tag', tag: 'x', has: true }, [emailStep('Inside'), waitStep(1)], []);
const doc = sequence([email, fork]);
const saved = (commands: Command[], inverses: Command[] = []): Saved => ({
  id: null,
  revision: 1,
  role: 'edit',
  commands,
  inverses,
  by: 'Ana',
  mine: false,
});
const subject = (value: string): Command => ({ type: 'email.set', step: email.id, field: 'subject', value });
const sender = (value: string): Command => ({ type: 'email.set', step: email.id, field: 'sender', value });
const words = (value: string): Command => ({
  type: 'block.set',
  step: email.id,
  block: 'b',
  field: 'doc',
  value: paragraphs(value),
});

describe('yours and theirs', () => {
  test('each edit is set beside the one that sets the same, and beside nothing where its place is gone', () => {
    const theirs = saved([subject('Theirs'), sender('ana')]);
    const edit = {
      id: 'e',
      role: 'edit' as const,
      commands: [subject('Mine'), { type: 'set' as const, field: 'name' as const, value: 'X' }],
    };
    expect(opposed(edit, theirs).map((p) => p.theirs)).toEqual([subject('Theirs'), null]);
    expect(opposed(edit, null).map((p) => p.theirs)).toEqual([null, null]);
  });

  test('both are there for words alone: two senders, addresses or files are none', () => {
    expect(both(subject('mine'), subject('theirs'))).toEqual(subject('theirs mine'));
    expect(both(words('mine'), words('theirs'))).toMatchObject({ value: paragraphs('theirs', 'mine') });
    expect(both(sender('ines'), sender('ana'))).toBeNull();
    const file = (value: string): Command => ({ type: 'block.set', step: email.id, block: 'b', field: 'file', value });
    expect(both(file('one'), file('two'))).toBeNull();
  });

  test('where and what is said in the words of the screens, also of what is gone by now', () => {
    const said = (c: Command, over: Saved | null = null) => {
      const { where, what, words: w } = editWords(c, doc, over);
      return [where, what, w];
    };
    expect(said(subject('Mine'))).toEqual(['“Guide”', 'subject', 'Mine']);
    expect(said({ type: 'step.set', step: email.id, field: 'forWhom', value: null })).toEqual([
      '“Guide”',
      'who gets it',
      '',
    ]);
    expect(said({ type: 'set', field: 'cap', value: {} })).toEqual([
      'The sequence',
      'how it stands beside other sequences',
      '',
    ]);
    expect(said({ type: 'step.remove', step: fork.id })).toEqual(['The plan', 'deleting a branch with 2 steps', '']);
    const gone = { ...emailStep('Taken'), id: 'gone' };
    const taken = saved(
      [{ type: 'step.remove', step: 'gone' }],
      [{ type: 'step.insert', place: { arm: null, index: 0 }, step: gone }],
    );
    expect(said({ type: 'email.set', step: 'gone', field: 'subject', value: 'Mine' }, taken)).toEqual([
      '“Taken”',
      'subject',
      'Mine',
    ]);
  });
});
