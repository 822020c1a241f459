import fc from 'fast-check';
import { expect, test } from 'vitest';
import { compileEmail, plainStyle, valuesFor, type Values } from '@ascenso/core';
import { dictionaryOf, packValues, unpackValues } from '../src/db/packed.ts';
import { emailStep } from './support/world.ts';

const item = fc.record({ fields: fc.array(fc.string({ unit: 'grapheme' })), targets: fc.array(fc.webUrl()) });
const anyValues: fc.Arbitrary<Values> = fc
  .tuple(
    item,
    fc.record(
      {
        picks: fc.array(fc.integer({ min: -1, max: 9 })),
        items: fc.array(fc.array(item)),
        timers: fc.array(fc.record({ at: fc.option(fc.nat()), language: fc.constantFrom('', 'pt', 'zh') })),
      },
      { requiredKeys: [] },
    ),
  )
  .map(([own, more]) => ({ ...own, ...more }));

test('what an email was filled with comes back as it was, with any dictionary and with none', () => {
  fc.assert(
    fc.property(anyValues, fc.option(fc.uint8Array({ minLength: 1, maxLength: 6_000 })), (values, bytes) => {
      const dictionary = bytes && Buffer.from(bytes);
      expect(unpackValues(packValues(values, dictionary), dictionary)).toEqual(values);
    }),
  );
});

test('what stood there before there was packing is read', () => {
  const values: Values = { fields: ['Aino', 'Ève 🪡'], targets: [], picks: [-1, 0] };
  expect(unpackValues(Buffer.concat([Buffer.of(0), Buffer.from(JSON.stringify(values))]), null)).toEqual(values);
});

test('of an email only what is somebody’s own is kept: a third of its JSON at most, and nothing of anybody in the dictionary', async () => {
  const program = await compileEmail(
    emailStep('Guide', { subject: 'Your guide, {{ subscriber.first_name | default: "reader" }}' }).email,
    plainStyle,
  );
  const about = (first_name: string) => valuesFor(program, { subscriber: { first_name }, event: {}, sender: {} });
  const dictionary = dictionaryOf(program, {});
  const json = JSON.stringify(about('Henrik'));
  expect(packValues(about('Henrik'), dictionary).length).toBeLessThan(json.length / 3);
  expect(dictionary.toString()).not.toContain('Henrik');
});
