import type { ConsentRow } from '@ascenso/contracts';
import { momentWords, type Zone } from '@ascenso/core';
import { Sheet } from '../ui/index.tsx';

const WHAT = { asked: 'asked for', joined: 'joined', left: 'left' } as const;

const HOW: Record<ConsentRow['how'], (source: string) => string> = {
  form: (s) => `by the form ${s}`,
  import: (s) => `by the file ${s}`,
  api: (s) => `told by ${s || 'a program'}`,
  hand: (s) => `entered by ${s}`,
  sequence: (s) => `by the sequence ${s}`,
  preferences: () => 'on the preferences page',
  'one-click': () => 'by one click in an email',
  complaint: () => 'by a complaint',
};

/** When somebody agreed and took it back, how, and to which words. */
export function ConsentRecord({ consent, zone }: { consent: readonly ConsentRow[]; zone: Zone }) {
  return (
    <Sheet className="p-5">
      <h2 className="mb-3 text-[16px] font-bold">What they agreed to</h2>
      {consent.length === 0 && (
        <p className="text-ink-2">Nothing is recorded: they came in before consent was kept, or joined no list.</p>
      )}
      <ol>
        {consent.map((c) => (
          <li key={c.id} className="flex gap-3 border-t border-line/60 py-1.5">
            <span className="w-32 shrink-0 text-ink-2 tabular-nums">{momentWords(zone, c.at)}</span>
            <span className="min-w-0 flex-1">
              They {WHAT[c.what]} <b className="font-semibold">{c.list ?? 'all mail'}</b>, {HOW[c.how](c.source)}
              {c.where && <span className="text-ink-2"> from {c.where}</span>}.
              {c.words && <q className="block text-ink-2">{c.words}</q>}
            </span>
          </li>
        ))}
      </ol>
    </Sheet>
  );
}
