import { parseFragment, type DefaultTreeAdapterTypes } from 'parse5';
import { escapeHtml } from './masks.ts';

type Node = DefaultTreeAdapterTypes.Node;
type Element = DefaultTreeAdapterTypes.Element;

const isElement = (n: Node): n is Element => 'tagName' in n;
const childrenOf = (n: Node): Node[] => ('childNodes' in n ? n.childNodes : []);
const attribute = (e: Element, name: string) => e.attrs.find((a) => a.name === name)?.value ?? '';

/** Tags that stand for a mark, and those whose style does. */
const MARKS: Record<string, string> = {
  b: 'strong',
  strong: 'strong',
  i: 'em',
  em: 'em',
  u: 'u',
  s: 's',
  strike: 's',
  del: 's',
};
const GONE = /^(style|script|head|meta|link|title|xml|o:p|template|svg|object|iframe|input|button|select|img)$/;
const PARAGRAPH = /^(p|div|h[1-6]|blockquote|pre|section|article|header|footer|address|dt|dd|figure|figcaption)$/;

/** A piece of what was pasted: running text, or something that stands by itself. */
type Piece = { inline: string } | { paragraph: string } | { item: string; level: number; ordered: boolean };

// A browser pastes the whole of a document as bold text of normal weight: the style has the last word.
const weightOf = (e: Element): 'bold' | 'normal' | null => {
  const weight = /(?:^|;)\s*font-weight:\s*(bold|bolder|normal|[1-9]00)/i.exec(attribute(e, 'style'))?.[1];
  return weight === undefined
    ? null
    : weight === 'bold' || weight === 'bolder' || Number(weight) >= 600
      ? 'bold'
      : 'normal';
};

function marked(e: Element, inside: string): string {
  if (inside.trim() === '') return inside;
  const style = attribute(e, 'style');
  const weight = weightOf(e);
  const marks = new Set<string>();
  const own = MARKS[e.tagName];
  if (own && !(own === 'strong' && weight === 'normal')) marks.add(own);
  if (weight === 'bold' && !/^h[1-6]$/.test(e.tagName)) marks.add('strong');
  if (/font-style:\s*italic/i.test(style)) marks.add('em');
  if (/text-decoration[^;]*line-through/i.test(style)) marks.add('s');
  const href = e.tagName === 'a' ? attribute(e, 'href').trim() : '';
  let out = [...marks].reduce((t, m) => `<${m}>${t}</${m}>`, inside);
  if (/^(https?:|mailto:|tel:|\{\{)/i.test(href)) out = `<a href="${escapeHtml(href)}">${out}</a>`;
  return out;
}

/** The word processors' own lists: paragraphs that say "mso-list" and carry their bullet as text. */
function wordItem(e: Element): { level: number } | null {
  const style = attribute(e, 'style');
  const level = /mso-list:[^;]*level(\d)/i.exec(style)?.[1];
  if (level) return { level: Number(level) };
  return /MsoListParagraph/i.test(attribute(e, 'class')) && /mso-list/i.test(style) ? { level: 1 } : null;
}
const isIgnored = (e: Element) => /mso-list:\s*ignore/i.test(attribute(e, 'style'));
const bulletOf = (e: Element): string => {
  for (const c of childrenOf(e)) {
    if (isElement(c) && isIgnored(c)) return textIn(c).trim();
    if (isElement(c)) {
      const found = bulletOf(c);
      if (found) return found;
    }
  }
  return '';
};
const textIn = (n: Node): string =>
  'value' in n && n.nodeName === '#text' ? n.value : childrenOf(n).map(textIn).join('');

/** Without the white space and the line breaks at its two ends. */
function withoutBreaksAround(html: string): string {
  let out = html.trim();
  while (out.startsWith('<br>')) out = out.slice(4).trimStart();
  while (out.endsWith('<br>')) out = out.slice(0, -4).trimEnd();
  return out;
}

/** A run of pieces as running text. */
const inlineOf = (pieces: readonly Piece[]): string =>
  pieces
    .map((p) => ('inline' in p ? p.inline : 'paragraph' in p ? `${p.paragraph}<br>` : p.item))
    .join('')
    .replace(/(<br>){1,100}$/, '');

function read(n: Node, level: number, ordered: boolean): Piece[] {
  if (n.nodeName === '#text' && 'value' in n) return [{ inline: escapeHtml(n.value.replace(/[\s\u00a0]+/g, ' ')) }];
  if (!isElement(n)) return n.nodeName === '#comment' ? [] : childrenOf(n).flatMap((c) => read(c, level, ordered));
  if (GONE.test(n.tagName) || n.tagName.includes(':') || isIgnored(n) || /display:\s*none/i.test(attribute(n, 'style')))
    return [];
  const inside = (l = level, o = ordered) => childrenOf(n).flatMap((c) => read(c, l, o));
  if (n.tagName === 'br') return [{ inline: '<br>' }];
  if (n.tagName === 'ul' || n.tagName === 'ol') return inside(level + 1, n.tagName === 'ol');
  if (n.tagName === 'li')
    return split(inside()).map((p) =>
      'inline' in p
        ? { item: p.inline, level: Math.max(1, level), ordered }
        : 'paragraph' in p
          ? { item: p.paragraph, level: Math.max(1, level), ordered }
          : p,
    );
  if (n.tagName === 'tr') {
    const cells = childrenOf(n)
      .filter(isElement)
      .map((c) =>
        inlineOf(read(c, level, ordered))
          .replace(/<br>/g, ' ')
          .trim(),
      );
    return [{ paragraph: cells.filter(Boolean).join(' | ') }];
  }
  const item = wordItem(n);
  if (item) {
    const isNumber = /^[\da-z]{1,3}[.)]$/i.test(bulletOf(n));
    return [{ item: inlineOf(inside()).trim(), level: item.level, ordered: isNumber }];
  }
  if (PARAGRAPH.test(n.tagName)) {
    const parts = split(inside());
    return parts.map((p) => ('inline' in p ? { paragraph: marked(n, p.inline) } : p));
  }
  // A mark around whole paragraphs goes into each of them.
  return inside().map((p): Piece =>
    'inline' in p
      ? { inline: marked(n, p.inline) }
      : 'paragraph' in p
        ? { paragraph: marked(n, p.paragraph) }
        : { ...p, item: marked(n, p.item) },
  );
}

/** Joins neighbouring runs of text; what stands by itself stays apart. */
function split(pieces: readonly Piece[]): Piece[] {
  const out: Piece[] = [];
  for (const p of pieces) {
    const last = out.at(-1);
    if ('inline' in p && last && 'inline' in last) last.inline += p.inline;
    else out.push({ ...p });
  }
  return out.filter((p) => !('inline' in p) || p.inline.trim() !== '');
}

function write(pieces: readonly Piece[]): string {
  let out = '';
  const open: boolean[] = [];
  const closeTo = (level: number) => {
    while (open.length > level) out += `</li></${open.pop() ? 'ol' : 'ul'}>`;
  };
  for (const p of pieces) {
    if (!('item' in p)) {
      closeTo(0);
      const text = withoutBreaksAround('inline' in p ? p.inline : p.paragraph);
      if (text) out += `<p>${text}</p>`;
      continue;
    }
    if (open.length > p.level) closeTo(p.level);
    if (open.length === p.level && open.at(-1) !== p.ordered) closeTo(p.level - 1);
    if (open.length === p.level) out += '</li>';
    while (open.length < p.level) {
      out += `<${p.ordered ? 'ol' : 'ul'}>`;
      open.push(p.ordered);
      if (open.length < p.level) out += '<li>';
    }
    out += `<li><p>${withoutBreaksAround(p.item)}</p>`;
  }
  closeTo(0);
  return out;
}

/**
 * What was pasted from a word processor or a page, with nothing left but paragraphs, lists, links and marks. The lists of
 * word processors become lists; a table becomes a line for each row. Merge fields stay as they are written.
 */
export function cleanPaste(html: string): string {
  // Conditional comments hold the same list bullets once more.
  const bare = html.replace(/<!--\[if[\s\S]*?<!\[endif\]-->/gi, '').replace(/<!\[(?:if|endif)[^\]]*\]>/gi, '');
  return write(split(read(parseFragment(bare), 0, false)));
}
