import { z } from 'zod';
import { conditionSchema, type Condition } from '../audience/index.ts';
import { fieldSchema, readTemplate, writeField, type Field } from './fields.ts';

/** Colours and sizes of the house style that a stretch of text can take: it changes when they do. */
export const wordColours = ['accent', 'link', 'soft'] as const;
export const wordSizes = ['small', 'large', 'title'] as const;
/** How a stretch of text looks; null is as the block has it. */
export interface WordLook {
  color: (typeof wordColours)[number] | null;
  size: (typeof wordSizes)[number] | null;
}

/** Rich text as the editor's document, kept to a closed list of nodes and marks. */
const markSchema = z.discriminatedUnion('type', [
  z.object({ type: z.enum(['bold', 'italic', 'underline', 'strike']) }),
  z.object({ type: z.literal('link'), attrs: z.object({ href: z.string().max(2000) }) }),
  z.object({
    type: z.literal('look'),
    attrs: z.object({ color: z.enum(wordColours).nullable(), size: z.enum(wordSizes).nullable() }),
  }),
  /** A stretch that only some see; the others read `otherwise`, a template, or nothing. */
  z.object({
    type: z.literal('only'),
    attrs: z.object({ condition: conditionSchema, otherwise: z.string().max(500) }),
  }),
]);
export type Mark = z.infer<typeof markSchema>;

const inlineSchema = z.discriminatedUnion('type', [
  z.object({ type: z.literal('text'), text: z.string().min(1), marks: z.array(markSchema).optional() }),
  z.object({ type: z.literal('hardBreak'), marks: z.array(markSchema).optional() }),
  z.object({ type: z.literal('field'), attrs: fieldSchema, marks: z.array(markSchema).optional() }),
]);
export type Inline = z.infer<typeof inlineSchema>;

/** How a paragraph stands, where it is another way than its block. */
export type Align = 'left' | 'center' | 'right';
export interface Paragraph {
  type: 'paragraph';
  attrs?: { align: Align } | undefined;
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

const paragraphSchema = z.object({
  type: z.literal('paragraph'),
  attrs: z.object({ align: z.enum(['left', 'center', 'right']) }).optional(),
  content: z.array(inlineSchema).optional(),
});
const listSchema: z.ZodType<List> = z
  .lazy(() =>
    z.object({
      type: z.enum(['bulletList', 'orderedList']),
      content: z.array(
        z.object({ type: z.literal('listItem'), content: z.array(z.union([paragraphSchema, listSchema])).min(1) }),
      ),
    }),
  )
  .meta({ id: 'TextList', description: 'A list within a text, with or without numbers.' });
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

export interface Only {
  condition: Condition;
  otherwise: string;
}

/** How the parts of a rich text are written: as HTML with masks, or as plain text. */
export interface RichWriter {
  text: (text: string) => string;
  field: (field: Field) => string;
  link: (href: string, inside: string) => string;
  /** Tag of each mark, or null where marks are not written. */
  mark: Readonly<Record<'bold' | 'italic' | 'underline' | 'strike', string>> | null;
  look?: (look: WordLook, inside: string) => string;
  only: (only: Only, inside: string) => string;
  lineBreak: string;
  paragraph: (inside: string, last: boolean, align: Align | undefined) => string;
  list: (ordered: boolean, items: string[], depth: number) => string;
}

const markOf = <T extends Mark['type']>(node: Inline, type: T): Extract<Mark, { type: T }> | undefined =>
  node.marks?.find((m): m is Extract<Mark, { type: T }> => m.type === type);

/** Runs of neighbours that share a mark are written together, however their other marks differ. */
function runs(nodes: readonly Inline[], key: (n: Inline) => string | undefined): Inline[][] {
  const out: Inline[][] = [];
  let last: string | undefined;
  for (const node of nodes) {
    const k = key(node);
    if (k !== undefined && k === last) out.at(-1)?.push(node);
    else out.push([node]);
    last = k;
  }
  return out;
}

const MARKS = ['strike', 'underline', 'italic', 'bold'] as const;

function writeLeaf(node: Inline, w: RichWriter): string {
  let part = node.type === 'text' ? w.text(node.text) : node.type === 'field' ? w.field(node.attrs) : w.lineBreak;
  for (const type of MARKS) if (w.mark && markOf(node, type)) part = `<${w.mark[type]}>${part}</${w.mark[type]}>`;
  const look = markOf(node, 'look')?.attrs;
  return look && w.look ? w.look(look, part) : part;
}

function writeInline(nodes: readonly Inline[], w: RichWriter): string {
  const onlyKey = (n: Inline) => (markOf(n, 'only') ? JSON.stringify(markOf(n, 'only')?.attrs) : undefined);
  return runs(nodes, onlyKey)
    .map((stretch) => {
      const inside = runs(stretch, (n) => markOf(n, 'link')?.attrs.href)
        .map((run) => {
          const text = run.map((n) => writeLeaf(n, w)).join('');
          const href = markOf(run[0] as Inline, 'link')?.attrs.href;
          return href === undefined ? text : w.link(href, text);
        })
        .join('');
      const only = markOf(stretch[0] as Inline, 'only')?.attrs;
      return only ? w.only(only, inside) : inside;
    })
    .join('');
}

export function writeRich(doc: RichText, w: RichWriter, depth = 0): string {
  const writeNode = (node: Paragraph | List, last: boolean, level: number): string => {
    if (node.type === 'paragraph') return w.paragraph(writeInline(node.content ?? [], w), last, node.attrs?.align);
    const items = node.content.map((item) =>
      item.content.map((n, i) => writeNode(n, i === item.content.length - 1, level + 1)).join(''),
    );
    return w.list(node.type === 'orderedList', items, level);
  };
  return doc.content.map((n, i) => writeNode(n, i === doc.content.length - 1, depth)).join('');
}

/** Everything in a rich text that checks and `needs` look at, in reading order. */
export interface RichParts {
  fields: Field[];
  links: { address: string; label: string }[];
  only: Only[];
  looks: WordLook[];
  text: string;
}

export function partsOfRich(doc: RichText): RichParts {
  const fields: Field[] = [];
  const links: RichParts['links'] = [];
  const only: Only[] = [];
  const looks: WordLook[] = [];
  const text = writeRich(doc, {
    text: (t) => t,
    field: (f) => (fields.push(f), ''),
    link: (address, label) => (links.push({ address, label }), label),
    mark: null,
    look: (l, inside) => (looks.push(l), inside),
    only: (o, inside) => (only.push(o), inside),
    lineBreak: ' ',
    paragraph: (t) => `${t} `,
    list: (_o, items) => items.join(' '),
  });
  return { fields, links, only, looks, text: text.trim() };
}

/** The words of a rich text as one line, with its fields written out. */
export const templateOfRich = (doc: RichText): string =>
  writeRich(doc, {
    text: (t) => t,
    field: writeField,
    link: (_address, label) => label,
    mark: null,
    only: (_only, inside) => inside,
    lineBreak: ' ',
    paragraph: (t) => `${t} `,
    list: (_ordered, items) => items.join(' '),
  })
    .replace(/\s+/g, ' ')
    .trim();

/** Whether there is nothing to read in a rich text, and no field either. */
export function isBlank(doc: RichText): boolean {
  const { text, fields } = partsOfRich(doc);
  return text === '' && fields.length === 0;
}

/** A rich text in which every field that is written out as words, such as {{ subscriber.first_name }}, is a chip. */
export function withChips(doc: RichText): RichText {
  const inline = (node: Inline): Inline[] => {
    if (node.type !== 'text' || !node.text.includes('{{')) return [node];
    return readTemplate(node.text).pieces.map((p): Inline =>
      typeof p === 'string' ? { ...node, text: p } : { ...node, type: 'field', attrs: p },
    );
  };
  const visit = (node: Paragraph | List): Paragraph | List =>
    node.type === 'paragraph'
      ? { ...node, ...(node.content ? { content: node.content.flatMap(inline).map(plainNode) } : {}) }
      : { ...node, content: node.content.map((item) => ({ ...item, content: item.content.map(visit) })) };
  return { ...doc, content: doc.content.map(visit) };
}

/** A chip has no text of its own. */
function plainNode(node: Inline): Inline {
  if (node.type !== 'field') return node;
  const { type, attrs, marks } = node;
  return { type, attrs, ...(marks ? { marks } : {}) };
}
