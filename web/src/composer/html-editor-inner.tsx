import { html } from '@codemirror/lang-html';
import { EditorView } from '@codemirror/view';
import CodeMirror from '@uiw/react-codemirror';
import { useEffect, useState } from 'react';
import { useSettling } from './settling.ts';

/** A source with colours and closing tags; merge fields as in any text. */
function HtmlEditorInner({
  label,
  value,
  save,
  height = '260px',
}: {
  label: string;
  value: string;
  save: (v: string) => void;
  height?: string;
}) {
  const { change, flush } = useSettling(save);
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  return (
    <CodeMirror
      value={text}
      height={height}
      extensions={[
        html(),
        EditorView.lineWrapping,
        EditorView.contentAttributes.of({ 'aria-label': label, 'data-part': 'source' }),
      ]}
      basicSetup={{ foldGutter: false }}
      onChange={(v) => {
        setText(v);
        change(v);
      }}
      onBlur={flush}
      className="overflow-hidden rounded-control border border-line text-[13px]"
    />
  );
}
export default HtmlEditorInner;
