import { z } from 'zod';
import { conditionSchema } from '@ascenso/core';
import { figureSchema } from './figures.ts';

// What is done to many people at once.

/** Some people: those that are named, or all that fit, of whom no more than were seen. */
export const whoRequest = z.union([
  z.strictObject({ ids: z.array(z.uuid()).min(1, 'Choose somebody.').max(1000) }),
  z.strictObject({
    q: z.string().max(200),
    segment: z.uuid().nullable(),
    rule: conditionSchema.nullable(),
    /** Figure of a sequence that they stand behind. */
    figure: figureSchema.nullable().default(null),
    count: z.int().min(1),
  }),
]);

const tag = z.string().trim().min(1, 'Name the tag.').max(60);

export const bulkRequest = z.strictObject({
  who: whoRequest,
  what: z.discriminatedUnion('kind', [
    z.strictObject({ kind: z.literal('tag'), tag }),
    z.strictObject({ kind: z.literal('untag'), tag }),
    z.strictObject({ kind: z.literal('list'), list: z.uuid('Choose the list.') }),
    z.strictObject({
      kind: z.literal('attribute'),
      key: z.string().min(1).max(60),
      value: z.union([z.string().max(2000), z.number(), z.boolean(), z.array(z.string().max(200)).max(100)]).nullable(),
    }),
    z.strictObject({ kind: z.literal('sequence'), sequence: z.uuid('Choose the sequence.') }),
    /** For good: whoever does it types how many. */
    z.strictObject({ kind: z.literal('erase'), count: z.int() }),
  ]),
});
export type Who = z.input<typeof whoRequest>;
export type Bulk = z.infer<typeof bulkRequest>['what'];

export interface BulkAnswer {
  /** How many it was asked for, and how many it has changed. */
  asked: number;
  changed: number;
  /** Under which it can be taken back for a week; absent where it cannot, or changed nobody. */
  undo?: string;
}

/** Of whom it is asked what would come of adding them to a sequence. */
export const foreseeRequest = z.strictObject({ who: whoRequest });
/** What would come of adding people to a sequence by hand. */
export interface Foreseen {
  /** How many were asked about, how many of them were led on, and how many of those would enter. */
  asked: number;
  seen: number;
  enter: number;
  /** Their first emails, by how many get each: the first and the last moment (epoch ms), and for how many it is not the first of that day. */
  emails: { step: string; name: string; people: number; from: number; until: number; second: number }[];
  /** A few who get one, to be read as. */
  some: { id: string; email: string }[];
}
