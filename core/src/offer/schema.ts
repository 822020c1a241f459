import { z } from 'zod';
import { isZone } from '../time/index.ts';
import { patternSchema, plainCode, sampleOf } from './pattern.ts';

/** No 30th of February, and no year before 100, which is a slip for one of our own. */
function inCalendar(wall: string): boolean {
  const at = Date.parse(`${wall}Z`);
  return !Number.isNaN(at) && new Date(at).toISOString().startsWith(wall) && !wall.startsWith('00');
}

/** A wall time as a form writes it: 2026-03-31T18:00. */
export const wallSchema = z
  .string()
  .regex(/^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}$/, 'A moment is written as 2026-03-31T18:00.')
  .refine(inCalendar, 'There is no such day: check year, month and day.');
export const zoneSchema = z.string().refine(isZone, 'Use an IANA time zone such as Europe/Lisbon.');

const minute = z.int().min(0).max(1439, 'A time of day lies between 0:00 and 23:59.');

/** When an offer closes for one person. */
export const deadlineSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('never') }),
  /** The same moment for everybody: the wall time of a zone. */
  z.object({ kind: z.literal('fixed'), wall: wallSchema, zone: zoneSchema }),
  /** So long after the email that gives it, after joining the sequence, or after the last event of a kind. */
  z.object({
    kind: z.literal('after'),
    from: z.enum(['email', 'entry', 'event']),
    /** Kind of the event, for "event". */
    event: z.string().max(120),
    amount: z.int().min(0).max(365, '365 at most.'),
    unit: z.enum(['hours', 'days', 'weeks']),
    /** Minute of the reader's day at which it closes, for days and weeks; null for the time at which it began. */
    minute: minute.nullable(),
  }),
  /** Days before (negative) or after a date of the person. `minute` null is the date's own time. */
  z.object({
    kind: z.literal('attribute'),
    field: z.string().max(120),
    days: z.int().min(-365).max(365),
    minute: minute.nullable(),
  }),
]);
export type Deadline = z.infer<typeof deadlineSchema>;

/** A code that a shop takes: no spaces, 64 characters at most. */
export const CODE = /^[A-Za-z0-9][A-Za-z0-9._-]{1,63}$/;
const codeSchema = z.string().regex(CODE, 'A code has letters, figures, hyphens, dots: 2 to 64 of them, no spaces.');

export const codesSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('none') }),
  z.object({ kind: z.literal('shared'), code: codeSchema }),
  /** Unique codes that were imported. */
  z.object({ kind: z.literal('imported') }),
  /** Unique codes made to a pattern. */
  z.object({ kind: z.literal('made'), pattern: patternSchema }),
]);
export type Codes = z.infer<typeof codesSchema>;

/** What becomes of an email when no code is left: it waits for new ones, gives one code to all, or goes without. */
export const emptySchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('hold') }),
  z.object({ kind: z.literal('shared'), code: codeSchema }),
  z.object({ kind: z.literal('without') }),
]);

/** What a timer shows once its time is over. */
export const afterSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('zeros') }),
  z.object({ kind: z.literal('message'), text: z.string().trim().min(1, 'Write what it says.').max(80) }),
  z.object({ kind: z.literal('picture'), file: z.string().max(60) }),
  z.object({ kind: z.literal('gone') }),
]);
export type After = z.infer<typeof afterSchema>;

const plainText = (longest: number) =>
  z
    .string()
    .trim()
    .max(longest)
    .refine((text) => !/\{\{|\}\}/.test(text), 'Take the {{ and }} out: fields are not filled here.');

/**
 * What is given, and what the shop takes off: percent, an amount in major units of a currency (ISO 4217), the delivery, or
 * something that only words can say. The figure that is read and the one that is taken are this one.
 */
export const discountSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('percent'), value: z.number().gt(0, 'More than 0.').max(100, '100% at most.') }),
  z.object({
    kind: z.literal('amount'),
    value: z.number().gt(0, 'More than 0.').max(1_000_000),
    currency: z.string().regex(/^[A-Z]{3}$/, 'A currency has three capital letters, such as EUR.'),
  }),
  z.object({ kind: z.literal('delivery') }),
  z.object({ kind: z.literal('other'), words: plainText(200).min(1, 'Say what is given, as “a free tin of wax”.') }),
]);
export type Discount = z.infer<typeof discountSchema>;

/** An offer: what is given, where its codes come from, when it closes for a person, what is shown after. */
export const offerSchema = z.object({
  name: z.string().trim().min(1, 'Give the offer a name.').max(120),
  discount: discountSchema,
  /** What is written before and after it: "one order" of "10% off one order". */
  around: z.object({ before: plainText(100), after: plainText(220) }).default({ before: '', after: '' }),
  codes: codesSchema,
  empty: emptySchema,
  deadline: deadlineSchema,
  after: afterSchema,
  /** Address that is told of each code as it is given to somebody, or ''. */
  webhook: z
    .string()
    .max(2000)
    .regex(/^(https?:\/\/[^\s/]\S*)?$/, 'Write an address that begins with https://, or leave it empty.')
    .default(''),
});
export type Offer = z.infer<typeof offerSchema>;

/** Whether each person gets a code of their own. */
export const isUnique = ({ codes }: Pick<Offer, 'codes'>): boolean =>
  codes.kind === 'imported' || codes.kind === 'made';

/** Codes that more than one person gets, as a till compares them (`plainCode`). */
export const sharedKeys = ({ codes, empty }: Pick<Offer, 'codes' | 'empty'>): string[] =>
  [codes, empty].flatMap((c) => (c.kind === 'shared' ? [plainCode(c.code)] : []));

/** The code that tests, previews and rehearsals show: the shared one, or one that is marked and never given out. */
export const sampleCode = ({ codes }: Pick<Offer, 'codes'>): string | null => {
  if (codes.kind === 'none') return null;
  return codes.kind === 'shared' ? codes.code : codes.kind === 'made' ? sampleOf(codes.pattern) : 'SAMPLE-CODE';
};

/** A new offer, to be made one's own. */
export const blankOffer = (): Offer => ({
  name: '',
  discount: { kind: 'percent', value: 10 },
  around: { before: '', after: '' },
  codes: { kind: 'made', pattern: { prefix: '', alphabet: 'letters and figures', length: 7, group: 4, check: true } },
  empty: { kind: 'hold' },
  deadline: { kind: 'after', from: 'email', event: '', amount: 48, unit: 'hours', minute: null },
  after: { kind: 'message', text: 'This offer has closed.' },
  webhook: '',
});
