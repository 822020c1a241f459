import { ChevronDown, Paperclip } from 'lucide-react';
import { useState } from 'react';
import { languageName, modeOf, previewTemplate, readTemplate, type Email, type EmailMode } from '@ascenso/core';
import { edit } from '../drafts/draft.ts';
import { useAct } from '../app/store.ts';
import { Choice } from '../ui/choice.tsx';
import { languageChoices } from '../ui/languages.ts';
import { Besides } from './besides.tsx';
import { useComposer } from './context.ts';
import { LineEditor } from './editors/index.ts';
import { useRenderedNow } from './rendering.tsx';

/** What a phone shows of a subject and a preview text, in characters (common practice, no published source). */
const SUBJECT_SHOWN = 40;
const PREVIEW_SHOWN = 90;

const MODES: Record<EmailMode, string> = {
  designed: 'Designed',
  letter: 'Like a letter',
  text: 'Text only',
  html: 'Own HTML',
};

/** The words that stand in for a preview text, as somebody reads them of whom nothing is known. */
const firstWords = (email: Email): string =>
  readTemplate(previewTemplate(email))
    .pieces.map((p) => (typeof p === 'string' ? p : (p.fallback ?? '…')))
    .join('')
    .slice(0, 40);

/** How many characters there are as they land, and how many of them a phone shows. */
function Counted({ of, shown }: { of: 'subject' | 'preview'; shown: number }) {
  const rendered = useRenderedNow();
  return (
    <span className="tabular-nums">
      {rendered?.[of].length ?? 0} of ~{shown} shown on a phone
    </span>
  );
}

/** From, subject and preview text; and behind a fold, how it is made and where answers go. */
export function Envelope() {
  const { step, around } = useComposer();
  const dispatch = useAct();
  const [more, setMore] = useState(false);
  const { email } = step;
  const set = (
    field: 'sender' | 'subject' | 'preview' | 'replyTo' | 'toName' | 'mode' | 'offer' | 'language',
    value: unknown,
  ) => void dispatch(edit([{ type: 'email.set', step: step.id, field, value }]));
  const mode = modeOf(email);
  const attached = email.attachments?.length ?? 0;
  return (
    <div className="shrink-0 border-b border-line bg-sheet px-5 py-2.5">
      <div className="flex items-start gap-3">
        <div className="w-60 shrink-0">
          <p className="mb-1 text-[12px] text-ink-2">From</p>
          <Choice
            part="sender"
            label="From"
            hideLabel
            value={email.sender}
            choose={(v) => set('sender', v)}
            of={[
              { value: '', label: `${around.senders.find((s) => s.isDefault)?.name ?? 'No sender yet'} (default)` },
              ...around.senders.filter((s) => !s.isDefault).map((s) => ({ value: s.id, label: s.name })),
            ]}
          />
        </div>
        <LineEditor
          emoji
          part="subject"
          label="Subject"
          value={email.subject}
          placeholder="What they see first"
          save={(v) => set('subject', v)}
          note={<Counted of="subject" shown={SUBJECT_SHOWN} />}
        />
        <LineEditor
          emoji
          part="preview"
          label="Preview text"
          value={email.preview}
          placeholder={`From the text: ${firstWords(email) || '…'}`}
          save={(v) => set('preview', v)}
          note={<Counted of="preview" shown={PREVIEW_SHOWN} />}
        />
        <div className="w-36">
          <p className="mb-1 text-[12px] text-ink-2">Offer</p>
          <Choice
            part="offer"
            label="Offer"
            hideLabel
            value={email.offer ?? ''}
            choose={(v) => set('offer', v || null)}
            of={[
              { value: '', label: 'none' },
              ...around.offers.map((o) => ({ value: o.id, label: o.name })),
              ...(email.offer && !around.offers.some((o) => o.id === email.offer)
                ? [{ value: email.offer, label: 'gone' }]
                : []),
            ]}
          />
        </div>
        <button
          type="button"
          aria-expanded={more}
          title="How it is made, what is counted, and what goes along"
          onClick={() => setMore(!more)}
          className="mt-5 flex min-h-8 items-center gap-1 rounded-control border border-line px-2.5 text-[13px] font-semibold hover:bg-paper-2"
        >
          {MODES[mode]}
          <span className="flex items-center gap-0.5 text-ink-2">
            <Paperclip size={14} aria-hidden="true" />
            {attached > 0 && attached}
            <span className="sr-only">{attached > 0 ? ' attached' : 'nothing attached'}</span>
          </span>
          <ChevronDown size={14} aria-hidden="true" className={more ? 'rotate-180' : ''} />
        </button>
      </div>
      {more && (
        <div className="mt-3 flex items-start gap-3">
          <div className="w-56">
            <Choice
              label="How it is made"
              value={mode}
              choose={(v) => set('mode', v === 'designed' ? null : v)}
              of={[...(Object.keys(MODES) as EmailMode[]).map((m) => ({ value: m, label: MODES[m] }))]}
            />
          </div>
          <div className="w-56">
            <Choice
              label="Written in"
              value={email.language ?? ''}
              choose={(v) => set('language', v || null)}
              of={[
                { value: '', label: `${languageName(around.style.language)}, as the house` },
                ...languageChoices
                  .filter((l) => l.tag !== around.style.language)
                  .map((l) => ({ value: l.tag, label: l.name })),
              ]}
            />
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
          <p className="max-w-56 self-end pb-1.5 text-[12px] text-ink-2">
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
      {more && <Besides />}
    </div>
  );
}
