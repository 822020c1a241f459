import type { Field } from './fields.ts';
import { MASK, type Moving, type RepeatPlan } from './masks.ts';
import type { Context, Piece } from './program.ts';

/** What cannot be compiled, said to the author. */
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
        return void this.#top.into.push({
          l: node.index,
          in: context(),
          ...(node.repeat === null ? {} : { r: node.repeat }),
        });
      case 'timer':
        return void this.#top.into.push({ t: node.index });
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
      case 'led': {
        const pieces: Piece[] = [];
        const r = node.repeat === null ? {} : { r: node.repeat };
        return this.#open({ led: node.index, ...r, pieces }, { into: pieces });
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
      case 'base':
      case 'unsubscribe':
      case 'open':
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
