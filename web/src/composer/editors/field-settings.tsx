import type { Editor } from '@tiptap/core';
import { NodeSelection } from '@tiptap/pm/state';
import { useEditorState } from '@tiptap/react';
import { useEffect, useState } from 'react';
import { dateStyles, formatNames } from '@ascenso/core';
import { inputClass } from '../../ui/index.tsx';
import { Choice } from '../../ui/choice.tsx';
import { fieldLabel } from '../template-text.tsx';

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
export function FieldSettings({ editor }: { editor: Editor }) {
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
      <Choice
        label={`How ${fieldLabel(field.path)} is written`}
        hideLabel
        value={field.format ?? ''}
        choose={(v) => editor.commands.updateAttributes('field', { format: v || null })}
        className="w-32"
        of={[
          { value: '', label: 'the usual way' },
          ...formatNames.map((f) => ({
            value: f,
            label: `${dateStyles.includes(f as never) ? 'date: ' : ''}${FORMATS[f]}`,
          })),
        ]}
      />
    </span>
  );
}
