import type { Surroundings } from '@ascenso/contracts';
import { Choice } from './choice.tsx';

type Kind = Surroundings['kinds'][number];

/** Fields named of a kind before the rest are only counted. */
const NAMED = 5;

/** What tells a kind of event from one that is called nearly the same: what it brings. */
function brings({ fields }: Kind): string {
  if (fields.length === 0) return 'brings nothing with it';
  const names = fields.slice(0, NAMED).map((f) => f.name.replaceAll('_', ' '));
  const more = fields.length - names.length;
  return `brings ${names.join(', ')}${more > 0 ? ` and ${more} more` : ''}`;
}

/** One kind of event, told apart from those that look like it. */
export function EventChoice({
  label = 'Which event',
  value,
  kinds,
  save,
  hideLabel,
}: {
  label?: string;
  value: string;
  kinds: readonly Kind[];
  save: (event: string) => void;
  hideLabel?: boolean;
}) {
  return (
    <Choice
      label={label}
      {...(hideLabel ? { hideLabel } : {})}
      value={value}
      choose={save}
      none="Choose an event …"
      of={kinds.map((k) => ({ value: k.name, label: `${k.label} (${k.name})`, note: brings(k) }))}
    />
  );
}
