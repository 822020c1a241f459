/** Lists and objects within each other, at most. */
const DEEPEST = 32;
const HALF_A_CHARACTER = /\p{Surrogate}/u;

const textFault = (text: string): string | null =>
  text.includes('\0')
    ? 'a text holds a NUL character. Take it out.'
    : HALF_A_CHARACTER.test(text)
      ? 'a text holds half of a character (a lone surrogate). Send whole UTF-8.'
      : null;

/** The first place of a payload that cannot be kept, and why; null where all of it can. */
export function unkeepable(value: unknown, field: string, depth = 0): { field: string; why: string } | null {
  if (depth > DEEPEST) return { field, why: `it is nested more than ${DEEPEST} deep.` };
  if (typeof value === 'number' && !Number.isFinite(value))
    return { field, why: 'that is larger than a number can be.' };
  const why = typeof value === 'string' ? textFault(value) : null;
  if (why) return { field, why };
  if (typeof value !== 'object' || value === null) return null;
  for (const [key, inner] of Object.entries(value)) {
    const odd = textFault(key);
    if (odd) return { field, why: odd };
    const found = unkeepable(inner, `${field}.${key}`, depth + 1);
    if (found) return found;
  }
  return null;
}
