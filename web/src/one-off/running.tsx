import { Pause, Play, X } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import type { SequenceAnswer } from '@ascenso/contracts';
import { beginning, momentWords, rateWords, zoneOf } from '@ascenso/core';
import { useAround } from '../app/around.ts';
import { sentence, useMeQuery } from '../app/api.ts';
import { useSequenceQuery } from '../drafts/endpoints.ts';
import { useNumbersQuery } from '../numbers/endpoints.ts';
import { useSetStatusMutation } from '../plan/endpoints.ts';
import { ArchiveDialog, ResumeDialog } from '../plan/running-dialogs.tsx';
import { oneOffState } from '../sequences/one-off-state.ts';
import { Button, number } from '../ui/index.tsx';

const people = (n: number) => (n === 1 ? '1 person' : `${number(n)} people`);

/** How far a send is, and what can be done about it while it goes out. Nothing before it has been sent off. */
export function Running({ about }: { about: SequenceAnswer }) {
  // That all are in is the engine's to say.
  useSequenceQuery(about.id, { pollingInterval: about.status === 'live' && about.letInAt === null ? 5_000 : 0 });
  const { data: numbers } = useNumbersQuery(
    { id: about.id },
    { refetchOnMountOrArgChange: true, pollingInterval: 5_000 },
  );
  const around = useAround(['now']);
  const { data: me } = useMeQuery();
  const [setStatus, { isLoading }] = useSetStatusMutation();
  const [dialog, setDialog] = useState<'cancel' | 'resume' | null>(null);
  if (!around || !numbers || about.status === 'draft') return null;
  const state = oneOffState({ ...about, inside: numbers.inside }, around.now);
  const zone = zoneOf(me?.workspace.zone ?? 'UTC');
  const sent = Object.values(numbers.steps).reduce((n, s) => n + s.sent, 0);
  const opened = Object.values(numbers.steps).reduce((n, s) => n + s.opened, 0);
  const { first } = beginning({ triggers: about.liveTriggers }, 0);
  const own = about.liveTriggers.some((t) => t.kind === 'moment' && t.zone === null);
  const words = {
    draft: '',
    scheduled: `Nothing has gone out yet. It begins on ${momentWords(zone, first)} by the clock of ${zone.name}${own ? ', when that hour comes to the first of all zones' : ''}.`,
    going: `${people(sent)} got it so far, ${people(numbers.inside)} are on the way to it.`,
    sent: `${people(sent)} got it. ${rateWords(opened, sent)} opened.`,
    held: `Held: nothing goes out. ${people(sent)} got it, ${people(numbers.inside)} are on the way to it.`,
    'put-away': `Put away: ${people(sent)} got it, and nobody else will.`,
  }[state];
  const hold = async () => {
    const answer = await setStatus({ id: about.id, status: 'paused' });
    if (answer.error) toast.error(sentence(answer.error));
    else toast('Held. Nothing goes out until you let it go on.');
  };
  return (
    <div className="flex flex-wrap items-center gap-3 rounded-sheet border border-line bg-sheet px-4 py-3">
      <p role="status" className="min-w-60 flex-1">
        {words}{' '}
        {sent > 0 && (
          <Link className="font-semibold text-spruce underline" to={`/sequences/${about.id}/numbers`}>
            What came back
          </Link>
        )}
      </p>
      {(state === 'scheduled' || state === 'going') && (
        <Button disabled={isLoading} onClick={() => void hold()}>
          <Pause size={15} aria-hidden="true" />
          Hold it
        </Button>
      )}
      {state === 'held' && (
        <Button onClick={() => setDialog('resume')}>
          <Play size={15} aria-hidden="true" />
          Let it go on
        </Button>
      )}
      {(state === 'scheduled' || state === 'going' || state === 'held') && (
        <Button tone="danger" onClick={() => setDialog('cancel')}>
          <X size={15} aria-hidden="true" />
          Cancel it
        </Button>
      )}
      {dialog === 'cancel' && <ArchiveDialog id={about.id} oneOff onClose={() => setDialog(null)} />}
      {dialog === 'resume' && <ResumeDialog id={about.id} onClose={() => setDialog(null)} />}
    </div>
  );
}
