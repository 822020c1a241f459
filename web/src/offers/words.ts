import { useAround } from '../app/around.ts';
import { describeOffer, type OfferNames } from '@ascenso/core';
import type { OfferAnswer } from '@ascenso/contracts';

/** Words for what the sentence of an offer speaks of. */
export function useOfferNames(): (usedIn: OfferAnswer['usedIn']) => OfferNames {
  const around = useAround(['kinds']);
  return (usedIn) => ({
    event: (name) => around?.kinds.find((k) => k.name === name)?.label ?? (name || '…'),
    email: usedIn.length === 1 ? (usedIn[0]?.email ?? null) : null,
  });
}

export function useOfferWords(): (offer: OfferAnswer) => string {
  const names = useOfferNames();
  return ({ offer, usedIn }) => describeOffer(offer, names(usedIn));
}
