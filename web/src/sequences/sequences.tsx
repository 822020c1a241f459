import { Plus } from 'lucide-react';
import { useSearchParams } from 'react-router';
import type { SequenceRow } from '@ascenso/contracts';
import { isOneOff, rateWords, triggersWords } from '@ascenso/core';
import { useAround } from '../app/around.ts';
import { sentence } from '../app/api.ts';
import { useClockQuery } from '../outside/endpoints.ts';
import { useResumeMutation } from '../plan/endpoints.ts';
import { useSequencesQuery } from './endpoints.ts';
import { Button, Chip, Empty, number, Sheet } from '../ui/index.tsx';
import { useNames } from '../ui/names.ts';
import { addMoney, moneyWords } from '../ui/money.ts';
import { LabelFilter } from '../labels/label-filter.tsx';
import { useLabelFilter } from '../labels/use-labels.ts';
import { BehindSheet } from '../library/behind.tsx';
import { NeedsLook } from './needs-look.tsx';
import { NewOneOff } from './new-one-off.tsx';
import { NewSequence } from './new-sequence.tsx';
import { NameCell } from './name-cell.tsx';
import { oneOffState } from './one-off-state.ts';
import { OneOffs } from './one-offs.tsx';
import { Rhythm } from './rhythm.tsx';

/** Sequences that are named among those that need a look; the others are counted. */
const NAMED = 3;

export function StatusChip({ status, version }: { status: SequenceRow['status']; version: number | null }) {
  if (status === 'live') return <Chip tone="live">Live · version {version}</Chip>;
  if (status === 'paused') return <Chip tone="fix">Paused · version {version}</Chip>;
  return <Chip tone="draft">{status === 'archived' ? 'Archived' : 'Draft'}</Chip>;
}

function Figure({ title, value, note, fix = false }: { title: string; value: string; note: string; fix?: boolean }) {
  return (
    <div
      className={`flex-1 rounded-sheet border px-4 py-3 ${fix ? 'border-[#e6d3a6] bg-ochre-tint' : 'border-line bg-sheet'}`}
    >
      <p className="text-[13px] text-ink-2">{title}</p>
      <p className="font-head text-[22px] leading-7 font-bold">{value}</p>
      <p className="text-[13px] text-ink-2">{note}</p>
    </div>
  );
}

/** Out of the archive: it comes paused, or as the draft that it was. */
function Restore({ id }: { id: string }) {
  const [resume] = useResumeMutation();
  return <Button onClick={() => void resume({ id, overdue: 'skip' })}>Take it out</Button>;
}

function Row({ s, words }: { s: SequenceRow; words: string }) {
  return (
    <tr className="border-t border-line hover:bg-paper-2">
      <NameCell s={s} words={words} />
      <td className="pr-3">
        <StatusChip status={s.status} version={s.liveVersion} />
      </td>
      <td className="pr-3 pt-2">
        <Rhythm marks={s.rhythm} />
      </td>
      <td className="pr-4 text-right tabular-nums">{s.liveVersion ? number(s.inside) : '–'}</td>
      <td className="pr-4 text-right tabular-nums">{s.liveVersion ? number(s.sent) : '–'}</td>
      <td className="pr-4 text-right tabular-nums">{rateWords(s.opened, s.sent)}</td>
      <td className="pr-4 text-right tabular-nums">{rateWords(s.clicked, s.sent)}</td>
      <td className="pr-4 text-right font-semibold tabular-nums">{s.liveVersion ? moneyWords(s.money) : '–'}</td>
      <td className="pr-4">
        {s.status === 'archived' ? (
          <Restore id={s.id} />
        ) : !s.liveVersion ? (
          <span className="text-ink-2">never published</span>
        ) : (
          <span className="flex flex-wrap gap-1 py-1">
            {s.unpublished && <Chip tone="fix">Edits not published</Chip>}
            {s.behind.length > 0 && <Chip tone="fix">Behind</Chip>}
          </span>
        )}
      </td>
    </tr>
  );
}

/** All that has a label, added up. */
function SumRow({ of, label }: { of: readonly SequenceRow[]; label: string }) {
  const sum = (key: 'inside' | 'sent' | 'opened' | 'clicked') => of.reduce((n, s) => n + s[key], 0);
  const sent = sum('sent');
  return (
    <tfoot className="border-t-2 border-line bg-paper-2 font-semibold tabular-nums">
      <tr>
        <th scope="row" className="py-2 pl-4 text-left" colSpan={3}>
          All of “{label}”{of.some(isOneOff) ? ', one-off sends too' : ''}
        </th>
        <td className="pr-4 text-right">{number(sum('inside'))}</td>
        <td className="pr-4 text-right">{number(sent)}</td>
        <td className="pr-4 text-right">{rateWords(sum('opened'), sent)}</td>
        <td className="pr-4 text-right">{rateWords(sum('clicked'), sent)}</td>
        <td className="pr-4 text-right">{moneyWords(of.map((s) => s.money).reduce(addMoney, {}))}</td>
        <td />
      </tr>
    </tfoot>
  );
}

export function SequencesScreen() {
  const { data, error } = useSequencesQuery(undefined, {
    refetchOnMountOrArgChange: true,
    // Mail that does not go out is told within a minute, whoever has the screen open.
    pollingInterval: 20_000,
  });
  const { data: clock } = useClockQuery();
  const [params, setParams] = useSearchParams();
  const { chosen: label, keeps } = useLabelFilter();
  // What is begun stands in the address: it can be come to from everywhere.
  const asked = params.get('new');
  const adding = asked === 'sequence' || asked === 'one-off' ? asked : null;
  const setAdding = (what: 'sequence' | 'one-off' | null) =>
    setParams(
      (before) => {
        const next = new URLSearchParams(before);
        if (what) next.set('new', what);
        else next.delete('new');
        return next;
      },
      { replace: true },
    );
  const around = useAround(['now']);
  const names = useNames(null);
  if (error) return <Empty text={sentence(error)} />;
  if (!data) return <p className="p-8 text-ink-2">Reading the sequences …</p>;
  const { today } = data;
  const archived = data.sequences.filter((s) => s.status === 'archived');
  const inUse = data.sequences.filter((s) => s.status !== 'archived' && keeps('sequence', s.id));
  const sequences = inUse.filter((s) => !isOneOff(s));
  const sends = inUse.filter(isOneOff);
  const shown = params.get('show') === 'archived' ? archived : sequences;
  const live = sequences.filter((s) => s.status === 'live').length;
  const inside = sequences.reduce((n, s) => n + s.inside, 0);
  const sent = inUse.reduce((n, s) => n + s.sent, 0);
  const clicked = inUse.reduce((n, s) => n + s.clicked, 0);
  // What has gone out once stays as it went, whatever its draft says by now.
  const isOver = (s: SequenceRow) => isOneOff(s) && oneOffState(s, around?.now ?? 0) === 'sent';
  const unpublished = inUse.filter((s) => s.unpublished && !isOver(s));
  const { looks } = data;
  const needing = [
    ...(clock?.engineAway == null ? [] : ['The engine is away']),
    ...(looks.mail ? ['Mail is not going out'] : []),
    ...(looks.log ? ['The log is not written'] : []),
    ...looks.stopped.map((s) => `${s.name}: paused by itself`),
    ...looks.halted.map((h) => `Mail from ${h.email} waits`),
    ...new Set(looks.unmet.map((u) => `${u.sequence.name}: something nobody meets`)),
    ...looks.aside.map((a) => `${a.sequence?.name ?? 'Offers'}: set aside`),
    ...unpublished.map(
      (s) => `${s.name}: ${s.liveVersion ? 'edits not published' : isOneOff(s) ? 'not sent off' : 'never published'}`,
    ),
    ...inUse.filter((s) => s.behind.length > 0).map((s) => `${s.name}: behind`),
  ];
  const more = needing.length - NAMED;
  return (
    <div className="flex flex-col gap-4 p-6">
      <div className="flex items-baseline gap-3">
        <h1 className="text-[24px] font-bold">Sequences</h1>
        <p className="flex-1 text-ink-2">
          {live} live, {sequences.filter((s) => s.status === 'draft').length} draft · {number(inside)} people inside
          right now
        </p>
        <Button tone="main" onClick={() => setAdding('sequence')}>
          <Plus size={16} aria-hidden="true" />
          New sequence
        </Button>
      </div>
      <div className="flex gap-3">
        <Figure
          title="Going out today"
          value={number(today.sent + today.toCome)}
          note={`${number(today.sent)} sent · ${number(today.toCome)} still to come`}
        />
        <Figure
          title="Earned by email, 30 days"
          value={moneyWords(data.earned.money)}
          note={`${number(data.earned.orders)} ${data.earned.orders === 1 ? 'order' : 'orders'} · ${rateWords(clicked, sent)} of all emails clicked`}
        />
        <Figure
          title="Needs a look"
          value={number(needing.length)}
          note={
            needing.length
              ? `${needing.slice(0, NAMED).join(' · ')}${more > 0 ? ` · and ${more} more` : ''}`
              : 'Nothing waits for you'
          }
          fix={needing.length > 0}
        />
      </div>
      <NeedsLook looks={looks} />
      <BehindSheet />
      <LabelFilter kinds={['sequence']} />
      <Sheet className="overflow-x-auto">
        {sequences.length === 0 && label ? (
          <Empty text={`No sequence has the label “${label.name}”.`} />
        ) : sequences.length === 0 ? (
          <Empty text="A sequence sends a series of emails to each person who starts it, each at its own time.">
            <Button tone="main" onClick={() => setAdding('sequence')}>
              Make the first one
            </Button>
          </Empty>
        ) : (
          <table className="w-full min-w-[62rem]">
            <thead className="bg-paper-2 text-left text-[12px] text-ink-2">
              <tr>
                <th className="py-2 pl-4 font-semibold">Sequence</th>
                <th className="font-semibold">State</th>
                <th className="font-semibold">Rhythm: opened and clicked, by day</th>
                <th className="pr-4 text-right font-semibold">Inside</th>
                <th className="pr-4 text-right font-semibold">Sent</th>
                <th className="pr-4 text-right font-semibold">Opened</th>
                <th className="pr-4 text-right font-semibold">Clicked</th>
                <th className="pr-4 text-right font-semibold">Earned</th>
                <th className="font-semibold">
                  <span className="sr-only">Notes</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {shown.map((s) => (
                <Row key={s.id} s={s} words={triggersWords(s.triggers, names)} />
              ))}
            </tbody>
            {label && <SumRow of={inUse} label={label.name} />}
          </table>
        )}
      </Sheet>
      {params.get('show') !== 'archived' && (
        <OneOffs sends={sends} now={around?.now ?? 0} names={names} add={() => setAdding('one-off')} />
      )}
      {archived.length > 0 && (
        <Button
          tone="quiet"
          className="self-start"
          onClick={() => setParams(params.get('show') === 'archived' ? {} : { show: 'archived' })}
        >
          {params.get('show') === 'archived' ? 'Back to the sequences in use' : `${archived.length} archived`}
        </Button>
      )}
      <NewSequence open={adding === 'sequence'} onClose={() => setAdding(null)} />
      <NewOneOff open={adding === 'one-off'} onClose={() => setAdding(null)} />
    </div>
  );
}
