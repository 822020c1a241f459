import { useState } from 'react';
import { toast } from 'sonner';
import type { Surroundings, Whom } from '@ascenso/contracts';
import {
  atomsOf,
  minuteWords,
  momentWords,
  zoneOf,
  type Condition,
  type Sequence,
  type TriggerOf,
} from '@ascenso/core';
import { useKeepSegmentMutation } from '../people/people-endpoints.ts';
import { sentence, useMeQuery } from '../app/api.ts';
import { useAct } from '../app/store.ts';
import { ConditionEditor } from '../conditions/index.ts';
import { edit } from '../drafts/draft.ts';
import { MailsUnder } from '../plan/mails-under.tsx';
import { Button, Dialog, number, TextField } from '../ui/index.tsx';

const people = (n: number) => (n === 1 ? '1 person' : `${number(n)} people`);

/** Segments offered at once; the others are found in the condition. */
const OFFERED = 6;

/** Those who do not get it, each with the reason. */
function leftOut({ left }: Whom): string[] {
  const told: [number, string][] = [
    [left.offList, 'not on the list'],
    [left.unsubscribed, 'unsubscribed'],
    [left.bounced, 'bounced'],
    [left.complained, 'complained'],
    [left.had, 'had it already'],
  ];
  return told.filter(([n]) => n > 0).map(([n, words]) => `${number(n)} ${words}`);
}

/** How many get it, from when to when, and who of those who fit does not, with why. */
export function WhomWords({
  whom,
  trigger,
  holdout,
}: {
  whom: Whom | undefined;
  trigger: TriggerOf<'moment'> | undefined;
  /** Share held out, percent. */
  holdout: number;
}) {
  const { data: me } = useMeQuery();
  if (!whom) return <p className="text-ink-2">Counting …</p>;
  const zone = zoneOf(me?.workspace.zone ?? 'UTC');
  const left = leftOut(whom);
  return (
    <div className="rounded-control bg-spruce-tint px-3 py-2">
      <p>
        <b className="font-semibold">{people(whom.gets)} get it</b>
        {whom.from !== null && trigger?.when === 'day'
          ? whom.from === whom.to
            ? `, on ${momentWords(zone, whom.from)}.`
            : `: the first on ${momentWords(zone, whom.from)}, the last on ${momentWords(zone, whom.to ?? whom.from)}, by the clock of ${zone.name}.`
          : '.'}
      </p>
      {holdout > 0 && (
        <p className="text-[13px] text-ink-2">About {holdout}% of them are held out, to measure what it adds.</p>
      )}
      {left.length > 0 && <p className="text-[13px] text-ink-2">Fit, and do not get it: {left.join(', ')}.</p>}
      {whom.pausing > 0 && (
        <p className="text-[13px] text-ink-2">
          {people(whom.pausing)} of them asked for a pause: they get it when that is over.
        </p>
      )}
      {whom.late > 0 && trigger && (
        <p className="text-[13px] text-ochre-text">
          For {people(whom.late)} it is past {minuteWords(trigger.minute)} on that day already: they get it straight
          away.
        </p>
      )}
      <p className="text-[13px] text-ink-2">Counted as of now; who fits is looked at once more when it goes out.</p>
    </div>
  );
}

/** Keeps the condition as a segment with a name, and asks for that from now on. */
function MakeSegment({ rule, onClose }: { rule: Condition; onClose: () => void }) {
  const [name, setName] = useState('');
  const [keep, { error, isLoading }] = useKeepSegmentMutation();
  const dispatch = useAct();
  const go = async () => {
    const answer = await keep({ name, rule });
    if (answer.error) return;
    dispatch(edit([{ type: 'set', field: 'filter', value: { kind: 'segment', segment: answer.data.id, in: true } }]));
    toast.success(`“${name}” is a segment now: it can be asked for anywhere.`);
    onClose();
  };
  return (
    <Dialog open onClose={onClose} title="Keep this as a segment">
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          void go();
        }}
      >
        <TextField
          label="What is it called?"
          autoFocus
          value={name}
          onChange={(e) => setName(e.target.value)}
          error={error ? sentence(error) : undefined}
        />
        <Button tone="main" type="submit" className="self-end" disabled={isLoading}>
          Make this segment
        </Button>
      </form>
    </Dialog>
  );
}

/** Whom a one-off send is for: a list, and of it everybody or those who fit. */
export function WhomPart({
  doc,
  around,
  whom,
  problem,
  trigger,
  gone,
}: {
  doc: Sequence;
  around: Surroundings;
  /** Everybody whom it was for is in. */
  gone: boolean;
  whom: Whom | undefined;
  trigger: TriggerOf<'moment'> | undefined;
  /** Why they cannot be counted, in a sentence; null where they can. */
  problem: string | null;
}) {
  const dispatch = useAct();
  const [making, setMaking] = useState(false);
  const set = (filter: Condition | null) => dispatch(edit([{ type: 'set', field: 'filter', value: filter }]));
  const recent = whom?.recent ?? [];
  const rank = (id: string) => (recent.includes(id) ? recent.indexOf(id) : recent.length);
  const offered = [...around.segments].sort((a, b) => rank(a.id) - rank(b.id)).slice(0, OFFERED);
  const chosen = doc.filter?.kind === 'segment' && doc.filter.in ? doc.filter.segment : null;
  return (
    <>
      <MailsUnder doc={doc} around={around} />
      {offered.length > 0 && (
        <div role="group" aria-label="Of these" className="flex flex-wrap items-center gap-1.5">
          <Button
            tone={doc.filter === null ? 'main' : 'plain'}
            aria-pressed={doc.filter === null}
            className="!py-1 text-[13px]"
            onClick={() => set(null)}
          >
            Everybody
          </Button>
          {offered.map((s) => (
            <Button
              key={s.id}
              tone={chosen === s.id ? 'main' : 'plain'}
              aria-pressed={chosen === s.id}
              className="!py-1 text-[13px]"
              onClick={() => set({ kind: 'segment', segment: s.id, in: true })}
            >
              {s.name}
            </Button>
          ))}
        </div>
      )}
      <ConditionEditor
        value={doc.filter}
        scope="person"
        doc={doc}
        sentence={(words) => `Only somebody who ${words} gets it.`}
        none="Everybody on the list gets it."
        save={set}
      />
      {doc.filter && !atomsOf(doc.filter).some((a) => a.kind === 'segment') && (
        <Button tone="quiet" className="self-start" onClick={() => setMaking(true)}>
          Keep this as a segment
        </Button>
      )}
      {gone ? (
        <p className="rounded-control bg-spruce-tint px-3 py-2">
          It has gone out: nobody gets it any more. To write to people again, duplicate it.
        </p>
      ) : problem ? (
        <p role="alert" className="text-brick">
          {problem}
        </p>
      ) : doc.list === '' ? (
        <p className="text-ink-2">Choose the list first: then the people are counted.</p>
      ) : (
        <WhomWords whom={whom} trigger={trigger} holdout={doc.entry.holdout} />
      )}
      {making && doc.filter && <MakeSegment rule={doc.filter} onClose={() => setMaking(false)} />}
    </>
  );
}
