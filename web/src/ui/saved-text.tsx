import { useEffect, useState } from 'react';
import { inputClass } from './index.tsx';

/** A text that saves itself when it is left, or on Enter. */
export function SavedText({
  label,
  value,
  save,
  area = false,
  placeholder,
}: {
  label: string;
  value: string;
  save: (v: string) => void;
  area?: boolean;
  placeholder?: string;
}) {
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  const commit = () => text !== value && save(text);
  const common = { 'aria-label': label, value: text, placeholder, onBlur: commit, className: inputClass };
  if (area) return <textarea rows={3} {...common} onChange={(e) => setText(e.target.value)} />;
  return (
    <input {...common} onChange={(e) => setText(e.target.value)} onKeyDown={(e) => e.key === 'Enter' && commit()} />
  );
}
