import { useState } from 'react';
import { useMeQuery } from '../app/api.ts';
import { useReaderQuery } from './endpoints.ts';
import { Dialog } from '../ui/index.tsx';
import { LiveEmailFrame } from '../ui/live-email.tsx';
import { useComposer } from './context.ts';
import { useRendered, type Rendered } from './preview.ts';
import { useRenderedNow } from './rendering.tsx';
import { personName } from './reader.tsx';
import { readingOf } from './reading.ts';
import { usePeopleQuery } from '../people/people-endpoints.ts';

/** The ways in which an email can be looked at. */
export const looks = ['Phone', 'Tablet', 'Desktop', 'Dark', 'No pictures', 'Plain text'] as const;
export type LookAt = (typeof looks)[number];

/** What a mail program makes of the email in a way of looking at it. */
export function htmlFor(html: string, look: LookAt): string {
  if (look === 'Dark') return html.replaceAll('@media (prefers-color-scheme:dark)', '@media all');
  // With pictures off, programs show the alt text in a box of the picture's size.
  if (look === 'No pictures')
    return html
      .replace(/(<img[^>]*?)\ssrc="[^"]*"/g, '$1')
      .replace('<head>', '<head><style>img{background:#eee;border:1px solid #ccc!important;min-height:20px}</style>');
  return html;
}

export function InboxRow({ sender, rendered, wide }: { sender: string; rendered: Rendered | null; wide?: boolean }) {
  if (wide)
    return (
      <div className="flex gap-3 border-b border-line px-4 py-2 text-[13px]">
        <b className="w-40 shrink-0 truncate font-semibold">{sender}</b>
        <p className="min-w-0 flex-1 truncate">
          <b className="font-semibold">{rendered?.subject}</b> <span className="text-ink-2">{rendered?.preview}</span>
        </p>
      </div>
    );
  return (
    <div className="border-b border-line px-3 py-2 text-[12px]">
      <p className="truncate font-semibold">{sender}</p>
      <p className="truncate">{rendered?.subject}</p>
      <p className="truncate text-ink-2">{rendered?.preview}</p>
    </div>
  );
}

const PHONE_WIDTH = 375;
const TABLET_WIDTH = 768;

/** The email on a phone of 375 px or a tablet of 768, drawn `width` px wide. */
function Phone({
  rendered,
  look,
  sender,
  width,
  height,
}: {
  rendered: Rendered | null;
  look: LookAt;
  sender: string;
  width: number;
  height: number;
}) {
  const screen = look === 'Tablet' ? TABLET_WIDTH : PHONE_WIDTH;
  const scale = (width - 12) / screen;
  return (
    <div
      className="mx-auto overflow-hidden rounded-t-[26px] border-[6px] border-b-0 border-ink bg-white"
      style={{ width, height }}
    >
      <InboxRow sender={sender} rendered={rendered} />
      {rendered?.html === '' ? (
        <pre className="p-3 text-[12px] whitespace-pre-wrap">{rendered.text}</pre>
      ) : (
        <LiveEmailFrame
          title={
            look === 'Tablet'
              ? 'The email on a tablet'
              : `The email on a phone${look === 'Phone' ? '' : `, ${look.toLowerCase()}`}`
          }
          html={rendered && htmlFor(rendered.html, look)}
          className="origin-top-left"
          style={{ width: screen, height: (height - 64) / scale, transform: `scale(${scale})` }}
        />
      )}
    </div>
  );
}

/** The phone that is always in sight, and the other ways to look at the email. */
export function Preview({
  sender,
  openDesktop,
  openGallery,
  large,
}: {
  sender: string;
  /** Pinned larger; without it there is only one size. */
  large?: { on: boolean; set: (on: boolean) => void };
  openDesktop: () => void;
  openGallery: () => void;
}) {
  const rendered = useRenderedNow();
  const [look, setLook] = useState<LookAt>('Phone');
  const pick = (l: LookAt) => (l === 'Desktop' ? openDesktop() : setLook(l));
  return (
    <div className="flex flex-col gap-2 p-3">
      <div role="group" aria-label="Look at it" className="flex flex-wrap gap-x-0.5">
        {looks.map((l) => (
          <button
            key={l}
            type="button"
            aria-pressed={look === l}
            onClick={() => pick(l)}
            className={`rounded-full px-1.5 py-1 text-[12px] font-semibold ${look === l ? 'bg-spruce-tint text-spruce-deep' : 'text-ink-2 hover:bg-paper'}`}
          >
            {l}
          </button>
        ))}
      </div>
      {rendered?.problem ? (
        <p role="alert" className="rounded-control bg-brick-tint p-3 text-brick">
          {rendered.problem}
        </p>
      ) : look === 'Plain text' ? (
        <pre
          tabIndex={0}
          className="h-[330px] overflow-auto rounded-control border border-line bg-paper-2 p-3 text-[12px] whitespace-pre-wrap"
        >
          {rendered?.text}
        </pre>
      ) : (
        <Phone
          rendered={rendered}
          look={look}
          sender={sender}
          width={large?.on ? 375 : 250}
          height={large?.on ? 560 : 330}
        />
      )}
      <div className="flex items-center justify-between text-[12px] text-ink-2">
        <button type="button" onClick={openGallery} className="font-semibold text-spruce hover:underline">
          Five people at once
        </button>
        {large && (
          <button
            type="button"
            aria-pressed={large.on}
            onClick={() => large.set(!large.on)}
            className="font-semibold text-spruce hover:underline"
          >
            {large.on ? 'Smaller' : 'Larger'}
          </button>
        )}
        <span className="tabular-nums">{rendered ? `${Math.max(1, Math.round(rendered.bytes / 1000))} kB` : ''}</span>
      </div>
    </div>
  );
}

function OnePerson({ person }: { person: string }) {
  const { doc, step, around, reader } = useComposer();
  const { data: me } = useMeQuery();
  const { data: theirs } = useReaderQuery(person);
  const event = theirs?.events.find((e) => !reader.wanted || e.name === reader.wanted)?.payload ?? reader.context.event;
  const reading = readingOf(theirs, event, { around, me, doc, step });
  const rendered = useRendered(theirs ? step.email : null, around, reading, doc.list === null);
  const sender = around.senders.find((s) => s.id === step.email.sender) ?? around.senders.find((s) => s.isDefault);
  return (
    <figure className="flex flex-col gap-1">
      <figcaption className="truncate text-center font-semibold">{theirs ? personName(theirs.person) : '…'}</figcaption>
      <Phone rendered={rendered} look="Phone" sender={sender?.name ?? ''} width={184} height={420} />
    </figure>
  );
}

/** How five different people get it, side by side. */
export function Gallery({ onClose }: { onClose: () => void }) {
  const { reader } = useComposer();
  const { data: did } = usePeopleQuery({ q: '', offset: 0, limit: 50, did: reader.wanted ?? '' });
  const { data: anybody } = usePeopleQuery({ q: '', offset: 0, limit: 50 });
  // Whoever did what starts the sequence has something to be read with; where nobody has, a sample stands in.
  const known = did && did.people.length > 0 ? did : anybody;
  const all = (known?.people ?? []).filter((p) => p.mailStatus === 'ok');
  // As different as a few can be: no two with the same tags and attributes but for the name.
  const kinds = new Map(
    all.map((p) => [
      JSON.stringify([p.tags, p.attributes['skill'], p.attributes['plan'], p.attributes['language']]),
      p,
    ]),
  );
  const five = [...kinds.values(), ...all.filter((p) => ![...kinds.values()].includes(p))].slice(0, 5);
  return (
    <Dialog open onClose={onClose} title="Five people at once" widest>
      <div className="flex justify-between gap-2">
        {five.map((p) => (
          <OnePerson key={p.id} person={p.id} />
        ))}
      </div>
      {five.length === 0 && <p className="text-ink-2">Nobody to read it as yet.</p>}
    </Dialog>
  );
}
