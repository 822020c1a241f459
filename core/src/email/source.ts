import { parse, parseFragment, type DefaultTreeAdapterTypes } from 'parse5';
import { guard, isUntracked, type Masks } from './masks.ts';

type Node = DefaultTreeAdapterTypes.Node;
type Element = DefaultTreeAdapterTypes.Element;

const isElement = (n: Node): n is Element => 'tagName' in n;
const childrenOf = (n: Node): Node[] => ('childNodes' in n ? n.childNodes : []);
const BLOCK = /^(p|div|h[1-6]|li|tr|table|ul|ol|blockquote|section|article|header|footer|hr)$/;
const UNSEEN = /^(style|script|head|title|template)$/;

export const textIn = (n: Node): string =>
  'value' in n && n.nodeName === '#text' ? n.value : childrenOf(n).map(textIn).join('');

export const attribute = (e: Element, name: string): string | undefined => e.attrs.find((a) => a.name === name)?.value;

/** Every element of a source, in reading order, with where it stands. A whole page or a part of one. */
export function elementsOf(html: string): Element[] {
  const options = { sourceCodeLocationInfo: true } as const;
  const root: Node = /<html[\s>]/i.test(html) ? parse(html, options) : parseFragment(html, options);
  const out: Element[] = [];
  const visit = (n: Node) => {
    if (isElement(n)) out.push(n);
    childrenOf(n).forEach(visit);
  };
  visit(root);
  return out;
}

/** The links of a source: their addresses as written, and their words. */
export const linksInSource = (html: string): { address: string; label: string }[] =>
  elementsOf(html).flatMap((e) => {
    const address = e.tagName === 'a' ? attribute(e, 'href') : undefined;
    return address === undefined ? [] : [{ address, label: textIn(e).replace(/\s+/g, ' ').trim() || address }];
  });

/** A source as plain text. `link` writes the address of the n-th link. */
export function sourceAsText(html: string, link: (address: string, n: number) => string): string {
  let n = 0;
  const write = (node: Node): string => {
    if (node.nodeName === '#text' && 'value' in node) return node.value.replace(/\s+/g, ' ');
    if (!isElement(node)) return childrenOf(node).map(write).join('');
    if (UNSEEN.test(node.tagName)) return '';
    if (node.tagName === 'br') return '\n';
    const inside = childrenOf(node).map(write).join('');
    const address = node.tagName === 'a' ? attribute(node, 'href') : undefined;
    const words = address === undefined ? inside : `${inside} ( ${link(address, n++)} )`;
    return BLOCK.test(node.tagName) ? `\n${words}\n` : words;
  };
  const root: Node = /<html[\s>]/i.test(html) ? parse(html) : parseFragment(html);
  return write(root)
    .replace(/[ \t]{0,200}\n[ \t]*/g, '\n')
    .replace(/\n{3,}/g, '\n\n')
    .trim();
}

/**
 * A source of somebody's own with its merge fields masked and its links led through us; and the same as plain text. The
 * rest stays as it was written, to the letter.
 */
export function maskSource(source: string, masks: Masks): { html: string; plain: string } {
  const first = masks.linksHere.length;
  let html = '';
  let at = 0;
  for (const e of elementsOf(source)) {
    const place = e.tagName === 'a' ? e.sourceCodeLocation?.attrs?.href : undefined;
    const address = attribute(e, 'href');
    // An address of our own is a mask of its own kind, not a link to follow.
    if (!place || address === undefined || isUntracked(address) || address.startsWith('#')) continue;
    if (/^\s*\{\{\s*links\./.test(address)) continue;
    html += `${masks.plain(source.slice(at, place.startOffset))}href="${masks.link(address, textIn(e).trim() || address)}"`;
    at = place.endOffset;
  }
  html += masks.plain(source.slice(at));
  let next = first;
  const plain = sourceAsText(guard(source), (address) =>
    isUntracked(address) || address.startsWith('#') || /^\s*\{\{\s*links\./.test(address)
      ? address
      : masks.linkMask(next++),
  );
  return { html, plain: masks.fields(plain) };
}
