import { inputClass } from './index.tsx';

/** One of some things that have names, or none yet: "Choose a list …". It stands in a sentence, where `className` says how wide. */
export function OneOf({
  label,
  a,
  value,
  of,
  save,
  className = '',
  part,
}: {
  label: string;
  /** What is chosen, with its article: "a list". */
  a: string;
  value: string;
  of: readonly (readonly [value: string, words: string])[];
  save: (value: string) => void;
  className?: string;
  /** The name by which checks lead to it. */
  part?: string;
}) {
  return (
    <select
      aria-label={label}
      data-part={part}
      value={value}
      onChange={(e) => save(e.target.value)}
      className={`${inputClass} ${className}`}
    >
      <option value="">Choose {a} …</option>
      {of.map(([v, words]) => (
        <option key={v} value={v}>
          {words}
        </option>
      ))}
    </select>
  );
}

/** Things with an id and a name, as choices. */
export const byName = (things: readonly { id: string; name: string }[]) =>
  things.map((t): [string, string] => [t.id, t.name]);
/** Attributes, as choices. */
export const byLabel = (things: readonly { key: string; label: string }[]) =>
  things.map((t): [string, string] => [t.key, t.label]);
