import { z } from 'zod';

/** Types of what a column can hold, as attributes have them. */
/** What values an attribute takes: of a type, and of a text perhaps one of some. */
export interface ValueKind {
  type: ColumnType;
  options: readonly string[];
}

export type ColumnType = 'text' | 'number' | 'date' | 'yes-no' | 'list';

/** What a column of a file becomes. */
export const fileColumnSchema = z.discriminatedUnion('to', [
  z.strictObject({ to: z.literal('nothing') }),
  z.strictObject({ to: z.literal('email') }),
  z.strictObject({ to: z.literal('attribute'), key: z.string().min(1).max(60) }),
  z.strictObject({ to: z.literal('zone') }),
  /** One or more tags in each cell. */
  z.strictObject({ to: z.literal('tags') }),
  /** One or more names of lists in each cell. */
  z.strictObject({ to: z.literal('lists') }),
  /** When they agreed to be written to. */
  z.strictObject({ to: z.literal('consent-at') }),
  /** Whether they get mail: who gets none elsewhere gets none here. */
  z.strictObject({ to: z.literal('mail') }),
]);
export type FileColumn = z.infer<typeof fileColumnSchema>;

/** The order in which a file writes the parts of a date; one that begins with its year is read as it is. */
export const dayOrders = ['dmy', 'mdy', 'ymd'] as const;

const words = z.array(z.string().trim().min(1).max(40)).min(1, 'Say at least one word for it.').max(30);

/** How a file of people is read, and what is done with them. */
export const importPlanSchema = z
  .strictObject({
    columns: z.array(fileColumnSchema).min(1).max(200),
    /** Whether the first row names the columns. */
    heading: z.boolean(),
    days: z.enum(dayOrders),
    /** What stands between whole and fraction. */
    decimal: z.enum(['.', ','], 'Say how numbers are written: some could be read two ways.'),
    yes: words,
    no: words,
    /** What is done with somebody whose address is known: fill what is empty, overwrite it, or leave them as they are. */
    known: z.enum(['fill', 'overwrite', 'leave']),
    lists: z.array(z.uuid()).max(50),
    tags: z.array(z.string().trim().min(1).max(60)).max(50),
    /** Where they agreed to be written to, in words that are kept with each of them. */
    consent: z
      .string()
      .trim()
      .min(10, 'Say where these people agreed to get your emails: it is kept with each of them.')
      .max(500),
    /** Sequences that they start; no others do. Said once it is known how many would. */
    starts: z.array(z.uuid()).max(50).default([]),
  })
  .superRefine((plan, ctx) => {
    const emails = plan.columns.filter((c) => c.to === 'email').length;
    if (emails !== 1)
      ctx.addIssue({
        code: 'custom',
        path: ['columns'],
        message:
          emails === 0 ? 'Say which column holds the email address.' : 'Only one column can be the email address.',
      });
    const keys = plan.columns.flatMap((c) => (c.to === 'attribute' ? [c.key] : []));
    const twice = keys.find((k, i) => keys.indexOf(k) !== i);
    if (twice !== undefined)
      ctx.addIssue({
        code: 'custom',
        path: ['columns'],
        message: `Two columns become “${twice}”: leave one of them out.`,
      });
  });
export type ImportPlan = z.infer<typeof importPlanSchema>;
