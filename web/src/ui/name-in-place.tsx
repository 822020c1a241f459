import { useEffect, useRef, useState } from 'react';

/** A name that is its own heading: written where it stands, kept when it is left or on Enter. An empty one is not taken. */
export function NameInPlace({ label, name, save }: { label: string; name: string; save: (name: string) => void }) {
  const [text, setText] = useState(name);
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => setText(name), [name]);
  const leave = () => (text.trim() && text !== name ? save(text.trim()) : setText(name));
  return (
    <input
      ref={input}
      aria-label={label}
      value={text}
      onChange={(e) => setText(e.target.value)}
      onBlur={leave}
      onKeyDown={(e) => e.key === 'Enter' && input.current?.blur()}
      style={{ width: `${Math.max(8, text.length) + 2}ch` }}
      className="max-w-full min-w-0 text-ellipsis rounded-control border border-transparent bg-transparent px-1 font-head text-[18px] font-bold hover:border-line"
    />
  );
}
