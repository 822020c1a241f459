import { useState } from 'react';
import { toast } from 'sonner';
import type { OverdueEmail } from '@ascenso/contracts';
import { DAY, HOUR, momentWords, periodWords, zoneOf } from '@ascenso/core';
import { useAround } from '../app/around.ts';
import { sentence, useMeQuery } from '../app/api.ts';
import { WhatComes } from './foreseen.tsx';
import { useUndo } from '../ui/use-undo.ts';
import { useAddPeopleMutation, useResumeCountsQuery, useResumeMutation, useSetStatusMutation } from './endpoints.ts';
import { useSegmentsQuery } from '../people/people-endpoints.ts';
import { personName } from '../composer/reader.tsx';
import { Button, ChoiceCards, Dialog, number, TextField } from '../ui/index.tsx';
import { Choice } from '../ui/choice.tsx';
import { haltWords } from '../sequences/halt-words.ts';
import { usePeopleQuery } from '../people/people-endpoints.ts';
import { NumberInput } from '../ui/number-field.tsx';

const people = (n: number) => (n === 1 ? '1 person' : `${number(n)} people`);
const emails = (n: number) => (n === 1 ? '1 email' : `${number(n)} emails`);

/** A length of time in the largest unit that has two of it. */
const agoWords = (ms: number) =>
  ms >= 2 * DAY ? periodWords(Math.floor(ms / DAY), 'days') : periodWords(Math.max(1, Math.floor(ms / HOUR)), 'hours');

interface DialogProps {
  id: string;
  onClose: () => void;
}

/** The emails that are overdue: which, for how many, and how old the oldest is. */
function Overdue({ overdue, late, zone, now }: { overdue: OverdueEmail[]; late: boolean; zone: string; now: number }) {
  if (overdue.length === 0) return null;
  return (
    <ul className="mb-1 rounded-control border border-line">
      {overdue.map((e) => (
        <li key={e.step ?? ''} className="flex items-baseline gap-2 border-t border-line px-3 py-1.5 first:border-t-0">
          <span className="min-w-0 flex-1 truncate">
            {e.step === null ? 'Which email is next depends on each person' : `“${e.name}”`}
            {late && e.late > 0 && <span className="text-brick"> · left out for {people(e.late)}</span>}
          </span>
          <span className="text-[13px] whitespace-nowrap text-ink-2">
            {people(e.people)}, the oldest due {momentWords(zoneOf(zone), e.oldest)}
            {now > e.oldest && `, ${agoWords(now - e.oldest)} ago`}
          </span>
        </li>
      ))}
    </ul>
  );
}

/** Resuming: what each choice would do is counted before anything is done. */
export function ResumeDialog({ id, onClose }: DialogProps) {
  const [overdue, setOverdue] = useState<'send' | 'skip' | 'shift' | null>(null);
  const [lateHours, setLateHours] = useState(24);
  const { data } = useResumeCountsQuery({ id, late: lateHours }, { refetchOnMountOrArgChange: true });
  const { data: me } = useMeQuery();
  const around = useAround(['now']);
  const [resume, { isLoading }] = useResumeMutation();
  const go = async () => {
    if (!overdue) return;
    const answer = await resume({ id, overdue, lateHours });
    if (answer.error) return toast.error(sentence(answer.error));
    onClose();
  };
  if (!data) return null;
  const since =
    data.pausedAt === null ? '' : `Paused since ${momentWords(zoneOf(me?.workspace.zone ?? 'UTC'), data.pausedAt)}. `;
  const queued = data.queued > 0 ? `, ${emails(data.queued)} decided before the pause go out` : '';
  const choices = [
    {
      value: 'shift' as const,
      words: 'Move everything on by as long as the pause was',
      note: `Of ${people(data.inside)} inside, nobody is late: what was left of a wait is left${queued}. Windows and waits for a day of the calendar are asked anew.`,
    },
    {
      value: 'send' as const,
      words: 'Send all that is overdue',
      note: `${people(data.overdue)} go on at once${queued}. Windows are asked again.`,
    },
    {
      value: 'skip' as const,
      words: 'Send what is overdue, leave out what is too late',
      note: `${people(data.overdue - data.tooLate)} and ${emails(data.queued - data.queuedLate)} go on at once. Left out for good: the next email of ${people(data.tooLate)}, and ${emails(data.queuedLate)} in the queue.`,
    },
  ];
  return (
    <Dialog open onClose={onClose} title="Resume this sequence" wide>
      {data.halted && (
        <p className="mb-2 font-semibold text-brick">It was paused by itself. {haltWords(data.halted)}</p>
      )}
      <p className="mb-3 text-ink-2">
        {since}
        {people(data.inside)} inside, {people(data.overdue)} overdue, {emails(data.queued)} in the queue.
      </p>
      <Overdue
        overdue={data.emails}
        late={overdue === 'skip'}
        zone={me?.workspace.zone ?? 'UTC'}
        now={around?.now ?? 0}
      />
      <ChoiceCards
        name="overdue"
        legend="What becomes of what is overdue"
        choices={choices}
        chosen={overdue}
        choose={setOverdue}
      />
      {overdue === 'skip' && (
        <label className="mt-3 flex items-center gap-2">
          Too late is what should have gone out more than{' '}
          <NumberInput
            label="Hours after which it is too late"
            least={1}
            most={8760}
            value={lateHours}
            save={setLateHours}
            className="!w-20"
          />{' '}
          hours ago.
        </label>
      )}
      <div className="mt-4 flex justify-end">
        <Button tone="main" disabled={isLoading || !overdue} onClick={() => void go()}>
          {overdue ? 'Resume' : 'Choose what becomes of it'}
        </Button>
      </div>
    </Dialog>
  );
}

/** Adding people by hand: one, or a segment with its number told first. */
export function AddPeopleDialog({ id, onClose }: DialogProps) {
  const around = useAround(['segments', 'now']);
  const { data: counted } = useSegmentsQuery(undefined, { refetchOnMountOrArgChange: true });
  const [q, setQ] = useState('');
  const [segment, setSegment] = useState('');
  const found = usePeopleQuery({ q, offset: 0, limit: 6 }, { skip: q.length < 2 });
  const [one, setOne] = useState<string | null>(null);
  const [add, { isLoading }] = useAddPeopleMutation();
  const told = useUndo(['sequences', 'numbers', 'people']);
  const go = async (who: { person: string } | { segment: string; count: number }) => {
    const answer = await add({ id, who });
    if (answer.error) return toast.error(sentence(answer.error));
    const { entered, asked, undo } = answer.data;
    onClose();
    told(
      entered === asked
        ? `${people(entered)} entered.`
        : `${people(entered)} entered of ${number(asked)}. The others are inside already, have been, or may not enter.`,
      undo ?? undefined,
    );
  };
  const chosen = counted?.segments.find((s) => s.id === segment);
  return (
    <Dialog open onClose={onClose} title="Add people by hand">
      <section className="flex flex-col gap-2">
        <TextField
          label="One person, by name or address"
          value={q}
          onChange={(e) => setQ(e.target.value)}
          placeholder="marta@readers.example"
          autoFocus
        />
        {q.length >= 2 && (
          <ul className="flex flex-col">
            {found.data?.people.map((p) => (
              <li key={p.id} className="flex flex-col gap-2 border-t border-line py-1.5">
                <div className="flex items-center gap-2">
                  <span className="min-w-0 flex-1 truncate">
                    <b className="font-semibold">{personName(p)}</b>{' '}
                    {personName(p) !== p.email && <span className="text-ink-2">{p.email}</span>}
                  </span>
                  <Button
                    aria-expanded={one === p.id}
                    onClick={() => setOne(one === p.id ? null : p.id)}
                    aria-label={`What would ${p.email} get?`}
                  >
                    What would they get?
                  </Button>
                </div>
                {one === p.id && (
                  <WhatComes
                    id={id}
                    who={{ ids: [one] }}
                    action={
                      <Button tone="main" disabled={isLoading} onClick={() => void go({ person: one })}>
                        Add them
                      </Button>
                    }
                  />
                )}
              </li>
            ))}
            {found.data?.people.length === 0 && <li className="py-1.5 text-ink-2">Nobody is called that.</li>}
          </ul>
        )}
      </section>
      {around && around.segments.length > 0 && (
        <section className="mt-5 flex flex-col gap-3 border-t border-line pt-4">
          <Choice
            label="Or everyone in a segment"
            value={segment}
            choose={setSegment}
            of={[
              { value: '', label: 'Choose a segment …' },
              ...around.segments.map((s) => ({ value: s.id, label: s.name })),
            ]}
          />
          {chosen && (
            <p className="text-ink-2">
              {people(chosen.count)} in it now. Who may not enter by the rules of the sequence is left out.
            </p>
          )}
          {chosen && chosen.count > 0 && (
            <WhatComes
              id={id}
              who={{ q: '', segment, rule: null, count: chosen.count }}
              action={
                <Button tone="main" disabled={isLoading} onClick={() => void go({ segment, count: chosen.count })}>
                  Add {people(chosen.count)}
                </Button>
              }
            />
          )}
        </section>
      )}
    </Dialog>
  );
}

/** Putting a sequence away, with what that does to those inside. */
export function ArchiveDialog({ id, onClose, oneOff = false }: DialogProps & { oneOff?: boolean }) {
  const { data } = useResumeCountsQuery({ id, late: 24 }, { refetchOnMountOrArgChange: true });
  const [setStatus, { isLoading }] = useSetStatusMutation();
  const go = async () => {
    const answer = await setStatus({ id, status: 'archived' });
    if (answer.error) return toast.error(sentence(answer.error));
    onClose();
    toast(`${oneOff ? 'Cancelled' : 'Archived'}. It can be taken out again from the list of sequences.`);
  };
  return (
    <Dialog open onClose={onClose} title={oneOff ? 'Cancel this send' : 'Archive this sequence'}>
      <p className="text-ink-2">
        {oneOff
          ? 'Whoever has not had it does not get it, also those whose hour is still to come. '
          : 'Nobody enters it any more. '}
        {data && data.inside > 0
          ? `The ${people(data.inside)} inside leave now, and ${emails(data.queued)} in the queue do not go out.`
          : 'Nobody is inside.'}{' '}
        Its numbers and all that was sent stay.
      </p>
      <div className="mt-4 flex justify-end">
        <Button tone="danger" disabled={isLoading || !data} onClick={() => void go()}>
          {oneOff ? 'Cancel it' : 'Archive it'}
        </Button>
      </div>
    </Dialog>
  );
}
