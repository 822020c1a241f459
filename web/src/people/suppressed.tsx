import { Trash2 } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import {
  endings,
  SUPPRESSED_AT_ONCE,
  type SuppressedAnswer,
  type SuppressedRow,
  type Suppression,
} from '@ascenso/contracts';
import { dateWords, readSuppressions, zoneOf, type Ended, type SuppressionLine } from '@ascenso/core';
import { api, sentence, useMeQuery } from '../app/api.ts';
import { Choice } from '../ui/choice.tsx';
import { FileField } from '../ui/file-field.tsx';
import { Button, buttonClass, Dialog, Field, IconButton, inputClass, number, Sheet, TextField } from '../ui/index.tsx';
import { MailChip } from './mail-chip.tsx';
import { PeopleTabs } from './people-tabs.tsx';

interface Asked {
  q?: string;
  why?: Ended;
}

const { useSuppressedInfiniteQuery, useSuppressMutation, useReleaseMutation } = api
  .enhanceEndpoints({ addTagTypes: ['suppressed'] })
  .injectEndpoints({
    endpoints: (b) => ({
      suppressed: b.infiniteQuery<SuppressedAnswer, Asked, string | null>({
        query: ({ queryArg, pageParam }) =>
          `/suppressed?${new URLSearchParams({ ...queryArg, ...(pageParam ? { after: pageParam } : {}) }).toString()}`,
        infiniteQueryOptions: { initialPageParam: null, getNextPageParam: (last) => last.next ?? undefined },
        providesTags: ['people', 'suppressed'],
      }),
      suppress: b.mutation<{ people: number }, readonly Suppression[]>({
        query: (addresses) => ({ url: '/suppressed', method: 'POST', body: { addresses } }),
        invalidatesTags: ['people'],
      }),
      release: b.mutation<object, string>({
        query: (id) => ({ url: `/suppressed/${id}`, method: 'DELETE' }),
        invalidatesTags: ['suppressed'],
      }),
    }),
  });

const WHY: Record<Ended, string> = {
  unsubscribed: 'They want no more: only service mail goes to them',
  bounced: 'The address does not work: nothing is sent to it',
  complained: 'They called an email spam: only service mail goes to them',
};

const isAddress = (l: SuppressionLine): l is Suppression => 'email' in l;

/** Addresses that are to get no mail: typed, pasted, or from a file. What it reads is shown before anything ends. */
function AddDialog({ onClose }: { onClose: () => void }) {
  const [text, setText] = useState('');
  const [why, setWhy] = useState<Ended>('unsubscribed');
  const [suppress] = useSuppressMutation();
  const [sent, setSent] = useState<number | null>(null);
  const read = readSuppressions(text, why);
  const addresses = read.filter(isAddress);
  const faults = read.filter((l) => 'fault' in l);
  const go = async () => {
    let people = 0;
    // Part by part: what has ended stays ended, so that one that breaks off is simply done again.
    for (let from = 0; from < addresses.length; from += SUPPRESSED_AT_ONCE) {
      setSent(from);
      const answer = await suppress(addresses.slice(from, from + SUPPRESSED_AT_ONCE));
      if (answer.error) {
        setSent(null);
        return void toast.error(sentence(answer.error));
      }
      people += answer.data.people;
    }
    toast.success(
      `Mail has ended for ${number(addresses.length)} ${addresses.length === 1 ? 'address' : 'addresses'}: ${people === 0 ? 'none of them' : number(people)} ${people === 1 ? 'is' : 'are'} among your people now.`,
    );
    onClose();
  };
  return (
    <Dialog open onClose={onClose} title="End mail to some addresses" wide>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          void go();
        }}
      >
        <Field label="Addresses, one on each line">
          {(id) => (
            <textarea
              id={id}
              rows={6}
              className={inputClass}
              value={text}
              onChange={(e) => setText(e.target.value)}
              placeholder="ana@readers.example"
            />
          )}
        </Field>
        <FileField
          label="Choose a file of addresses"
          hint="A list from elsewhere, as CSV or text. Where a line says that it bounced, complained or unsubscribed, that is taken over."
          accept=".csv,.tsv,.txt,text/csv,text/plain"
          take={([file]) => void file?.text().then(setText)}
        />
        <Choice
          label="Where a line does not say why"
          value={why}
          choose={(w) => setWhy(w)}
          of={endings.map((e) => ({ value: e, label: WHY[e] }))}
        />
        {faults.length > 0 && (
          <div className="rounded-control bg-ochre-tint p-3">
            <p className="font-semibold text-ochre-text">
              {faults.length === 1 ? 'One line is' : `${number(faults.length)} lines are`} left out:
            </p>
            <ul>
              {faults.slice(0, 5).map((f) => (
                <li key={f.line}>
                  Line {f.line}: {f.fault}
                </li>
              ))}
              {faults.length > 5 && <li>and {number(faults.length - 5)} more</li>}
            </ul>
          </div>
        )}
        <p className="text-ink-2">
          Whoever is inside a sequence gets no more of its marketing. An address that nobody has yet is kept, and gets
          no mail by whichever way it comes in. There is no undo: who unsubscribed gets mail again by joining a list
          again, an address that bounced by confirming one, and a complaint stays.
        </p>
        <div className="flex justify-end">
          <Button tone="danger" type="submit" disabled={addresses.length === 0 || sent !== null}>
            {sent === null
              ? addresses.length === 0
                ? 'End mail to them'
                : `End mail to ${number(addresses.length)} ${addresses.length === 1 ? 'address' : 'addresses'}`
              : `${number(sent)} of ${number(addresses.length)} …`}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

function Row({ row, words }: { row: SuppressedRow; words: string }) {
  const [release] = useReleaseMutation();
  const off = async () => {
    const answer = await release(row.id);
    if (answer.error) toast.error(sentence(answer.error));
    else toast(`${row.email} is off the list.`);
  };
  return (
    <tr className="border-t border-line">
      <td className="py-2 pl-4">
        {row.person ? (
          <Link to={`/people/${row.person}`} className="underline">
            {row.email}
          </Link>
        ) : (
          (row.email ?? <i className="text-ink-2">somebody who was erased</i>)
        )}
      </td>
      <td>
        <MailChip status={row.why} />
      </td>
      <td className="text-ink-2">{row.person ? 'a person' : row.email ? 'nobody has this address yet' : 'erased'}</td>
      <td className="tabular-nums">{words}</td>
      <td className="py-1 pr-2 text-right">
        {!row.person && row.email && (
          <IconButton name={`Take ${row.email} off the list`} onClick={() => void off()}>
            <Trash2 size={15} />
          </IconButton>
        )}
      </td>
    </tr>
  );
}

/** Everybody who gets no mail, and why; put in by hand or from a file, out as a file. */
export function SuppressedScreen() {
  const [asked, setAsked] = useState<Asked>({});
  const [adding, setAdding] = useState(false);
  const { data, error, hasNextPage, fetchNextPage, isFetching } = useSuppressedInfiniteQuery(asked);
  const { data: me } = useMeQuery();
  const zone = zoneOf(me?.workspace.zone ?? 'UTC');
  const counts = data?.pages[0]?.counts;
  const total = counts ? counts.unsubscribed + counts.bounced + counts.complained : 0;
  const rows = data?.pages.flatMap((p) => p.rows) ?? [];
  return (
    <div className="flex flex-col gap-4 p-6">
      <div className="flex items-center gap-3">
        <h1 className="text-[24px] font-bold">People</h1>
        <p className="flex-1 text-ink-2">Who gets no mail, and why.</p>
        <PeopleTabs />
      </div>
      <div className="flex items-end gap-2">
        <div className="w-72">
          <TextField
            label="Part of an address"
            type="search"
            value={asked.q ?? ''}
            onChange={(e) => setAsked((a) => ({ ...a, q: e.target.value || undefined }))}
          />
        </div>
        <div className="w-72">
          <Choice
            label="Why"
            value={asked.why ?? ''}
            choose={(why) => setAsked((a) => ({ ...a, why: why === '' ? undefined : why }))}
            of={[
              { value: '', label: `All of them (${number(total)})` },
              ...endings.map((e) => ({
                value: e,
                label: `${{ unsubscribed: 'Unsubscribed', bounced: 'Bounced', complained: 'Complained' }[e]} (${number(counts?.[e] ?? 0)})`,
              })),
            ]}
          />
        </div>
        <span className="flex-1" />
        <a
          className={buttonClass()}
          href={`/api/suppressed.csv?${new URLSearchParams({ ...asked }).toString()}`}
          download
        >
          Export them
        </a>
        <Button tone="main" onClick={() => setAdding(true)}>
          End mail to some addresses
        </Button>
      </div>
      {error && <p className="text-brick">{sentence(error)}</p>}
      <Sheet className="overflow-x-auto">
        <table className="w-full min-w-[48rem]">
          <thead className="bg-paper-2 text-left text-[12px] text-ink-2">
            <tr>
              <th className="py-2 pl-4 font-semibold">Address</th>
              <th className="font-semibold">Why</th>
              <th className="font-semibold">Whose</th>
              <th className="font-semibold">Since</th>
              <th>
                <span className="sr-only">Take off</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {rows.map((r) => (
              <Row key={r.id} row={r} words={dateWords(zone, r.at, true)} />
            ))}
            {data && rows.length === 0 && (
              <tr>
                <td colSpan={5} className="px-4 py-6 text-ink-2">
                  {asked.q || asked.why ? 'Nobody fits that.' : 'Mail goes to everybody.'}
                </td>
              </tr>
            )}
          </tbody>
        </table>
        {hasNextPage && (
          <div className="border-t border-line p-3">
            <Button disabled={isFetching} onClick={() => void fetchNextPage()}>
              Show more
            </Button>
          </div>
        )}
      </Sheet>
      {adding && <AddDialog onClose={() => setAdding(false)} />}
    </div>
  );
}
