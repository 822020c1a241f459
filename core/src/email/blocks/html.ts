import { z } from 'zod';
import { maskSource } from '../source.ts';
import { blockBase, type BlockKind, leaf, node, padding, parts } from './kind.ts';

const schema = z.object({ ...blockBase, kind: z.literal('html'), source: z.string().max(50_000) });

export const htmlBlock: BlockKind<'html', typeof schema> = {
  ...leaf,
  kind: 'html',
  name: 'HTML',
  about: 'A piece of your own source',
  schema,
  looks: ['above', 'below'],
  blank: (newId) => ({ id: newId(), kind: 'html', source: '' }),
  compile: (block, canvas) => {
    if (!block.source.trim()) return { nodes: [], plain: '' };
    const { html, plain } = maskSource(block.source, canvas.masks);
    return {
      nodes: [
        node('mj-text', { padding: padding(block.look, canvas, 0, 0), 'font-size': `${canvas.style.size}px` }, html),
      ],
      plain,
    };
  },
  parts: (block) => parts({ html: [block.source] }),
  title: () => 'Raw HTML',
  sample: (newId) => ({
    id: newId(),
    kind: 'html',
    source: '<p>A <a href="https://foldwell.example/raw">piece of source</a>.</p>',
  }),
};
