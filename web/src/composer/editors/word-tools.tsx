import type { Editor } from '@tiptap/core';
import { AlignCenter, AlignLeft, AlignRight, RemoveFormatting } from 'lucide-react';
import type { ReactNode } from 'react';
import { wordColours, wordSizes, type Align, type HouseStyle, type WordLook } from '@ascenso/core';
import { asPlain, setAlign, setLook } from './word-look.ts';

const SIZES: Record<(typeof wordSizes)[number], string> = { small: 'Small', large: 'Large', title: 'As a title' };
const COLOURS: Record<(typeof wordColours)[number], string> = {
  accent: 'In the accent colour',
  link: 'In the colour of links',
  soft: 'Softer',
};
const ALIGNS: readonly [Align, string, ReactNode][] = [
  ['left', 'Paragraph to the left', <AlignLeft key="left" size={14} />],
  ['center', 'Paragraph in the middle', <AlignCenter key="center" size={14} />],
  ['right', 'Paragraph to the right', <AlignRight key="right" size={14} />],
];

function Tool({ name, on, act, children }: { name: string; on: boolean; act: () => void; children: ReactNode }) {
  return (
    <button
      type="button"
      aria-label={name}
      title={name}
      aria-pressed={on}
      // The words that are chosen stay so.
      onMouseDown={(e) => e.preventDefault()}
      onClick={act}
      className={`flex h-7 min-w-7 items-center justify-center rounded-control px-1.5 text-[12px] ${on ? 'bg-spruce-tint font-semibold text-spruce-deep' : 'text-ink-2 hover:bg-paper'}`}
    >
      {children}
    </button>
  );
}

/** Size and colour of the chosen words, from the house style, and how their paragraph stands; and without all of it again. */
export function WordTools({
  editor,
  look,
  align,
  style,
}: {
  editor: Editor;
  look: WordLook;
  align: Align | null;
  style: HouseStyle;
}) {
  return (
    <div role="group" aria-label="Look of the words" className="flex items-center gap-0.5">
      {wordSizes.map((size) => (
        <Tool key={size} name={SIZES[size]} on={look.size === size} act={() => setLook(editor, { size })}>
          {SIZES[size]}
        </Tool>
      ))}
      {wordColours
        .filter((c) => c === 'accent' || style[c] !== style.accent)
        .map((color) => (
          <Tool key={color} name={COLOURS[color]} on={look.color === color} act={() => setLook(editor, { color })}>
            <span className="size-4 rounded-full border border-line" style={{ background: style[color] }} />
          </Tool>
        ))}
      {ALIGNS.map(([to, name, icon]) => (
        <Tool key={to} name={name} on={align === to} act={() => setAlign(editor, to)}>
          {icon}
        </Tool>
      ))}
      <Tool name="Without any of it" on={false} act={() => asPlain(editor)}>
        <RemoveFormatting size={14} />
      </Tool>
    </div>
  );
}
