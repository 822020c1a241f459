import { z } from 'zod';
import { atomKinds, atomSchema, type Atom } from './atoms/index.ts';

export type Condition =
  Atom | { kind: 'all'; of: Condition[] } | { kind: 'any'; of: Condition[] } | { kind: 'not'; of: Condition };

/** Conditions nest at most this deep. */
const MAX_DEPTH = 6;

function tree(depth: number): z.ZodType<Condition> {
  if (depth === 0) return atomSchema;
  const inner = tree(depth - 1);
  const whole = z.union([
    atomSchema,
    z.object({ kind: z.literal('all'), of: z.array(inner).max(20) }),
    z.object({ kind: z.literal('any'), of: z.array(inner).max(20) }),
    z.object({ kind: z.literal('not'), of: inner }),
  ]);
  const description = `A condition within others, which may nest ${depth} deep.`;
  return depth === MAX_DEPTH ? whole : whole.meta({ id: `Condition${depth}`, description });
}

/** Whether it is one question, rather than several that are joined. */
export const isAtom = (condition: Condition): condition is Atom => Object.hasOwn(atomKinds, condition.kind);

/** All atoms of a condition, in reading order. */
export function atomsOf(condition: Condition): Atom[] {
  if (isAtom(condition)) return [condition];
  return condition.kind === 'not' ? atomsOf(condition.of) : condition.of.flatMap(atomsOf);
}

/** Questions in one condition, at most: more of them nobody reads, and a database would be kept busy with them. */
export const MAX_ATOMS = 100;
export const conditionSchema: z.ZodType<Condition> = tree(MAX_DEPTH)
  .refine((c) => atomsOf(c).length <= MAX_ATOMS, {
    error: `A condition asks ${MAX_ATOMS} things at most: make segments of parts of it.`,
  })
  .meta({
    id: 'Condition',
    description: 'Whom something is for: questions about a person, joined by all, any and not.',
  });
