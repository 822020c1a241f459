import { Plus, Timer } from 'lucide-react';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { blankOffer, dateWords, isUnique, rateWords, WEEKDAYS, wallOf, zoneOf } from '@ascenso/core';
import type { OfferAnswer } from '@ascenso/contracts';
import { useAddOfferMutation } from './endpoints.ts';
import { sentence, useMeQuery } from '../app/api.ts';
import { useOffersQuery } from './endpoints.ts';
import { LabelFilter } from '../labels/label-filter.tsx';
import { LabelsOf } from '../labels/labels-of.tsx';
import { useLabelFilter } from '../labels/use-labels.ts';
import { Button, Chip, Dialog, Empty, number, Sheet, TextField } from '../ui/index.tsx';
import { moneyWords } from '../ui/money.ts';
import { DiscountFields } from './gives.tsx';
import { TimerLink } from './timer-link.tsx';
import { useOfferWords } from './words.ts';

/** How long codes last by the forecast: "about Thursday" within a week, else with the date. */
export function LastsUntil({ offer, zone, now }: { offer: OfferAnswer; zone: string; now: number }) {
  if (offer.left === null)
    return (
      <span className="text-ink-2">
        {isUnique(offer.offer)
          ? 'Made as they are needed'
          : offer.offer.codes.kind === 'shared'
            ? 'One for everyone'
            : 'None'}
      </span>
    );
  if (offer.left === 0)
    return (
      <span className="flex flex-wrap items-center gap-1.5">
        0 left
        <Chip tone="error">needs new codes</Chip>
      </span>
    );
  const { emptyOn } = offer;
  const soon = offer.left < offer.waiting;
  if (emptyOn === null)
    return (
      <>
        {number(offer.left)} left{soon ? '' : <span className="text-ink-2">, more than four weeks’ worth</span>}
      </>
    );
  const w = wallOf(zoneOf(zone), emptyOn);
  const near = emptyOn - now < 7 * 86_400_000;
  return (
    <span className="flex flex-wrap items-center gap-1.5">
      {number(offer.left)} left
      <Chip tone={near ? 'error' : 'fix'}>
        lasts until about {near ? WEEKDAYS[w.weekday] : dateWords(zoneOf(zone), emptyOn)}
      </Chip>
    </span>
  );
}

function NewOffer({ onClose }: { onClose: () => void }) {
  const [name, setName] = useState('');
  const [discount, setDiscount] = useState(blankOffer().discount);
  const [add, { error, isLoading }] = useAddOfferMutation();
  const navigate = useNavigate();
  const make = async () => {
    const answer = await add({ ...blankOffer(), name, discount });
    if (answer.data?.id) void navigate(`/offers/${answer.data.id}`);
  };
  return (
    <Dialog open onClose={onClose} title="New offer">
      <form
        className="flex flex-col gap-4"
        onSubmit={(e) => {
          e.preventDefault();
          void make();
        }}
      >
        <TextField
          label="What is it called here?"
          placeholder="Kit offer"
          value={name}
          onChange={(e) => setName(e.target.value)}
          autoFocus
        />
        <DiscountFields discount={discount} save={setDiscount} />
        {error && (
          <p role="alert" className="font-semibold text-brick">
            {sentence(error)}
          </p>
        )}
        <p className="text-ink-2">Codes, deadline and what comes after are set next, in one sentence.</p>
        <div className="flex justify-end">
          <Button tone="main" type="submit" disabled={isLoading}>
            Make this offer
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

/** All offers: what they are, how many codes are left and until when, and what came back. */
export function OffersScreen() {
  const { chosen: label, keeps } = useLabelFilter();
  const { data, error } = useOffersQuery(undefined, { refetchOnMountOrArgChange: true });
  const { data: me } = useMeQuery();
  const [opened, setOpened] = useState<'new' | 'timer' | null>(null);
  const describe = useOfferWords();
  if (error) return <Empty text={sentence(error)} />;
  if (!data || !me) return <p className="p-8 text-ink-2">Reading the offers …</p>;
  const offers = data.offers.filter((o) => keeps('offer', o.id));
  return (
    <div className="flex flex-col gap-4 p-6">
      <div className="flex items-center gap-3">
        <h1 className="text-[24px] font-bold">Offers</h1>
        <p className="flex-1 text-ink-2">One promise each: code, timer, words and the shop keep to the same moment</p>
        <Button onClick={() => setOpened('timer')}>
          <Timer size={15} aria-hidden="true" />
          Timer for a page
        </Button>
        <Button tone="main" onClick={() => setOpened('new')}>
          <Plus size={16} aria-hidden="true" />
          New offer
        </Button>
      </div>
      <LabelFilter kinds={['offer']} />
      <Sheet className="overflow-x-auto">
        {offers.length === 0 && label ? (
          <Empty text={`No offer has the label “${label.name}”.`} />
        ) : offers.length === 0 ? (
          <Empty text="An offer is what you give, the code for it, and when it closes for each person. Emails, timers and the shop all ask it.">
            <Button tone="main" onClick={() => setOpened('new')}>
              Make the first one
            </Button>
          </Empty>
        ) : (
          <table className="w-full min-w-[62rem]">
            <thead className="bg-paper-2 text-left text-[12px] text-ink-2">
              <tr>
                <th className="py-2 pl-4 font-semibold">Offer</th>
                <th className="font-semibold">Codes</th>
                <th className="pr-6 text-right font-semibold">Issued</th>
                <th className="pr-6 text-right font-semibold">Seen</th>
                <th className="pr-6 text-right font-semibold">Used</th>
                <th className="pr-6 text-right font-semibold">Money</th>
                <th className="pr-4 font-semibold">Made in</th>
              </tr>
            </thead>
            <tbody>
              {offers.map((o) => (
                <tr key={o.id} className="border-t border-line hover:bg-paper-2">
                  <td className="max-w-md py-3 pr-4 pl-4">
                    <div className="flex flex-wrap items-center gap-1.5">
                      <Link to={`/offers/${o.id}`} className="font-semibold hover:underline">
                        {o.name}
                      </Link>
                      <LabelsOf kind="offer" id={o.id} name={o.name} />
                    </div>
                    <p className="text-[13px] text-ink-2">{describe(o)}</p>
                  </td>
                  <td className="pr-4">
                    <LastsUntil offer={o} zone={me.workspace.zone} now={data.now} />
                  </td>
                  <td className="pr-6 text-right tabular-nums">{number(o.funnel.issued)}</td>
                  <td className="pr-6 text-right tabular-nums">{rateWords(o.funnel.seen, o.funnel.issued)}</td>
                  <td className="pr-6 text-right tabular-nums">{rateWords(o.funnel.used, o.funnel.issued)}</td>
                  <td className="pr-6 text-right tabular-nums">{moneyWords(o.funnel.money)}</td>
                  <td className="pr-4">
                    {o.usedIn.length === 0 ? (
                      <span className="text-ink-2">no email yet</span>
                    ) : (
                      `${o.usedIn.length} ${o.usedIn.length === 1 ? 'email' : 'emails'}`
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </Sheet>
      {opened === 'new' && <NewOffer onClose={() => setOpened(null)} />}
      {opened === 'timer' && <TimerLink zone={me.workspace.zone} onClose={() => setOpened(null)} />}
    </div>
  );
}
