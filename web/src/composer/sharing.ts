import { blockKinds, copyBlock, findBlock, type Block, type Command, type Email } from '@ascenso/core';
import { newId } from '../ui/names.ts';
import { placeFor } from './places.ts';

type Step = Parameters<typeof placeFor>[0];

/** The name that a section got when a shared block was taken apart: which one it came from. */
const CAME_FROM = /^From “(.+)”$/;
export const cameFrom = (block: Block): string | undefined =>
  block.kind === 'section' ? CAME_FROM.exec(block.name ?? '')?.[1] : undefined;

/** Who a block is shown to, and on which screens: what another block takes over when it stands in for this one. */
const whoSees = ({ when, only, off }: Block) => ({ ...(when && { when }), ...(only && { only }), ...(off && { off }) });

/**
 * Takes a shared block apart: its blocks stand in a section of this email, to be changed here. `linked` keeps in its name where
 * it came from, so that the change can go everywhere.
 */
export function takeApart(
  step: { id: string; email: Email },
  block: Extract<Block, { kind: 'shared' }>,
  shared: { name: string; blocks: Block[] },
  linked: boolean,
): Command[] {
  const place = findBlock(step.email.blocks, block.id);
  const section = {
    ...blockKinds.section.blank(newId),
    name: linked ? `From “${shared.name}”` : shared.name,
    blocks: shared.blocks.map((b) => copyBlock(b, newId)) as never[],
    look: { above: 0, below: 0 },
    ...whoSees(block),
  };
  return [
    { type: 'block.remove', step: step.id, block: block.id },
    { type: 'block.insert', step: step.id, index: place?.index ?? 0, block: section },
  ];
}

/**
 * Puts a shared block in the place of blocks of an email. A section that was taken apart and is given back goes, but who
 * sees it stays: a block for some never becomes a block for everyone. Null where the blocks are gone.
 */
export function asShared(
  step: Step,
  blocks: readonly Block[],
  shared: string,
  givenBack: Block | null,
): { block: string; commands: Command[] } | null {
  const [first] = blocks;
  const place = first && findBlock(step.email.blocks, first.id);
  if (!place) return null;
  const { index } = placeFor(step, 'shared', place);
  const block = { ...blockKinds.shared.blank(newId), ...(givenBack ? whoSees(givenBack) : {}), shared };
  const commands: Command[] = [
    ...blocks.map((b): Command => ({ type: 'block.remove', step: step.id, block: b.id })),
    { type: 'block.insert', step: step.id, index, block },
  ];
  return { block: block.id, commands };
}
