import { zoneOf } from '../time/index.ts';
import { durationText } from '../words/index.ts';
import { closesAt, type Opening } from './deadline.ts';
import { figureText, offerText } from './promise.ts';
import { sampleCode, type Offer } from './schema.ts';
import type { Given, OfferFact } from './state.ts';

/** Merge fields of an offer: `offer.code` and so on. */
export const OFFER_FIELDS = ['code', 'deadline', 'left', 'words', 'figure', 'name'] as const;

/**
 * What the merge fields of an offer say to one person at a moment (epoch ms): the deadline as ISO 8601, the time left and
 * what is given in words of the language. Missing values are ''.
 */
export function offerValues(
  offer: Offer,
  given: Given | null,
  now: number,
  language: string,
): Record<(typeof OFFER_FIELDS)[number], string> {
  const closes = given?.closesAt ?? null;
  const discount = given?.discount ?? offer.discount;
  return {
    name: offer.name,
    words: offerText({ ...offer, discount }, language),
    figure: figureText(discount, language),
    code: given?.code ?? '',
    deadline: closes === null ? '' : new Date(closes).toISOString(),
    left: closes === null ? '' : durationText(closes - now, language),
  };
}

/** What a person would be given now, with a code that is marked as a sample: for tests, previews and rehearsals. */
export function sampleGiven(offer: Offer, opening: Opening): Given {
  const closes = closesAt(offer.deadline, opening);
  return {
    openedAt: opening.email,
    closesAt: closes === null || closes === Infinity ? null : closes,
    code: sampleCode(offer),
    usedAt: null,
  };
}

/** What of a person's facts a sample is made from. */
interface AboutPerson {
  person: { zone: string; attributes: Readonly<Record<string, unknown>> };
  events: readonly { name: string; at: number }[];
  offers?: Readonly<Record<string, OfferFact>>;
}

/**
 * Facts for tests, previews and rehearsals: every offer is the person's, as they have it or as it would be given to them
 * now (epoch ms), but its code is a sample.
 */
export function withSamples<F extends AboutPerson>(facts: F, now: number): F {
  const opening: Opening = {
    zone: zoneOf(facts.person.zone),
    email: now,
    entry: now,
    event: (name) => facts.events.findLast((e) => e.name === name && e.at <= now)?.at ?? null,
    attribute: (key) => facts.person.attributes[key],
  };
  const offers = Object.entries(facts.offers ?? {}).map(([id, fact]): [string, OfferFact] => {
    const sample = sampleGiven(fact.offer, opening);
    return [id, { ...fact, given: fact.given ? { ...fact.given, code: sample.code } : sample }];
  });
  return { ...facts, offers: Object.fromEntries(offers) };
}
