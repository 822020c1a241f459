import { mergeAttributes, Node } from '@tiptap/core';
import { readTemplate, writeField, type Field, type Inline } from '@ascenso/core';
import { fieldLabel } from './template-text.tsx';

/** A merge field in an editor: one unbreakable chip. */
export const FieldNode = Node.create({
  name: 'field',
  group: 'inline',
  inline: true,
  atom: true,
  selectable: true,
  addAttributes: () => ({
    path: { default: '' },
    fallback: { default: null },
    filters: { default: [] },
    format: { default: null },
  }),
  parseHTML: () => [{ tag: 'span[data-field]' }],
  renderHTML: ({ node, HTMLAttributes }) => [
    'span',
    mergeAttributes({
      'data-field': String(node.attrs.path),
      class: 'rounded-[5px] bg-slate-tint px-1.5 text-[0.92em] font-semibold text-slate whitespace-nowrap',
      title: HTMLAttributes.title as string | undefined,
    }),
    fieldLabel(String(node.attrs.path)),
  ],
  renderText: ({ node }) => writeField(node.attrs as Field),
});

/** A template as the content of a one-line editor, and back. */
export const templateToDoc = (source: string) => ({
  type: 'doc',
  content: [
    {
      type: 'paragraph',
      content: readTemplate(source).pieces.map((p) =>
        typeof p === 'string' ? { type: 'text', text: p } : { type: 'field', attrs: p },
      ),
    },
  ],
});

export function docToTemplate(doc: { content?: { content?: Inline[] | undefined }[] }): string {
  return (doc.content ?? [])
    .flatMap((p) => p.content ?? [])
    .map((n) => (n.type === 'text' ? n.text : n.type === 'field' ? writeField(n.attrs) : ' '))
    .join('');
}
