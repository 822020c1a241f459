import { z } from 'zod';
import { blockBase, type BlockKind, hexOf, leaf, lineField, node, parts, raw, textAttributes } from './kind.ts';

const schema = z.object({
  ...blockBase,
  kind: z.literal('code'),
  /** Words above the code. A template. */
  label: lineField,
  /** Words below it: how long it holds. A template. */
  note: lineField,
});

/** The coupon code of the email's offer: the reader's own where codes are unique. Nothing is shown where there is none. */
export const codeBlock: BlockKind<'code', typeof schema> = {
  ...leaf,
  kind: 'code',
  name: 'Code',
  about: 'The coupon code of the offer',
  schema,
  mayHide: { label: 'Words above the code', note: 'Words below it' },
  looks: ['align', 'size', 'color', 'background', 'radius', 'above', 'below'],
  blank: (newId) => ({
    id: newId(),
    kind: 'code',
    label: 'Your code',
    note: 'Good until {{ offer.deadline | date: "moment" }}',
  }),
  compile: (block, canvas) => {
    const { masks, style } = canvas;
    const { look } = block;
    const { start, end } = masks.givenAround('offer.code');
    const small = `font-size:.82em;color:${style.soft}`;
    const ground = hexOf(look?.background ?? 'page', style);
    const cell = `display:inline-block;padding:12px 22px;border:1px dashed ${style.soft};border-radius:${look?.radius ?? style.radius}px;background:${ground};font-family:'Courier New',Courier,monospace;font-size:1.3em;font-weight:700;letter-spacing:.06em`;
    const line = (template: string, space: string) =>
      template ? `<p class="soft" style="margin:${space};${small}">${masks.html(template)}</p>` : '';
    // A note that states the deadline falls away where the offer has none.
    const note = !block.note
      ? ''
      : /offer\.(deadline|left)/.test(block.note)
        ? masks.given('offer.deadline', line(block.note, '8px 0 0'))
        : line(block.note, '8px 0 0');
    const html = `${line(block.label, '0 0 8px')}<p style="margin:0"><span class="code" style="${cell}">${masks.html('{{ offer.code }}')}</span></p>${note}`;
    const { background: _, ...others } = look ?? {};
    const attributes = { ...textAttributes(others, canvas, [12, 12]), align: look?.align ?? 'center' };
    const plainNote = block.note ? `\n${masks.plain(block.note)}` : '';
    const plain = `${block.label ? `${masks.plain(block.label)}: ` : ''}${masks.plain('{{ offer.code }}')}${/offer\.(deadline|left)/.test(block.note) ? masks.given('offer.deadline', plainNote) : plainNote}`;
    return { nodes: [raw(start), node('mj-text', attributes, html), raw(end)], plain: `${start}${plain}${end}` };
  },
  parts: (block) =>
    parts({
      templates: [
        { place: 'label', source: block.label },
        { place: 'note', source: block.note },
        { place: 'code', source: '{{ offer.code }}' },
      ],
    }),
  title: (block) => block.label || 'Code',
  sample: (newId) => ({ id: newId(), kind: 'code', label: 'Your code', note: 'Good at both counters.' }),
};
