import { z } from 'zod';
import { hexOf } from '../look.ts';
import {
  addressField,
  blockBase,
  type BlockKind,
  colorOf,
  emptiness,
  leaf,
  linkStyle,
  node,
  padding,
  parts,
  raw,
  textAttributes,
  textColours,
} from './kind.ts';

const schema = z.object({
  ...blockBase,
  kind: z.literal('button'),
  label: z.string().max(120),
  /** An address with merge fields, or `file:` and the id of a hosted file. */
  address: addressField,
});

export const buttonBlock: BlockKind<'button', typeof schema> = {
  ...leaf,
  kind: 'button',
  name: 'Button',
  about: 'The one thing to do',
  schema,
  looks: ['align', 'wide', 'size', 'color', 'background', 'radius', 'above', 'below'],
  blank: (newId) => ({ id: newId(), kind: 'button', label: '', address: '' }),
  compile: (block, canvas) => {
    const { masks, style, dress } = canvas;
    const { look } = block;
    const href = masks.link(block.address, block.label || 'Button');
    const label = masks.html(block.label) || '&nbsp;';
    const led = masks.ledAround(block.address);
    const plain = `${led.start}${masks.plain(block.label)}:\n${href}${led.end}`;
    if (!dress)
      return {
        nodes: [
          node(
            'mj-text',
            textAttributes(look, canvas),
            `${led.start}<p style="margin:0"><a href="${href}" style="${linkStyle(canvas)}">${label}</a></p>${led.end}`,
          ),
        ],
        plain,
      };
    return {
      nodes: [
        ...(led.start ? [raw(led.start)] : []),
        node(
          'mj-button',
          {
            href,
            'css-class': 'fill',
            'background-color': look?.background ? hexOf(look.background, style) : style.accent,
            color: colorOf(look, style.onAccent, canvas),
            'font-family': style.font,
            'font-size': `${look?.size ?? style.size}px`,
            'font-weight': '600',
            'border-radius': `${look?.radius ?? style.radius}px`,
            'inner-padding': '14px 26px',
            padding: padding(look, canvas, 14, 14),
            align: look?.align ?? 'center',
            ...(look?.wide ? { width: '100%' } : {}),
          },
          label,
        ),
        ...(led.end ? [raw(led.end)] : []),
      ],
      plain,
    };
  },
  parts: (block) =>
    parts({
      templates: [{ place: 'label', source: block.label }],
      links: [{ place: 'address', address: block.address, label: block.label || 'Button' }],
    }),
  title: (block) => block.label || 'Button',
  colours: (block, _, style) => textColours(block.look, style.accent, style, { color: style.onAccent, bold: true }),
  empty: (block) =>
    block.label.trim()
      ? null
      : emptiness('A button', 'label', { is: 'has no words on it', fix: 'Say what it does.', level: 'error' }),
  sample: (newId) => ({
    id: newId(),
    kind: 'button',
    label: 'See the kits',
    address: 'https://foldwell.example/kits',
    look: { wide: true },
  }),
};
