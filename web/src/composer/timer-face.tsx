import { targetOfTimer, type Block } from '@ascenso/core';
import { FacePicture } from '../offers/face-picture.tsx';
import { useComposer } from './context.ts';

/** A timer as it would be sent to the person that is read as: with what they have left now, or a sample of it. */
export function TimerFace({ block, side }: { block: Extract<Block, { kind: 'timer' }>; side: number }) {
  const { step, around, reader } = useComposer();
  const at = targetOfTimer(block, reader.reading.context);
  const offer = around.offers.find((o) => o.id === step.email.offer);
  const after = block.after ?? offer?.offer.after ?? { kind: 'zeros' as const };
  const left = at === null ? null : Math.max(0, Math.floor((at - around.now) / 1000));
  const { look } = block;
  return (
    <div
      style={{ padding: `${look?.above ?? 14}px ${side}px ${look?.below ?? 14}px`, textAlign: look?.align ?? 'center' }}
    >
      {left === null ? (
        <p className="rounded-control border border-dashed border-[#c9c2b2] py-6 text-center font-sans text-ink-2">
          {block.to.kind === 'offer'
            ? 'A timer: choose the offer of this email above the subject'
            : 'A timer: there is no such date for this person'}
        </p>
      ) : (
        <FacePicture face={block.face} left={left} after={after} alt={block.says} />
      )}
    </div>
  );
}
