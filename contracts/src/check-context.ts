import {
  emailSteps,
  itemFields,
  listsIn,
  mappingFor,
  plainStyle,
  startingEvents,
  type CheckContext,
  type Sequence,
} from '@ascenso/core';
import type { Surroundings } from './surroundings.ts';

/**
 * Fields of a sender's profile that an email can be filled from. The photo is a picture, which the signature draws: as words
 * it would be the name of a file.
 */
export const SENDER_FIELDS = ['name', 'email', 'role', 'phone', 'page'];

/** Kinds of events that start a sequence. */
export const startingKinds = (sequence: Pick<Sequence, 'triggers'>, around: Surroundings): Surroundings['kinds'] => {
  const events = startingEvents(sequence.triggers);
  return around.kinds.filter((k) => events.includes(k.name));
};

/** Lists that a repeat block can go through, by their path, with made-up or learned items: of the event, of the person, what they did lately. */
export function listsFor(sequence: Pick<Sequence, 'triggers'>, around: Surroundings): Record<string, unknown[]> {
  const lists = startingKinds(sequence, around).flatMap((k) => Object.entries(listsIn(k.sample)));
  // Lists of the person hold plain words: each is an item with a value.
  const own = around.attributes
    .filter((a) => a.type === 'list')
    .map((a): [string, unknown[]] => [`subscriber.${a.key}`, [{ value: a.label }]]);
  // What they did lately of any kind: the products they looked at.
  const recent = around.kinds.map((k): [string, unknown[]] => [
    `recent.${k.name}`,
    [{ ...Object.fromEntries(k.fields.map((f) => [f.name, ''])), ...k.sample }],
  ]);
  return Object.fromEntries([...lists, ...own, ...recent]);
}

/** Fields of a payload that hold the address of a page. */
const pagesIn = (sample: Readonly<Record<string, unknown>>): string[] =>
  Object.entries(sample).flatMap(([name, value]) =>
    typeof value === 'string' && /^https?:\/\/(?!\S+\.(png|jpe?g|gif|webp)(\?|$))\S+$/i.test(value)
      ? [`event.${name}`]
      : [],
  );

/** Fields that an email of this sequence can be filled from. */
export function fieldsFor(sequence: Sequence, around: Surroundings): CheckContext['fields'] {
  const names = startingKinds(sequence, around).flatMap((k) => k.fields.map((f) => f.name));
  return {
    subscriber: ['email', ...around.attributes.map((a) => a.key)],
    event: [...new Set(names)],
    sender: SENDER_FIELDS,
  };
}

/** What the checks of a draft know: the same on the server, which refuses by them, and in the browser, which shows them as one types. */
export function checkContext(
  self: string | null,
  sequence: Sequence,
  around: Surroundings,
  bytes: Readonly<Record<string, number>>,
  tested?: Readonly<Record<string, string>>,
): CheckContext {
  const kinds = startingKinds(sequence, around);
  const lists = Object.entries(listsFor(sequence, around));
  const [first, ...others] = sequence.triggers.map((t) =>
    t.kind === 'event' ? (kinds.find((k) => k.name === t.event)?.fields.map((f) => f.name) ?? []) : [],
  );
  return {
    style: { ...plainStyle, ...around.style },
    fields: fieldsFor(sequence, around),
    always: (first ?? []).filter((name) => others.every((o) => o.includes(name))),
    items: Object.fromEntries(lists.map(([path, items]) => [path, itemFields(items)])),
    mappings: Object.fromEntries(lists.map(([path, items]) => [path, mappingFor(path, items, kinds[0])])),
    addresses: kinds.length === 1 ? pagesIn(kinds[0]?.sample ?? {}) : [],
    senders: around.senders,
    files: around.files,
    shared: sharedOf(around),
    offers: around.offers,
    now: around.now,
    lists: around.lists.map((l) => l.id),
    confirmed: Object.fromEntries(around.lists.map((l) => [l.id, l.confirmed])),
    segments: around.segments.map((s) => s.id),
    self,
    sequences: around.sequences,
    bytes,
    ...(tested ? { tested: Object.fromEntries(emailSteps(sequence).map((s) => [s.id, tested[s.id] ?? ''])) } : {}),
  };
}

/** Blocks of the shared ones by id, as the compile takes them. */
export const sharedOf = (around: Pick<Surroundings, 'shared'>): CheckContext['shared'] =>
  Object.fromEntries(around.shared.map((s) => [s.id, s.blocks]));

/** What an email of a sequence is compiled with: the same wherever it is compiled, so that what is shown is what goes out. */
export const compiledWith = (
  sequence: Pick<Sequence, 'list'>,
  around: Pick<Surroundings, 'shared'>,
): { shared: CheckContext['shared']; service: boolean } => ({
  shared: sharedOf(around),
  service: sequence.list === null,
});
