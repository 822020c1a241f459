import { z } from 'zod';
import { blockBase, type BlockKind, type Canvas, leaf, linkStyle, node, padding, parts, raw, tree } from './kind.ts';

const partSchema = z.object({
  on: z.boolean(),
  /** Field of one item: "title", "product.image". */
  field: z.string().max(120),
});

/** The parts of one item, in the order in which they are drawn. */
export const repeatParts = ['picture', 'title', 'text', 'quantity', 'price'] as const;
export type RepeatPart = (typeof repeatParts)[number];

/** The list of a repeat that goes through what its author has picked, and the fields that each of those has. */
export const PICKED = 'picked';
export const pickedFields = ['picture', 'title', 'text', 'link'] as const;
const pickedSchema = z.object({
  picture: z.string().max(2000),
  title: z.string().max(300),
  text: z.string().max(1000),
  link: z.string().max(2000),
});
export type PickedItem = z.infer<typeof pickedSchema>;

const schema = z.object({
  ...blockBase,
  kind: z.literal('repeat'),
  /** Path of a list: "event.lines", "subscriber.viewed"; or `PICKED`. */
  list: z.string().max(120),
  /** What the author has picked, where it goes through that. */
  picked: z.array(pickedSchema).max(24, '24 at most.').optional(),
  limit: z.int().min(1, 'One item at least.').max(24, '24 items at most.'),
  sort: z.object({ field: z.string().max(120), down: z.boolean() }).nullable(),
  /** Items beside each other on a desktop; under each other on a phone. */
  across: z.int().min(1).max(4, 'Four beside each other at most.'),
  picture: partSchema,
  title: partSchema,
  text: partSchema,
  quantity: partSchema,
  price: partSchema,
  /** Field with the item's own address, or ''. */
  link: z.string().max(120),
  button: z.object({ on: z.boolean(), label: z.string().max(80) }),
  /** What stands there when the list is empty: a template, '' for nothing. */
  none: z.string().max(500),
});
export type RepeatBlock = z.infer<typeof schema>;

const field = (path: string, format = '') => `{{ item.${path}${format} }}`;
export const itemAddress = (block: Pick<RepeatBlock, 'link'>): string => (block.link ? field(block.link) : '');
const shown = (part: { on: boolean; field: string }) => part.on && part.field !== '';

/** The words of one item as HTML, and its picture. */
function item(block: RepeatBlock, canvas: Canvas, pictureWidth: number) {
  const { masks, style } = canvas;
  const href = block.link ? masks.link(itemAddress(block), 'Item') : '';
  // An item whose page is not known is shown all the same, and leads nowhere.
  const led = block.link ? masks.ledAround(itemAddress(block)) : { start: '', end: '' };
  const linked = (inside: string, css: string) =>
    href ? `${led.start}<a href="${href}" style="${css}">${led.end}${inside}${led.start}</a>${led.end}` : inside;
  const title = shown(block.title) ? masks.html(field(block.title.field)) : '';
  const price = shown(block.price) ? masks.html(field(block.price.field, ' | money')) : '';
  const quantity = shown(block.quantity)
    ? masks.given(`item.${block.quantity.field}`, `${masks.html(field(block.quantity.field))} × `)
    : '';
  const words = [
    title && `<p style="margin:0 0 2px;font-weight:600">${linked(title, 'color:inherit;text-decoration:none')}</p>`,
    shown(block.text)
      ? masks.given(
          `item.${block.text.field}`,
          `<p class="soft" style="margin:0 0 2px;color:${style.soft}">${masks.html(field(block.text.field))}</p>`,
        )
      : '',
    price || quantity ? `<p style="margin:0">${quantity}${price}</p>` : '',
    block.button.on &&
      href &&
      `${led.start}<p style="margin:6px 0 0"><a href="${href}" style="${linkStyle(canvas)}">${masks.html(block.button.label)}</a></p>${led.end}`,
  ].filter(Boolean);
  const address = shown(block.picture) ? field(block.picture.field) : '';
  const picture = address
    ? masks.given(
        `item.${block.picture.field}`,
        linked(
          `<img src="${masks.picture('', address)}" alt="${title}" width="${pictureWidth}" style="display:block;width:100%;max-width:${pictureWidth}px;height:auto;border:0;border-radius:${style.radius}px">`,
          'text-decoration:none',
        ),
      )
    : '';
  const plain = `- ${quantity}${shown(block.title) ? masks.plain(field(block.title.field)) : ''}${price ? `, ${masks.plain(field(block.price.field, ' | money'))}` : ''}${href ? `${led.start}\n  ${href}${led.end}` : ''}\n`;
  return { words: words.join(''), picture, plain };
}

/** One item layout for every item of a list: rows of as many cells as stand beside each other, empty cells kept. */
export const repeatBlock: BlockKind<'repeat', typeof schema> = {
  ...leaf,
  kind: 'repeat',
  name: 'Repeat',
  about: 'Cart lines, viewed products, articles',
  schema,
  looks: ['size', 'background', 'above', 'below'],
  blank: (newId) => ({
    id: newId(),
    kind: 'repeat',
    list: '',
    limit: 6,
    sort: null,
    across: 1,
    link: '',
    picture: { on: true, field: '' },
    title: { on: true, field: '' },
    text: { on: false, field: '' },
    quantity: { on: true, field: '' },
    price: { on: true, field: '' },
    button: { on: false, label: 'Look' },
    none: '',
  }),
  compile: (block, canvas) => {
    const { masks, style } = canvas;
    if (!block.list) return { nodes: [], plain: '' };
    const edge = Math.max(0, canvas.side - 12);
    const cellWidth = Math.floor((canvas.width - 2 * edge) / block.across) - 24;
    const { list, limit, sort, across } = block;
    const picked = list === PICKED ? { items: block.picked ?? [] } : {};
    // Not part of an item: what stands there for an empty list is filled from the person.
    const none = { html: masks.html(block.none), plain: masks.plain(block.none) };
    return masks.each({ list, limit, sort, across, ...picked }, (repeat) => {
      const text = {
        'font-family': style.font,
        'font-size': `${block.look?.size ?? style.size}px`,
        'line-height': '1.45',
        color: style.text,
        padding: '6px 12px',
      };
      const one = item(block, canvas, across === 1 ? 96 : cellWidth);
      const cells = Array.from({ length: across }, (_, cell) => {
        const html =
          across === 1 && one.picture
            ? `<table role="presentation" cellpadding="0" cellspacing="0" style="width:100%;border-collapse:collapse;font:inherit;color:inherit"><tr><td style="width:96px;vertical-align:top;padding:0 16px 0 0">${one.picture}</td><td style="vertical-align:top;padding:0">${one.words}</td></tr></table>`
            : `${one.picture ? `<div style="margin:0 0 8px">${one.picture}</div>` : ''}${one.words}`;
        return tree('mj-column', { 'vertical-align': 'top', width: `${Math.round(10000 / across) / 100}%` }, [
          raw(masks.mask({ kind: 'cell', cell })),
          node('mj-text', text, html),
          raw(masks.end()),
        ]);
      });
      const row = tree(
        'mj-section',
        {
          'background-color': style.sheet,
          padding: `${block.look?.above ?? 6}px ${edge}px ${block.look?.below ?? 6}px`,
          'css-class': 'sheet',
        },
        cells,
      );
      const empty = block.none
        ? [
            tree('mj-section', { 'background-color': style.sheet, padding: '0', 'css-class': 'sheet' }, [
              tree('mj-column', {}, [
                node('mj-text', { ...text, padding: padding(block.look, canvas, 8, 8) }, none.html),
              ]),
            ]),
          ]
        : [];
      const begin = masks.mask({ kind: 'row', repeat });
      const other = masks.mask({ kind: 'none', repeat });
      const plainCells = Array.from(
        { length: across },
        (_, cell) => `${masks.mask({ kind: 'cell', cell })}${one.plain}${masks.end()}`,
      );
      return {
        nodes: [],
        sections: [raw(begin), row, raw(other), ...empty, raw(masks.end())],
        plain: `${begin}${plainCells.join('')}${other}${none.plain}${masks.end()}`,
      };
    });
  },
  parts: (block) =>
    parts({
      templates: [
        { place: 'when it is empty', source: block.none },
        ...(block.button.on ? [{ place: 'label', source: block.button.label }] : []),
        ...repeatParts.flatMap((p) => (shown(block[p]) ? [{ place: p, source: field(block[p].field) }] : [])),
      ],
      links: block.link ? [{ place: 'link', address: itemAddress(block), label: 'Item' }] : [],
    }),
  title: (block) =>
    block.list === PICKED
      ? 'Repeat over picked articles'
      : block.list
        ? `Repeat over ${block.list.split('.').pop()}`
        : 'Repeat',
  stands: ['section'],
  sample: (newId) => ({
    id: newId(),
    kind: 'repeat',
    list: 'event.lines',
    limit: 6,
    sort: null,
    across: 2,
    link: 'url',
    picture: { on: true, field: 'image' },
    title: { on: true, field: 'title' },
    text: { on: true, field: 'summary' },
    quantity: { on: true, field: 'quantity' },
    price: { on: true, field: 'price' },
    button: { on: true, label: 'Look' },
    none: 'Nothing in it.',
  }),
};
