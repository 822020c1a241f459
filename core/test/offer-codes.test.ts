import { mod11_10, mod27_26, mod37_36 } from 'cdigit';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import {
  alphabets,
  CheckCharacter,
  codeAt,
  fitsPattern,
  oddsOf,
  offerSchema,
  permute,
  sampleOf,
  spaceOf,
  type CodePattern,
  type Scramble,
} from '../src/offer/index.ts';

// A keyed function good enough to try a permutation with; the server's is an HMAC.
const scramble: Scramble = (round, value) => {
  let h = 0x811c9dc5 ^ round;
  for (const c of value.toString()) h = Math.imul(h ^ c.charCodeAt(0), 0x01000193) >>> 0;
  return BigInt(h) * 2654435761n;
};
const pattern: CodePattern = { prefix: 'KIT-', alphabet: 'letters and figures', length: 7, group: 4, check: true };
const FIGURES = '0123456789';
const LETTERS = 'ABCDEFGHIJKLMNOPQRSTUVWXYZ';

describe('check character (ISO 7064, hybrid systems)', () => {
  test('published examples', () => {
    // GRid Handbook (IFPI): A1-2425G-ABC1234002-M, MOD 37,36.
    expect(new CheckCharacter(FIGURES + LETTERS).of('A12425GABC1234002')).toBe('M');
    // The number in the standard's own text on MOD 11,10 is 0794, check digit 5 (from memory of its clause on it).
    expect(new CheckCharacter(FIGURES).of('0794')).toBe('5');
    // Test numbers that the German tax office publishes for its identification number, MOD 11,10 (from memory).
    for (const id of ['86095742719', '47036892816', '65929970489'])
      expect(new CheckCharacter(FIGURES).fits(id)).toBe(true);
  });

  test.each([
    ['MOD 11,10', FIGURES, mod11_10],
    ['MOD 27,26', LETTERS, mod27_26],
    ['MOD 37,36', FIGURES + LETTERS, mod37_36],
  ])('%s is what a library of check digits reckons', (_name, alphabet, library) => {
    const ours = new CheckCharacter(alphabet);
    fc.assert(
      fc.property(fc.array(fc.constantFrom(...alphabet), { minLength: 1, maxLength: 20 }), (chars) => {
        expect(ours.of(chars.join(''))).toBe(library.compute(chars.join('')));
      }),
    );
  });

  test.each(Object.values(alphabets))('finds every single wrong character of a code in %s', (alphabet) => {
    const system = new CheckCharacter(alphabet);
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom(...alphabet), { minLength: 7, maxLength: 7 }),
        fc.nat(7),
        fc.constantFrom(...alphabet),
        (chars, at, wrong) => {
          const code = chars.join('') + system.of(chars.join(''));
          expect(system.fits(code)).toBe(true);
          const typed = code.slice(0, at) + wrong + code.slice(at + 1);
          expect(system.fits(typed)).toBe(wrong === code[at]);
        },
      ),
    );
  });

  test('an alphabet that it cannot work with is refused', () => {
    expect(() => new CheckCharacter('ABC')).toThrow('even number');
    expect(() => new CheckCharacter('ABCA')).toThrow('even number');
  });
});

describe('codes to a pattern', () => {
  test('no two numbers make one code: over a whole small space', () => {
    const size = 10_007n;
    const seen = new Set(Array.from({ length: Number(size) }, (_, n) => permute(BigInt(n), size, scramble)));
    expect(seen.size).toBe(Number(size));
    expect([...seen].every((n) => n >= 0n && n < size)).toBe(true);
  });

  test('neighbours look nothing like each other, fit the pattern, and hold no look-alike', () => {
    const codes = Array.from({ length: 2000 }, (_, n) => codeAt(pattern, BigInt(n), scramble));
    expect(new Set(codes).size).toBe(2000);
    for (const code of codes) {
      expect(code).toMatch(/^KIT-[ACDEFGHJKMNPQRTVWXY34679]{4}-[ACDEFGHJKMNPQRTVWXY34679]{4}$/);
      expect(fitsPattern(pattern, ` ${code.toLowerCase().replaceAll('-', ' ')}`)).toBe(true);
    }
    // Of seven places by chance one in 24 is the same: far under half.
    const same = codes.slice(1).map((c, i) => [...c].slice(4, 8).filter((x, k) => x === codes[i]?.[k + 4]).length);
    expect(same.filter((n) => n >= 3).length).toBeLessThan(20);
  });

  test('a mistyped code is known at once, and a sample is no code', () => {
    const code = codeAt(pattern, 7n, scramble);
    const last = code.at(-1) === 'A' ? 'C' : 'A';
    expect(fitsPattern(pattern, code.slice(0, -1) + last)).toBe(false);
    expect(fitsPattern(pattern, sampleOf(pattern))).toBe(false);
    expect(fitsPattern(pattern, 'KIT-')).toBe(false);
  });

  test('the odds of a guess: the space over what has been given out', () => {
    expect(spaceOf(pattern)).toBe(24n ** 7n);
    // 24^7 = 4,586,471,424; a thousand of them given out.
    expect(oddsOf(pattern, 1000)).toBeCloseTo(4_586_471.424, 3);
  });

  test('bad patterns and codes are refused in words', () => {
    const told = (value: object) =>
      offerSchema
        .safeParse({
          name: 'Kit',
          discount: { kind: 'delivery' },
          codes: { kind: 'none' },
          empty: { kind: 'hold' },
          deadline: { kind: 'never' },
          after: { kind: 'gone' },
          ...value,
        })
        .error?.issues.map((i) => i.message);
    expect(told({})).toBeUndefined();
    expect(told({ codes: { kind: 'made', pattern: { ...pattern, length: 4 } } })).toEqual([
      '6 characters at least: shorter codes can be guessed.',
    ]);
    expect(told({ codes: { kind: 'shared', code: 'two words' } })?.[0]).toContain('no spaces');
    expect(told({ deadline: { kind: 'fixed', wall: '2026-03-31T18:00', zone: 'Lisbon' } })?.[0]).toContain('IANA');
  });
});
