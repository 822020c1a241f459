import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions, Dialog, DialogPanel } from '@headlessui/react';
import { Search } from 'lucide-react';
import { useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import type { FindAnswer, FoundKind, FoundThing } from '@ascenso/contracts';
import { useFindQuery } from './endpoints.ts';
import { useResting } from './use-resting.ts';

/** A place that one can go to, as it is told. */
interface Aim {
  to: string;
  words: string;
  note: string;
  group: string;
}

/** What can be done and where things are, by the words of the screens. */
const COMMANDS: readonly [words: string, to: string][] = [
  ['New sequence', '/sequences?new=sequence'],
  ['New one-off send', '/sequences?new=one-off'],
  ['Sequences', '/sequences'],
  ['Results: what came back', '/results'],
  ['Results: what goes out', '/results/out'],
  ['Library: templates and shared blocks', '/library'],
  ['Library: house style', '/library/style'],
  ['Library: files', '/library/files'],
  ['Library: senders', '/library/senders'],
  ['Library: forms', '/library/forms'],
  ['Offers', '/offers'],
  ['People', '/people'],
  ['People: import a file', '/people/import'],
  ['People: segments', '/people/segments'],
  ['People: lists and tags', '/people/lists'],
  ['People: attributes and points', '/people/attributes'],
  ['People: no mail', '/people/no-mail'],
  ['People: events and keys', '/people/events'],
  ['Password and sessions', '/account'],
];

const KINDS: Record<FoundKind, { group: string; to: (id: string) => string }> = {
  sequence: { group: 'Sequences', to: (id) => `/sequences/${id}` },
  offer: { group: 'Offers', to: (id) => `/offers/${id}` },
  list: { group: 'Lists', to: () => '/people/lists' },
  segment: { group: 'Segments', to: (id) => `/people?segment=${id}` },
  form: { group: 'Forms', to: (id) => `/library/forms/${id}` },
  template: { group: 'Templates', to: (id) => `/library/templates/${id}` },
  person: { group: 'People', to: (id) => `/people/${id}` },
};

const aimOf = ({ kind, id, name, note }: FoundThing): Aim => ({
  to: KINDS[kind].to(id),
  words: name,
  note: note === name ? '' : note,
  group: KINDS[kind].group,
});

function aimsOf(q: string, found: FindAnswer | undefined): Aim[] {
  const words = q.toLowerCase().split(/\s+/).filter(Boolean);
  const commands = COMMANDS.filter(([c]) => words.every((w) => c.toLowerCase().includes(w)));
  const things = (found?.things ?? []).map(aimOf);
  const emails = (found?.emails ?? []).map((e) => ({
    to: `/sequences/${e.sequence.id}/emails/${e.step}`,
    words: e.name || e.subject,
    note: [e.sequence.name, e.excerpt || (e.name ? e.subject : '')].filter(Boolean).join(' · '),
    group: 'Emails',
  }));
  return [
    ...things.filter((t) => t.group === 'Sequences'),
    ...(q.trim() === '' ? [] : emails),
    ...things.filter((t) => t.group !== 'Sequences'),
    ...commands.map(([c, to]) => ({ to, words: c, note: '', group: 'Go to' })),
  ];
}

function Found({ onClose }: { onClose: () => void }) {
  const navigate = useNavigate();
  const [q, setQ] = useState('');
  const asked = useResting(q.trim());
  const { currentData, isFetching } = useFindQuery(asked, { skip: asked === '' });
  const aims = aimsOf(q, asked === '' ? undefined : currentData);
  const go = (to: string | null) => {
    if (to === null) return;
    onClose();
    void navigate(to);
  };
  return (
    <Combobox value={null} onChange={go}>
      <div className="relative border-b border-line">
        <Search size={16} className="absolute top-3.5 left-4 text-ink-2" aria-hidden="true" />
        <ComboboxInput
          autoFocus
          aria-label="Find anything"
          placeholder="A sequence, an email by its words, a person, an offer …"
          onChange={(e) => setQ(e.target.value)}
          className="w-full rounded-t-sheet bg-transparent py-3 pr-4 pl-11 text-[15px] outline-none"
        />
      </div>
      <ComboboxOptions static className="max-h-[50vh] overflow-y-auto p-1.5">
        {aims.map((a, i) => (
          <div key={`${a.to} ${a.words} ${a.note}`} role="presentation">
            {a.group !== aims[i - 1]?.group && (
              <p role="presentation" className="px-2.5 pt-2 pb-0.5 text-[12px] text-ink-2">
                {a.group}
              </p>
            )}
            <ComboboxOption
              value={a.to}
              className="flex cursor-pointer items-baseline gap-3 rounded-control px-2.5 py-1.5 data-focus:bg-paper"
            >
              <span className="shrink-0 font-semibold">{a.words}</span>
              <span className="min-w-0 flex-1 truncate text-[13px] text-ink-2">{a.note}</span>
            </ComboboxOption>
          </div>
        ))}
        {aims.length === 0 && (
          <p className="px-3 py-4 text-ink-2">
            {isFetching || asked !== q.trim() ? 'Looking …' : 'Nothing is called so, and no email says it.'}
          </p>
        )}
      </ComboboxOptions>
    </Combobox>
  );
}

/** Finds anything by its words, from everywhere: Ctrl K. */
export function JumpBox() {
  const [open, setOpen] = useState(false);
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (!(e.ctrlKey || e.metaKey) || e.shiftKey || e.altKey || e.key.toLowerCase() !== 'k') return;
      e.preventDefault();
      setOpen(true);
    };
    window.addEventListener('keydown', onKey, true);
    return () => window.removeEventListener('keydown', onKey, true);
  }, []);
  return (
    <>
      <button
        type="button"
        onClick={() => setOpen(true)}
        className="flex items-center gap-2 rounded-control px-2.5 py-1.5 text-[13px] hover:bg-white/10"
      >
        <Search size={15} aria-hidden="true" />
        <span className="sr-only md:not-sr-only">
          Find <kbd className="ml-1 text-[11px] opacity-80">Ctrl K</kbd>
        </span>
      </button>
      <Dialog
        open={open}
        onClose={() => setOpen(false)}
        aria-label="Find"
        className="fixed inset-0 z-50 flex items-start justify-center bg-ink/30 p-4 pt-[12vh]"
      >
        <DialogPanel aria-label="Find" className="w-full max-w-2xl rounded-sheet border border-line bg-sheet shadow-sm">
          <Found onClose={() => setOpen(false)} />
        </DialogPanel>
      </Dialog>
    </>
  );
}
