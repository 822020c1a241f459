import { describeDeadline, type Offer } from '@ascenso/core';
import { SentencePart } from '../plan/email-parts.tsx';
import { AfterParts } from './after.tsx';
import { CodesPart } from './codes-part.tsx';
import { DeadlineParts } from './deadline.tsx';
import type { Save } from './fields.tsx';
import { Gives } from './gives.tsx';
import { useOfferNames } from './words.ts';

/** The whole offer as one sentence with parts to click. */
export function OfferSentence({ offer, email, save }: { offer: Offer; email: string | null; save: Save }) {
  const names = useOfferNames();
  const { after, deadline } = offer;
  const over = {
    zeros: 'stays at zero',
    message: `says “${after.kind === 'message' ? after.text : ''}”`,
    picture: 'is another picture',
    gone: 'is gone',
  }[after.kind];
  return (
    <p className="text-[16px] leading-8">
      Gives <Gives offer={offer} save={save} /> with <CodesPart offer={offer} save={save} />; closes{' '}
      <SentencePart width="w-96" words={describeDeadline(deadline, { ...names([]), email })}>
        <DeadlineParts deadline={deadline} save={(d) => save({ deadline: d })} />
      </SentencePart>
      . Once it is over, its timer{' '}
      <SentencePart width="w-80" words={over}>
        <AfterParts after={after} save={(a) => save({ after: a })} />
      </SentencePart>
      .
    </p>
  );
}
