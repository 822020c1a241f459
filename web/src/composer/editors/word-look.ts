import { Extension, Mark, mergeAttributes, type Editor, type JSONContent } from '@tiptap/core';
import type { CSSProperties } from 'react';
import { wordColours, wordSizes, wordStyle, type Align, type HouseStyle, type WordLook } from '@ascenso/core';

const NONE: WordLook = { color: null, size: null };

/** The look of a stretch of text: colour and size of the house style. */
export const LookMark = Mark.create({
  name: 'look',
  addAttributes: () => ({
    color: { default: null, renderHTML: () => ({}) },
    size: { default: null, renderHTML: () => ({}) },
  }),
  parseHTML: () => [],
  renderHTML: ({ mark, HTMLAttributes }) => {
    const { color, size } = mark.attrs as WordLook;
    const style = [color && `color:var(--word-${color})`, size && `font-size:var(--word-${size});line-height:1.3`];
    return ['span', mergeAttributes(HTMLAttributes, { style: style.filter(Boolean).join(';') }), 0];
  },
});

/** A paragraph may stand another way than its block. */
export const ParagraphAlign = Extension.create({
  name: 'paragraphAlign',
  addGlobalAttributes: () => [
    {
      types: ['paragraph'],
      attributes: {
        align: {
          default: null,
          renderHTML: ({ align }: { align?: Align | null }) => (align ? { style: `text-align:${align}` } : {}),
        },
      },
    },
  ],
});

/** What the editor's stretches are drawn with: they change as the house style does. */
export const wordVariables = (style: HouseStyle): CSSProperties =>
  Object.fromEntries([
    ...wordColours.map((c) => [`--word-${c}`, style[c]]),
    ...wordSizes.map((size) => [
      `--word-${size}`,
      /font-size:([^;]+)/.exec(wordStyle({ color: null, size }, style))?.[1] ?? '1em',
    ]),
  ]) as CSSProperties;

export const lookNow = (editor: Editor): WordLook => ({
  ...NONE,
  ...(editor.getAttributes('look') as Partial<WordLook>),
});

/** Gives the chosen words a colour or a size; the same once more takes it from them. */
export function setLook(editor: Editor, change: Partial<WordLook>): void {
  const now = lookNow(editor);
  const next = { ...now };
  for (const [key, value] of Object.entries(change) as ['color', never][])
    next[key] = now[key] === value ? null : value;
  const chain = editor.chain().focus();
  (next.color || next.size ? chain.setMark('look', next) : chain.unsetMark('look')).run();
}

/** Sets how the paragraphs of the selection stand; the same once more leaves it to their block. */
export function setAlign(editor: Editor, align: Align): void {
  const now = editor.getAttributes('paragraph').align as Align | null;
  editor
    .chain()
    .focus()
    .updateAttributes('paragraph', { align: now === align ? null : align })
    .run();
}

/** The words are as the text is: no marks but links and stretches for some, and paragraphs as their block has them. */
export const asPlain = (editor: Editor): void => {
  const chain = editor.chain().focus().updateAttributes('paragraph', { align: null });
  for (const mark of ['look', 'bold', 'italic', 'underline', 'strike']) chain.unsetMark(mark);
  chain.run();
};

/** The document without what says nothing: a paragraph that stands as its block does has no setting of its own. */
export function tidied(node: JSONContent): JSONContent {
  const { attrs, content, ...rest } = node;
  const own = node.type === 'paragraph' && !attrs?.align ? undefined : attrs;
  return { ...rest, ...(own && { attrs: own }), ...(content && { content: content.map(tidied) }) };
}
