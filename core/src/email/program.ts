import type { Condition } from '../audience/index.ts';
import { readPath } from '../audience/index.ts';
import { fieldText, readTemplate, type Field, type MergeContext } from './fields.ts';
import { escapeHtml, MASK, type EmailLink, type Moving, type RepeatPlan } from './masks.ts';
import type { Campaign } from './style.ts';

/** Where in the output a moving node stands: decides how its text is escaped. */
export type Context = 'text' | 'attribute' | 'plain';

/** A moving node that is written: `f` and `l` count into `fields` and `links`, those of repeat `r` where it is given. */
export type Written =
  | { f: number; in: Context; r?: number }
  | { l: number; in: Context; r?: number }
  | { s: 'base' | 'unsubscribe' | 'open' };

/** A still run of text, a moving node, or one that holds others. */
export type Piece =
  | string
  | Written
  /** The first version of a chain whose condition holds. */
  | { chain: number; arms: Piece[][] }
  /** There only where the field has a value. */
  | { given: number; r?: number; pieces: Piece[] }
  /** A row for every few items of a list, or what stands there for an empty one. */
  | { each: number; row: Piece[]; none: Piece[] }
  /** The n-th item of the row, nothing where the list has ended. */
  | { cell: number; pieces: Piece[] };

/** An email compiled once per version: still runs and moving nodes. Plain data. */
export interface Program {
  subject: Piece[];
  preview: Piece[];
  /** Empty for an email that goes out as text only. */
  html: Piece[];
  text: Piece[];
  fields: Field[];
  links: EmailLink[];
  /** Absent in programs from before there were any; so are the next two. */
  chains?: (Condition | null)[][];
  repeats?: RepeatPlan[];
  campaign?: Campaign;
  /** The reader's name in the To line, and where answers go, if not to the sender. */
  toName?: Piece[];
  replyTo?: string;
  /** Size of the HTML in UTF-8 bytes with nothing filled in. */
  bytes: number;
}

/** What one item of a list was filled with. */
export interface ItemValues {
  fields: string[];
  targets: string[];
}

/** What one send's moving nodes were filled with; kept with the send, so that it can be shown as it was sent. */
export interface Values extends ItemValues {
  /** The version of each chain that was shown, -1 for none. */
  picks?: number[];
  /** The items of each repeat. */
  items?: ItemValues[][];
}

/** The addresses that a filled email carries. */
export interface Addresses {
  base: string;
  unsubscribe: string;
  open: string;
  /** `ref` names the link within the email: its number, or "repeat.item.number" for one in a list. */
  link: (ref: string, target: string) => string;
}

export class CompileError extends Error {}

/**
 * Walks HTML up to `end` from a saved state and tells where that position stands. Conditional comments (`<!--[if`)
 * are read as markup, because the mail programs that honour them do.
 */
class Scanner {
  #at = 0;
  #state: 'text' | 'tag' | 'double' | 'single' | 'comment' | 'raw' = 'text';
  #tag = '';
  private readonly html: string;

  constructor(html: string) {
    this.html = html;
  }

  contextAt(end: number): Context {
    const html = this.html;
    while (this.#at < end) {
      switch (this.#state) {
        case 'text':
          if (this.#to('<', end)) this.#open();
          break;
        case 'tag':
          this.#inTag(html[this.#at] as string);
          break;
        case 'double':
        case 'single':
          if (this.#to(this.#state === 'double' ? '"' : "'", end)) this.#leave('tag', 1, this.#tag);
          break;
        case 'comment':
          if (this.#to('-->', end)) this.#leave('text', 3);
          break;
        case 'raw':
          if (this.#to(`</${this.#tag}`, end)) this.#leave('tag', 2, '/');
      }
    }
    if (this.#state === 'text') return 'text';
    if (this.#state === 'double' || this.#state === 'single') return 'attribute';
    const where =
      this.#state === 'raw' ? `<${this.#tag}>` : this.#state === 'tag' ? 'tag outside its values' : 'comment';
    throw new CompileError(`A merge field stands in a ${where} of the HTML, where no value may go.`);
  }

  /** Goes on to where a text stands next, or to the end where there is none before it. */
  #to(text: string, end: number): boolean {
    const found = this.html.indexOf(text, this.#at);
    this.#at = found < 0 || found >= end ? end : found;
    return this.#at === found;
  }

  #inTag(c: string): void {
    if (c === '>') this.#state = this.#tag === 'style' || this.#tag === 'script' ? 'raw' : 'text';
    else if (c === '"') this.#state = 'double';
    else if (c === "'") this.#state = 'single';
    this.#at++;
  }

  #leave(state: 'text' | 'tag', skip: number, tag = ''): void {
    this.#state = state;
    this.#tag = tag;
    this.#at += skip;
  }

  #open(): void {
    if (this.html.startsWith('<!--', this.#at)) {
      const conditional = /^<!--\[if[^\]]*\]>(<!-->|<!---->)?/.exec(this.html.slice(this.#at, this.#at + 60));
      if (conditional) this.#at += conditional[0].length;
      else {
        this.#state = 'comment';
        this.#at += 4;
      }
      return;
    }
    this.#tag = /^<([a-z0-9:]*)/i.exec(this.html.slice(this.#at, this.#at + 20))?.[1]?.toLowerCase() ?? '';
    this.#state = 'tag';
    this.#at += 1 + this.#tag.length;
  }
}

const indexIn = <T>(list: T[], item: T): number => {
  const known = list.indexOf(item);
  return known < 0 ? list.push(item) - 1 : known;
};

/** A piece under construction that holds others: where its next pieces go. */
interface Frame {
  into: Piece[];
  /** Begins the next version of a chain, or the empty state of a repeat. */
  next?: () => void;
}

/** Builds the tree of pieces out of the moving nodes in the order in which they come. */
class Builder {
  readonly pieces: Piece[] = [];
  readonly #stack: Frame[] = [{ into: this.pieces }];
  private readonly fields: Field[];
  private readonly repeats: readonly RepeatPlan[];

  constructor(fields: Field[], repeats: readonly RepeatPlan[]) {
    this.fields = fields;
    this.repeats = repeats;
  }

  get #top(): Frame {
    return this.#stack.at(-1) as Frame;
  }

  still(text: string): void {
    if (text !== '') this.#top.into.push(text);
  }

  #open(piece: Exclude<Piece, string>, frame: Frame): void {
    this.#top.into.push(piece);
    this.#stack.push(frame);
  }

  #fieldIndex(field: Field, repeat: number | null): { f: number; r?: number } {
    if (repeat === null) return { f: indexIn(this.fields, field) };
    return { f: indexIn((this.repeats[repeat] as RepeatPlan).fields, field), r: repeat };
  }

  moving(node: Moving, context: () => Context): void {
    switch (node.kind) {
      case 'field':
        return void this.#top.into.push({ ...this.#fieldIndex(node.field, node.repeat), in: context() });
      case 'link':
        return void this.#top.into.push({ l: node.index, in: context(), ...(node.repeat === null ? {} : { r: node.repeat }) }); // prettier-ignore
      case 'arm': {
        if (node.arm > 0) return this.#top.next?.();
        const arms: Piece[][] = [[]];
        const frame: Frame = { into: arms[0] as Piece[] };
        frame.next = () => (frame.into = arms[arms.push([]) - 1] as Piece[]);
        return this.#open({ chain: node.chain, arms }, frame);
      }
      case 'given': {
        const { f, r } = this.#fieldIndex(node.field, node.repeat);
        const pieces: Piece[] = [];
        return this.#open({ given: f, ...(r === undefined ? {} : { r }), pieces }, { into: pieces });
      }
      case 'row': {
        const piece = { each: node.repeat, row: [] as Piece[], none: [] as Piece[] };
        const frame: Frame = { into: piece.row };
        frame.next = () => (frame.into = piece.none);
        return this.#open(piece, frame);
      }
      case 'none':
        return this.#top.next?.();
      case 'cell': {
        const pieces: Piece[] = [];
        return this.#open({ cell: node.cell, pieces }, { into: pieces });
      }
      case 'end':
        if (this.#stack.length === 1) throw new CompileError('A part of the email ends that never began.');
        return void this.#stack.pop();
      default:
        this.#top.into.push({ s: node.kind });
    }
  }

  done(): Piece[] {
    if (this.#stack.length > 1) throw new CompileError('A part of the email begins that never ends.');
    return this.pieces;
  }
}

/** Splits finished output at the masks. `kind` decides how the context of each is found. */
export function splitAtMasks(
  output: string,
  { moving, repeats }: { moving: readonly Moving[]; repeats: readonly RepeatPlan[] },
  fields: Field[],
  kind: 'html' | 'plain',
): Piece[] {
  const parts = output.split(new RegExp(MASK.source, 'g'));
  const scanner = new Scanner(output);
  const builder = new Builder(fields, repeats);
  let at = 0;
  parts.forEach((part, i) => {
    if (i % 2 === 0) {
      builder.still(part);
      at += part.length;
      return;
    }
    const node = moving[Number(part)];
    if (!node) throw new CompileError('A mask without a moving node: the compile lost its place.');
    const here = at;
    builder.moving(node, () => (kind === 'plain' ? 'plain' : scanner.contextAt(here)));
    at += part.length + 6;
  });
  return builder.done();
}

const SAFE_SCHEME = /^(https?:\/\/|mailto:|tel:|file:)/i;

/** An address that leads out: our own (a hosted file) carries no campaign. */
const OUTWARD = /^https?:\/\//i;

/** Adds campaign parameters to an address; a parameter that the address has already stays as it is. */
function withCampaign(target: string, campaign: Campaign | undefined, context: MergeContext): string {
  if (!campaign || !OUTWARD.test(target)) return target;
  const [, base = '', query = '', hash = ''] = /^([^?#]*)(\?[^#]*)?(#.*)?$/.exec(target) ?? [];
  const added = (['source', 'medium', 'campaign', 'content'] as const).flatMap((name) => {
    const value = campaign[name] && fillTemplate(campaign[name], context).trim();
    if (!value || new RegExp(`[?&]utm_${name}=`, 'i').test(query)) return [];
    return [`utm_${name}=${encodeURIComponent(value)}`];
  });
  if (added.length === 0) return target;
  const joint = query === '' ? '?' : query === '?' ? '' : '&';
  return `${base}${query}${joint}${added.join('&')}${hash}`;
}

const fillTemplate = (template: string, context: MergeContext): string =>
  readTemplate(template)
    .pieces.map((p) => (typeof p === 'string' ? p : fieldText(p, context)))
    .join('');

/**
 * The target of a link for one person. A field inside an address is percent-encoded; an address that begins with a
 * field takes that one as it is. Anything but http(s), mailto, tel or a hosted file gives '' (no target).
 */
export function linkTarget(address: string, context: MergeContext, campaign?: Campaign): string {
  const target = readTemplate(address)
    .pieces.map((p, i) =>
      typeof p === 'string' ? p : i === 0 ? fieldText(p, context) : encodeURIComponent(fieldText(p, context)),
    )
    .join('')
    .trim();
  if (!SAFE_SCHEME.test(target)) return '';
  const whole = withCampaign(target, campaign, context);
  return whole.replace(/[\s"<>\\^`{|}\u0000-\u001f]/g, (c) => encodeURIComponent(c));
}

function fillItem(
  { fields, links }: { fields: readonly Field[]; links: readonly EmailLink[] },
  context: MergeContext,
  campaign: Campaign | undefined,
): ItemValues {
  return {
    fields: fields.map((f) => fieldText(f, context)),
    targets: links.map((l) => linkTarget(l.address, context, l.picture ? undefined : campaign)),
  };
}

const compareBy = (field: string) => (a: object, b: object) => {
  const [x, y] = [readPath(a, field), readPath(b, field)];
  if (typeof x === 'number' && typeof y === 'number') return x - y;
  return String(x ?? '') < String(y ?? '') ? -1 : String(x ?? '') > String(y ?? '') ? 1 : 0;
};

/** The event whose latest payloads a repeat goes through, or null for a list of another kind. Names of events have dots in them. */
export const recentEvent = (list: string): string | null => (list.startsWith('recent.') ? list.slice(7) : null);

/** Payloads of events, newest first, each of them once: what `MergeContext.recent` holds. */
export function recentOf(
  events: readonly { name: string; at: number; payload: object }[],
  names: readonly string[],
): Record<string, object[]> {
  const newest = [...events].sort((a, b) => b.at - a.at);
  const distinct = (name: string) => {
    const seen = new Map(newest.filter((e) => e.name === name).map((e) => [JSON.stringify(e.payload), e.payload]));
    return [...seen.values()];
  };
  return Object.fromEntries(names.map((name) => [name, distinct(name)]));
}

/** The items that a repeat shows: those of the list, sorted where it says so, as many as it allows. */
export function itemsOf(plan: Pick<RepeatPlan, 'list' | 'limit' | 'sort'>, context: MergeContext): Record<string, unknown>[] {
  const recent = recentEvent(plan.list);
  const list = recent === null ? readPath(context, plan.list) : context.recent?.[recent];
  if (!Array.isArray(list)) return [];
  // A list of plain words, as a person has them, is one of items with a value.
  const items = list.flatMap((i: unknown): Record<string, unknown>[] => {
    if (typeof i === 'string' || typeof i === 'number') return [{ value: i }];
    return typeof i === 'object' && i !== null && !Array.isArray(i) ? [i as Record<string, unknown>] : [];
  });
  if (plan.sort) {
    const by = compareBy(plan.sort.field);
    items.sort((a, b) => (plan.sort?.down ? by(b, a) : by(a, b)));
  }
  return items.slice(0, plan.limit);
} // prettier-ignore

/** Fills the moving nodes of a program for one person. */
export function valuesFor(program: Program, context: MergeContext): Values {
  const { chains = [], repeats = [], campaign } = program;
  const holds = context.holds ?? (() => false);
  return {
    ...fillItem(program, context, campaign),
    ...(chains.length > 0 ? { picks: chains.map((c) => c.findIndex((arm) => arm === null || holds(arm))) } : {}),
    ...(repeats.length > 0
      ? { items: repeats.map((plan) => itemsOf(plan, context).map((item) => fillItem(plan, { ...context, item }, campaign))) }
      : {}),
  }; // prettier-ignore
}

/** The item of a list that is being written. */
export interface ItemAt {
  repeat: number;
  item: number;
}

/** Walks pieces for one reader, telling each still run and each written node in turn. */
export function walkPieces(
  pieces: readonly Piece[],
  program: Pick<Program, 'repeats'>,
  values: Values,
  tell: (piece: string | Written, at: ItemAt | null) => void,
  at: ItemAt | null = null,
): void {
  for (const piece of pieces) {
    if (typeof piece === 'string' || 's' in piece || 'f' in piece || 'l' in piece) tell(piece, at);
    else if ('chain' in piece)
      walkPieces(piece.arms[values.picks?.[piece.chain] ?? -1] ?? [], program, values, tell, at);
    else if ('given' in piece) {
      if (valueAt(values, piece.r, at).fields[piece.given]) walkPieces(piece.pieces, program, values, tell, at);
    } else if ('cell' in piece) {
      const item = (at?.item ?? 0) + piece.cell;
      if (at && item < (values.items?.[at.repeat]?.length ?? 0))
        walkPieces(piece.pieces, program, values, tell, { ...at, item });
    } else {
      const count = values.items?.[piece.each]?.length ?? 0;
      const across = program.repeats?.[piece.each]?.across ?? 1;
      if (count === 0) walkPieces(piece.none, program, values, tell, at);
      for (let item = 0; item < count; item += across)
        walkPieces(piece.row, program, values, tell, { repeat: piece.each, item });
    }
  }
}

const nothing: ItemValues = { fields: [], targets: [] };
const valueAt = (values: Values, repeat: number | undefined, at: ItemAt | null): ItemValues =>
  repeat === undefined ? values : ((at && values.items?.[repeat]?.[at.item]) ?? nothing);

/** The written text of one moving node. */
export function writtenText(
  piece: Written,
  program: Pick<Program, 'links' | 'repeats'>,
  values: Values,
  addresses: Addresses,
  at: ItemAt | null,
): string {
  if ('s' in piece) return addresses[piece.s];
  const own = valueAt(values, piece.r, at);
  let text: string;
  if ('f' in piece) text = own.fields[piece.f] ?? '';
  else {
    const target = own.targets[piece.l] ?? '';
    const link = (piece.r === undefined ? program : program.repeats?.[piece.r])?.links[piece.l];
    const ref = piece.r === undefined ? String(piece.l) : `${piece.r}.${at?.item ?? 0}.${piece.l}`;
    text = link?.picture ? target : addresses.link(ref, target);
  }
  return piece.in === 'plain' ? text : escapeHtml(text);
}

type Filling = Pick<Program, 'links' | 'repeats'>;

/** Walks pieces to text. */
export function fillPieces(pieces: readonly Piece[], program: Filling, values: Values, addresses: Addresses): string {
  let out = '';
  walkPieces(pieces, program, values, (piece, at) => {
    out += typeof piece === 'string' ? piece : writtenText(piece, program, values, addresses, at);
  });
  return out;
}

export interface FilledEmail {
  subject: string;
  preview: string;
  html: string;
  text: string;
}

/** A program filled with one person's values, as text: for a preview, and to show an email as it was sent. */
export function fillProgram(program: Program, values: Values, addresses: Addresses): FilledEmail {
  const fill = (pieces: readonly Piece[]) => fillPieces(pieces, program, values, addresses);
  const oneLine = (s: string) => s.replace(/\s+/g, ' ').trim();
  return {
    subject: oneLine(fill(program.subject)),
    preview: oneLine(fill(program.preview)),
    html: fill(program.html),
    text: fill(program.text),
  };
}

/** The target of a link by its name within the email (`Addresses.link`), and the link itself. Undefined where there is none. */
export function targetOfLink(program: Filling, values: Values, ref: string): { link: EmailLink; target: string } | undefined {
  const parts = ref.split('.').map(Number);
  const [repeat, item, index] = parts.length === 3 ? parts : [undefined, undefined, parts[0]];
  const from = repeat === undefined ? program : program.repeats?.[repeat];
  const own = repeat === undefined ? values : values.items?.[repeat]?.[item ?? -1];
  const link = from?.links[index ?? -1];
  const target = own?.targets[index ?? -1];
  return link && target !== undefined ? { link, target } : undefined;
} // prettier-ignore
