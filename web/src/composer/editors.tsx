import { Extension, type Editor } from '@tiptap/core';
import { NodeSelection } from '@tiptap/pm/state';
import { EditorContent, useEditor, useEditorState } from '@tiptap/react';
import { StarterKit } from '@tiptap/starter-kit';
import { Bold, Braces, Italic, Link2, List, ListOrdered, Strikethrough, Underline, Users } from 'lucide-react';
import { useEffect, useState, type ReactNode } from 'react';
import { cleanPaste, dateStyles, formatNames, richTextSchema, type Condition, type RichText } from '@ascenso/core';
import { ConditionEditor } from '../conditions/index.ts';
import { Button, Dialog, IconButton, inputClass, TextField } from '../ui/index.tsx';
import { placeAfter } from './places.ts';
import { useComposer } from './context.ts';
import { docToTemplate, FieldNode, templateToDoc } from './field-node.ts';
import { OnlyMark } from './only-mark.ts';
import { useForeign, useSettling } from './settling.ts';
import { FieldPicker } from './field-picker.tsx';
import { fieldLabel } from './template-text.tsx';

/** What no text of ours has: blocks are blocks, not headings inside a text. */
const without = {
  heading: false,
  code: false,
  codeBlock: false,
  blockquote: false,
  horizontalRule: false,
} as const;
const richKit = StarterKit.configure({ ...without, link: { openOnClick: false, autolink: false } });
const lineKit = StarterKit.configure({
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
const OneLine = Extension.create({
  name: 'oneLine',
  addKeyboardShortcuts: () => ({ Enter: () => true, 'Shift-Enter': () => true }),
});

/** How a value can be written, in the words of a reader of English. */
const FORMATS: Record<(typeof formatNames)[number], string> = {
  day: '5 March 2026',
  weekday: 'Thursday 5 March',
  short: '05/03/2026',
  time: '18:00',
  moment: 'Thursday 5 March, 18:00',
  money: '€18.00',
  number: '1,234.5',
};

/** Settings of the field that is selected in an editor: its fallback, and how it is written. */
function FieldSettings({ editor }: { editor: Editor }) {
  const field = useEditorState({
    editor,
    selector: ({ editor: e }) =>
      e.state.selection instanceof NodeSelection && e.state.selection.node.type.name === 'field'
        ? (e.state.selection.node.attrs as { path: string; fallback: string | null; format: string | null })
        : null,
  });
  const [text, setText] = useState('');
  useEffect(() => setText(field?.fallback ?? ''), [field?.fallback, field?.path]);
  if (!field) return null;
  const save = () =>
    text !== (field.fallback ?? '') &&
    editor.commands.updateAttributes('field', { fallback: text === '' ? null : text });
  return (
    <span className="mt-1 flex items-center gap-2 rounded-control border border-line bg-sheet px-2 py-1 font-sans text-[13px] text-ink">
      <b className="text-slate">{fieldLabel(field.path)}</b> if there is none:
      <input
        aria-label={`Fallback for ${fieldLabel(field.path)}`}
        value={text}
        placeholder="nothing"
        onChange={(e) => setText(e.target.value)}
        onBlur={save}
        onKeyDown={(e) => e.key === 'Enter' && save()}
        className={`${inputClass} !w-24 !min-h-7 !py-0.5`}
      />
      <select
        aria-label={`How ${fieldLabel(field.path)} is written`}
        value={field.format ?? ''}
        onChange={(e) => editor.commands.updateAttributes('field', { format: e.target.value || null })}
        className={`${inputClass} !w-32 !min-h-7 !py-0.5`}
      >
        <option value="">as it is</option>
        {formatNames.map((f) => (
          <option key={f} value={f}>
            {dateStyles.includes(f as never) ? 'date: ' : ''}
            {FORMATS[f]}
          </option>
        ))}
      </select>
    </span>
  );
}

/** Opens the field picker when `{{` is typed. */
function typedBraces(editor: Editor): boolean {
  const { $from } = editor.state.selection;
  if (!$from.parent.textBetween(0, $from.parentOffset, undefined, ' ').endsWith('{{')) return false;
  editor.commands.deleteRange({ from: $from.pos - 2, to: $from.pos });
  return true;
}

/** A slash alone in its paragraph asks for another block, and leaves nothing behind. */
function typedSlash(editor: Editor): boolean {
  const { $from } = editor.state.selection;
  if ($from.parent.textContent !== '/' || $from.parentOffset !== 1) return false;
  editor.commands.deleteRange({ from: $from.pos - 1, to: $from.pos });
  return true;
}

const fallbackFor = (path: string) => (path === 'subscriber.first_name' ? 'reader' : null);

function useFieldPicking() {
  const [picking, setPicking] = useState<Editor | null>(null);
  const picker = (
    <FieldPicker
      open={picking !== null}
      onClose={() => setPicking(null)}
      onPick={(path) => {
        picking
          ?.chain()
          .focus()
          .insertContent([{ type: 'field', attrs: { path, fallback: fallbackFor(path), filters: [], format: null } }])
          .run();
        setPicking(null);
      }}
    />
  );
  return { pick: setPicking, picker };
}

/** A line of text with merge fields: a subject, a label, an address. */
export function LineEditor({
  label,
  value,
  save,
  placeholder,
  note,
  part,
}: {
  label: string;
  value: string;
  save: (v: string) => void;
  placeholder?: string;
  note?: ReactNode;
  /** Name by which checks lead to it. */
  part?: string;
}) {
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
  return (
    <div className="min-w-0 flex-1">
      <p className="mb-1 flex justify-between text-[12px] text-ink-2">
        <span>{label}</span>
        {note}
      </p>
      <div className="one-line flex items-center gap-1 rounded-control border border-line bg-sheet pl-2.5 focus-within:outline-2 focus-within:outline-spruce">
        <div className="relative min-w-0 flex-1 overflow-x-auto py-1.5">
          {empty && placeholder && (
            <span aria-hidden="true" className="pointer-events-none absolute text-ink-2">
              {placeholder}
            </span>
          )}
          <EditorContent editor={editor} />
        </div>
        <IconButton name={`Merge field in ${label.toLowerCase()}`} onClick={() => pick(editor)}>
          <Braces size={14} />
        </IconButton>
      </div>
      <FieldSettings editor={editor} />
      {picker}
    </div>
  );
}

function LinkDialog({ editor, open, onClose }: { editor: Editor; open: boolean; onClose: () => void }) {
  const [href, setHref] = useState('');
  useEffect(() => {
    if (open) setHref(String(editor.getAttributes('link').href ?? ''));
  }, [open, editor]);
  const apply = () => {
    const chain = editor.chain().focus().extendMarkRange('link');
    (href.trim() ? chain.setLink({ href: href.trim() }) : chain.unsetLink()).run();
    onClose();
  };
  return (
    <Dialog open={open} onClose={onClose} title="Link">
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          apply();
        }}
      >
        <TextField
          label="Address"
          placeholder="https://foldwell.example/kits"
          value={href}
          onChange={(e) => setHref(e.target.value)}
        />
        <div className="flex justify-end">
          <Button tone="main" type="submit">
            {href.trim() ? 'Set the link' : 'Take the link out'}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

/** A stretch that only some see: who, and what the others read instead. */
function OnlyDialog({ editor, onClose }: { editor: Editor; onClose: () => void }) {
  const { doc } = useComposer();
  const now = editor.getAttributes('only') as { condition?: Condition; otherwise?: string };
  const [condition, setCondition] = useState<Condition | null>(now.condition ?? null);
  const [otherwise, setOtherwise] = useState(now.otherwise ?? '');
  const apply = () => {
    const chain = editor.chain().focus().extendMarkRange('only');
    (condition ? chain.setMark('only', { condition, otherwise }) : chain.unsetMark('only')).run();
    onClose();
  };
  return (
    <Dialog open onClose={onClose} title="A stretch for some">
      <div className="flex flex-col gap-3">
        <ConditionEditor
          value={condition}
          scope="visit"
          doc={doc}
          sentence={(words) => `Only whoever ${words} reads these words.`}
          none="Everyone reads these words."
          save={setCondition}
        />
        {condition && (
          <TextField
            label="The others read instead"
            placeholder="nothing"
            value={otherwise}
            onChange={(e) => setOtherwise(e.target.value)}
          />
        )}
        <div className="flex justify-end">
          <Button tone="main" onClick={apply}>
            {condition ? 'Only for them' : 'For everyone'}
          </Button>
        </div>
      </div>
    </Dialog>
  );
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
  const { step, offer, peek } = useComposer();
  const [only, setOnly] = useState(false);
  const { change, flush, drop } = useSettling(save);
  const { pick, picker } = useFieldPicking();
  const [linking, setLinking] = useState(false);
  const editor = useEditor({
    extensions: [richKit, FieldNode, OnlyMark],
    content: doc,
    editorProps: {
      attributes: { 'aria-label': label, role: 'textbox', 'aria-multiline': 'true', 'data-part': 'text' },
      transformPastedHTML: cleanPaste,
    },
    onUpdate: ({ editor: e }) => {
      if (typedBraces(e)) return pick(e);
      if (typedSlash(e)) return offer(placeAfter(step, block));
      const parsed = richTextSchema.safeParse(e.getJSON());
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
    <div className="group/rich">
      <div className="absolute -top-9 right-0 z-10 hidden items-center gap-0.5 rounded-control border border-line bg-sheet p-0.5 font-sans group-focus-within/rich:flex">
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
      {only && <OnlyDialog editor={editor} onClose={() => setOnly(false)} />}
    </div>
  );
}
