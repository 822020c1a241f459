import type { MjmlNode } from '@ascenso/mjml-slim';
import { compileBlock, type Block, type Canvas, type Compiled } from './blocks/index.ts';
import { raw, tree } from './blocks/kind.ts';
import type { Masks } from './masks.ts';
import { letterStyle, type HouseStyle } from './style.ts';
import { chainsOf } from './when.ts';

const nothing: Compiled = { nodes: [], plain: '' };

/** A block as it is sent: nothing when it is switched off, and marked when only a phone or a desktop shows it. */
function compiled(block: Block, canvas: Canvas, mark: boolean): Compiled {
  if (block.off) return nothing;
  const made = compileBlock(block, canvas);
  const classes = [...(block.only ? [`only-${block.only}`] : []), ...(mark ? [`block-${block.id}`] : [])].join(' ');
  if (!classes) return made;
  const marked = (n: MjmlNode): MjmlNode =>
    n.tagName === 'mj-raw'
      ? n
      : {
          ...n,
          attributes: {
            ...n.attributes,
            'css-class': [n.attributes?.['css-class'], classes].filter(Boolean).join(' '),
          },
        };
  return {
    nodes: made.nodes.map(marked),
    ...(made.sections ? { sections: made.sections.map(marked) } : {}),
    plain: made.plain,
  };
}

// The space between two blocks of plain text belongs to the block, so that one that is not shown leaves no gap.
const apart = (plain: string) => (plain.trim() === '' ? '' : `${plain}\n\n`);

/** A block inside a column is never a section: columns hold leaves only. */
function column(blocks: readonly Block[], canvas: Canvas, mark: boolean): Compiled {
  const out: Required<Pick<Compiled, 'nodes' | 'plain'>> = { nodes: [], plain: '' };
  const add = (block: Block) => {
    const made = compiled(block, canvas, mark);
    out.nodes.push(...made.nodes);
    out.plain += apart(made.plain);
  };
  for (const link of chainsOf(blocks)) {
    if ('alone' in link) {
      add(link.alone);
      continue;
    }
    const chain = canvas.masks.chain(link.chain.map((c) => c.condition));
    link.chain.forEach(({ item }, i) => {
      out.nodes.push(raw(chain.arm(i)));
      out.plain += chain.arm(i);
      add(item);
    });
    out.nodes.push(raw(chain.end()));
    out.plain += chain.end();
  }
  return { nodes: out.nodes, plain: out.plain.trimEnd() };
}

const sectionOf = (nodes: MjmlNode[], { style }: Canvas): MjmlNode =>
  tree('mj-section', { 'background-color': style.sheet, padding: '0', 'css-class': 'sheet' }, [
    tree('mj-column', {}, nodes),
  ]);

/** Blocks as sections: neighbours that need none of their own share one. */
function stack(blocks: readonly Block[], canvas: Canvas, mark: boolean): Compiled & { sections: MjmlNode[] } {
  const sections: MjmlNode[] = [];
  let open: MjmlNode[] = [];
  let plain = '';
  const close = () => {
    if (open.length > 0) sections.push(sectionOf(open, canvas));
    open = [];
  };
  const add = (block: Block) => {
    const made = compiled(block, canvas, mark);
    if (made.sections) {
      close();
      sections.push(...made.sections);
    } else open.push(...made.nodes);
    plain += apart(made.plain);
  };
  for (const link of chainsOf(blocks)) {
    if ('alone' in link) {
      add(link.alone);
      continue;
    }
    close();
    const chain = canvas.masks.chain(link.chain.map((c) => c.condition));
    link.chain.forEach(({ item }, i) => {
      sections.push(raw(chain.arm(i)));
      plain += chain.arm(i);
      add(item);
      close();
    });
    sections.push(raw(chain.end()));
    plain += chain.end();
  }
  close();
  return { nodes: [], sections, plain };
}

/** Space that the first and the last section keep from the edge of the sheet, px. */
const EDGE = 18;

/** Writes the edge into a section's padding, whatever way that is written. */
function withEdge(section: MjmlNode | undefined, side: 'top' | 'bottom'): void {
  if (section) section.attributes = { ...section.attributes, [`padding-${side}`]: `${EDGE}px` };
}

/** A canvas as wide as the house style says. */
export function canvasFor(
  masks: Masks,
  style: HouseStyle,
  {
    shared = {},
    letter = false,
    mark = false,
    service = false,
  }: { shared?: Canvas['shared']; letter?: boolean; mark?: boolean; service?: boolean },
): Canvas {
  return {
    masks,
    style: letter ? letterStyle(style) : style,
    dress: !letter,
    service,
    width: style.width,
    side: letter ? 8 : 32,
    shared,
    // What a kind hands on are blocks: the kinds alone do not know which there are.
    column: (blocks, canvas) => column(blocks as readonly Block[], canvas, mark),
    stack: (blocks, canvas) => stack(blocks as readonly Block[], canvas, mark),
  };
}

/** Blocks as the sections of one page, with their plain text. */
export function page(blocks: readonly Block[], canvas: Canvas): { sections: MjmlNode[]; plain: string } {
  const { sections, plain } = canvas.stack(blocks, canvas);
  const drawn = sections.filter((s) => s.tagName !== 'mj-raw');
  withEdge(drawn[0], 'top');
  withEdge(drawn.at(-1), 'bottom');
  return { sections, plain: `${plain.trimEnd()}\n` };
}
