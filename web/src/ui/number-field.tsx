import { useEffect, useState, type KeyboardEvent } from 'react';
import { Field, inputClass } from './index.tsx';

interface Numeric {
  label: string;
  value: number;
  save: (n: number) => void;
  least?: number;
  most?: number;
  /** What the arrow keys add; numbers between are taken too where `decimals` allows them. */
  step?: number;
  decimals?: number;
  /** Written behind it, in the field: "px", "%". */
  unit?: string;
  /** Kept on leaving the field or Enter only, not while it is typed. */
  late?: boolean;
  className?: string;
}

/** A number as people type it, with a point or a comma; undefined where it is none, or has more decimals than fit. */
function readTyped(text: string, decimals: number): number | undefined {
  const plain = text.trim().replace(',', '.');
  const fits = new RegExp(`^-?\\d+${decimals > 0 ? `(\\.\\d{0,${decimals}})?` : ''}$`);
  return fits.test(plain) ? Number(plain) : undefined;
}

/**
 * A number within its bounds (ARIA: spinbutton): typed, or counted by the arrow keys. What is none is said, keeps nothing,
 * and is put back on leaving.
 */
export function NumberInput({ id, ...n }: Numeric & { id?: string }) {
  const { value, least = -Infinity, most = Infinity, step = 1, decimals = 0 } = n;
  const [text, setText] = useState<string | null>(null);
  useEffect(() => setText(null), [value]);
  const typed = text === null ? value : readTyped(text, decimals);
  const good = typed !== undefined && typed >= least && typed <= most;
  const keep = (to: number) => to !== value && n.save(to);
  const type = (next: string) => {
    setText(next);
    const to = readTyped(next, decimals);
    if (!n.late && to !== undefined && to >= least && to <= most) keep(to);
  };
  const leave = () => {
    if (n.late && good) keep(typed);
    setText(null);
  };
  const press = (e: KeyboardEvent<HTMLInputElement>) => {
    if (e.key === 'Enter' && n.late) return leave();
    const by = { ArrowUp: step, ArrowDown: -step }[e.key];
    if (by === undefined) return;
    e.preventDefault();
    const to = Math.min(most, Math.max(least, Number(((good ? typed : value) + by).toFixed(decimals))));
    setText(null);
    keep(to);
  };
  const input = (
    <input
      {...(id ? { id } : { 'aria-label': n.label })}
      role="spinbutton"
      inputMode={decimals > 0 ? 'decimal' : 'numeric'}
      aria-valuenow={value}
      {...(least === -Infinity ? {} : { 'aria-valuemin': least })}
      {...(most === Infinity ? {} : { 'aria-valuemax': most })}
      {...(n.unit ? { 'aria-valuetext': `${value} ${n.unit}` } : {})}
      aria-invalid={!good}
      title={good ? undefined : boundsWords(least, most, decimals)}
      value={text ?? String(value)}
      onChange={(e) => type(e.target.value)}
      onBlur={leave}
      onKeyDown={press}
      className={`${inputClass} tabular-nums ${good ? '' : '!border-brick'} ${n.unit ? '!pr-9' : ''} ${n.className ?? ''}`}
    />
  );
  if (!n.unit) return input;
  return (
    <span className="relative block">
      {input}
      <span
        aria-hidden="true"
        className="pointer-events-none absolute inset-y-0 right-2.5 flex items-center text-ink-2"
      >
        {n.unit}
      </span>
    </span>
  );
}

function boundsWords(least: number, most: number, decimals: number): string {
  const what = decimals > 0 ? 'A number' : 'A whole number';
  if (least === -Infinity && most === Infinity) return `${what}.`;
  if (most === Infinity) return `${what} from ${least} on.`;
  return `${what} from ${least} to ${most}.`;
}

/** The same with its label above it. */
export function NumberField({ label, hint, ...rest }: Numeric & { hint?: string }) {
  return (
    <Field label={label} {...(hint ? { hint } : {})}>
      {(id) => <NumberInput id={id} label={label} {...rest} />}
    </Field>
  );
}
