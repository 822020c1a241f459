import { EditorContent, useEditor, useEditorState } from '@tiptap/react';
import { Braces, Smile } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import { IconButton } from '../../ui/index.tsx';
import { docToTemplate, FieldNode, templateToDoc } from '../field-node.ts';
import { useForeign, useSettling } from '../settling.ts';
import { lineKit, OneLine } from './kits.ts';
import { EmojiDialog } from '../emoji.tsx';
import { FieldSettings } from './field-settings.tsx';
import { typedBraces, useFieldPicking } from './picking.tsx';

interface LineProps {
  label: string;
  value: string;
  save: (v: string) => void;
  placeholder?: string;
  /** Name by which checks lead to it. */
  part?: string;
}

/** A line of text with merge fields, which saves itself: its editor, and what belongs on the page beside it. */
function useLine({ label, value, save, placeholder, part }: LineProps) {
  const { change, flush, drop } = useSettling(save);
  const { pick, picker } = useFieldPicking();
  const editor = useEditor({
    extensions: [lineKit, FieldNode, OneLine],
    content: templateToDoc(value),
    editorProps: { attributes: { 'aria-label': label, role: 'textbox', ...(part ? { 'data-part': part } : {}) } },
    onUpdate: ({ editor: e }) => {
      if (typedBraces(e)) return pick(e);
      own.current = docToTemplate(e.getJSON() as never);
      change(own.current);
    },
    onBlur: flush,
  });
  const own = useForeign(value, () => {
    drop();
    editor.commands.setContent(templateToDoc(value), { emitUpdate: false });
  });
  const empty = useEditorState({ editor, selector: ({ editor: e }) => e.isEmpty });
  const written = (
    <>
      {empty && placeholder && (
        // In the colour of what would stand there, wherever that is.
        <span aria-hidden="true" className="pointer-events-none absolute inset-x-0 opacity-60">
          {placeholder}
        </span>
      )}
      <EditorContent editor={editor} />
    </>
  );
  const beside = (
    <>
      <FieldSettings editor={editor} />
      {picker}
    </>
  );
  return { editor, pick, empty, written, beside };
}

/** A line of text with merge fields: a subject, a label, an address. */
export function LineEditor({
  note,
  emoji = false,
  ...line
}: LineProps & {
  note?: ReactNode;
  /** Whether it is read by people, so that emoji can stand in it. */
  emoji?: boolean;
}) {
  const { editor, pick, written, beside } = useLine(line);
  const { label } = line;
  const [smiling, setSmiling] = useState(false);
  return (
    <div className="min-w-0 flex-1">
      <p className="mb-1 flex justify-between text-[12px] text-ink-2">
        <span>{label}</span>
        {note}
      </p>
      <div className="one-line flex items-center gap-1 rounded-control border border-line bg-sheet pl-2.5 focus-within:outline-2 focus-within:outline-spruce">
        <div className="relative min-w-0 flex-1 overflow-x-auto py-1.5">{written}</div>
        {emoji && (
          <IconButton name={`Emoji in ${label.toLowerCase()}`} onClick={() => setSmiling(true)}>
            <Smile size={14} />
          </IconButton>
        )}
        <IconButton name={`Merge field in ${label.toLowerCase()}`} onClick={() => pick(editor)}>
          <Braces size={14} />
        </IconButton>
      </div>
      {beside}
      {smiling && (
        <EmojiDialog
          onClose={() => setSmiling(false)}
          onPick={(emoji) => editor.chain().focus().insertContent(emoji).run()}
        />
      )}
    </div>
  );
}

/** The same where it is read: in the look of what is around it, with nothing of a field. */
export function LineOnPage(line: LineProps) {
  const { empty, written, beside } = useLine(line);
  return (
    <>
      <span className={`relative block ${empty ? 'min-w-40' : 'min-w-4'}`}>{written}</span>
      {beside}
    </>
  );
}
