import { domainToASCII } from 'node:url';
import { expect, test } from 'vitest';
import { needsUtf8, readAddress } from '@ascenso/core';

const long = (n: number) => 'a'.repeat(n);

test.each([
  ['Ana@Foldwell.Example', 'ana@foldwell.example'],
  [' ana@foldwell.example ', 'ana@foldwell.example'],
  // atext of RFC 5322, 3.2.3, each sign of it.
  ['x/y+z@foldwell.example', 'x/y+z@foldwell.example'],
  ["!#$%&'*+-/=?^_`{|}~@foldwell.example", "!#$%&'*+-/=?^_`{|}~@foldwell.example"],
  ['a.b.c@foldwell.example', 'a.b.c@foldwell.example'],
  // Names of the root zone's own trial of domains beyond ASCII (IANA, 2007; from memory).
  ['info@例え.テスト', 'info@xn--r8jz45g.xn--zckzah'],
  ['info@παράδειγμα.δοκιμή', 'info@xn--hxajbheg2az3al.xn--jxalpdlp'],
  ['info@Bücher.example', 'info@xn--bcher-kva.example'],
  // RFC 6531, 3.3: letters of any script before the @; one form of Unicode for what looks the same.
  ['квіточка@foldwell.example', 'квіточка@foldwell.example'],
  ['rene\u0301@foldwell.example', 'ren\u00e9@foldwell.example'],
  // The limits of RFC 5321, 4.5.3.1 and RFC 1035, 2.3.4, and nothing beyond them.
  [`${long(64)}@foldwell.example`, `${long(64)}@foldwell.example`],
  [`a@${long(63)}.example`, `a@${long(63)}.example`],
] as const)('%s is an address', (written, wanted) => {
  expect(readAddress(written)).toEqual({ email: wanted });
  // Read again, it is the same.
  expect(readAddress(wanted)).toEqual({ email: wanted });
});

test.each([
  ['ana', 'has no @'],
  ['', 'has no @'],
  ['ana@', 'has no domain behind the @, such as foldwell.example'],
  ['ana@foldwell', 'has no domain behind the @, such as foldwell.example'],
  ['ana@-foldwell.example', 'has no domain behind the @, such as foldwell.example'],
  ['ana@fold_well.example', 'has no domain behind the @, such as foldwell.example'],
  ['ana@foldwell..example', 'has no domain behind the @, such as foldwell.example'],
  ['ana@127.0.0.1', 'has no domain behind the @, such as foldwell.example'],
  ['ana@müll/er.example', 'has no domain behind the @, such as foldwell.example'],
  ['@foldwell.example', 'has something before the @ that no address has'],
  ['.ana@foldwell.example', 'has something before the @ that no address has'],
  ['ana.@foldwell.example', 'has something before the @ that no address has'],
  ['an..a@foldwell.example', 'has something before the @ that no address has'],
  ['an a@foldwell.example', 'has something before the @ that no address has'],
  ['"ana"@foldwell.example', 'has something before the @ that no address has'],
  ['ana<b@foldwell.example', 'has something before the @ that no address has'],
  ['ana\r\nBcc: bo@foldwell.example', 'has something before the @ that no address has'],
  ['a\u0000na@foldwell.example', 'has something before the @ that no address has'],
  ['an\u202ea@foldwell.example', 'has something before the @ that no address has'],
  [`${long(65)}@foldwell.example`, 'has over 64 characters before the @'],
  [`${'й'.repeat(33)}@foldwell.example`, 'has over 64 characters before the @'],
  [`a@${long(64)}.example`, 'has a part of over 63 characters behind the @'],
  [`${long(64)}@${`${long(60)}.`.repeat(3)}exampleee`, 'is over 254 characters long'],
  [`a@${long(100_000)}`, 'is over 254 characters long'],
] as const)('%s is none: it %s', (written, why) => expect(readAddress(written)).toEqual({ why }));

test('a domain is read as every program reads it (UTS #46, node:url)', () => {
  for (const domain of [
    'straße.example',
    'ÖBB.example',
    'faß.example',
    'ñandú.example',
    '日本。jp',
    'xn--bcher-kva.example',
  ])
    expect(readAddress(`a@${domain}`)).toEqual({ email: `a@${domainToASCII(domain)}` });
});

test('only what stands before the @ asks a mail server for RFC 6531', () => {
  const read = (text: string) => readAddress(text) as { email: string };
  expect(needsUtf8(read('info@bücher.example').email)).toBe(false);
  expect(needsUtf8(read('bücher@foldwell.example').email)).toBe(true);
});
