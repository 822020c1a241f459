import { blockKinds, paragraphs, type Block, type BlockKindName, type Email } from '../src/email/index.ts';

/**
 * Kinds that the sample email does not take as they are: what a shared block shows is in the library, and the footer comes
 * last.
 */
const APART: readonly BlockKindName[] = ['shared', 'footer'];

/** An email that holds every kind of block there is, inside and out, each with something in it. */
export function everyKind(): Email {
  let n = 0;
  const newId = () => `b${++n}`;
  const text = (words: string, more: object = {}) => ({
    kind: 'text' as const,
    id: newId(),
    doc: paragraphs(words),
    ...more,
  });
  const columns = (phone: 'last-first' | 'beside', left: string, right: string): Block => ({
    kind: 'columns',
    id: newId(),
    phone,
    columns: [left, right].map((words) => ({ id: newId(), share: 1, blocks: [text(words)] })),
  });
  const kinds = (Object.keys(blockKinds) as BlockKindName[]).filter((k) => !APART.includes(k));
  return {
    sender: '',
    subject: 'Every kind of block',
    preview: 'One of each',
    blocks: [
      ...kinds.flatMap((k): Block[] => {
        const block: Block = blockKinds[k].sample(newId);
        // What is for some is followed by what is for the others.
        return block.when ? [block, text('For everybody else', { when: { chain: 'else' } })] : [block];
      }),
      columns('last-first', 'Left column', 'Right column'),
      columns('beside', 'Still left', 'Still right'),
      { kind: 'heading', id: newId(), text: 'Ask for everyone’s advice', level: 2 },
      text('Seen on a phone', { only: 'phone' }),
      blockKinds.footer.sample(newId),
    ],
  };
}
