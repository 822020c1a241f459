import { useEffect, useState, type ReactNode } from 'react';
import {
  blockKinds,
  colorNames,
  hexOf,
  type Block,
  type BlockKindName,
  type ColorName,
  type Look,
  type LookName,
} from '@ascenso/core';
import { Button, Field, inputClass } from '../../ui/index.tsx';
import { Choice } from '../../ui/choice.tsx';
import { useComposer } from '../context.ts';
import { LineEditor } from '../editors/index.ts';
import { useSet } from '../use-set.ts';
import { OtherColour } from '../../ui/colour-field.tsx';

/** The block of one kind. */
export type Of<K extends BlockKindName> = Extract<Block, { kind: K }>;

/** A template of a block, written in one line. `part` is the name by which checks lead to it. */
export function Line({
  block,
  field,
  label,
  part,
  value,
  placeholder,
}: {
  block: Block;
  field: string;
  label: string;
  part: string;
  value: string;
  placeholder?: string;
}) {
  const set = useSet(block);
  return (
    <LineEditor
      key={`${block.id}-${field}`}
      label={label}
      part={part}
      value={value}
      save={(v) => set(field, v)}
      {...(placeholder ? { placeholder } : {})}
    />
  );
}

/** A whole number with its unit; what does not fit is told and changes nothing. */
export function Px({
  label,
  value,
  standard,
  save,
  unit = 'px',
  part,
}: {
  label: string;
  value: number | undefined;
  standard?: number;
  save: (v: number | null) => void;
  unit?: string;
  part?: string;
}) {
  const [text, setText] = useState('');
  useEffect(() => setText(value === undefined ? '' : String(value)), [value]);
  const commit = () => {
    const n = text.trim() === '' ? null : Math.round(Number(text));
    if (n !== (value ?? null) && (n === null ? standard !== undefined : Number.isFinite(n))) save(n);
    else setText(value === undefined ? '' : String(value));
  };
  return (
    <Field label={label}>
      {(id) => (
        <span className="flex items-center gap-1.5">
          <input
            id={id}
            data-part={part}
            inputMode="numeric"
            value={text}
            placeholder={standard === undefined ? '' : String(standard)}
            onChange={(e) => setText(e.target.value)}
            onBlur={commit}
            onKeyDown={(e) => e.key === 'Enter' && commit()}
            className={`${inputClass} tabular-nums`}
          />
          <span className="text-[13px] text-ink-2">{unit}</span>
        </span>
      )}
    </Field>
  );
}

const COLOURS: Record<ColorName, string> = {
  text: 'Text',
  soft: 'Soft text',
  accent: 'Accent',
  onAccent: 'On accent',
  link: 'Links',
  line: 'Lines',
  sheet: 'Sheet',
  page: 'Page',
};

/** A colour: those of the house style first, so that it changes with them. */
export function Colour({
  label,
  value,
  save,
}: {
  label: string;
  value: string | undefined;
  save: (v: string | null) => void;
}) {
  const { around } = useComposer();
  const own = value?.startsWith('#') === true;
  return (
    <div data-part={label === 'Colour' ? 'color' : undefined} className="flex flex-col gap-1" tabIndex={-1}>
      <p className="text-[12px] text-ink-2">{label}</p>
      <div className="flex flex-wrap items-center gap-1">
        <button
          type="button"
          aria-pressed={value === undefined}
          onClick={() => save(null)}
          className={`h-6 rounded-full border px-2 text-[12px] ${value === undefined ? 'border-spruce bg-spruce-tint font-semibold text-spruce-deep' : 'border-line text-ink-2'}`}
        >
          Standard
        </button>
        {colorNames.map((name) => (
          <button
            key={name}
            type="button"
            aria-pressed={value === name}
            aria-label={`${label}: ${COLOURS[name]}`}
            title={COLOURS[name]}
            onClick={() => save(name)}
            style={{ background: hexOf(name, around.style) }}
            className={`size-6 rounded-full border ${value === name ? 'border-spruce outline-2 outline-spruce' : 'border-line'}`}
          />
        ))}
        <OtherColour label={label} value={own && value ? value : '#888888'} own={own} save={save} />
      </div>
    </div>
  );
}

/** What a block does differently from the house style: the same fields in the same order for every kind. */
export function LookPanel({ block }: { block: Block }) {
  const set = useSet(block);
  const names: readonly LookName[] = blockKinds[block.kind].looks;
  const look: Look = block.look ?? {};
  const put = (name: LookName, value: unknown) => {
    const next = { ...look, [name]: value ?? undefined };
    set('look', Object.values(next).some((v) => v !== undefined) ? JSON.parse(JSON.stringify(next)) : null);
  };
  const has = (name: LookName) => names.includes(name);
  if (names.length === 0) return null;
  return (
    <details className="group border-t border-line pt-3" open={block.look !== undefined}>
      <summary className="cursor-pointer text-[13px] font-semibold">
        Look{block.look ? '' : ': as the house style has it'}
      </summary>
      <div className="mt-3 flex flex-col gap-3">
        {has('align') && (
          <Choice
            label="Stands"
            value={look.align ?? ''}
            choose={(v) => put('align', v || null)}
            of={[
              { value: '', label: 'as usual' },
              { value: 'left', label: 'left' },
              { value: 'center', label: 'in the middle' },
              { value: 'right', label: 'right' },
            ]}
          />
        )}
        {has('wide') && (
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              checked={look.wide ?? false}
              onChange={(e) => put('wide', e.target.checked || null)}
            />
            As wide as the text
          </label>
        )}
        {has('color') && <Colour label="Colour" value={look.color} save={(v) => put('color', v)} />}
        {has('background') && <Colour label="Ground" value={look.background} save={(v) => put('background', v)} />}
        <div className="grid grid-cols-2 gap-3">
          {has('size') && <Px label="Size" value={look.size} standard={17} save={(v) => put('size', v)} />}
          {has('radius') && <Px label="Corners" value={look.radius} standard={6} save={(v) => put('radius', v)} />}
          {has('above') && <Px label="Space above" value={look.above} standard={8} save={(v) => put('above', v)} />}
          {has('below') && <Px label="Space below" value={look.below} standard={8} save={(v) => put('below', v)} />}
        </div>
        {block.look && <Button onClick={() => set('look', null)}>As the house style has it</Button>}
      </div>
    </details>
  );
}

export function Note({ children }: { children: ReactNode }) {
  return <p className="text-ink-2">{children}</p>;
}
