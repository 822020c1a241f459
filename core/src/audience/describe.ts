import { kindOfAtom } from './atoms/index.ts';
import { isAtom, type Condition } from './condition-schema.ts';
import { plainNames, type Names } from './names.ts';

/** The condition as a sentence: "did “Guide downloaded” any time since “Guide delivery”". */
export function describe(condition: Condition, names: Names = plainNames): string {
  if (isAtom(condition)) return kindOfAtom(condition).words(condition, names);
  switch (condition.kind) {
    case 'all':
    case 'any': {
      if (condition.of.length === 0) return condition.kind === 'all' ? 'everyone' : 'nobody';
      const word = condition.kind === 'all' ? ' and ' : ' or ';
      return condition.of
        .map((c) => (c.kind === 'all' || c.kind === 'any' ? `(${describe(c, names)})` : describe(c, names)))
        .join(word);
    }
    case 'not':
      return `not (${describe(condition.of, names)})`;
  }
}
