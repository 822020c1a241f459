import type { HouseStyle } from '@ascenso/core';
import type { FileRow, OfferRow, SenderRow, SequenceName, SharedRow } from './answers.ts';
import type { Named } from './names.ts';
import type { AttributeRow, EventKindRow, ListRow, SegmentRow } from './people-answers.ts';

/** What the composer and the plan need to know beside the draft. */
export interface Surroundings {
  style: HouseStyle;
  lists: ListRow[];
  kinds: EventKindRow[];
  attributes: AttributeRow[];
  senders: SenderRow[];
  files: FileRow[];
  tags: string[];
  segments: SegmentRow[];
  forms: { id: string; name: string }[];
  sequences: SequenceName[];
  /** Marketing emails to one person on one day, at most; null for no cap. */
  dailyCap: number | null;
  /** Minutes between "Send" and the first email of a one-off, in which it can be held. */
  graceMinutes: number;
  shared: SharedRow[];
  offers: OfferRow[];
  /** Present of the business clock when it was asked, epoch ms. */
  now: number;
  /** Words of one's own that the spelling check passes. */
  words: string[];
  /** Money of the workspace, ISO 4217. */
  currency: string;
}
/** The same, and the names alone of all that a sentence can speak of, for screens that only say them. */
export interface AroundParts extends Surroundings {
  named: Named;
}
/** A part of it, which is asked for on its own. */
export type SurroundingPart = keyof AroundParts;

const isPart: Record<keyof Surroundings, true> = {
  style: true,
  lists: true,
  kinds: true,
  attributes: true,
  senders: true,
  files: true,
  tags: true,
  segments: true,
  forms: true,
  sequences: true,
  dailyCap: true,
  graceMinutes: true,
  shared: true,
  offers: true,
  now: true,
  words: true,
  currency: true,
};

/** All that checks, compiling and rehearsals need. */
export const surroundingParts = Object.keys(isPart) as readonly (keyof Surroundings)[];
/** All that can be asked for. */
export const aroundParts = [...surroundingParts, 'named'] as const satisfies readonly SurroundingPart[];
