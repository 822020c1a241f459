import type { Editor } from '@tiptap/core';
import { useState } from 'react';
import { FieldPicker } from '../field-picker.tsx';

/** Opens the field picker when `{{` is typed. */
export function typedBraces(editor: Editor): boolean {
  const { $from } = editor.state.selection;
  if (!$from.parent.textBetween(0, $from.parentOffset, undefined, ' ').endsWith('{{')) return false;
  editor.commands.deleteRange({ from: $from.pos - 2, to: $from.pos });
  return true;
}

const fallbackFor = (path: string) => (path === 'subscriber.first_name' ? 'reader' : null);

/** The field picker for an editor: `pick` opens it. */
export function useFieldPicking() {
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
