import { ChevronDown } from 'lucide-react';
import { useState } from 'react';
import { languageName, modeOf, previewTemplate, type EmailMode } from '@ascenso/core';
import { edit } from '../drafts/draft.ts';
import { useAct } from '../app/store.ts';
import { inputClass, Select } from '../ui/index.tsx';
import { languageChoices } from '../ui/languages.ts';
import { useComposer } from './context.ts';
import { LineEditor } from './editors/index.ts';
import type { Rendered } from './preview.ts';

/** What a phone shows of a subject and a preview text, in characters (common practice, no published source). */
const SUBJECT_SHOWN = 40;
const PREVIEW_SHOWN = 90;

const MODES: Record<EmailMode, string> = {
  designed: 'Designed',
  letter: 'Like a letter',
  text: 'Text only',
  html: 'Own HTML',
};

/** From, subject and preview text; and behind a fold, how it is made and where answers go. */
export function Envelope({ rendered }: { rendered: Rendered | null }) {
  const { step, around } = useComposer();
  const dispatch = useAct();
  const [more, setMore] = useState(false);
  const { email } = step;
  const set = (
    field: 'sender' | 'subject' | 'preview' | 'replyTo' | 'toName' | 'mode' | 'offer' | 'language',
    value: unknown,
  ) => void dispatch(edit([{ type: 'email.set', step: step.id, field, value }]));
  const counted = (n: number, shown: number) => (
    <span className="tabular-nums">
      {n} of ~{shown} shown on a phone
    </span>
  );
  const mode = modeOf(email);
  return (
    <div className="shrink-0 border-b border-line bg-sheet px-5 py-2.5">
      <div className="flex items-start gap-3">
        <div className="w-60 shrink-0">
          <p className="mb-1 text-[12px] text-ink-2">From</p>
          <select
            data-part="sender"
            aria-label="From"
            value={email.sender}
            onChange={(e) => set('sender', e.target.value)}
            className={`${inputClass} text-ellipsis`}
          >
            <option value="">{around.senders.find((s) => s.isDefault)?.name ?? 'No sender yet'} (default)</option>
            {around.senders
              .filter((s) => !s.isDefault)
              .map((s) => (
                <option key={s.id} value={s.id}>
                  {s.name}
                </option>
              ))}
          </select>
        </div>
        <LineEditor
          part="subject"
          label="Subject"
          value={email.subject}
          placeholder="What they see first"
          save={(v) => set('subject', v)}
          note={counted(rendered?.subject.length ?? 0, SUBJECT_SHOWN)}
        />
        <LineEditor
          part="preview"
          label="Preview text"
          value={email.preview}
          placeholder={`From the text: ${previewTemplate(email).slice(0, 40) || '…'}`}
          save={(v) => set('preview', v)}
          note={counted(rendered?.preview.length ?? 0, PREVIEW_SHOWN)}
        />
        <div className="w-36">
          <p className="mb-1 text-[12px] text-ink-2">Offer</p>
          <select
            data-part="offer"
            aria-label="Offer"
            value={email.offer ?? ''}
            onChange={(e) => set('offer', e.target.value || null)}
            className={`${inputClass} text-ellipsis`}
          >
            <option value="">none</option>
            {around.offers.map((o) => (
              <option key={o.id} value={o.id}>
                {o.name}
              </option>
            ))}
            {email.offer && !around.offers.some((o) => o.id === email.offer) && (
              <option value={email.offer}>gone</option>
            )}
          </select>
        </div>
        <button
          type="button"
          aria-expanded={more}
          onClick={() => setMore(!more)}
          className="mt-5 flex min-h-8 items-center gap-1 rounded-control border border-line px-2.5 text-[13px] font-semibold hover:bg-paper-2"
        >
          {MODES[mode]}
          <ChevronDown size={14} aria-hidden="true" className={more ? 'rotate-180' : ''} />
        </button>
      </div>
      {more && (
        <div className="mt-3 flex items-start gap-3">
          <div className="w-56">
            <Select
              label="How it is made"
              value={mode}
              onChange={(e) => set('mode', e.target.value === 'designed' ? null : e.target.value)}
            >
              {(Object.keys(MODES) as EmailMode[]).map((m) => (
                <option key={m} value={m}>
                  {MODES[m]}
                </option>
              ))}
            </Select>
          </div>
          <div className="w-56">
            <Select
              label="Written in"
              value={email.language ?? ''}
              onChange={(e) => set('language', e.target.value || null)}
            >
              <option value="">{languageName(around.style.language)}, as the house</option>
              {languageChoices
                .filter((l) => l.tag !== around.style.language)
                .map((l) => (
                  <option key={l.tag} value={l.tag}>
                    {l.name}
                  </option>
                ))}
            </Select>
          </div>
          <LineEditor
            part="replyTo"
            label="Answers go to"
            value={email.replyTo ?? ''}
            placeholder="the sender"
            save={(v) => set('replyTo', v.trim() || null)}
          />
          <LineEditor
            part="toName"
            label="Name in the To line"
            value={email.toName ?? ''}
            placeholder="none"
            save={(v) => set('toName', v.trim() || null)}
          />
          <p className="max-w-64 self-end pb-1.5 text-[12px] text-ink-2">
            {mode === 'text'
              ? 'Without a HTML part, opens cannot be seen.'
              : mode === 'letter'
                ? 'No sheet, no buttons: links as in a letter.'
                : mode === 'html'
                  ? 'Your own source, with the same merge fields and tracking.'
                  : 'Laid out in the house style.'}
          </p>
        </div>
      )}
    </div>
  );
}
