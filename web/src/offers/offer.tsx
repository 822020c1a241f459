import { Download, Trash2 } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { useNavigate, useParams, Link } from 'react-router';
import { toast } from 'sonner';
import { isUnique, rateWords, type Offer } from '@ascenso/core';
import type { OfferAnswer, OfferFunnel } from '@ascenso/contracts';
import { useDeleteOfferMutation, useSetOfferMutation } from './endpoints.ts';
import { sentence, useMeQuery } from '../app/api.ts';
import { useOffersQuery } from './endpoints.ts';
import { Button, buttonClass, Chip, Dialog, Empty, IconButton, number, Sheet } from '../ui/index.tsx';
import { SavedText } from '../ui/saved-text.tsx';
import { CodeFile } from './code-file.tsx';
import { moneyWords } from '../ui/money.ts';
import { LastsUntil } from './offers.tsx';
import { OfferSentence } from './sentence.tsx';
import { useOfferNames } from './words.ts';

/** From issued to used, each as a bar of the first, with how many people and of how many. */
function Funnel({ funnel }: { funnel: OfferFunnel }) {
  const { issued } = funnel;
  const rows = [
    ['Issued', issued, 'bg-slate'],
    ['Seen', funnel.seen, 'bg-slate'],
    ['Used', funnel.used, 'bg-spruce'],
    ['Closed unused', funnel.expired, 'bg-line'],
  ] as const;
  return (
    <dl className="grid grid-cols-[7.5rem_1fr_9rem] items-center gap-x-3 gap-y-2">
      {rows.map(([name, n, color]) => (
        <div key={name} className="contents">
          <dt>{name}</dt>
          <dd aria-hidden="true" className="h-4 rounded-[4px] bg-paper-2">
            <div
              className={`h-4 rounded-[4px] ${color}`}
              style={{ width: `${issued === 0 ? 0 : (n / issued) * 100}%` }}
            />
          </dd>
          <dd className="text-right tabular-nums">
            {name === 'Issued' ? `${number(n)} people` : `${number(n)} · ${rateWords(n, issued)}`}
          </dd>
        </div>
      ))}
      <dt className="mt-2 font-semibold">Money</dt>
      <dd />
      <dd className="mt-2 text-right font-head text-[20px] font-bold tabular-nums">{moneyWords(funnel.money)}</dd>
    </dl>
  );
}

function UsedIn({ uses }: { uses: OfferAnswer['usedIn'] }) {
  if (uses.length === 0)
    return (
      <p className="text-ink-2">
        No email makes it yet. Choose it above the subject of an email, then add a code and a timer.
      </p>
    );
  return (
    <ul className="flex flex-col gap-1.5">
      {uses.map((u) => (
        <li key={`${u.sequence}/${u.step}`} className="flex items-center gap-2">
          <Link to={`/sequences/${u.sequence}/emails/${u.step}`} className="min-w-0 flex-1 truncate hover:underline">
            <span className="text-ink-2">{u.name} / </span>
            {u.email}
          </Link>
          <Chip tone={u.live ? 'live' : 'draft'}>{u.live ? 'Live' : 'Draft'}</Chip>
        </li>
      ))}
    </ul>
  );
}

/** One offer: its sentence with parts to click, its codes, where it is made, and what came back. */
export function OfferScreen() {
  const id = useParams().id as string;
  const {
    data,
    error,
    isFetching,
    startedTimeStamp = 0,
  } = useOffersQuery(undefined, {
    refetchOnMountOrArgChange: true,
    pollingInterval: 8_000,
    skipPollingIfUnfocused: true,
  });
  const { data: me } = useMeQuery();
  if (error) return <Empty text={sentence(error)} />;
  if (!data || !me) return <p className="p-8 text-ink-2">Reading the offer …</p>;
  const found = data.offers.find((o) => o.id === id);
  if (!found)
    return (
      <Empty text="This offer is gone.">
        <Link className={buttonClass('main')} to="/offers">
          All offers
        </Link>
      </Empty>
    );
  return (
    <OneOffer
      key={id}
      found={found}
      readAt={isFetching ? 0 : startedTimeStamp}
      zone={me.workspace.zone}
      now={data.now}
    />
  );
}

/**
 * The offer as it is being changed: each change is shown at once, and kept one after the other. `readAt` is when what is
 * known was asked for, ms, or 0 while it is being asked for again.
 */
function useChanges(id: string, known: Offer, readAt: number): [Offer, (some: Partial<Offer>) => void, boolean] {
  const [changed, setChanged] = useState<Offer | null>(null);
  const latest = useRef(known);
  const waiting = useRef(0);
  const [saving, setSaving] = useState(false);
  const keptAt = useRef(0);
  const last = useRef<Promise<unknown>>(Promise.resolve());
  const [set] = useSetOfferMutation();
  if (!changed) latest.current = known;
  // What is on the server is taken on once nothing of one's own is on its way; an answer to a question from before says what was.
  useEffect(() => {
    if (waiting.current === 0 && readAt > keptAt.current) setChanged(null);
  }, [known, readAt]);
  const save = (some: Partial<Offer>) => {
    const next = { ...latest.current, ...some };
    latest.current = next;
    setChanged(next);
    waiting.current++;
    setSaving(true);
    last.current = last.current.then(async () => {
      const answer = await set({ id, offer: next });
      waiting.current--;
      setSaving(waiting.current > 0);
      keptAt.current = Date.now();
      if (!answer.error) return;
      toast.error(sentence(answer.error));
      setChanged(null);
    });
  };
  // Changes go one after the other: a page that is left sends what it ends with at once.
  useEffect(() => {
    const leave = () => {
      if (waiting.current > 0) void set({ id, offer: latest.current });
    };
    window.addEventListener('pagehide', leave);
    return () => window.removeEventListener('pagehide', leave);
  }, [set, id]);
  return [changed ?? known, save, saving];
}

function OneOffer({ found, readAt, zone, now }: { found: OfferAnswer; readAt: number; zone: string; now: number }) {
  const { id } = found;
  const [offer, save, saving] = useChanges(id, found.offer, readAt);
  const [deleteOffer] = useDeleteOfferMutation();
  const navigate = useNavigate();
  const names = useOfferNames();
  const remove = async () => {
    const answer = await deleteOffer(id);
    if (answer.error) toast.error(sentence(answer.error));
    else void navigate('/offers');
  };
  const [deleting, setDeleting] = useState(false);
  const given = found.funnel.issued > 0;
  return (
    <div className="flex flex-col gap-4 p-6">
      <div className="flex items-center gap-2">
        <Link to="/offers" className="text-ink-2 hover:underline">
          Offers /
        </Link>
        <h1 className="text-[22px] font-bold">{offer.name}</h1>
        <span role="status" className="text-[12px] text-ink-2">
          {saving ? 'Saving …' : 'Saved'}
        </span>
        <span className="flex-1" />
        <IconButton name="Delete this offer" onClick={() => setDeleting(true)}>
          <Trash2 size={16} />
        </IconButton>
      </div>
      <Dialog open={deleting} onClose={() => setDeleting(false)} title={`Delete “${offer.name}”?`}>
        <p>
          {found.left ? `Its ${number(found.left)} codes go with it. ` : ''}
          This cannot be taken back.
        </p>
        <div className="mt-4 flex justify-end">
          <Button tone="danger" onClick={() => void remove()}>
            Delete this offer
          </Button>
        </div>
      </Dialog>
      <Sheet className="p-5">
        <OfferSentence offer={offer} email={names(found.usedIn).email} save={save} />
        {given && (
          <p className="mt-3 text-[13px] text-ink-2">
            A change counts for whoever is given it from now on. {number(found.funnel.issued)}{' '}
            {found.funnel.issued === 1 ? 'person keeps' : 'people keep'} what they were promised: figure, code and
            deadline.
          </p>
        )}
      </Sheet>
      <div className="grid grid-cols-[1fr_22rem] gap-4">
        <div className="flex flex-col gap-4">
          <Sheet className="p-5">
            <h2 className="mb-3 text-[16px] font-bold">What came back</h2>
            <Funnel funnel={found.funnel} />
          </Sheet>
          <Sheet className="p-5">
            <h2 className="mb-3 text-[16px] font-bold">Made in</h2>
            <UsedIn uses={found.usedIn} />
          </Sheet>
        </div>
        <div className="flex flex-col gap-4">
          <Sheet className="flex flex-col gap-3 p-5">
            <h2 className="text-[16px] font-bold">Codes</h2>
            <p>
              <LastsUntil offer={found} zone={zone} now={now} />
            </p>
            {found.left !== null && found.waiting > 0 && (
              <p className={found.left < found.waiting ? 'text-ochre-text' : 'text-ink-2'}>
                {number(found.waiting)} {found.waiting === 1 ? 'person is' : 'people are'} on the way to one.
              </p>
            )}
            {offer.codes.kind === 'imported' && <CodeFile id={id} />}
            {offer.codes.kind !== 'none' && (
              <a href={`/api/offers/${id}/codes.csv`} className={buttonClass()}>
                <Download size={15} aria-hidden="true" />
                Issued codes as CSV
              </a>
            )}
          </Sheet>
          <Sheet className="flex flex-col gap-3 p-5">
            <h2 className="text-[16px] font-bold">Name here</h2>
            <SavedText label="Name here" value={offer.name} save={(name) => save({ name })} />
            <label className="flex flex-col gap-1">
              <span className="text-[12px] text-ink-2">Address that is told of each code (webhook)</span>
              <SavedText
                label="Address that is told of each code"
                value={offer.webhook ?? ''}
                placeholder="nobody"
                save={(webhook) => save({ webhook: webhook.trim() })}
              />
            </label>
            {isUnique(offer) && (
              <p className="text-[13px] text-ink-2">
                A shop asks <code className="rounded bg-paper-2 px-1">/intake/codes/…</code> whether a code is good, and
                tells when it was used: see People, Events and keys.
              </p>
            )}
          </Sheet>
        </div>
      </div>
    </div>
  );
}
