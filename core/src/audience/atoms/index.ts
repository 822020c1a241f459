import { z } from 'zod';
import { attributeAtom } from './attribute.ts';
import { emailAtom } from './email.ts';
import { eventAtom } from './event.ts';
import type { Asked, AtomKind } from './kind.ts';
import { listAtom } from './list.ts';
import { offerAtom } from './offer.ts';
import { pointsAtom } from './points.ts';
import type { Picker, SampleWorld } from './sample.ts';
import { segmentAtom } from './segment.ts';
import { tagAtom } from './tag.ts';

/** All kinds of question about a person. Their schema, and whatever is asked of all of them, comes from here. */
export const atomKinds = {
  attribute: attributeAtom,
  tag: tagAtom,
  list: listAtom,
  event: eventAtom,
  email: emailAtom,
  segment: segmentAtom,
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

/** What several questions ask for, each thing once. */
export function askedByAtoms(atoms: readonly Atom[]): Asked {
  const each = atoms.map((a) => kindOfAtom(a).asks(a));
  const all = (what: 'events' | 'steps' | 'segments' | 'offers') => [...new Set(each.flatMap((a) => a[what] ?? []))];
  return {
    events: all('events'),
    steps: all('steps'),
    segments: all('segments'),
    offers: all('offers'),
    lists: each.some((a) => a.lists),
    emails: each.some((a) => a.emails),
    links: each.some((a) => a.links),
  };
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

export { FILE_EVENT, matchingEvent } from './event.ts';
export type { Asked, Known } from './kind.ts';
export type { Picker, SampleWorld } from './sample.ts';
