import { expect, test } from 'vitest';
import type { SenderRow } from '@ascenso/contracts';
import { senderOfCopy } from '../src/senders/of-copy.ts';

const sender = (id: string, user: string | null, isDefault = false): SenderRow => ({
  id,
  name: id,
  email: `${id}@foldwell.example`,
  isDefault,
  untouched: false,
  fields: {},
  user: user === null ? null : { id: user, name: user },
});
const all = [sender('ines', 'Inês', true), sender('tomasz', 'Tomasz'), sender('shop', null)];

test.each([
  ['a colleague’s own becomes one’s own', 'ines', 'Tomasz', all, 'tomasz'],
  ['the default is a colleague’s own too, where it is one', '', 'Tomasz', all, 'tomasz'],
  ['one’s own that is the default stays the default', 'tomasz', 'Inês', all, ''],
  ['one’s own stays', 'tomasz', 'Tomasz', all, 'tomasz'],
  ['what is nobody’s own stays', 'shop', 'Tomasz', all, 'shop'],
  ['who has none of their own takes it as it is', 'ines', 'Adaeze', all, 'ines'],
  ['a default that is nobody’s own stays', '', 'Tomasz', [sender('shop', null, true), sender('tomasz', 'Tomasz')], ''],
  ['a sender that is gone is as the default', 'gone', 'Tomasz', all, 'tomasz'],
] as const)('%s', (_rule, from, user, senders, expected) => {
  expect(senderOfCopy(from, senders, user)).toBe(expected);
});
