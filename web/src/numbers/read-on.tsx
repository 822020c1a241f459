import type { ReadOn } from '@ascenso/contracts';
import { rateWords } from '@ascenso/core';
import { number, Sheet } from '../ui/index.tsx';
import { useReadOnQuery } from './endpoints.ts';
import type { Period } from './periods.ts';

/** Programs with a line of their own. */
const LINES = 6;

const DEVICES: Readonly<Record<string, string>> = { phone: 'A phone', tablet: 'A tablet', computer: 'A computer' };

/** The lines of a table: those that are known, the most first, the rest in one, and what is not known. */
function linesOf(all: readonly ReadOn[], words: (name: string) => string): { words: string; of: ReadOn }[] {
  const known = all.filter((r) => r.name !== null);
  const rest = known.slice(LINES);
  const sum = (key: 'opened' | 'clicked') => rest.reduce((n, r) => n + r[key], 0);
  return [
    ...known.slice(0, LINES).map((of) => ({ words: words(of.name ?? ''), of })),
    ...(rest.length > 0
      ? [{ words: 'Others', of: { name: 'others', opened: sum('opened'), clicked: sum('clicked') } }]
      : []),
    ...all.filter((r) => r.name === null).map((of) => ({ words: 'Not known', of })),
  ];
}

function ReadOnTable({ caption, lines }: { caption: string; lines: ReturnType<typeof linesOf> }) {
  const all = { opened: 0, clicked: 0 };
  for (const { of } of lines) {
    all.opened += of.opened;
    all.clicked += of.clicked;
  }
  return (
    <table className="w-full">
      <caption className="sr-only">{caption}</caption>
      <thead className="text-[12px] text-ink-2">
        <tr>
          <th className="text-left font-semibold">{caption}</th>
          <th className="text-right font-semibold">Opened</th>
          <th className="text-right font-semibold">Clicked</th>
        </tr>
      </thead>
      <tbody>
        {lines.map(({ words, of }) => (
          <tr key={words} className="border-t border-line tabular-nums">
            <th scope="row" className="py-1 text-left font-semibold">
              {words}
            </th>
            {(['opened', 'clicked'] as const).map((key) => (
              <td key={key} className="text-right">
                {number(of[key])} <span className="text-[12px] text-ink-2">{rateWords(of[key], all[key])}</span>
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** On what the emails were read, and with which mail program, as far as these say. */
export function ReadOnSheet({ id, period }: { id: string; period: Period | null }) {
  const { data } = useReadOnQuery({ id, period }, { refetchOnMountOrArgChange: true });
  if (!data || data.devices.length === 0) return null;
  return (
    <Sheet className="shrink-0 p-5">
      <h2 className="mb-2 text-[15px] font-bold">What they read on</h2>
      <div className="grid gap-8 md:grid-cols-2">
        <ReadOnTable caption="Device" lines={linesOf(data.devices, (d) => DEVICES[d] ?? d)} />
        <ReadOnTable caption="Mail program or browser" lines={linesOf(data.programs, (p) => p)} />
      </div>
      <p className="mt-2 text-[12px] text-ink-2">
        As far as a program says what it is. Services that fetch pictures for their readers hide the device of an
        opening; a click is always the reader’s own. An email that was read on two counts for both.
      </p>
    </Sheet>
  );
}
