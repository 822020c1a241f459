import type { Surroundings } from '@ascenso/contracts';
import type { Email } from '@ascenso/core';
import { EmailFrame } from '../ui/index.tsx';
import { useRendered, type Drawn } from './preview.ts';
import type { Reading } from './reading.ts';

/** Nobody in particular, from the sender of the house: fields of the reader stay empty or show their fallback. */
export function nobodyOf({ senders }: Pick<Surroundings, 'senders'>): Reading {
  const sender = senders.find((s) => s.isDefault);
  const own = sender ? { name: sender.name, email: sender.email, ...sender.fields } : {};
  return { now: 0, context: { subscriber: {}, event: {}, sender: own }, facts: null };
}

/** An email drawn small by the real compile. */
export function Thumbnail({
  email,
  title,
  around,
  reading = nobodyOf(around),
}: {
  email: Email;
  title: string;
  around: Drawn & Pick<Surroundings, 'senders'>;
  reading?: Reading;
}) {
  const rendered = useRendered(email, around, reading);
  return (
    <div className="h-44 w-36 overflow-hidden rounded-control border border-line bg-white">
      {rendered?.html ? (
        <EmailFrame
          title={title}
          html={rendered.html}
          className="pointer-events-none h-[733px] w-[600px] origin-top-left scale-[0.24]"
        />
      ) : (
        <pre className="p-2 text-[6px] whitespace-pre-wrap">{rendered?.text}</pre>
      )}
    </div>
  );
}
