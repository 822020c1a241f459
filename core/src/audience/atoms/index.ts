import { z } from 'zod';
import { attributeAtom } from './attribute.ts';
import { dateAtom } from './date.ts';
import { emailAtom } from './email.ts';
import { eventAtom } from './event.ts';
import { joinedAtom } from './joined.ts';
import type { Asked, AtomKind, Spoken } from './kind.ts';
import { listAtom } from './list.ts';
import { mailAtom } from './mail.ts';
import { offerAtom } from './offer.ts';
import { pointsAtom } from './points.ts';
import type { Picker, SampleWorld } from './sample.ts';
import { segmentAtom } from './segment.ts';
import { sequenceAtom } from './sequence.ts';
import { tagAtom } from './tag.ts';

/** All kinds of question about a person. Their schema, and whatever is asked of all of them, comes from here. */
export const atomKinds = {
  attribute: attributeAtom,
  date: dateAtom,
  tag: tagAtom,
  list: listAtom,
  joined: joinedAtom,
  event: eventAtom,
  email: emailAtom,
  mail: mailAtom,
  segment: segmentAtom,
  sequence: sequenceAtom,
  offer: offerAtom,
  points: pointsAtom,
} as const;

type Kinds = typeof atomKinds;
type AtomSchema = Kinds[keyof Kinds]['schema'];
// A draft may be unfinished: an empty choice is told by the checks and refuses publishing, not saving.
// A record's values are a list of any length to TypeScript: there is at least one kind.
export const atomSchema = z.discriminatedUnion(
  'kind',
  Object.values(atomKinds).map((k) => k.schema) as unknown as [AtomSchema],
);
export type Atom = z.infer<AtomSchema>;
export type AtomName = Atom['kind'];
export type AtomOf<K extends AtomName> = Extract<Atom, { kind: K }>;

type AnyAtom = AtomKind<AtomName, z.ZodType<Atom>>;
// The one place where an atom meets its kind: TypeScript cannot follow the pairing through the record.
export const kindOfAtom = (atom: Atom): AnyAtom => atomKinds[atom.kind];

const NAMED = ['events', 'steps', 'segments', 'offers', 'sequences'] as const;
const WHETHER = ['lists', 'emails', 'links', 'mail', 'mailLinks', 'joined', 'points'] as const;

/** What several ask for, each thing once. */
export function askedTogether(each: readonly Partial<Asked>[]): Asked {
  const named = NAMED.map((k) => [k, [...new Set(each.flatMap((a) => a[k] ?? []))]] as const);
  const whether = WHETHER.map((k) => [k, each.some((a) => a[k] === true)] as const);
  return { ...Object.fromEntries(named), ...Object.fromEntries(whether) } as unknown as Asked;
}

/** What several questions ask for. */
export const askedByAtoms = (atoms: readonly Atom[]): Asked => askedTogether(atoms.map((a) => kindOfAtom(a).asks(a)));

/** What questions call by its name or id, as often as they do. */
export function spokenOf(atoms: readonly Atom[]): Spoken {
  const each = atoms.map((a) => kindOfAtom(a).speaksOf(a));
  const all = (what: keyof Spoken) => each.flatMap((a) => a[what] ?? []);
  return { attributes: all('attributes'), tags: all('tags'), lists: all('lists'), events: all('events') };
}

/** Some question of one of the kinds that have something to be asked about in a made-up world. */
export function sampleAtom(
  world: SampleWorld,
  pick: Picker,
  kinds: readonly AtomName[] = Object.keys(atomKinds) as AtomName[],
): Atom {
  const names = kinds.filter((k) => {
    const { about } = atomKinds[k];
    return about === null || world[about].length > 0;
  });
  return atomKinds[pick(names)].sample(world, pick);
}

export { dayWindow, type DayWindow } from './date.ts';
export { FILE_EVENT, matchingEvent } from './event.ts';
export { joinedWords } from './joined.ts';
export { HOST_PATTERN } from './mail.ts';
export type { Asked, Known } from './kind.ts';
export type { Picker, SampleWorld } from './sample.ts';
