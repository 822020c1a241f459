import { useState } from 'react';
import { dayWords, emailSteps, reaches, type EmailStep, type Sequence } from '@ascenso/core';
import { useAround } from '../app/around.ts';
import { useRendered } from '../composer/preview.ts';
import { nobodyOf } from '../composer/thumbnail.tsx';
import { EmailFrame } from '../ui/index.tsx';

/** One email to be read as a reader of whom nothing is known would get it. */
function Read({ step }: { step: EmailStep }) {
  const around = useAround(['style', 'shared', 'offers', 'senders']);
  return around ? <Drawn step={step} around={around} /> : <p className="text-ink-2">Writing it out …</p>;
}

function Drawn({
  step,
  around,
}: {
  step: EmailStep;
  around: Parameters<typeof useRendered>[1] & Parameters<typeof nobodyOf>[0];
}) {
  const [reading] = useState(() => nobodyOf(around));
  const rendered = useRendered(step.email, around, reading);
  if (!rendered) return <p className="text-ink-2">Writing it out …</p>;
  return rendered.html ? (
    <EmailFrame
      title={`The email “${step.name}”`}
      html={rendered.html}
      className="h-[42vh] w-full rounded-control border border-line bg-white"
    />
  ) : (
    <pre className="h-[42vh] overflow-auto rounded-control border border-line bg-white p-3 text-[13px] whitespace-pre-wrap">
      {rendered.text}
    </pre>
  );
}

/** The emails of a plan in order, each to be read before the plan is taken. */
export function PatternEmails({ doc }: { doc: Sequence }) {
  const emails = emailSteps(doc);
  const [picked, pick] = useState(0);
  const at = reaches(doc);
  const step = emails[picked];
  return (
    <div className="grid grid-cols-[15rem_minmax(0,1fr)] gap-4">
      <ol className="max-h-[42vh] overflow-y-auto" aria-label="Its emails">
        {emails.map((s, i) => {
          const reach = at.get(s.id);
          return (
            <li key={s.id} className="border-t border-line first:border-t-0">
              <button
                type="button"
                aria-pressed={i === picked}
                onClick={() => pick(i)}
                className="w-full rounded-control px-2 py-1.5 text-left hover:bg-paper-2 aria-pressed:bg-spruce-tint"
              >
                <span className="block text-[12px] text-ink-2">
                  {s.name}
                  {reach ? ` · ${dayWords(reach)}` : ''}
                </span>
                <span className="block font-semibold">{s.email.subject || 'The subject is yours to write'}</span>
              </button>
            </li>
          );
        })}
      </ol>
      {step && <Read key={step.id} step={step} />}
    </div>
  );
}
