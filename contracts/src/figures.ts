import { z } from 'zod';

// Figures of a sequence, and the people behind them.

const day = z.int('A day is a whole number.').min(0).max(1_000_000);

export const figureKinds = [
  'joined',
  'held-out',
  'inside',
  'held',
  'awaits',
  'queued',
  'here',
  'ended',
  'goal',
  'sent',
  'delivered',
  'opened',
  'clicked',
  'left',
  'bounced',
  'complained',
  'failed',
  'ordered',
  'reason',
] as const;
export type FigureKind = (typeof figureKinds)[number];

/** Which figure of a sequence is meant. */
export const figureSchema = z.strictObject({
  sequence: z.uuid('Which sequence?'),
  /** Steps it belongs to; none for the sequence's own. */
  steps: z.array(z.string().max(60)).max(200),
  what: z.enum(figureKinds, 'There is no such figure.'),
  /** Of a reason: its code, and its detail behind a space; '' for other figures. */
  why: z.string().max(100),
  /** Of clicks: the link by its number, in a list also the number of the repeat; null for any. */
  link: z.strictObject({ number: z.int().min(0), repeat: z.int().min(0).nullable() }).nullable(),
  /** Days of the workspace's calendar on which their passages began, days since 1970-01-01, both included. */
  days: z.strictObject({ from: day, to: day }).nullable(),
});
export type Figure = z.infer<typeof figureSchema>;

/** Somebody behind a figure. */
export interface FigurePerson {
  id: string;
  /** Their first and last name as far as known, or ''. */
  name: string;
  email: string;
  /** When it happened, epoch ms. */
  at: number;
  /** What they clicked, how much they ordered (minor units), or null. */
  link: string | null;
  amount: number | null;
  currency: string | null;
}

/** The people behind a figure, the latest first. */
export interface FigureAnswer {
  people: FigurePerson[];
  /** How many there are; those who have been erased are not among them. */
  total: number;
}

/** A link of an email with what came of it. */
export interface LinkNumbers {
  /** Its number within the email; of one in a list, within the repeat of this number. */
  number: number;
  repeat: number | null;
  /** Words that are clicked, or what stands in the picture. */
  words: string;
  /** Where it led in one email that was sent; of a link that differs from reader to reader, one of them. */
  target: string;
  clicks: number;
  people: number;
}

/** What a sequence really added: whoever went through it beside whoever was held out. Money in the minor units of one currency. */
export interface EffectAnswer {
  currency: string;
  /** Days after joining that are counted, and those that joined too lately to count. */
  days: number;
  waiting: number;
  groups: { name: 'in' | 'out'; people: number; orders: number; money: number; squares: number }[];
  /** Orders in other currencies, which are not added up. */
  others: number;
}
