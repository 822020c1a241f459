import { Eye, Mail, MousePointerClick, Route, Zap } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import { Link, useParams } from 'react-router';
import type { StoryEntry } from '@ascenso/contracts';
import { dateWords, momentWords, offerState, zoneOf } from '@ascenso/core';
import { useAround } from '../app/around.ts';
import { sentence, useMeQuery } from '../app/api.ts';
import { usePersonQuery, useSentEmailQuery, useSetMembershipMutation } from './people-endpoints.ts';
import { personName } from '../composer/reader.tsx';
import { SavedText } from '../ui/saved-text.tsx';
import { Button, Chip, Dialog, EmailFrame, Empty, Sheet } from '../ui/index.tsx';
import { ConfirmAgain, MailEnds } from './mail-ends.tsx';
import { MailChip } from './mail-chip.tsx';
import { ConsentRecord } from './person-consent.tsx';
import { Known, PersonTags, useSavePerson } from './person-known.tsx';
import { WriteLetter } from './write-letter.tsx';
import { TheirData } from './their-data.tsx';

const icons: Record<StoryEntry['kind'], ReactNode> = {
  trace: <Route size={14} />,
  event: <Zap size={14} />,
  open: <Eye size={14} />,
  click: <MousePointerClick size={14} />,
  test: <Mail size={14} />,
};

function SentDialog({ send, onClose }: { send: string | null; onClose: () => void }) {
  const { data } = useSentEmailQuery(send ?? '', { skip: !send });
  return (
    <Dialog open={send !== null} onClose={onClose} title={data?.subject ?? 'As it was sent'} wide>
      {data && (
        <>
          <p className="mb-2 text-ink-2">To {data.to}</p>
          <EmailFrame
            title="The email as it was sent"
            html={data.html}
            className="h-[60vh] w-full rounded-control border border-line"
          />
        </>
      )}
    </Dialog>
  );
}

export function PersonScreen() {
  const id = useParams().id as string;
  const { data, error } = usePersonQuery(id, {
    refetchOnMountOrArgChange: true,
    pollingInterval: 4_000,
    skipPollingIfUnfocused: true,
  });
  const around = useAround(['attributes', 'lists', 'tags', 'now']);
  const { data: me } = useMeQuery();
  const save = useSavePerson(id);
  const [setMembership] = useSetMembershipMutation();
  const [send, setSend] = useState<string | null>(null);
  const [confirming, setConfirming] = useState<{ id: string; name: string } | null>(null);
  if (error) return <Empty text={sentence(error)} />;
  if (!data || !around || !me) return <p className="p-8 text-ink-2">Reading their story …</p>;
  const { person, ends, lists, consent, inside, offers, story } = data;
  const zone = zoneOf(me.workspace.zone);
  const days = new Map<string, StoryEntry[]>();
  for (const e of story) days.set(dateWords(zone, e.at, true), [...(days.get(dateWords(zone, e.at, true)) ?? []), e]);
  return (
    <div className="flex min-h-0 flex-1 gap-5 overflow-auto p-6">
      <div className="flex w-72 shrink-0 flex-col gap-4">
        <div>
          <Link to="/people" className="text-ink-2 hover:underline">
            People /
          </Link>
          <h1 className="text-[22px] leading-tight font-bold">{personName(person)}</h1>
          <div className="mt-1 mb-2">
            <SavedText
              label="Address"
              value={person.email}
              placeholder="address"
              save={(v) => v && void save({ email: v })}
            />
          </div>
          <MailChip status={person.mailStatus} />
          <MailEnds ends={ends} zone={zone} />
          <div className="mt-2.5">
            <WriteLetter person={person} lists={lists} />
          </div>
        </div>
        <Known person={person} attributes={around.attributes} />
        <Sheet className="flex flex-col gap-2.5 p-4">
          <h2 className="font-sans font-semibold">Lists and tags</h2>
          {around.lists.map((l) => {
            const on = lists.some((m) => m.id === l.id && m.state === 'confirmed');
            return (
              <div key={l.id} className="flex items-center justify-between gap-2">
                <span>{l.name}</span>
                <Button
                  tone={on ? 'quiet' : 'plain'}
                  onClick={() =>
                    on && person.mailStatus === 'ok'
                      ? void setMembership({ id, list: l.id, state: 'left' })
                      : person.mailStatus === 'ok'
                        ? void setMembership({ id, list: l.id, state: 'confirmed' })
                        : setConfirming({ id: l.id, name: l.name })
                  }
                >
                  {on && person.mailStatus === 'ok' ? 'Take off' : 'Confirm'}
                </Button>
              </div>
            );
          })}
          <PersonTags person={person} tags={around.tags} />
        </Sheet>
        <TheirData person={person} />
      </div>
      <div className="flex min-w-0 flex-1 flex-col gap-4">
        {inside.map((v) => (
          <p key={v.sequence} className="rounded-sheet border border-line bg-spruce-tint px-4 py-2.5 text-spruce-deep">
            Inside{' '}
            <Link to={`/sequences/${v.sequence}`} className="font-semibold underline">
              {v.name}
            </Link>
            , at “{v.step}” until {momentWords(zone, v.due)}
          </p>
        ))}
        {offers.map((o) => {
          const state = offerState(o, around.now);
          return (
            <p key={o.id} className="rounded-sheet border border-line bg-sheet px-4 py-2.5">
              <Link to={`/offers/${o.id}`} className="font-semibold underline">
                {o.name}
              </Link>
              {o.code && (
                <>
                  , code <b className="font-mono">{o.code}</b>
                </>
              )}
              :{' '}
              {state === 'used'
                ? `used on ${momentWords(zone, o.usedAt ?? 0)}`
                : o.closesAt === null
                  ? 'never closes'
                  : `${state === 'closed' ? 'closed' : 'closes'} on ${momentWords(zone, o.closesAt)}`}{' '}
              <Chip tone={state === 'open' ? 'live' : state === 'used' ? 'data' : 'draft'}>{state}</Chip>
            </p>
          );
        })}
        <Sheet className="p-5">
          <h2 className="mb-3 text-[16px] font-bold">What happened, and why</h2>
          {story.length === 0 && <p className="text-ink-2">Nothing yet.</p>}
          {[...days].map(([day, entries]) => (
            <section key={day} className="mb-4">
              <h3 className="mb-1 font-sans text-[12px] font-semibold text-ink-2">{day}</h3>
              <ol>
                {entries.map((e, i) => (
                  <li key={i} className="flex items-start gap-3 border-t border-line/60 py-1.5">
                    <span className="w-11 shrink-0 text-ink-2 tabular-nums">
                      {momentWords(zone, e.at).split(', ')[1]}
                    </span>
                    <span
                      aria-hidden="true"
                      className={`mt-0.5 ${e.kind === 'trace' ? 'text-spruce' : e.kind === 'event' ? 'text-dawn-text' : 'text-slate'}`}
                    >
                      {icons[e.kind]}
                    </span>
                    <span className="min-w-0 flex-1">
                      {e.text}
                      {e.sequence && (
                        <Link
                          to={`/sequences/${e.sequence.id}`}
                          className="ml-2 text-[12px] text-ink-2 hover:underline"
                        >
                          {e.sequence.name}
                        </Link>
                      )}
                    </span>
                    {e.send && (
                      <Button tone="quiet" className="!min-h-6 !py-0.5" onClick={() => setSend(e.send)}>
                        As it was sent
                      </Button>
                    )}
                  </li>
                ))}
              </ol>
            </section>
          ))}
        </Sheet>
        <ConsentRecord consent={consent} zone={zone} />
      </div>
      <SentDialog send={send} onClose={() => setSend(null)} />
      {confirming && (
        <ConfirmAgain
          list={confirming.name}
          ends={ends}
          confirm={() => void setMembership({ id, list: confirming.id, state: 'confirmed' })}
          onClose={() => setConfirming(null)}
        />
      )}
    </div>
  );
}
