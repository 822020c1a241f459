import type { Editor } from '@tiptap/core';
import { EditorContent, useEditor, useEditorState } from '@tiptap/react';
import {
  Baseline,
  Bold,
  Braces,
  Italic,
  Link2,
  List,
  ListOrdered,
  Smile,
  Strikethrough,
  Underline,
  Users,
} from 'lucide-react';
import { useState, type ReactNode } from 'react';
import { cleanPaste, richTextSchema, type Align, type RichText } from '@ascenso/core';
import { IconButton } from '../../ui/index.tsx';
import { placeAfter } from '../places.ts';
import { useComposer } from '../context.ts';
import { FieldNode } from '../field-node.ts';
import { OnlyMark } from '../only-mark.ts';
import { useForeign, useSettling } from '../settling.ts';
import { richKit } from './kits.ts';
import { FieldSettings } from './field-settings.tsx';
import { typedBraces, useFieldPicking } from './picking.tsx';
import { EmojiDialog } from '../emoji.tsx';
import { LinkDialog, OnlyDialog } from './dialogs.tsx';
import { LookMark, lookNow, ParagraphAlign, tidied, wordVariables } from './word-look.ts';
import { WordTools } from './word-tools.tsx';

/** A slash alone in its paragraph asks for another block, and leaves nothing behind. */
function typedSlash(editor: Editor): boolean {
  const { $from } = editor.state.selection;
  if ($from.parent.textContent !== '/' || $from.parentOffset !== 1) return false;
  editor.commands.deleteRange({ from: $from.pos - 1, to: $from.pos });
  return true;
}

/** The text of a block: paragraphs, lists, marks, links, merge fields, and stretches for some. */
export function RichEditor({
  label,
  doc,
  block,
  save,
}: {
  label: string;
  doc: RichText;
  block: string;
  save: (doc: RichText) => void;
}) {
  const { step, offer, peek, around } = useComposer();
  const [styling, setStyling] = useState(false);
  const [smiling, setSmiling] = useState(false);
  const [only, setOnly] = useState(false);
  const { change, flush, drop } = useSettling(save);
  const { pick, picker } = useFieldPicking();
  const [linking, setLinking] = useState(false);
  const editor = useEditor({
    extensions: [richKit, FieldNode, OnlyMark, LookMark, ParagraphAlign],
    content: doc,
    editorProps: {
      attributes: { 'aria-label': label, role: 'textbox', 'aria-multiline': 'true', 'data-part': 'text' },
      transformPastedHTML: cleanPaste,
    },
    onUpdate: ({ editor: e }) => {
      if (typedBraces(e)) return pick(e);
      if (typedSlash(e)) return offer(placeAfter(step, block));
      const parsed = richTextSchema.safeParse(tidied(e.getJSON()));
      if (!parsed.success) return;
      own.current = JSON.stringify(parsed.data);
      change(parsed.data);
      peek(block, parsed.data);
    },
    onBlur: flush,
  });
  const own = useForeign(JSON.stringify(doc), () => {
    drop();
    editor.commands.setContent(doc, { emitUpdate: false });
  });
  const state = useEditorState({
    editor,
    selector: ({ editor: e }) => ({
      empty: e.isEmpty,
      bold: e.isActive('bold'),
      italic: e.isActive('italic'),
      underline: e.isActive('underline'),
      strike: e.isActive('strike'),
      only: e.isActive('only'),
      link: e.isActive('link'),
      bullets: e.isActive('bulletList'),
      numbers: e.isActive('orderedList'),
      look: lookNow(e),
      align: (e.getAttributes('paragraph').align ?? null) as Align | null,
    }),
  });
  const tool = (name: string, on: boolean, act: () => void, icon: ReactNode) => (
    <IconButton
      name={name}
      aria-pressed={on}
      className={on ? 'bg-spruce-tint !text-spruce-deep' : ''}
      onMouseDown={(e) => e.preventDefault()}
      onClick={act}
    >
      {icon}
    </IconButton>
  );
  return (
    <div className="group/rich" style={wordVariables(around.style)}>
      <div className="absolute right-0 bottom-full z-10 hidden items-center gap-0.5 rounded-control border border-line bg-sheet p-0.5 font-sans group-focus-within/rich:flex">
        {styling ? (
          <WordTools editor={editor} look={state.look} align={state.align} style={around.style} />
        ) : (
          <>
            {tool('Bold', state.bold, () => editor.chain().focus().toggleBold().run(), <Bold size={14} />)}
            {tool('Italic', state.italic, () => editor.chain().focus().toggleItalic().run(), <Italic size={14} />)}
            {tool(
              'Underline',
              state.underline,
              () => editor.chain().focus().toggleUnderline().run(),
              <Underline size={14} />,
            )}
            {tool(
              'Strike through',
              state.strike,
              () => editor.chain().focus().toggleStrike().run(),
              <Strikethrough size={14} />,
            )}
            {tool('Link', state.link, () => setLinking(true), <Link2 size={14} />)}
            {tool(
              'Bulleted list',
              state.bullets,
              () => editor.chain().focus().toggleBulletList().run(),
              <List size={14} />,
            )}
            {tool(
              'Numbered list',
              state.numbers,
              () => editor.chain().focus().toggleOrderedList().run(),
              <ListOrdered size={14} />,
            )}
            {tool('Merge field', false, () => pick(editor), <Braces size={14} />)}
            {tool('Only for some', state.only, () => setOnly(true), <Users size={14} />)}
            {tool('Emoji', false, () => setSmiling(true), <Smile size={14} />)}
          </>
        )}
        {tool('Colour, size and alignment', styling, () => setStyling(!styling), <Baseline size={14} />)}
      </div>
      {state.empty && (
        <span aria-hidden="true" className="pointer-events-none absolute text-ink-2">
          Write here
        </span>
      )}
      <EditorContent editor={editor} />
      <FieldSettings editor={editor} />
      {picker}
      <LinkDialog editor={editor} open={linking} onClose={() => setLinking(false)} />
      {smiling && (
        <EmojiDialog
          onClose={() => setSmiling(false)}
          onPick={(emoji) => editor.chain().focus().insertContent(emoji).run()}
        />
      )}
      {only && <OnlyDialog editor={editor} onClose={() => setOnly(false)} />}
    </div>
  );
}
