import { Popover, PopoverButton, PopoverPanel } from '@headlessui/react';
import { describe, type Condition, type EmailStep } from '@ascenso/core';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { useAround } from '../app/around.ts';
import { useApp } from '../app/store.ts';
import { ConditionEditor } from '../conditions/index.ts';
import { Button } from '../ui/index.tsx';
import { Choice } from '../ui/choice.tsx';
import { useNames } from '../ui/names.ts';
import { SavedText } from '../ui/saved-text.tsx';
import { NameField } from '../ui/name-field.tsx';

/** A part of a step's sentence that opens its settings. */
export function SentencePart({ words, width, children }: { words: string; width: string; children: ReactNode }) {
  return (
    <Popover className="inline">
      <PopoverButton className="border-b border-dotted border-spruce text-left font-semibold text-spruce-deep">
        {words}
      </PopoverButton>
      <PopoverPanel
        anchor="bottom start"
        className={`z-30 flex ${width} flex-col gap-3 rounded-sheet border border-line bg-sheet p-4 text-[14px] leading-normal shadow-sm [--anchor-gap:6px] [--anchor-padding:16px]`}
      >
        {children}
      </PopoverPanel>
    </Popover>
  );
}

/** Who gets an email, of those who come by. */
export function ForWhom({ step, save }: { step: EmailStep; save: (c: Condition | null) => void }) {
  const doc = useApp((s) => s.draft.doc);
  const names = useNames(doc);
  const value = step.forWhom ?? null;
  return (
    <SentencePart width="w-96" words={value ? `whoever ${describe(value, names)}` : 'everyone who gets here'}>
      <ConditionEditor
        value={value}
        scope="visit"
        doc={doc}
        sentence={(words) => `Goes to whoever ${words}. The others go on without it.`}
        none="Goes to everyone who gets here."
        save={save}
      />
    </SentencePart>
  );
}

/** What an email adds afterwards. */
export function ThenTag({ tag, save }: { tag: string; save: (tag: string) => void }) {
  const around = useAround(['tags']);
  return (
    <SentencePart width="w-72" words={tag ? `adds the tag “${tag}”` : 'adds no tag'}>
      <NameField
        label="Tag added afterwards"
        value={tag}
        placeholder="stitch-guide"
        of={around?.tags ?? []}
        save={(v) => save(v.trim())}
      />
      {tag && <Button onClick={() => save('')}>Add no tag</Button>}
    </SentencePart>
  );
}

/** Points that an email adds afterwards. */
export function ThenPoints({ points, save }: { points: number; save: (points: number) => void }) {
  return (
    <SentencePart width="w-72" words={points ? `${points} points` : 'no points'}>
      <SavedText
        label="Points added afterwards"
        value={String(points)}
        save={(v) => save(Math.round(Number(v)) || 0)}
      />
    </SentencePart>
  );
}

/** The offer that an email makes. */
export function Makes({ step, save }: { step: EmailStep; save: (offer: string | null) => void }) {
  const around = useAround(['offers']);
  const { offer } = step.email;
  const known = around?.offers.find((o) => o.id === offer);
  return (
    <SentencePart width="w-72" words={offer ? `the offer “${known?.name ?? '…'}”` : 'no offer'}>
      <Choice
        label="Which offer"
        value={offer ?? ''}
        choose={(v) => save(v || null)}
        of={[{ value: '', label: 'none' }, ...(around?.offers.map((o) => ({ value: o.id, label: o.name })) ?? [])]}
      />
      {known && (
        <Link to={`/offers/${known.id}`} className="text-[13px] underline">
          Look at this offer
        </Link>
      )}
    </SentencePart>
  );
}
