import { Plus } from 'lucide-react';
import type { SequenceRow } from '@ascenso/contracts';
import { momentWords, rateWords, triggersWords, zoneOf, type Names } from '@ascenso/core';
import { useMeQuery } from '../app/api.ts';
import { Button, Chip, Empty, number, Sheet } from '../ui/index.tsx';
import { moneyWords } from '../ui/money.ts';
import { NameCell } from './name-cell.tsx';
import { ONE_OFF_WORDS, oneOffState } from './one-off-state.ts';

function Row({ s, now, zone, names }: { s: SequenceRow; now: number; zone: string; names: Names }) {
  const { words, tone } = ONE_OFF_WORDS[oneOffState(s, now)];
  const when =
    s.letInAt === null
      ? triggersWords(s.liveVersion === null ? s.triggers : s.liveTriggers, names)
      : momentWords(zoneOf(zone), s.letInAt);
  return (
    <tr className="border-t border-line hover:bg-paper-2">
      <NameCell s={s} words={s.subject || 'No subject yet'} />
      <td className="pr-3">
        <Chip tone={tone}>{words}</Chip>
        <p className="text-[13px] text-ink-2">{when}</p>
      </td>
      <td className="pr-4 text-right tabular-nums">{s.liveVersion ? number(s.inside) : '–'}</td>
      <td className="pr-4 text-right tabular-nums">{s.liveVersion ? number(s.sent) : '–'}</td>
      <td className="pr-4 text-right tabular-nums">{rateWords(s.opened, s.sent)}</td>
      <td className="pr-4 text-right tabular-nums">{rateWords(s.clicked, s.sent)}</td>
      <td className="pr-4 text-right font-semibold tabular-nums">{s.liveVersion ? moneyWords(s.money) : '–'}</td>
    </tr>
  );
}

/** News and promotions that go out once, the latest first. */
export function OneOffs({
  sends,
  now,
  names,
  add,
}: {
  sends: readonly SequenceRow[];
  now: number;
  names: Names;
  add: () => void;
}) {
  const { data: me } = useMeQuery();
  const zone = me?.workspace.zone ?? 'UTC';
  return (
    <section aria-label="One-off sends" className="flex flex-col gap-2">
      <div className="flex items-baseline gap-3">
        <h2 className="text-[18px] font-bold">One-off sends</h2>
        <p className="flex-1 text-ink-2">News or a promotion: once, to everybody whom it is for.</p>
        {sends.length > 0 && (
          <Button onClick={add}>
            <Plus size={16} aria-hidden="true" />
            New one-off send
          </Button>
        )}
      </div>
      <Sheet className="overflow-x-auto">
        {sends.length === 0 ? (
          <Empty text="A one-off send goes out once, to everybody in a segment or on a list, on a day at each reader’s own hour.">
            <Button onClick={add}>Make the first one</Button>
          </Empty>
        ) : (
          <table className="w-full min-w-[50rem]">
            <thead className="bg-paper-2 text-left text-[12px] text-ink-2">
              <tr>
                <th className="py-2 pl-4 font-semibold">Send</th>
                <th className="font-semibold">State</th>
                <th className="pr-4 text-right font-semibold">On the way</th>
                <th className="pr-4 text-right font-semibold">Sent</th>
                <th className="pr-4 text-right font-semibold">Opened</th>
                <th className="pr-4 text-right font-semibold">Clicked</th>
                <th className="pr-4 text-right font-semibold">Earned</th>
              </tr>
            </thead>
            <tbody>
              {[...sends]
                .sort((a, b) => b.createdAt - a.createdAt)
                .map((s) => (
                  <Row key={s.id} s={s} now={now} zone={zone} names={names} />
                ))}
            </tbody>
          </table>
        )}
      </Sheet>
    </section>
  );
}
