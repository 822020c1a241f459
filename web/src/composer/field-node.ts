import { mergeAttributes, Node } from '@tiptap/core';
import type { Node as ProseNode, NodeType } from '@tiptap/pm/model';
import { Plugin, type EditorState, type Transaction } from '@tiptap/pm/state';
import { readTemplate, writeField, type Field, type Inline } from '@ascenso/core';
import { fieldLabel } from './template-text.tsx';

const WRITTEN = /\{\{[^{}]*\}\}/g;

/** A field that was pasted or typed as words becomes a chip, marks and all. */
function chipsMade(changes: readonly Transaction[], state: EditorState, type: NodeType): Transaction | null {
  if (!changes.some((t) => t.docChanged)) return null;
  const found: { from: number; to: number; node: ProseNode }[] = [];
  state.doc.descendants((node, pos) => {
    for (const match of (node.text ?? '').matchAll(WRITTEN)) {
      const [piece] = readTemplate(match[0]).pieces;
      if (typeof piece === 'string' || piece === undefined) continue;
      const from = pos + match.index;
      found.push({ from, to: from + match[0].length, node: type.create(piece, null, node.marks) });
    }
  });
  if (found.length === 0) return null;
  // From the end, so that no place moves before its turn.
  return found.reverse().reduce((tr, { from, to, node }) => tr.replaceWith(from, to, node), state.tr);
}

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
  addProseMirrorPlugins() {
    return [new Plugin({ appendTransaction: (changes, _before, state) => chipsMade(changes, state, this.type) })];
  },
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
