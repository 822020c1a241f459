import { useState } from 'react';
import { toast } from 'sonner';
import { momentWords, zoneOf, type Change, type Sequence } from '@ascenso/core';
import type { Finding, Inside, Whom } from '@ascenso/contracts';
import { sentence, useMeQuery } from '../app/api.ts';
import { useChangesQuery, usePublishMutation, useWhomQuery } from './endpoints.ts';
import { settled } from '../drafts/draft.ts';
import { useAct } from '../app/store.ts';
import { Button, Chip, ChoiceCards, Dialog, number } from '../ui/index.tsx';
import { FindingList } from './findings.tsx';

const KIND: Record<Change['kind'], { words: string; tone: 'live' | 'error' | 'data' | 'fix' }> = {
  added: { words: 'New', tone: 'live' },
  removed: { words: 'Gone', tone: 'error' },
  moved: { words: 'Moved', tone: 'data' },
  changed: { words: 'Changed', tone: 'fix' },
};

/** What publishing would change, in plain words, and how many people stand there now. */
export function ChangeList({ changes, touched }: { changes: Change[]; touched: Record<string, number> }) {
  return (
    <ul className="flex max-h-64 flex-col divide-y divide-line overflow-y-auto" tabIndex={0} aria-label="What changes">
      {changes.map((c) => {
        const here = c.step ? (touched[c.step] ?? 0) : 0;
        return (
          <li key={c.step ?? ''} className="flex items-start gap-3 py-2">
            <span className="w-20 shrink-0">
              <Chip tone={KIND[c.kind].tone}>{KIND[c.kind].words}</Chip>
            </span>
            <div className="flex-1">
              <p className="font-semibold">{c.title}</p>
              {c.words.map((w) => (
                <p key={w} className="text-ink-2">
                  {w}
                </p>
              ))}
            </div>
            {here > 0 && (
              <span className="text-[13px] text-ink-2">
                {number(here)} {here === 1 ? 'person stands' : 'people stand'} here
              </span>
            )}
          </li>
        );
      })}
    </ul>
  );
}

const CHOICES: { inside: Inside; words: string; note: string }[] = [
  { inside: 'finish', words: 'Finish on their version', note: 'They get what was promised when they entered.' },
  {
    inside: 'carry-on',
    words: 'Carry on in the new version',
    note: 'From where they stand; what comes earlier is not sent to them, and nothing is sent twice.',
  },
  { inside: 'leave', words: 'Leave now', note: 'They get nothing more of this sequence, queued emails included.' },
];

/** Whom a send to everybody goes to and when, as the last words before it does. */
function sendingWords(whom: Whom, zone: string): string {
  const people = whom.gets === 1 ? '1 person' : `${number(whom.gets)} people`;
  if (whom.from === null) return `It goes to ${people}.`;
  const from = momentWords(zoneOf(zone), whom.from);
  return whom.from === whom.to
    ? `It goes to ${people} on ${from}, by the clock of ${zone}.`
    : `It goes to ${people}: the first on ${from}, the last on ${momentWords(zoneOf(zone), whom.to ?? whom.from)}, by the clock of ${zone}.`;
}

export function PublishDialog({
  id,
  doc,
  next,
  revision,
  findings,
  open,
  onClose,
}: {
  id: string;
  doc: Sequence;
  next: number;
  revision: number;
  findings: Finding[];
  open: boolean;
  onClose: () => void;
}) {
  const [publish, { isLoading }] = usePublishMutation();
  const { data } = useChangesQuery({ id, revision }, { skip: !open || next === 1, refetchOnMountOrArgChange: true });
  const [inside, setInside] = useState<Inside>('finish');
  const { data: me } = useMeQuery();
  const moment = doc.triggers.find((t) => t.kind === 'moment');
  const asked = useWhomQuery({ id, revision }, { skip: !open || !moment, refetchOnMountOrArgChange: true });
  const whom = moment ? asked.currentData : undefined;
  const dispatch = useAct();
  const errors = findings.filter((f) => f.level === 'error');
  const warnings = findings.length - errors.length;
  const people = data?.inside ?? 0;
  const go = async () => {
    const answer = await publish({
      id,
      revision: await dispatch(settled()),
      inside,
      ...(whom ? { people: whom.gets } : {}),
    });
    if (answer.error) {
      void (moment && asked.refetch());
      return toast.error(sentence(answer.error));
    }
    onClose();
    toast.success(
      whom && next === 1
        ? sendingWords(whom, me?.workspace.zone ?? 'UTC').replace('It goes', 'Sent off: it goes')
        : `Version ${answer.data.version} is published. Whoever starts it from now on gets it.`,
    );
  };
  return (
    <Dialog
      open={open}
      onClose={onClose}
      title={
        errors.length
          ? `Not ready to ${moment ? 'go out' : 'publish'}`
          : moment && next === 1
            ? 'Send it off'
            : `Publish version ${next}`
      }
      wide
    >
      {(findings.length > 0 || next === 1) && <FindingList id={id} findings={findings} onJump={onClose} />}
      {data && data.changes.length > 0 && (
        <>
          <h3 className="mt-3 mb-1 font-sans font-semibold">What changes</h3>
          <ChangeList changes={data.changes} touched={data.touched} />
        </>
      )}
      {errors.length === 0 && people > 0 && (
        <ChoiceCards
          name="inside"
          legend={people === 1 ? 'The one person inside' : `The ${number(people)} people inside`}
          choices={CHOICES.map((c) => ({ value: c.inside, words: c.words, note: c.note }))}
          chosen={inside}
          choose={setInside}
        />
      )}
      <div className="mt-4 flex items-center justify-between gap-4">
        <p className="text-ink-2">
          {errors.length
            ? `${moment && next === 1 ? 'It' : 'Publishing'} waits until everything marked “Fix first” is mended.`
            : whom
              ? sendingWords(whom, me?.workspace.zone ?? 'UTC')
              : people === 0
                ? 'Nobody is inside now. People enter from the moment you publish.'
                : 'Emails already queued keep their version.'}
        </p>
        {errors.length === 0 && (
          <Button tone="main" disabled={isLoading || (moment !== undefined && !whom)} onClick={() => void go()}>
            {moment && next === 1
              ? `Send it to ${whom ? (whom.gets === 1 ? '1 person' : `${number(whom.gets)} people`) : '…'}`
              : warnings
                ? 'Publish all the same'
                : `Publish version ${next}`}
          </Button>
        )}
      </div>
    </Dialog>
  );
}
