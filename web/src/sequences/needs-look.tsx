import { Link } from 'react-router';
import { toast } from 'sonner';
import type { AsideRow, HaltedSender, Looks, MailHold, StoppedSequence, Unmet as UnmetArm } from '@ascenso/contracts';
import { durationText, momentWords, zoneOf, type Zone } from '@ascenso/core';
import { sentence, useMeQuery } from '../app/api.ts';
import { useSenderGoesOnMutation, useTryAsideNowMutation, useTryMailNowMutation } from './endpoints.ts';
import { Button, number, Sheet } from '../ui/index.tsx';
import { haltWords } from './halt-words.ts';

const many = (n: number, one: string, more: string) => (n === 1 ? `1 ${one}` : `${number(n)} ${more}`);

/** What stands still, by its kind. */
const WHAT: Record<AsideRow['kind'], (n: number) => string> = {
  visit: (n) => `${many(n, 'person stands', 'people stand')} still`,
  send: (n) => `${many(n, 'email', 'emails')} cannot be made`,
  sweep: () => 'A trigger cannot let everybody in',
  notice: (n) => `${many(n, 'message', 'messages')} to the team or another machine cannot be made`,
  offer: (n) => `The end of an offer could not be told for ${many(n, 'person', 'people')}`,
};

function Aside({ a, zone }: { a: AsideRow; zone: Zone }) {
  return (
    <li className="border-t border-line px-4 py-2.5 first:border-t-0">
      <p>
        <b className="font-semibold">{WHAT[a.kind](a.count)}</b>
        {a.sequence && (
          <>
            {' in '}
            <Link to={`/sequences/${a.sequence.id}`} className="font-semibold underline">
              {a.sequence.name}
            </Link>
          </>
        )}
        {a.person && (
          <>
            {a.count === 1 ? ': ' : ', one of them '}
            <Link to={`/people/${a.person.id}`} className="underline">
              {a.person.email}
            </Link>
          </>
        )}
        .
      </p>
      <p className="text-[13px] text-ink-2">
        Since {momentWords(zone, a.since)}: “{a.reason}”.{' '}
        {a.kind === 'offer'
          ? 'Nobody is mailed by it.'
          : `Everybody else goes on. Tried again by itself, next ${momentWords(zone, a.nextAt)}.`}
      </p>
    </li>
  );
}

const MINUTE = 60_000;
/** How long something has been so, to the minute. */
const forWords = (ms: number) => (ms < MINUTE ? 'as of just now' : `for ${durationText(ms, 'en')} now`);

/** What keeps mail back: a server's own words begin with its code (RFC 5321, 4.2), others are the system's. */
function heldWords(answer: string): string {
  if (/^\d{3}/.test(answer)) return `the mail server says “${answer}”`;
  if (/certificate/i.test(answer)) return `the certificate of the mail server is not believed (“${answer}”)`;
  return `the mail server cannot be reached (“${answer}”)`;
}

function NoMail({ hold, zone }: { hold: MailHold; zone: Zone }) {
  const [tryNow, { isLoading }] = useTryMailNowMutation();
  const go = async () => {
    const answer = await tryNow();
    if (answer.error) toast.error(sentence(answer.error));
    else toast('One email is tried in a moment; where it is taken, all go on.');
  };
  return (
    <li className="flex items-start gap-3 border-t border-line px-4 py-2.5 first:border-t-0">
      <div className="min-w-0 flex-1">
        <p>
          <b className="font-semibold">Mail is not going out</b>, {forWords(hold.forMs)}: {heldWords(hold.answer)}.{' '}
          {hold.waiting === 0
            ? 'No email waits for it yet: the next one tries whether it is over.'
            : `${many(hold.waiting, 'email waits', 'emails wait')}${hold.oldest === null ? '' : `, the oldest since ${momentWords(zone, hold.oldest)}`}.`}
        </p>
        <p className="text-[13px] text-ink-2">
          No email is lost by it and no address is marked: one is tried now and then, and all go on as soon as it is
          taken. Whoever runs this can mend the password, the certificate or the address of the server (SMTP_URL).
        </p>
      </div>
      {hold.waiting > 0 && (
        <Button disabled={isLoading} onClick={() => void go()}>
          Try now
        </Button>
      )}
    </li>
  );
}

function NoLog({ log }: { log: NonNullable<Looks['log']> }) {
  return (
    <li className="border-t border-line px-4 py-2.5 first:border-t-0">
      <p>
        <b className="font-semibold">The log is not written</b>, {forWords(log.forMs)}: {log.why}.
      </p>
      <p className="text-[13px] text-ink-2">Everything else goes on. Whoever runs this has to make room on its disk.</p>
    </li>
  );
}

function Halted({ h, zone }: { h: HaltedSender; zone: Zone }) {
  const [goOn, { isLoading }] = useSenderGoesOnMutation();
  const go = async () => {
    const answer = await goOn(h.email);
    if (answer.error) toast.error(sentence(answer.error));
    else toast.success(`${many(answer.data.emails, 'email goes', 'emails go')} on.`);
  };
  return (
    <li className="flex items-start gap-3 border-t border-line px-4 py-2.5 first:border-t-0">
      <div className="min-w-0 flex-1">
        <p>
          <b className="font-semibold">Mail from {h.email} waits</b> since {momentWords(zone, h.since)}:{' '}
          {many(h.waiting, 'email', 'emails')} in the queue.
        </p>
        <p className="text-[13px] text-ink-2">
          {h.stopped
            ? `Ten emails in a row were refused; the last answer was “${h.answer}”. The readers’ addresses are not at fault. Mend the sender or ask whoever runs the receiving server, then let it go on.`
            : `The mail server says “not now” to this sender: “${h.answer}”. Each email is tried again every five minutes by itself, and none is lost by it.`}
        </p>
      </div>
      {h.stopped && (
        <Button disabled={isLoading} onClick={() => void go()}>
          Let it go on
        </Button>
      )}
    </li>
  );
}

/** Waits and arms of one sequence that nobody meets. */
function Unmet({ all, zone }: { all: readonly [UnmetArm, ...UnmetArm[]]; zone: Zone }) {
  const [{ sequence, since }] = all;
  return (
    <li className="border-t border-line px-4 py-2.5 first:border-t-0">
      <p>
        <Link to={`/sequences/${sequence.id}`} className="font-semibold underline">
          {sequence.name}
        </Link>
        : <b className="font-semibold">nobody has met</b>{' '}
        {all.map((u, i) => (
          <span key={`${u.step}${u.arm ?? ''}`}>
            {i > 0 && (i === all.length - 1 ? ' and ' : ', ')}
            <Link to={`/sequences/${u.sequence.id}?select=${u.step}`} className="underline">
              “{u.arm ?? u.words}”
            </Link>
            {u.arm !== null && ` at “${u.words}”`}, of {many(u.people, 'person', 'people')}
          </span>
        ))}
        .
      </p>
      <p className="text-[13px] text-ink-2">
        Since this version went live on {momentWords(zone, since)}. Perhaps it asks for something that does not happen.
      </p>
    </li>
  );
}

/** The same by sequence. */
function bySequence(all: readonly UnmetArm[]): [UnmetArm, ...UnmetArm[]][] {
  const out = new Map<string, [UnmetArm, ...UnmetArm[]]>();
  for (const u of all) {
    const known = out.get(u.sequence.id);
    if (known) known.push(u);
    else out.set(u.sequence.id, [u]);
  }
  return [...out.values()];
}

function Stopped({ s, zone }: { s: StoppedSequence; zone: Zone }) {
  return (
    <li className="border-t border-line px-4 py-2.5 first:border-t-0">
      <p>
        <Link to={`/sequences/${s.id}`} className="font-semibold underline">
          {s.name}
        </Link>{' '}
        <b className="font-semibold">was paused by itself</b> on {momentWords(zone, s.since)}.
      </p>
      <p className="text-[13px] text-ink-2">
        {haltWords(s.halt)} Whoever is inside stays where they are. Look at who is in it and what they were sent, then
        resume it.
      </p>
    </li>
  );
}

/** What the engine cannot do by itself, each with its reason and what can be done. Nothing where all is well. */
export function NeedsLook({ looks }: { looks: Looks }) {
  const { data: me } = useMeQuery();
  const [tryNow, { isLoading }] = useTryAsideNowMutation();
  const zone = zoneOf(me?.workspace.zone ?? 'UTC');
  if (
    !looks.mail &&
    !looks.log &&
    looks.aside.length + looks.halted.length + looks.stopped.length + looks.unmet.length === 0
  )
    return null;
  const go = async () => {
    const answer = await tryNow();
    if (answer.error) toast.error(sentence(answer.error));
    else toast('Tried again in a moment.');
  };
  return (
    <Sheet className="border-[#e6d3a6]">
      <div className="flex items-center gap-3 border-b border-line bg-ochre-tint px-4 py-2">
        <h2 className="flex-1 font-sans font-semibold text-ochre-text">What stands still or leads nowhere, and why</h2>
        {looks.aside.length > 0 && (
          <Button tone="fix" disabled={isLoading} onClick={() => void go()}>
            Try all again now
          </Button>
        )}
      </div>
      <ul>
        {looks.mail && <NoMail hold={looks.mail} zone={zone} />}
        {looks.log && <NoLog log={looks.log} />}
        {looks.stopped.map((s) => (
          <Stopped key={s.id} s={s} zone={zone} />
        ))}
        {looks.halted.map((h) => (
          <Halted key={h.email} h={h} zone={zone} />
        ))}
        {bySequence(looks.unmet).map((all) => (
          <Unmet key={all[0].sequence.id} all={all} zone={zone} />
        ))}
        {looks.aside.map((a) => (
          <Aside key={`${a.kind}${a.sequence?.id ?? ''}${a.reason}`} a={a} zone={zone} />
        ))}
      </ul>
    </Sheet>
  );
}
