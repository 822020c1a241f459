import { z } from 'zod';
import { CheckCharacter } from './check-character.ts';

/**
 * Alphabets without look-alikes: 0 and O, 1, I and L, 2 and Z, 5 and S, 8 and B stand for each other in a hurry, so of each
 * pair one is left at most. Each is even in number, as the check character wants it.
 */
export const alphabets = {
  'letters and figures': 'ACDEFGHJKMNPQRTVWXY34679',
  letters: 'ACDEFGHJKMNPRTVWXY',
  figures: '0123456789',
} as const;
export type AlphabetName = keyof typeof alphabets;

/** How codes are made: `KIT-` and eight characters in groups of four, the last of them a check character. */
export const patternSchema = z.object({
  prefix: z.string().regex(/^[A-Z0-9-]{0,12}$/, 'A prefix has capital letters, figures and hyphens, 12 at most.'),
  alphabet: z.enum(['letters and figures', 'letters', 'figures']),
  /** Characters that differ from code to code, without the check character. */
  length: z.int().min(6, '6 characters at least: shorter codes can be guessed.').max(16, '16 characters at most.'),
  /** Characters between hyphens; 0 for none. */
  group: z.int().min(0).max(8),
  check: z.boolean(),
});
export type CodePattern = z.infer<typeof patternSchema>;

const lettersOf = ({ alphabet }: CodePattern): string => alphabets[alphabet];

/** How many codes a pattern has: M to the power of its length. */
export const spaceOf = (pattern: CodePattern): bigint => BigInt(lettersOf(pattern).length) ** BigInt(pattern.length);

/** A keyed function from a round and a number to a number below 2^64: what makes codes impossible to foresee. */
export type Scramble = (round: number, value: bigint) => bigint;

const ROUNDS = 6;

/**
 * A permutation of the numbers below `size`: a Feistel network over the next square number, walked on until it lands
 * inside (cycle walking: Black and Rogaway, "Ciphers with arbitrary finite domains", 2002). Different numbers stay different,
 * so codes made from a counter cannot meet.
 */
export function permute(value: bigint, size: bigint, scramble: Scramble): bigint {
  let side = BigInt(Math.floor(Math.sqrt(Number(size))));
  while (side * side < size) side++;
  let at = value;
  do {
    let left = at / side;
    let right = at % side;
    for (let round = 0; round < ROUNDS; round++) [left, right] = [right, (left + scramble(round, right)) % side];
    at = left * side + right;
  } while (at >= size);
  return at;
}

const grouped = (text: string, group: number) =>
  group === 0 ? text : (text.match(new RegExp(`.{1,${group}}`, 'g'))?.join('-') ?? '');

/** The n-th code of a pattern. Two different numbers below `spaceOf` never make the same code. */
export function codeAt(pattern: CodePattern, n: bigint, scramble: Scramble): string {
  const letters = lettersOf(pattern);
  const base = BigInt(letters.length);
  let rest = permute(n, spaceOf(pattern), scramble);
  let body = '';
  for (let i = 0; i < pattern.length; i++) {
    body = letters.charAt(Number(rest % base)) + body;
    rest /= base;
  }
  const whole = pattern.check ? body + new CheckCharacter(letters).of(body) : body;
  return pattern.prefix + grouped(whole, pattern.group);
}

/** A code as it is compared: capitals, without what people put in between or leave out. */
export const plainCode = (code: string): string => code.toUpperCase().replace(/[\s-]+/g, '');

/** Whether a typed code can be one of a pattern at all: its prefix, its characters, its check character. */
export function fitsPattern(pattern: CodePattern, typed: string): boolean {
  const prefix = plainCode(pattern.prefix);
  const code = plainCode(typed);
  const body = code.slice(prefix.length);
  const letters = lettersOf(pattern);
  if (!code.startsWith(prefix) || body.length !== pattern.length + (pattern.check ? 1 : 0)) return false;
  return [...body].every((c) => letters.includes(c)) && (!pattern.check || new CheckCharacter(letters).fits(body));
}

/** A code that shows what codes look like and is none. */
export const sampleOf = (pattern: CodePattern): string =>
  pattern.prefix + grouped('SAMPLE'.repeat(3).slice(0, pattern.length + (pattern.check ? 1 : 0)), pattern.group);

/** One guess in so many hits a code, when so many have been given out. */
export const oddsOf = (pattern: CodePattern, issued: number): number => Number(spaceOf(pattern)) / Math.max(1, issued);
