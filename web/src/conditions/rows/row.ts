import type { ComponentType } from 'react';
import type { Surroundings } from '@ascenso/contracts';
import type { AtomName, AtomOf, Condition, Sequence } from '@ascenso/core';

/** What a condition is asked about: a person as they are now, one on their way through a sequence, or the rule of a segment. */
export type Scope = 'person' | 'visit' | 'segment';

/** Where a row stands. */
export interface Place {
  around: Surroundings;
  doc: Sequence | null;
  scope: Scope;
}

export interface PartsProps<K extends AtomName> extends Place {
  atom: AtomOf<K>;
  save: (a: AtomOf<K>) => void;
}

/** One thing that a row can say. */
export interface Choice {
  kind: string;
  label: string;
  /** Scopes in which it can be asked; all of them where it is absent. */
  in?: readonly Scope[];
}

/** What the kinds of question are about, as their choices are headed. */
export type Heading = 'What they did' | 'What is known of them' | 'Where they stand';

/** How a kind of question is asked on the screen. */
export interface AtomRow<K extends AtomName> {
  /** In the order in which they are offered. */
  choices: readonly Choice[];
  choiceOf: (atom: AtomOf<K>) => string;
  /** A new row, with as much kept of the old one as still means something. */
  blank: (choice: string, old: Condition | null, place: Place) => AtomOf<K>;
  Parts: ComponentType<PartsProps<K>>;
}
