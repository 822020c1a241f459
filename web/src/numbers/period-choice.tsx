import { Choice } from '../ui/choice.tsx';
import { DayField } from '../ui/moment-field.tsx';
import { dayOf, dayText, LAST_DAYS, type Period } from './periods.ts';

const OWN = 'own';

/** Whose passages are counted: everybody's, or of those who joined in a period. */
export function PeriodChoice({
  params,
  period,
  today,
  ask,
  words,
}: {
  params: URLSearchParams;
  period: Period | null;
  today: number;
  ask: (next: Record<string, string>) => void;
  words: { label: string; all: string; last: (days: number) => string; own: string };
}) {
  const own = params.has('from');
  const value = own ? OWN : (params.get('joined') ?? '');
  return (
    <div className="flex flex-wrap items-center gap-2">
      <div className="w-56">
        <Choice
          hideLabel
          label={words.label}
          value={value}
          of={[
            { value: '', label: words.all },
            ...LAST_DAYS.map((n) => ({ value: String(n), label: words.last(n) })),
            { value: OWN, label: words.own },
          ]}
          choose={(v) =>
            ask(
              v === OWN
                ? { from: dayText(period?.from ?? today - 29), to: dayText(period?.to ?? today) }
                : v
                  ? { joined: v }
                  : {},
            )
          }
        />
      </div>
      {own && period && (
        <>
          <DayField
            inline
            label="From"
            value={dayText(period.from)}
            save={(d) => ask({ from: d, to: dayText(Math.max(dayOf(d), period.to)) })}
          />
          <span className="text-ink-2">to</span>
          <DayField
            inline
            label="To"
            value={dayText(period.to)}
            save={(d) => ask({ from: dayText(Math.min(dayOf(d), period.from)), to: d })}
          />
        </>
      )}
    </div>
  );
}
