import { Mark, mergeAttributes } from '@tiptap/core';

/** A stretch that only some see, underlined in the colour of conditions. */
export const OnlyMark = Mark.create({
  name: 'only',
  inclusive: false,
  addAttributes: () => ({
    condition: { default: null, renderHTML: () => ({}) },
    otherwise: { default: '', renderHTML: () => ({}) },
  }),
  parseHTML: () => [],
  renderHTML: ({ HTMLAttributes }) => [
    'span',
    mergeAttributes(HTMLAttributes, {
      class: 'border-b-2 border-dotted border-plum bg-plum-tint',
      title: 'Only some read this',
    }),
    0,
  ],
});
