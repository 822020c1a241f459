import type { MjmlNode } from '@ascenso/mjml-slim';
import { z } from 'zod';
import { conditionSchema, type Condition } from '../../audience/index.ts';
import { hexOf } from '../look.ts';
import { blockBase, type BlockKind, type Canvas, emptiness, leaf, parts, raw, tree } from './kind.ts';
import { leafKinds, leafSchema } from './leaves.ts';
import { paragraphs } from '../rich.ts';

const columnSchema = z.object({
  id: z.string().min(1).max(60),
  /** Part of the width, of the sum of all shares. */
  share: z.int().min(1).max(12),
  /** Who sees it; everyone where it is absent. The others share its width. */
  condition: conditionSchema.optional(),
  blocks: z.array(leafSchema).max(30),
});
export type Column = z.infer<typeof columnSchema>;

const schema = z.object({
  ...blockBase,
  kind: z.literal('columns'),
  columns: z.array(columnSchema).min(2, 'Two columns at least.').max(4, 'Four columns at most.'),
  /** On a phone: under each other in order, the last one first, or still beside each other. */
  phone: z.enum(['in-order', 'last-first', 'beside']),
});

/** The narrower edge inside columns, px. */
const GUTTER = 12;

/** One section for the columns that are there; `masked` says whether it is one of several versions. */
function section(
  block: z.infer<typeof schema>,
  columns: readonly Column[],
  canvas: Canvas,
): { node: MjmlNode; plain: string } {
  const { look } = block;
  const whole = columns.reduce((sum, c) => sum + c.share, 0);
  const edge = Math.max(0, canvas.side - GUTTER);
  const room = canvas.width - 2 * edge;
  const plain: string[] = [];
  const made = columns.map((c) => {
    const inner = canvas.column(c.blocks, { ...canvas, side: GUTTER, width: Math.floor((room * c.share) / whole) });
    plain.push(inner.plain);
    return tree(
      'mj-column',
      { width: `${Math.round((c.share / whole) * 10000) / 100}%`, 'vertical-align': 'top' },
      inner.nodes,
    );
  });
  // Laid out from right to left, the first one written stands at the right, and comes first on a phone.
  const turned = block.phone === 'last-first';
  const children = turned ? made.reverse() : made;
  return {
    node: tree(
      'mj-section',
      {
        'background-color': look?.background ? hexOf(look.background, canvas.style) : canvas.style.sheet,
        padding: `${look?.above ?? 8}px ${edge}px ${look?.below ?? 8}px`,
        'css-class': 'sheet',
        ...(turned ? { direction: 'rtl' } : {}),
      },
      block.phone === 'beside' ? [tree('mj-group', {}, children)] : children,
    ),
    plain: plain.filter((p) => p.trim() !== '').join('\n\n'),
  };
}

/** Every set of columns that somebody can see, each with the condition that picks it out. 15 at most, of four columns. */
function versions(columns: readonly Column[]): { columns: Column[]; condition: Condition }[] {
  const asked = columns.filter((c) => c.condition);
  const out: { columns: Column[]; condition: Condition }[] = [];
  for (let mask = (1 << asked.length) - 1; mask >= 0; mask--) {
    const shown = new Set(asked.filter((_, i) => mask & (1 << i)));
    const seen = columns.filter((c) => !c.condition || shown.has(c));
    if (seen.length === 0) continue;
    const of = asked.map((c): Condition => {
      const condition = c.condition as Condition;
      return shown.has(c) ? condition : { kind: 'not', of: condition };
    });
    out.push({ columns: seen, condition: { kind: 'all', of } });
  }
  return out;
}

export const columnsBlock: BlockKind<'columns', typeof schema> = {
  ...leaf,
  kind: 'columns',
  name: 'Columns',
  about: 'Two to four things side by side',
  schema,
  looks: ['background', 'above', 'below'],
  blank: (newId) => ({
    id: newId(),
    kind: 'columns',
    phone: 'in-order',
    columns: [1, 2].map(() => ({ id: newId(), share: 1, blocks: [] })),
  }),
  compile: (block, canvas) => {
    if (!block.columns.some((c) => c.condition)) {
      const { node, plain } = section(block, block.columns, canvas);
      return { nodes: [], sections: [node], plain };
    }
    const all = versions(block.columns);
    const chain = canvas.masks.chain(all.map((v) => v.condition));
    const sections: MjmlNode[] = [];
    let plain = '';
    all.forEach((v, i) => {
      const made = section(block, v.columns, canvas);
      sections.push(raw(chain.arm(i)), made.node);
      plain += `${chain.arm(i)}${made.plain}`;
    });
    return { nodes: [], sections: [...sections, raw(chain.end())], plain: `${plain}${chain.end()}` };
  },
  parts: () => parts(),
  title: (block) => `${block.columns.length} columns`,
  inside: (block) => block.columns,
  empty: (block) =>
    block.columns.every((c) => c.blocks.length === 0) ? emptiness('The columns', null, { is: 'are empty' }) : null,
  stands: ['section'],
  sample: (newId) => ({
    id: newId(),
    kind: 'columns',
    phone: 'last-first',
    columns: [
      {
        id: newId(),
        share: 1,
        blocks: [
          { ...leafKinds.image.sample(newId), width: 240 },
          { ...leafKinds.heading.sample(newId), text: 'Pamphlet kit', level: 2 },
        ],
      },
      {
        id: newId(),
        share: 2,
        condition: { kind: 'tag', tag: 'teacher', has: true },
        blocks: [
          { id: newId(), kind: 'text', doc: paragraphs('For teachers, by the dozen.') },
          { id: newId(), kind: 'button', label: 'Ask', address: 'mailto:ines@foldwell.example' },
        ],
      },
    ],
  }),
  holds: 'column',
};
