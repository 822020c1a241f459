import { guessMapping, itemFields, repeatParts, walkBlocks, type Block, type ItemMapping } from '../email/index.ts';
import type { Command } from './commands/index.ts';
import type { Sequence } from './schema.ts';
import { emailSteps } from './tree.ts';

/** A kind of event as far as emails can show what it brings. */
export interface EventKind {
  name: string;
  /** A made-up or learned payload. */
  sample: Readonly<Record<string, unknown>>;
  /** What fields of its lists were chosen for before, by the list's path. */
  mapping: Readonly<Record<string, ItemMapping>>;
}

type Repeat = Extract<Block, { kind: 'repeat' }>;

/** Lists of things in a payload, by their path. */
export const listsIn = (sample: EventKind['sample']): Record<string, unknown[]> =>
  Object.fromEntries(
    Object.entries(sample).flatMap(([name, value]): [string, unknown[]][] =>
      Array.isArray(value) && value.some((v) => typeof v === 'object' && v !== null) ? [[`event.${name}`, value]] : [],
    ),
  );

/** Which fields of a list to show: as they were chosen before, else by what they are called and hold. */
export function mappingFor(list: string, items: readonly unknown[], kind?: Pick<EventKind, 'mapping'>): ItemMapping {
  const guessed = guessMapping(items);
  return kind?.mapping[list] ?? { ...guessed, title: guessed.title || (itemFields(items)[0] ?? '') };
}

/** Sets what a repeat goes through, and which fields of its items it shows. */
export function mapRepeat(step: string, block: string, list: string, mapping: ItemMapping): Command[] {
  const set = (field: string, value: unknown): Command => ({ type: 'block.set', step, block, field, value });
  return [
    set('list', list),
    set('link', mapping.link),
    ...repeatParts.map((p) => set(p, { on: mapping[p] !== '' && p !== 'text', field: mapping[p] })),
  ];
}

/** Whether a repeat shows anything of its items. */
export const showsItems = (block: Repeat): boolean => repeatParts.some((p) => block[p].on && block[p].field !== '');

/**
 * The commands that fill the repeats which show nothing yet from what an event brings, once it is chosen: each keeps the
 * list it goes through where the event has that, else it takes the only one there is, or the event itself.
 */
export function adoptEvent(doc: Pick<Sequence, 'steps'>, kind: EventKind): Command[] {
  const lists = listsIn(kind.sample);
  const [only, ...more] = Object.keys(lists);
  const itself = `recent.${kind.name}`;
  return emailSteps(doc).flatMap((step) =>
    walkBlocks(step.email.blocks).flatMap(({ block }): Command[] => {
      if (block.kind !== 'repeat' || showsItems(block)) return [];
      if (!/^(event\.|$)/.test(block.list))
        return block.list === itself
          ? mapRepeat(step.id, block.id, itself, mappingFor(itself, [kind.sample], kind))
          : [];
      const list = Object.hasOwn(lists, block.list) ? block.list : more.length === 0 ? (only ?? itself) : null;
      if (list === null) return [];
      return mapRepeat(step.id, block.id, list, mappingFor(list, lists[list] ?? [kind.sample], kind));
    }),
  );
}
