import { canvasFor, compileBlock, escapeHtml, MASK, Masks, type Block, type HouseStyle } from '@ascenso/core';
import { fieldLabel } from './template-text.tsx';

type Node = ReturnType<typeof compileBlock>['nodes'][number];

const CHIP =
  'border-radius:5px;background:#e5edf5;color:#3a5b7e;padding:0 6px;font-size:.92em;font-weight:600;white-space:nowrap';

const GREY =
  "data:image/svg+xml,%3Csvg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 4 4'%3E%3Crect width='4' height='4' fill='%23ddd6c8'/%3E%3C/svg%3E";

/** Width and height in px of a picture of the library; null where nobody knows them. */
export type SizeOf = (file: string) => { width: number; height: number } | null;

/** A picture has its place before it has come: what is below it does not jump from under the mouse. */
function withPlace(tag: string, sizeOf: SizeOf): string {
  const size = sizeOf(/^<img\b[^>]*\ssrc="\/f\/([^"]+)"/.exec(tag)?.[1] ?? '');
  return size ? tag.replace(/\sstyle="/, `$&aspect-ratio:auto ${size.width} / ${size.height};`) : tag;
}

/** Masks give way to what an author knows: a chip for a field, nothing for what only a send fills. */
function unmask(html: string, masks: Masks, sizeOf: SizeOf): string {
  const fieldAt = (n: string): string | null => {
    const node = masks.moving[Number(n)];
    return node?.kind === 'field' ? fieldLabel(node.field.path) : null;
  };
  const all = new RegExp(MASK.source, 'g');
  const address = (n: string): string => {
    const node = masks.moving[Number(n)];
    if (node?.kind === 'link') return '#';
    return node?.kind === 'base' ? '' : escapeHtml(fieldAt(n) ?? '');
  };
  const fillTag = (tag: string) => {
    const moves = /^<img\b[^>]*\ssrc="([^"]*)"/.exec(tag)?.[1];
    // A link of the page one writes on leads nowhere: it must not take the focus either.
    const filled = tag.replace(all, (_, n: string) => address(n)).replace(/^(<a\b[^>]*?)\shref="[^"]*"/, '$1');
    // A picture that is fetched anew for each reader has no address yet: a grey field stands for it.
    const needs = [...(moves ?? '').matchAll(all)].some((m) => masks.moving[Number(m[1])]?.kind !== 'base');
    return needs ? filled.replace(/\ssrc="[^"]*"/, ` src="${GREY}"`) : withPlace(filled, sizeOf);
  };
  return html.replace(/<[^<>]*>/g, fillTag).replace(all, (_, n: string) => {
    const label = fieldAt(n);
    return label ? `<span style="${CHIP}">${escapeHtml(label)}</span>` : '';
  });
}

/** A node of the layout as a browser shows it: close to the real thing, which the phone beside it is. */
function toHtml(node: Node): string {
  const a = node.attributes ?? {};
  const inside = (node.children ?? []).map(toHtml).join('');
  const box = `padding:${a.padding ?? 0};text-align:${a.align ?? 'left'};background:${a['container-background-color'] ?? 'none'}`;
  const words = `font-family:${a['font-family'] ?? 'inherit'};font-size:${a['font-size'] ?? '17px'};line-height:${a['line-height'] ?? 1.5};color:${a.color ?? 'inherit'}`;
  switch (node.tagName) {
    case 'mj-text':
      return `<div style="${box};${words}">${node.content ?? ''}</div>`;
    case 'mj-button':
      return `<div style="${box};background:none"><span style="display:inline-block;${a.width ? 'width:100%;box-sizing:border-box;text-align:center;' : ''}background:${a['background-color']};${words};font-weight:600;border-radius:${a['border-radius']};padding:${a['inner-padding']}">${node.content ?? ''}</span></div>`;
    case 'mj-image':
      return `<div style="${box}"><img src="${a.src}" alt="${a.alt ?? ''}" style="display:inline-block;width:${a.width ?? '100%'};max-width:100%;height:auto;border-radius:${a['border-radius'] ?? 0}"></div>`;
    case 'mj-divider':
      return `<div style="${box}"><hr style="border:0;border-top:${a['border-width']} solid ${a['border-color']};margin:0"></div>`;
    case 'mj-spacer':
      return `<div style="height:${a.height};${box}"></div>`;
    case 'mj-section':
    case 'mj-group':
      return `<div style="display:flex;padding:${a.padding ?? 0};background:${a['background-color'] ?? 'none'}">${inside}</div>`;
    case 'mj-column':
      return `<div style="flex:1;min-width:0">${inside}</div>`;
    case 'mj-wrapper':
      return `<div style="padding:${a.padding ?? 0};background:${a['background-color'] ?? 'none'}">${inside}</div>`;
    default:
      return '';
  }
}

/** How a block looks on the canvas: its own compile, with chips where values will stand. '' for one that shows nothing yet. */
export function faceOf(
  block: Block,
  style: HouseStyle,
  options: {
    shared: Readonly<Record<string, readonly Block[]>>;
    service: boolean;
    letter: boolean;
    side: number;
    sizeOf: SizeOf;
  },
): string {
  const masks = new Masks();
  const canvas = { ...canvasFor(masks, style, options), side: options.side };
  const { nodes, sections = [] } = compileBlock(block, canvas);
  return unmask([...nodes, ...sections].map(toHtml).join(''), masks, options.sizeOf);
}
