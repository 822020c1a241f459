import type { Atom, AtomName } from '@ascenso/core';
import { attributeRow } from './attribute.tsx';
import { dateRow } from './date.tsx';
import { emailRow } from './email.tsx';
import { eventRow } from './event.tsx';
import { joinedRow } from './joined.tsx';
import { listRow } from './list.tsx';
import { mailRow } from './mail.tsx';
import { offerRow } from './offer.tsx';
import { pointsRow } from './points.tsx';
import type { AtomRow, Choice, Heading } from './row.ts';
import { segmentRow } from './segment.tsx';
import { sequenceRow } from './sequence.tsx';
import { tagRow } from './tag.tsx';

/** Every kind of question, in the order in which the screen offers them. */
export const atomRows: { [K in AtomName]: AtomRow<K> } = {
  event: eventRow,
  email: emailRow,
  mail: mailRow,
  attribute: attributeRow,
  date: dateRow,
  tag: tagRow,
  points: pointsRow,
  list: listRow,
  joined: joinedRow,
  segment: segmentRow,
  sequence: sequenceRow,
  offer: offerRow,
};

const HEADINGS: Record<AtomName, Heading> = {
  event: 'What they did',
  email: 'What they did',
  mail: 'What they did',
  attribute: 'What is known of them',
  date: 'What is known of them',
  tag: 'What is known of them',
  points: 'What is known of them',
  list: 'Where they stand',
  joined: 'Where they stand',
  segment: 'Where they stand',
  sequence: 'Where they stand',
  offer: 'Where they stand',
};

/** What all of them can say, each under what it is about. */
export const headedChoices: readonly (Choice & { group: Heading })[] = (Object.keys(atomRows) as AtomName[]).flatMap(
  (kind) => atomRows[kind].choices.map((c) => ({ ...c, group: HEADINGS[kind] })),
);

// The one place where an atom meets its row: TypeScript cannot follow the pairing through the record.
export const rowOfAtom = (kind: Atom['kind']) => atomRows[kind] as unknown as AtomRow<AtomName>;

export type { Place, Scope } from './row.ts';
