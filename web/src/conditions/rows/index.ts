import type { Atom, AtomName } from '@ascenso/core';
import { attributeRow } from './attribute.tsx';
import { emailRow } from './email.tsx';
import { eventRow } from './event.tsx';
import { listRow } from './list.tsx';
import { offerRow } from './offer.tsx';
import { pointsRow } from './points.tsx';
import type { AtomRow } from './row.ts';
import { segmentRow } from './segment.tsx';
import { tagRow } from './tag.tsx';

/** Every kind of question, in the order in which the screen offers them. */
export const atomRows: { [K in AtomName]: AtomRow<K> } = {
  event: eventRow,
  email: emailRow,
  attribute: attributeRow,
  tag: tagRow,
  list: listRow,
  segment: segmentRow,
  offer: offerRow,
  points: pointsRow,
};

// The one place where an atom meets its row: TypeScript cannot follow the pairing through the record.
export const rowOfAtom = (kind: Atom['kind']) => atomRows[kind] as unknown as AtomRow<AtomName>;

export type { Place, Scope } from './row.ts';
