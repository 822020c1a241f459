import { Extension } from '@tiptap/core';
import { StarterKit } from '@tiptap/starter-kit';

/** What no text of ours has: blocks are blocks, not headings inside a text. */
const without = {
  heading: false,
  code: false,
  codeBlock: false,
  blockquote: false,
  horizontalRule: false,
} as const;

/** Where a link may lead: a page, somebody's address or phone, a file of ours, or where a merge field says. */
const LEADS_SOMEWHERE = /^(https?:|mailto:|tel:|file:|\{\{|[^:]*$)/i;

/** Texts: paragraphs, lists, marks and links. */
export const richKit = StarterKit.configure({
  ...without,
  link: { openOnClick: false, autolink: false, isAllowedUri: (uri) => LEADS_SOMEWHERE.test(uri) },
});
/** One line: words and merge fields. */
export const lineKit = StarterKit.configure({
  ...without,
  link: false,
  bold: false,
  italic: false,
  strike: false,
  underline: false,
  bulletList: false,
  orderedList: false,
  listItem: false,
  listKeymap: false,
  hardBreak: false,
});

/** Enter makes no second line. */
export const OneLine = Extension.create({
  name: 'oneLine',
  addKeyboardShortcuts: () => ({ Enter: () => true, 'Shift-Enter': () => true }),
});
