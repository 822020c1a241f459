import { Choice } from './choice.tsx';

/** One of some things that have names, or none yet: "Choose a list …".  */
export function OneOf({
  label,
  a,
  value,
  of,
  save,
  inline = false,
  part,
}: {
  label: string;
  /** What is chosen, with its article: "a list". */
  a: string;
  value: string;
  of: readonly (readonly [value: string, words: string])[];
  save: (value: string) => void;
  inline?: boolean;
  /** The name by which checks lead to it. */
  part?: string;
}) {
  return (
    <Choice
      hideLabel
      inline={inline}
      label={label}
      {...(part ? { part } : {})}
      value={value}
      choose={save}
      none={`Choose ${a} …`}
      of={of.map(([v, words]) => ({ value: v, label: words }))}
    />
  );
}

/** Things with an id and a name, as choices. */
export const byName = (things: readonly { id: string; name: string }[]) =>
  things.map((t): [string, string] => [t.id, t.name]);
/** Attributes, as choices. */
export const byLabel = (things: readonly { key: string; label: string }[]) =>
  things.map((t): [string, string] => [t.key, t.label]);
