import { ChevronsDownUp, ChevronsUpDown, Copy } from 'lucide-react';
import { memo } from 'react';
import type { NumbersAnswer } from '@ascenso/contracts';
import { answerWords, armLabel, armsOf, rateWords, type Names } from '@ascenso/core';
import { number } from '../ui/index.tsx';
import { Inserter } from './inserter.tsx';
import type { ArmBox } from './layout.ts';
import { LEFT, type StepHands } from './step-box.tsx';

/** The head of a lane: whom it is for, how many took it, and what folds it up. */
export const ArmHead = memo(function ArmHead({
  arm: a,
  names,
  numbers,
  fold,
  hands,
}: {
  arm: ArmBox;
  names: Names;
  numbers: NumbersAnswer | undefined;
  fold: (arm: string) => void;
  hands: StepHands;
}) {
  const taken = numbers?.arms[a.id] ?? 0;
  const all = armsOf(a.fork).reduce((n, k) => n + (numbers?.arms[k.id] ?? 0), 0);
  // An arm is named by its answer.
  const words = armLabel(a.fork, a.id, names).replace(/^./, (c) => c.toUpperCase());
  const otherwise = armsOf(a.fork).at(-1)?.id === a.id && a.fork.kind !== 'split';
  const tone = otherwise ? 'bg-slate-tint text-slate' : 'bg-spruce-tint text-spruce-deep';
  const steps = armsOf(a.fork).find((k) => k.id === a.id)?.steps.length ?? 0;
  const foldWords = a.folded > 0 ? `Open the lane “${words}”` : `Fold the lane “${words}” up`;
  return (
    <div className="group absolute flex flex-col items-center" style={{ left: LEFT + a.x, top: a.y, width: a.width }}>
      <span
        className={`flex max-w-full items-center gap-1 rounded-control pr-1 pl-2.5 text-[13px] font-semibold ${tone}`}
      >
        <span className="truncate" title={answerWords(a.fork, a.id, names)}>
          {words}
        </span>
        {all > 0 && (
          <span className="shrink-0 tabular-nums">
            · {number(taken)} ({rateWords(taken, all)})
          </span>
        )}
        {steps > 0 && (
          <button
            type="button"
            aria-label={`Copy the steps of “${words}”`}
            title="Copy the steps of this arm: Ctrl V puts them elsewhere"
            onClick={() => hands.copyArm(a.id)}
            className="flex size-6 shrink-0 items-center justify-center rounded-control hover:bg-white/60"
          >
            <Copy size={13} aria-hidden="true" />
          </button>
        )}
        {steps > 0 && (
          <button
            type="button"
            aria-label={foldWords}
            title={foldWords}
            aria-expanded={a.folded === 0}
            onClick={() => fold(a.id)}
            className="flex size-6 shrink-0 items-center justify-center rounded-control hover:bg-white/60"
          >
            {a.folded > 0 ? (
              <ChevronsUpDown size={13} aria-hidden="true" />
            ) : (
              <ChevronsDownUp size={13} aria-hidden="true" />
            )}
          </button>
        )}
      </span>
      {a.folded > 0 ? (
        <button
          type="button"
          onClick={() => fold(a.id)}
          className="mt-1 rounded-full border border-dashed border-[#c9c2b2] bg-sheet px-3 py-0.5 text-[12px] text-ink-2"
        >
          {a.folded} {a.folded === 1 ? 'step' : 'steps'} folded up
        </button>
      ) : (
        <span className="mt-0.5">
          <Inserter name={`Insert at the start of ${words}`} place={() => a.place} hands={hands} />
        </span>
      )}
    </div>
  );
});
