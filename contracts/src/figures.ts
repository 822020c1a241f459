import { z } from 'zod';

// Figures of a sequence, and the people behind them.

const day = z.int('A day is a whole number.').min(0).max(1_000_000);

export const figureKinds = [
  'joined',
  'held-out',
  'inside',
  'queued',
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
  /** Step it belongs to, or '' for the sequence's own. */
  step: z.string().max(60),
  what: z.enum(figureKinds, 'There is no such figure.'),
  /** Of a reason: its code, and its detail behind a space; '' for other figures. */
  why: z.string().max(100),
  /** Of clicks: number of the link, or null for any. */
  link: z.int().min(0).nullable(),
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
  /** Its number within the email. */
  number: number;
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
