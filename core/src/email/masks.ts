import { readTemplate, type Field } from './fields.ts';
import { writeRich, type RichText, type RichWriter } from './rich.ts';

/** Something in an email that moves from person to person, or from send to send. */
export type Moving =
  | { kind: 'field'; field: Field }
  | { kind: 'link'; index: number }
  | { kind: 'base' }
  | { kind: 'unsubscribe' }
  | { kind: 'open' };

/** A link of an email: its address as a template, or a hosted file, and the words by which it is known. */
export interface EmailLink {
  address: string;
  label: string;
}

export const escapeHtml = (text: string): string =>
  text
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('>', '&gt;')
    .replaceAll('"', '&quot;')
    .replaceAll("'", '&#39;');

const key = (m: Moving) => JSON.stringify(m);
// Letters and digits only, so that nothing between here and the finished HTML reads anything into a mask.
export const MASK = /mzq(\d+)qzm/;
// A mask in the author's own words would be taken for one of ours: a word joiner inside breaks it, unseen.
const guard = (text: string) => text.replace(/mzq(?=\d+qzm)/g, 'mz\u2060q');

/**
 * Gives every moving thing a plain word, so that the layout compiler sees text only and can damage nothing.
 * One instance per compile.
 */
export class Masks {
  readonly moving: Moving[] = [];
  readonly links: EmailLink[] = [];
  readonly #known = new Map<string, number>();

  mask(moving: Moving): string {
    const k = key(moving);
    let index = this.#known.get(k);
    if (index === undefined) {
      index = this.moving.push(moving) - 1;
      this.#known.set(k, index);
    }
    return `mzq${index}qzm`;
  }

  /** Mask of a link's href. mailto: and tel: are not followed through us and stay as they are. */
  link(address: string, label: string): string {
    if (/^(mailto|tel):[^{]*$/i.test(address)) return escapeHtml(address);
    const index = this.links.push({ address, label }) - 1;
    return this.mask({ kind: 'link', index });
  }

  /** A template as HTML text (or attribute value) with masks. */
  html(template: string): string {
    return readTemplate(guard(template))
      .pieces.map((p) => (typeof p === 'string' ? escapeHtml(p) : this.mask({ kind: 'field', field: p })))
      .join('');
  }

  /** A template as plain text with masks. */
  plain(template: string): string {
    return readTemplate(guard(template))
      .pieces.map((p) => (typeof p === 'string' ? p : this.mask({ kind: 'field', field: p })))
      .join('');
  }

  richHtml(doc: RichText, linkStyle: string): string {
    const strip = (html: string) => html.replace(/<[^>]*>/g, '');
    const writer: RichWriter = {
      text: (t) => escapeHtml(guard(t)),
      field: (field) => this.mask({ kind: 'field', field }),
      link: (href, inside) => `<a href="${this.link(href, strip(inside))}" style="${linkStyle}">${inside}</a>`,
      bold: (t) => `<strong>${t}</strong>`,
      italic: (t) => `<em>${t}</em>`,
      lineBreak: '<br>',
      paragraph: (t, last) => `<p style="margin:0 0 ${last ? '0' : '1em'}">${t || '&nbsp;'}</p>`,
      list: (ordered, items) => {
        const tag = ordered ? 'ol' : 'ul';
        return `<${tag} style="margin:0 0 1em;padding-left:1.4em">${items.map((i) => `<li>${i}</li>`).join('')}</${tag}>`;
      },
    };
    return writeRich(doc, writer);
  }

  /** Rich text as plain text. Links are numbered as the HTML numbered them, so both parts count as one link. */
  richPlain(doc: RichText, firstLink: number): string {
    let next = firstLink;
    const writer: RichWriter = {
      text: guard,
      field: (field) => this.mask({ kind: 'field', field }),
      link: (href, inside) =>
        /^(mailto|tel):[^{]*$/i.test(href)
          ? `${inside} (${href.replace(/^\w+:/, '')})`
          : `${inside} ( ${this.mask({ kind: 'link', index: next++ })} )`,
      bold: (t) => t,
      italic: (t) => t,
      lineBreak: '\n',
      paragraph: (t) => `${t}\n\n`,
      list: (ordered, items, depth) =>
        items.map((item, i) => `${'  '.repeat(depth)}${ordered ? `${i + 1}.` : '-'} ${item.trim()}\n`).join('') +
        (depth === 0 ? '\n' : ''),
    };
    return writeRich(doc, writer).trim();
  }
}
