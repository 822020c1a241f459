import { X } from 'lucide-react';

/** Tags or lists that somebody has, each with a way to take it off. */
export function TagChips({
  names,
  what,
  remove,
}: {
  names: readonly string[];
  what: 'tag' | 'list';
  remove: (name: string) => void;
}) {
  return names.map((name) => (
    <span
      key={name}
      className="inline-flex items-center gap-1 rounded-full bg-slate-tint py-0.5 pr-1 pl-2.5 text-[12px] font-semibold text-slate"
    >
      {name}
      <button
        type="button"
        aria-label={`Take the ${what} ${name} off`}
        onClick={() => remove(name)}
        className="inline-flex size-6 items-center justify-center rounded-full hover:bg-sheet"
      >
        <X size={12} aria-hidden="true" />
      </button>
    </span>
  ));
}
