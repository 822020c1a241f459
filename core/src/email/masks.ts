import type { Condition } from '../audience/index.ts';
import { readTemplate, type Field, type TemplatePiece } from './fields.ts';
import type { After, TimerFace } from '../offer/index.ts';
import { writeRich, type RichText, type RichWriter } from './rich.ts';
import type { HouseStyle } from './style.ts';
import { wordStyle } from './word-look.ts';

/** Something in an email that moves from person to person, or from send to send. Those with an `end` hold others. */
export type Moving =
  | { kind: 'field'; field: Field; repeat: number | null }
  | { kind: 'link'; index: number; repeat: number | null }
  | { kind: 'timer'; index: number }
  | { kind: 'base' | 'unsubscribe' | 'open' | 'end' }
  /** The next version of a chain begins here. */
  | { kind: 'arm'; chain: number; arm: number }
  /** What follows is there only where a field has a value. */
  | { kind: 'given'; field: Field; repeat: number | null }
  /** What follows is there only where a link leads somewhere. */
  | { kind: 'led'; index: number; repeat: number | null }
  /** One row of a repeat, drawn as often as the list asks for; then what stands there for an empty list. */
  | { kind: 'row' | 'none'; repeat: number }
  /** The n-th item of a row. */
  | { kind: 'cell'; cell: number };

/** A link of an email: its address as a template, or a hosted file, and the words by which it is known. */
export interface EmailLink {
  address: string;
  label: string;
  /** A picture that comes from an address: filled in like a link, but fetched as it is. */
  picture?: true;
}

/** How a repeat goes through its list. */
export interface RepeatPlan {
  /** Path of the list: "event.lines". */
  list: string;
  /** Its items themselves, where its author has picked them. */
  items?: Readonly<Record<string, string>>[];
  limit: number;
  sort: { field: string; down: boolean } | null;
  /** Items in one row. */
  across: number;
  fields: Field[];
  links: EmailLink[];
}

/** A countdown of an email: what it counts to, how it is drawn (colours as hex), and what it shows afterwards. */
export interface TimerPlan {
  to: { kind: 'offer' } | { kind: 'date'; wall: string; zone: string } | { kind: 'field'; path: string };
  face: TimerFace;
  /** Null for what the offer says. */
  after: After | null;
}

const ENTITIES: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' };
const MARKUP = /[&<>"']/;
const ALL_MARKUP = /[&<>"']/g;

/** Text as HTML text or attribute value. Most values hold nothing to escape, and are answered as they are. */
export const escapeHtml = (text: string): string =>
  MARKUP.test(text) ? text.replace(ALL_MARKUP, (char) => ENTITIES[char] ?? char) : text;

const key = (m: Moving) => JSON.stringify(m);
// Letters and digits only, so that nothing between here and the finished HTML reads anything into a mask.
export const MASK = /mzq(\d+)qzm/;
// A mask in the author's own words would be taken for one of ours: a word joiner inside breaks it, unseen.
export const guard = (text: string) => text.replace(/mzq(?=\d+qzm)/g, 'mz\u2060q');

/** An address that needs no tracking: it opens a mail program or a telephone. */
export const isUntracked = (address: string): boolean => /^(mailto|tel):[^{]*$/i.test(address);

/** The field that stands for our own unsubscribe address, in an email that is written as a source. */
const UNSUBSCRIBE = 'links.unsubscribe';

/**
 * Gives every moving thing a plain word, so that the layout compiler sees text only and can damage nothing.
 * One instance per compile.
 */
export class Masks {
  readonly moving: Moving[] = [];
  readonly links: EmailLink[] = [];
  /** Conditions of each chain; null is "else". */
  readonly chains: (Condition | null)[][] = [];
  readonly repeats: RepeatPlan[] = [];
  readonly timers: TimerPlan[] = [];
  readonly #known = new Map<string, number>();
  /** The repeat whose item is being laid out. */
  #repeat: number | null = null;

  mask(moving: Moving): string {
    const k = key(moving);
    let index = this.#known.get(k);
    if (index === undefined) {
      index = this.moving.push(moving) - 1;
      this.#known.set(k, index);
    }
    return `mzq${index}qzm`;
  }

  /** The links that a link found now is counted among. */
  get linksHere(): EmailLink[] {
    return this.#repeat === null ? this.links : (this.repeats[this.#repeat] as RepeatPlan).links;
  }

  linkMask(index: number): string {
    return this.mask({ kind: 'link', index, repeat: this.#repeat });
  }

  /** Registers a link and answers its mask. Addresses of mail and telephone cannot be followed through us and stay as they are. */
  link(address: string, label: string): string {
    if (isUntracked(address)) return escapeHtml(address);
    return this.linkMask(this.linksHere.push({ address, label }) - 1);
  }

  /**
   * Masks around what is there only where a link, registered last, leads somewhere for this reader: a button without an address
   * is no button. Empty where its address is the same for all.
   */
  ledAround(address: string): { start: string; end: string } {
    if (isUntracked(address) || !address.includes('{{')) return { start: '', end: '' };
    return {
      start: this.mask({ kind: 'led', index: this.linksHere.length - 1, repeat: this.#repeat }),
      end: this.end(),
    };
  }

  /** Where a picture is fetched: a hosted file, or an address with merge fields. */
  picture(file: string, address: string): string {
    if (file) return `${this.mask({ kind: 'base' })}/f/${file}`;
    return this.linkMask(this.linksHere.push({ address, label: 'Picture', picture: true }) - 1);
  }

  field(field: Field): string {
    if (field.path === UNSUBSCRIBE) return this.mask({ kind: 'unsubscribe' });
    // Inside a repeat everything counts per item, so that one item's values stand together.
    return this.mask({ kind: 'field', field, repeat: this.#repeat });
  }

  #template(template: string, still: (text: string) => string): string {
    const write = (p: TemplatePiece) => (typeof p === 'string' ? still(p) : this.field(p));
    return readTemplate(template).pieces.map(write).join('');
  }

  /** A template as HTML text (or attribute value) with masks. */
  html(template: string): string {
    return this.#template(guard(template), escapeHtml);
  }

  /** A template as plain text with masks; or one whose still parts are HTML already. */
  plain(template: string): string {
    return this.fields(guard(template));
  }

  /** The same for a text that holds masks of ours already. */
  fields(text: string): string {
    return this.#template(text, (still) => still);
  }

  /** Opens a chain. `arm(n)` begins its n-th version, `end()` closes it. */
  chain(conditions: (Condition | null)[]): { arm: (n: number) => string; end: () => string } {
    const same = JSON.stringify(conditions);
    const known = this.chains.findIndex((c) => JSON.stringify(c) === same);
    const chain = known < 0 ? this.chains.push(conditions) - 1 : known;
    return { arm: (arm) => this.mask({ kind: 'arm', chain, arm }), end: () => this.end() };
  }

  end(): string {
    return this.mask({ kind: 'end' });
  }

  /** Registers a countdown: the mask of its picture's address, and the path of the moment that it counts to. */
  timer(plan: TimerPlan): { picture: string; path: string } {
    const index = this.timers.push(plan) - 1;
    return { picture: this.mask({ kind: 'timer', index }), path: `timers.${index}` };
  }

  /** Masks around something that is there only where a field has a value. */
  givenAround(path: string): { start: string; end: string } {
    const field: Field = { path, fallback: null, filters: [] };
    return { start: this.mask({ kind: 'given', field, repeat: this.#repeat }), end: this.end() };
  }

  /** Something that is there only where a field has a value. */
  given(path: string, inside: string): string {
    const { start, end } = this.givenAround(path);
    return `${start}${inside}${end}`;
  }

  /** Lays out one item of a list: what `inside` asks for counts per item. */
  each<T>(plan: Omit<RepeatPlan, 'fields' | 'links'>, inside: (repeat: number) => T): T {
    const before = this.#repeat;
    const repeat = this.repeats.push({ ...plan, fields: [], links: [] }) - 1;
    this.#repeat = repeat;
    const made = inside(repeat);
    this.#repeat = before;
    return made;
  }

  #only({ condition, otherwise }: { condition: Condition; otherwise: string }, inside: string, other: string): string {
    const chain = this.chain(otherwise === '' ? [condition] : [condition, null]);
    return `${chain.arm(0)}${inside}${otherwise === '' ? '' : `${chain.arm(1)}${other}`}${chain.end()}`;
  }

  /** Rich text as HTML. `style` gives stretches the colours and sizes of the house. */
  richHtml(doc: RichText, linkStyle: string, style: HouseStyle): string {
    const strip = (html: string) => html.replace(/<[^<>]*>/g, '');
    const writer: RichWriter = {
      text: (t) => escapeHtml(guard(t)),
      field: (field) => this.field(field),
      link: (href, inside) => {
        const open = `<a href="${this.link(href, strip(inside))}" style="${linkStyle}">`;
        const { start, end } = this.ledAround(href);
        return `${start}${open}${end}${inside}${start}</a>${end}`;
      },
      mark: { bold: 'strong', italic: 'em', underline: 'u', strike: 's' },
      look: (look, inside) =>
        `<span${look.color === 'soft' ? ' class="soft"' : ''} style="${wordStyle(look, style)}">${inside}</span>`,
      only: (only, inside) => this.#only(only, inside, this.html(only.otherwise)),
      lineBreak: '<br>',
      paragraph: (t, last, align) =>
        `<p style="margin:0 0 ${last ? '0' : '1em'}${align ? `;text-align:${align}` : ''}">${t || '&nbsp;'}</p>`,
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
      field: (field) => this.field(field),
      link: (href, inside) => {
        if (isUntracked(href)) return `${inside} (${href.replace(/^\w+:/, '')})`;
        const index = next++;
        if (!href.includes('{{')) return `${inside} ( ${this.linkMask(index)} )`;
        const start = this.mask({ kind: 'led', index, repeat: this.#repeat });
        return `${inside}${start} ( ${this.linkMask(index)} )${this.end()}`;
      },
      mark: null,
      only: (only, inside) => this.#only(only, inside, this.plain(only.otherwise)),
      lineBreak: '\n',
      paragraph: (t) => `${t}\n\n`,
      list: (ordered, items, depth) =>
        items.map((item, i) => `${'  '.repeat(depth)}${ordered ? `${i + 1}.` : '-'} ${item.trim()}\n`).join('') +
        (depth === 0 ? '\n' : ''),
    };
    return writeRich(doc, writer).trim();
  }
}
