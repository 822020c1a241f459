import { z } from 'zod';

export const operators = [
  'is',
  'is not',
  'contains',
  'over',
  'under',
  'before',
  'after',
  'is set',
  'is not set',
] as const;
export type Operator = (typeof operators)[number];

/** A test of one named value: an attribute of the person or a field of an event's payload. */
export const fieldTestSchema = z.object({
  field: z.string().min(1, 'Choose a field.').max(120),
  op: z.enum(operators),
  value: z.union([z.string(), z.number(), z.boolean()]).optional(),
});
export type FieldTest = z.infer<typeof fieldTestSchema>;

/** From when an event counts: the entry, the decided moment of a step, a period back from now, or ever. */
export const sinceSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('entry') }),
  z.object({ kind: z.literal('step'), step: z.string() }),
  z.object({ kind: z.literal('period'), amount: z.int().min(1).max(999), unit: z.enum(['hours', 'days', 'weeks']) }),
  z.object({ kind: z.literal('ever') }),
]);
export type Since = z.infer<typeof sinceSchema>;

// A draft may be unfinished: an empty choice is told by the checks and refuses publishing, not saving.
export const atomSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('attribute'), test: fieldTestSchema }),
  z.object({ kind: z.literal('tag'), tag: z.string(), has: z.boolean() }),
  z.object({ kind: z.literal('list'), list: z.string(), on: z.boolean() }),
  z.object({
    kind: z.literal('event'),
    event: z.string(),
    done: z.boolean(),
    /** How often it has to have happened; once where it is absent. */
    times: z.int().min(2).max(999).optional(),
    /** Field of the payload that has to be the same each time: one product looked at twice, not two of them once. */
    per: z.string().max(120).optional(),
    since: sinceSchema,
    where: z.array(fieldTestSchema).max(10),
  }),
  z.object({
    kind: z.literal('email'),
    step: z.string(),
    what: z.enum(['opened', 'clicked']),
    /** Of a click: the address of the link, as it is written in the email. Any link where it is absent. */
    link: z.string().max(2000).optional(),
    did: z.boolean(),
  }),
  z.object({ kind: z.literal('segment'), segment: z.string(), in: z.boolean() }),
  /** How an offer stands for them. "closing" is open, and closes within the period. */
  z.object({
    kind: z.literal('offer'),
    offer: z.string(),
    state: z.enum(['open', 'closing', 'closed', 'used']),
    within: z.object({ amount: z.int().min(1).max(999), unit: z.enum(['hours', 'days', 'weeks']) }),
    is: z.boolean(),
  }),
  z.object({ kind: z.literal('points'), op: z.enum(['over', 'under']), value: z.number() }),
]);
export type Atom = z.infer<typeof atomSchema>;

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

/** All atoms of a condition, in reading order. */
export function atomsOf(condition: Condition): Atom[] {
  if (condition.kind === 'all' || condition.kind === 'any') return condition.of.flatMap(atomsOf);
  if (condition.kind === 'not') return atomsOf(condition.of);
  return [condition];
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
