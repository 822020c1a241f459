import { createContext, useContext } from 'react';
import type { Surroundings } from '@ascenso/contracts';
import type { Block, EmailStep, RichText, Sequence } from '@ascenso/core';
import type { Reader } from './reader.tsx';

/** A place among the blocks of the email: in its own list, or in that of a section or a column. */
export interface BlockPlace {
  list: string | null;
  index: number;
}

/** A block and where it stands: it can be set once one works elsewhere. */
export interface BlockOf {
  /** Id of the draft. */
  draft: string;
  step: string;
  block: string;
}

/** What every part of the composer looks at. */
export interface Composer {
  id: string;
  doc: Sequence;
  step: EmailStep;
  around: Surroundings;
  reader: Reader;
  /** The block that is open in the inspector, and all that are chosen. */
  selected: Block | null;
  chosen: ReadonlySet<string>;
  /** Selects a block; `add` chooses it beside the others. */
  select: (block: string, add?: boolean) => void;
  /** Selects a block and puts the focus on it in the outline, so that the keyboard goes on from there. */
  show: (block: string) => void;
  /** Selects a block and puts the focus where it is written. */
  write: (block: string) => void;
  /** Shows a text in the previews while it is still being written, before it becomes an edit. */
  peek: (block: string, doc: RichText) => void;
  /** Opens the list of block kinds for a place. */
  offer: (place: BlockPlace) => void;
}

export const ComposerContext = createContext<Composer | null>(null);

export function useComposer(): Composer {
  const composer = useContext(ComposerContext);
  if (!composer) throw new Error('Only inside the composer.');
  return composer;
}

/** A block of the email that is open, named so that it can be set from anywhere. */
export const blockOf = ({ id, step }: Pick<Composer, 'id' | 'step'>, block: string): BlockOf => ({
  draft: id,
  step: step.id,
  block,
});
