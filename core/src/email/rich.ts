import { z } from 'zod';
import { fieldSchema, type Field } from './fields.ts';

/** Rich text as the editor's document, kept to a closed list of nodes and marks. */
const markSchema = z.discriminatedUnion('type', [
  z.object({ type: z.literal('bold') }),
  z.object({ type: z.literal('italic') }),
  z.object({ type: z.literal('link'), attrs: z.object({ href: z.string().max(2000) }) }),
]);
export type Mark = z.infer<typeof markSchema>;

const inlineSchema = z.discriminatedUnion('type', [
  z.object({ type: z.literal('text'), text: z.string().min(1), marks: z.array(markSchema).optional() }),
  z.object({ type: z.literal('hardBreak'), marks: z.array(markSchema).optional() }),
  z.object({ type: z.literal('field'), attrs: fieldSchema, marks: z.array(markSchema).optional() }),
]);
export type Inline = z.infer<typeof inlineSchema>;

export interface Paragraph {
  type: 'paragraph';
  content?: Inline[] | undefined;
}
export interface List {
  type: 'bulletList' | 'orderedList';
  content: { type: 'listItem'; content: (Paragraph | List)[] }[];
}
export interface RichText {
  type: 'doc';
  content: (Paragraph | List)[];
}

const paragraphSchema = z.object({ type: z.literal('paragraph'), content: z.array(inlineSchema).optional() });
const listSchema: z.ZodType<List> = z.lazy(() =>
  z.object({
    type: z.enum(['bulletList', 'orderedList']),
    content: z.array(
      z.object({ type: z.literal('listItem'), content: z.array(z.union([paragraphSchema, listSchema])).min(1) }),
    ),
  }),
);
export const richTextSchema: z.ZodType<RichText> = z.object({
  type: z.literal('doc'),
  content: z.array(z.union([paragraphSchema, listSchema])),
});

/** A document of plain paragraphs; a string may hold pieces of text and fields. */
export function paragraphs(...all: (string | (string | Field)[])[]): RichText {
  const inline = (p: string | Field): Inline =>
    typeof p === 'string' ? { type: 'text', text: p } : { type: 'field', attrs: p };
  const content = all.map((p) => {
    // An editor's text node is never empty: a paragraph without words has no content.
    const parts = (typeof p === 'string' ? [p] : p).filter((part) => part !== '');
    return parts.length > 0
      ? { type: 'paragraph' as const, content: parts.map(inline) }
      : { type: 'paragraph' as const };
  });
  return { type: 'doc', content };
}

/** How the parts of a rich text are written: as HTML with masks, or as plain text. */
export interface RichWriter {
  text: (text: string) => string;
  field: (field: Field) => string;
  link: (href: string, inside: string) => string;
  bold: (inside: string) => string;
  italic: (inside: string) => string;
  lineBreak: string;
  paragraph: (inside: string, last: boolean) => string;
  list: (ordered: boolean, items: string[], depth: number) => string;
}

/** Runs of neighbours with the same link become one link, however their other marks differ. */
function writeInline(nodes: readonly Inline[], w: RichWriter): string {
  const hrefOf = (n: Inline) => n.marks?.find((m) => m.type === 'link')?.attrs.href;
  let out = '';
  for (let i = 0; i < nodes.length;) {
    const href = hrefOf(nodes[i] as Inline);
    let run = '';
    do {
      const node = nodes[i] as Inline;
      let part = node.type === 'text' ? w.text(node.text) : node.type === 'field' ? w.field(node.attrs) : w.lineBreak;
      if (node.marks?.some((m) => m.type === 'italic')) part = w.italic(part);
      if (node.marks?.some((m) => m.type === 'bold')) part = w.bold(part);
      run += part;
      i++;
    } while (i < nodes.length && href !== undefined && hrefOf(nodes[i] as Inline) === href);
    out += href === undefined ? run : w.link(href, run);
  }
  return out;
}

export function writeRich(doc: RichText, w: RichWriter, depth = 0): string {
  const writeNode = (node: Paragraph | List, last: boolean, level: number): string => {
    if (node.type === 'paragraph') return w.paragraph(writeInline(node.content ?? [], w), last);
    const items = node.content.map((item) =>
      item.content.map((n, i) => writeNode(n, i === item.content.length - 1, level + 1)).join(''),
    );
    return w.list(node.type === 'orderedList', items, level);
  };
  return doc.content.map((n, i) => writeNode(n, i === doc.content.length - 1, depth)).join('');
}

/** Every field and link address of a rich text, in reading order: what checks and `needs` look at. */
export function partsOfRich(doc: RichText): { fields: Field[]; links: string[]; text: string } {
  const fields: Field[] = [];
  const links: string[] = [];
  const text = writeRich(doc, {
    text: (t) => t,
    field: (f) => (fields.push(f), ''),
    link: (href, inside) => (links.push(href), inside),
    bold: (t) => t,
    italic: (t) => t,
    lineBreak: ' ',
    paragraph: (t) => `${t} `,
    list: (_o, items) => items.join(' '),
  });
  return { fields, links, text: text.trim() };
}
