import { fieldText, readTemplate, type Field, type MergeContext } from './fields.ts';
import { escapeHtml, MASK, type EmailLink, type Moving } from './masks.ts';

/** Where in the output a moving node stands: decides how its text is escaped. */
export type Context = 'text' | 'attribute' | 'plain';

/** A still run of text, or a moving node with its place. `f` and `l` count into `fields` and `links`. */
export type Piece =
  string | { f: number; in: Context } | { l: number; in: Context } | { s: 'base' | 'unsubscribe' | 'open' };

/** An email compiled once per version: still runs and moving nodes. Plain data. */
export interface Program {
  subject: Piece[];
  preview: Piece[];
  html: Piece[];
  text: Piece[];
  fields: Field[];
  links: EmailLink[];
  /** Size of the HTML in UTF-8 bytes with nothing filled in. */
  bytes: number;
}

/** What one send's moving nodes were filled with; kept with the send, so that it can be shown as it was sent. */
export interface Values {
  fields: string[];
  targets: string[];
}

/** The addresses that a filled email carries. */
export interface Addresses {
  base: string;
  unsubscribe: string;
  open: string;
  link: (index: number, target: string) => string;
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
      const c = html[this.#at] as string;
      if (this.#state === 'text' && c === '<') this.#open();
      else if (this.#state === 'tag') {
        if (c === '>') this.#state = this.#tag === 'style' || this.#tag === 'script' ? 'raw' : 'text';
        else if (c === '"') this.#state = 'double';
        else if (c === "'") this.#state = 'single';
        this.#at++;
      } else if (this.#state === 'double' || this.#state === 'single') {
        if (c === (this.#state === 'double' ? '"' : "'")) this.#state = 'tag';
        this.#at++;
      } else if (this.#state === 'comment' && html.startsWith('-->', this.#at)) this.#leave('text', 3);
      else if (this.#state === 'raw' && html.startsWith(`</${this.#tag}`, this.#at)) this.#leave('tag', 2, '/');
      else this.#at++;
    }
    if (this.#state === 'text') return 'text';
    if (this.#state === 'double' || this.#state === 'single') return 'attribute';
    throw new CompileError(`A merge field stands in a ${this.#state} of the HTML, where no value may go.`);
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

/** Splits finished output at the masks. `kind` decides how the context of each is found. */
export function splitAtMasks(
  output: string,
  moving: readonly Moving[],
  fields: Field[],
  kind: 'html' | 'plain',
): Piece[] {
  const parts = output.split(new RegExp(MASK.source, 'g'));
  const scanner = new Scanner(output);
  const pieces: Piece[] = [];
  let at = 0;
  parts.forEach((part, i) => {
    if (i % 2 === 0) {
      if (part !== '') pieces.push(part);
      at += part.length;
      return;
    }
    const node = moving[Number(part)];
    if (!node) throw new CompileError('A mask without a moving node: the compile lost its place.');
    const context: Context = kind === 'plain' ? 'plain' : scanner.contextAt(at);
    at += part.length + 6;
    if (node.kind === 'field') {
      let f = fields.findIndex((known) => known === node.field);
      if (f < 0) f = fields.push(node.field) - 1;
      pieces.push({ f, in: context });
    } else if (node.kind === 'link') pieces.push({ l: node.index, in: context });
    else pieces.push({ s: node.kind });
  });
  return pieces;
}

const SAFE_SCHEME = /^(https?:\/\/|mailto:|tel:|file:)/i;

/**
 * The target of a link for one person. A field inside an address is percent-encoded; an address that is a field as a
 * whole is taken as it is. Anything but http(s), mailto, tel or a hosted file gives '' (no target).
 */
export function linkTarget(address: string, context: MergeContext): string {
  const target = readTemplate(address)
    .pieces.map((p, i) =>
      typeof p === 'string' ? p : i === 0 ? fieldText(p, context) : encodeURIComponent(fieldText(p, context)),
    )
    .join('')
    .trim();
  return SAFE_SCHEME.test(target) ? target.replace(/[\s"<>\\^`{|}\u0000-\u001f]/g, (c) => encodeURIComponent(c)) : '';
}

/** Fills the moving nodes of a program for one person. */
export function valuesFor(program: Program, context: MergeContext): Values {
  return {
    fields: program.fields.map((f) => fieldText(f, context)),
    targets: program.links.map((l) => linkTarget(l.address, context)),
  };
}

/** The written text of one moving node. */
export function pieceText(piece: Exclude<Piece, string>, values: Values, addresses: Addresses): string {
  if ('s' in piece) return addresses[piece.s];
  const plain = 'f' in piece ? (values.fields[piece.f] ?? '') : addresses.link(piece.l, values.targets[piece.l] ?? '');
  return piece.in === 'plain' ? plain : escapeHtml(plain);
}

/** Walks pieces to text. */
export function fillPieces(pieces: readonly Piece[], values: Values, addresses: Addresses): string {
  let out = '';
  for (const piece of pieces) out += typeof piece === 'string' ? piece : pieceText(piece, values, addresses);
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
  const oneLine = (s: string) => s.replace(/\s+/g, ' ').trim();
  return {
    subject: oneLine(fillPieces(program.subject, values, addresses)),
    preview: oneLine(fillPieces(program.preview, values, addresses)),
    html: fillPieces(program.html, values, addresses),
    text: fillPieces(program.text, values, addresses),
  };
}
