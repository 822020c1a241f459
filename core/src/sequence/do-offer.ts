import { closesAt, isUnique, offerState } from '../offer/index.ts';
import { HOUR, zoneOf } from '../time/index.ts';
import type { EmailStep } from './schema.ts';
import { know, tell, type Effect, type Outcome, type Walk } from './visit.ts';

/** How often an email that waits for codes looks for them. */
const LOOKS_AGAIN = HOUR;

/**
 * Why an email that makes an offer is passed over, or when that closes. A deadline counts from the planned moment of the
 * email; whether it has closed is asked of the present.
 */
function standing(
  w: Walk,
  offerId: string,
): { bar: 'offer-closed' | 'offer-used' | 'offer-undated' | 'offer-gone' } | { closes: number | null; known: boolean } {
  const fact = w.facts.offers?.[offerId];
  // A calendar that knows no offers lets their emails go.
  if (!w.facts.offers) return { closes: null, known: true };
  if (!fact) return { bar: 'offer-gone' };
  const state = offerState(fact.given, w.clock);
  if (state === 'closed' || state === 'used') return { bar: `offer-${state}` };
  if (fact.given) return { closes: fact.given.closesAt, known: true };
  const closes = closesAt(fact.offer.deadline, {
    zone: zoneOf(w.facts.person.zone),
    email: w.now,
    entry: w.visit.enteredAt,
    event: (name) => w.facts.events.findLast((e) => e.name === name && e.at <= w.clock)?.at ?? null,
    attribute: (key) => w.facts.person.attributes[key],
  });
  if (closes === null) return { bar: 'offer-undated' };
  return closes <= w.clock ? { bar: 'offer-closed' } : { closes: closes === Infinity ? null : closes, known: false };
}

/** Whether an email has to be passed over for its offer: asked before its window, and again when that opens. */
export function offerBar(w: Walk, step: EmailStep): boolean {
  if (!step.email.offer) return false;
  const found = standing(w, step.email.offer);
  if (!('bar' in found)) return false;
  const given = w.facts.offers?.[step.email.offer]?.given;
  const at = found.bar === 'offer-used' ? given?.usedAt : found.bar === 'offer-closed' ? given?.closesAt : null;
  tell(w, step.id, found.bar, {
    offer: step.email.offer,
    ...(at == null ? {} : { closed: at, zone: w.facts.person.zone, assumed: w.facts.person.zoneAssumed }),
  });
  return true;
}

/**
 * Opens the offer of an email for the person: deadline fixed, code taken, once. Answers the effect, null where there is
 * nothing to open, or where it has to wait because no code is left.
 */
export function grantOffer(w: Walk, step: EmailStep): Outcome | Extract<Effect, { kind: 'grant' }> | null {
  const offerId = step.email.offer;
  if (!offerId) return null;
  const found = standing(w, offerId);
  const fact = w.facts.offers?.[offerId];
  if ('bar' in found || found.known || !fact) return null;
  const { offer } = fact;
  const grant = (code: Extract<Effect, { kind: 'grant' }>['code']) =>
    ({
      kind: 'grant',
      step: step.id,
      offer: offerId,
      at: w.now,
      closes: found.closes,
      code,
      discount: offer.discount,
    }) as const;
  if (offer.codes.kind === 'none') return grant(null);
  if (offer.codes.kind === 'shared') return grant({ same: offer.codes.code });
  if (fact.stock || !isUnique(offer)) return grant('own');
  if (offer.empty.kind === 'shared') return grant({ same: offer.empty.code });
  if (offer.empty.kind === 'without') return grant(null);
  if (w.visit.awaits !== offerId) tell(w, step.id, 'offer-empty', { offer: offerId });
  w.visit.awaits = offerId;
  // Its window counts again when there are codes.
  w.visit.held = false;
  return { stop: w.now + LOOKS_AGAIN };
}

/** What has just been given counts at once: for another email at the same instant, and for what is asked there. */
export function nowGiven(w: Walk, { offer, at, closes, code, discount }: Extract<Effect, { kind: 'grant' }>): void {
  const known = w.facts.offers?.[offer];
  if (!known) return;
  const own = code === 'own' ? null : (code?.same ?? null);
  const given = { openedAt: at, closesAt: closes, code: own, usedAt: null, discount };
  know(w, { ...w.facts, offers: { ...w.facts.offers, [offer]: { ...known, given } } });
}
