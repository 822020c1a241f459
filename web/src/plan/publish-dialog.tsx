import { useState } from 'react';
import { toast } from 'sonner';
import type { Change } from '@ascenso/core';
import type { Finding, Inside } from '@ascenso/contracts';
import { sentence } from '../app/api.ts';
import { useChangesQuery, usePublishMutation } from './endpoints.ts';
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

export function PublishDialog({
  id,
  next,
  revision,
  findings,
  open,
  onClose,
}: {
  id: string;
  next: number;
  revision: number;
  findings: Finding[];
  open: boolean;
  onClose: () => void;
}) {
  const [publish, { isLoading }] = usePublishMutation();
  const { data } = useChangesQuery({ id, revision }, { skip: !open || next === 1, refetchOnMountOrArgChange: true });
  const [inside, setInside] = useState<Inside>('finish');
  const dispatch = useAct();
  const errors = findings.filter((f) => f.level === 'error');
  const warnings = findings.length - errors.length;
  const people = data?.inside ?? 0;
  const go = async () => {
    const answer = await publish({ id, revision: await dispatch(settled()), inside });
    if (answer.error) return toast.error(sentence(answer.error));
    onClose();
    toast.success(`Version ${answer.data.version} is published. Whoever starts it from now on gets it.`);
  };
  return (
    <Dialog
      open={open}
      onClose={onClose}
      title={errors.length ? 'Not ready to publish' : `Publish version ${next}`}
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
            ? 'Publishing waits until everything marked “Fix first” is mended.'
            : people === 0
              ? 'Nobody is inside now. People enter from the moment you publish.'
              : 'Emails already queued keep their version.'}
        </p>
        {errors.length === 0 && (
          <Button tone="main" disabled={isLoading} onClick={() => void go()}>
            {warnings ? 'Publish all the same' : `Publish version ${next}`}
          </Button>
        )}
      </div>
    </Dialog>
  );
}
