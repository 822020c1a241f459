import { momentWords, traceSentence, zoneOf, type Moment, type Rehearsal, type TraceNames } from '@ascenso/core';

/** A mark of the timeline: an email, something that held or stopped it, or what happened besides. */
interface Mark {
  at: number;
  words: string;
  step: string | null;
  tone: 'sent' | 'held' | 'event';
}

const told: Partial<Record<string, (names: TraceNames, step: string) => string>> = {
  'email-held': (n, s) => `${n.step(s)} held`,
  'email-paced': (n, s) => `${n.step(s)} held: they want fewer`,
  'email-paused': (n, s) => `${n.step(s)} held: a pause`,
  'email-skipped': (n, s) => `${n.step(s)} skipped`,
  'step-off': (n, s) => `${n.step(s)} is off`,
  'goal-reached': () => 'goal reached',
  'left-by-rule': () => 'left by the rule',
  'mail-stopped': () => 'no mail allowed',
  'not-entered': () => 'does not enter',
};

export function marksOf(rehearsal: Rehearsal, names: TraceNames): Mark[] {
  return rehearsal.moments.flatMap((m: Moment): Mark[] => {
    if (m.kind === 'email') return [{ at: m.at, words: names.step(m.step), step: m.step, tone: 'sent' }];
    if (m.kind === 'event') return [{ at: m.at, words: names.event(m.name), step: null, tone: 'event' }];
    if (m.kind !== 'decided') return [];
    const words = told[m.entry.code]?.(names, m.entry.step ?? '');
    return words ? [{ at: m.at, words, step: m.entry.step, tone: 'held' }] : [];
  });
}

const tones = { sent: 'bg-spruce', held: 'bg-ochre', event: 'bg-slate' };
const texts = { sent: 'text-ink', held: 'text-ochre-text', event: 'text-slate' };

/** The way of the rehearsed person from left to right, each mark with its exact moment; a mark leads to its step. */
export function Timeline({
  marks,
  zoneName,
  select,
}: {
  marks: Mark[];
  zoneName: string;
  select: (step: string) => void;
}) {
  return (
    <div className="overflow-x-auto pb-1" tabIndex={0} role="region" aria-label="Timeline of the rehearsal">
      <ol className="relative flex min-w-full gap-6 before:absolute before:inset-x-0 before:top-[25px] before:h-px before:bg-line">
        {marks.map((m, i) => (
          <li key={i} className="relative flex shrink-0 flex-col items-start gap-1">
            <time dateTime={new Date(m.at).toISOString()} className="text-[12px] text-ink-2 tabular-nums">
              {momentWords(zoneOf(zoneName), m.at)}
            </time>
            <span className={`size-2.5 rounded-full ${tones[m.tone]}`} aria-hidden="true" />
            {m.step ? (
              <button
                type="button"
                onClick={() => select(m.step as string)}
                className={`font-semibold hover:underline ${texts[m.tone]}`}
              >
                {m.words}
              </button>
            ) : (
              <span className={`font-semibold ${texts[m.tone]}`}>{m.words}</span>
            )}
          </li>
        ))}
      </ol>
    </div>
  );
}

/** Everything that was decided, in words, as the person's page would tell it. */
export function Reasons({ rehearsal, names }: { rehearsal: Rehearsal; names: TraceNames }) {
  return (
    <ol
      className="flex max-h-40 flex-col overflow-y-auto rounded-control border border-line bg-sheet"
      tabIndex={0}
      aria-label="What happens, and why"
    >
      {rehearsal.moments.map((m, i) => {
        if (m.kind === 'email') return null;
        const words =
          m.kind === 'decided'
            ? traceSentence(m.entry, names)
            : m.kind === 'event'
              ? `“${names.event(m.name)}” happens.`
              : `${m.kind === 'opened' ? 'Opens' : 'Clicks in'} “${names.step(m.step)}”.`;
        return (
          <li key={i} className="flex gap-3 border-b border-line px-3 py-1 last:border-0">
            <span className="w-36 shrink-0 text-ink-2 tabular-nums">{momentWords(zoneOf(names.zone), m.at)}</span>
            <span>{words}</span>
          </li>
        );
      })}
    </ol>
  );
}
