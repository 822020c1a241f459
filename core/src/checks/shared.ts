import { blockKinds, copyBlock, insideOf, walkBlocks, type Block, type Email } from '../email/index.ts';
import { emailSteps, type Sequence } from '../sequence/index.ts';
import type { CheckContext, Finding } from './check.ts';

type Shared = CheckContext['shared'];

/** Stands between the id of a shared block and the number of a block in it. */
const INSIDE = '/shared/';

function opened(block: Block, shared: Shared): Block {
  if (block.kind !== 'shared') {
    const copy = structuredClone(block);
    for (const { blocks } of insideOf(copy)) blocks.splice(0, blocks.length, ...openedAll(blocks, shared));
    return copy;
  }
  const inner = shared[block.shared];
  if (!inner) return block;
  let n = 0;
  const newId = () => `${block.id}${INSIDE}${++n}`;
  const { shared: _, kind: __, ...base } = block;
  // A section is what holds other blocks; here it may hold any, as the compile does.
  return { ...blockKinds.section.blank(newId), ...base, blocks: inner.map((b) => copyBlock(b, newId)) } as Block;
}

const openedAll = (blocks: readonly Block[], shared: Shared): Block[] => blocks.map((b) => opened(b, shared));

/** An email as its readers get it: what a shared block holds stands in its place. */
export function withShared(email: Email, shared: Shared): Email {
  return { ...email, blocks: openedAll(email.blocks, shared) };
}

/** A sequence whose emails are as their readers get them. */
export function sequenceWithShared(sequence: Sequence, shared: Shared): Sequence {
  const some = emailSteps(sequence).some((s) => walkBlocks(s.email.blocks).some((p) => p.block.kind === 'shared'));
  if (!some) return sequence;
  const copy = structuredClone(sequence);
  for (const step of emailSteps(copy)) step.email = withShared(step.email, shared);
  return copy;
}

/** A finding about what a shared block holds is told at the block that stands for it, and mended in the library. */
export function outsideShared(finding: Finding): Finding {
  const { block } = finding.place;
  const inside = block?.indexOf(INSIDE) ?? -1;
  if (block === null || inside < 0) return finding;
  const { repair: _, ...rest } = finding;
  return {
    ...rest,
    place: { ...finding.place, block: block.slice(0, inside), part: 'shared block' },
    fix: `It stands in a shared block: change it in the library, or take the block apart here. ${finding.fix}`,
  };
}
