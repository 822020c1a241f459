import {
  CornerDownRight,
  GitFork,
  Hourglass,
  Mail,
  MoreHorizontal,
  Split,
  Tag,
  TimerReset,
  StickyNote,
} from 'lucide-react';
import { memo, type MouseEvent } from 'react';
import type { NumbersAnswer } from '@ascenso/contracts';
import {
  branchWords,
  daysBetween,
  previewTemplate,
  rateWords,
  stepWords,
  whomWords,
  type Change,
  type EmailStep,
  type Names,
  type Step,
  unseenOf,
} from '@ascenso/core';
import { TemplateText } from '../composer/template-text.tsx';
import { number, type MenuEntry } from '../ui/index.tsx';
import { MenuOnDemand } from '../ui/menu-on-demand.tsx';
import { useTakenSteps } from './dragging.tsx';
import { InserterAfter, type InserterHands } from './inserter.tsx';
import { isFork, type Box } from './layout.ts';

/** Left edge of the plan, after the ruler, px. */
export const LEFT = 112;

function EmailCard({
  step,
  day,
  numbers,
  names,
}: {
  step: EmailStep;
  day: string;
  numbers: NumbersAnswer | undefined;
  names: Names;
}) {
  const n = numbers?.steps[step.id];
  const goesOut = whomWords(step, names);
  const unseen = unseenOf(step.email);
  return (
    <>
      <p className="flex items-center gap-1.5 pr-7 text-[12px] text-ink-2">
        <Mail size={13} aria-hidden="true" className="shrink-0" />
        <span className="truncate">{step.name || 'Email'}</span>
        <span className="shrink-0">· {day}</span>
        {!step.on && <b className="text-ochre-text">· switched off</b>}
        <NoteMark note={step.note} />
      </p>
      <p className="truncate text-[15px] font-semibold">
        <TemplateText source={step.email.subject} empty="No subject yet" />
      </p>
      <p className="truncate text-[13px] text-ink-2">
        <TemplateText source={previewTemplate(step.email)} empty="No text yet" />
      </p>
      <p className="truncate text-[12px] leading-5 text-ink-2" title={goesOut}>
        {goesOut}
      </p>
      <p className="mt-1 flex gap-4 border-t border-dashed border-line pt-1.5 text-[12px] text-ink-2 tabular-nums">
        {n && n.sent + n.here > 0 ? (
          <>
            <span>
              <b className="text-ink">{number(n.sent)}</b> sent
            </span>
            {!(unseen.clicks && n.clicked === 0) && (
              <span>
                <b className="text-ink">{rateWords(n.clicked, n.sent)}</b> clicked
              </span>
            )}
            {!unseen.openings && (
              <span>
                <b className="text-ink">{rateWords(n.opened, n.sent)}</b> opened
              </span>
            )}
            {n.here > 0 && (
              <span className="ml-auto">
                <b className="text-ink">{number(n.here)}</b> here
              </span>
            )}
          </>
        ) : (
          'Nobody has got this far yet'
        )}
      </p>
    </>
  );
}

/** That somebody has left a note at a step, and what it says. */
function NoteMark({ note }: { note: string }) {
  return note ? (
    <span title={note} className="shrink-0 text-ochre-text">
      <StickyNote size={12} role="img" aria-label={`Note: ${note}`} />
    </span>
  ) : null;
}

/** How a step with lanes under it looks: a question, a lot, or a wait. */
function forkFace(step: Step, names: Names) {
  if (step.kind === 'branch')
    return { tone: 'border-[#dcc8d9] bg-plum-tint text-plum', icon: GitFork, words: `${branchWords(step, names)}?` };
  if (step.kind === 'split')
    return { tone: 'border-line bg-slate-tint text-slate', icon: Split, words: stepWords(step, names) };
  return {
    tone: 'border-dashed border-[#c9c2b2] bg-sheet text-ink-2',
    icon: TimerReset,
    words: stepWords(step, names),
  };
}

function waitingHere(numbers: NumbersAnswer | undefined, step: string) {
  const waiting = numbers?.waiting[step] ?? 0;
  return waiting > 0 && <span className="text-[12px]"> · {number(waiting)} waiting</span>;
}

/** What can be done with a step from its box. Stays the same from render to render, so that a box need not be drawn anew. */
export interface StepHands extends InserterHands {
  select: (step: string) => void;
  /** Opens an email in the composer, and of other steps the settings. */
  open: (step: string) => void;
  /** Chooses a step beside the others. */
  also: (step: string) => void;
  /** Takes all steps of an arm into the hand. */
  copyArm: (arm: string) => void;
  /** What its menu offers, within an arm or not. */
  entries: (step: Step, inArm: boolean) => MenuEntry[];
}

interface StepBoxProps {
  box: Box;
  /** Off the way of the rehearsed person. */
  aside: boolean;
  day: string;
  names: Names;
  numbers: NumbersAnswer | undefined;
  selected: boolean;
  /** Until when the rehearsed person waits here, in words. */
  ends: string | undefined;
  /** How it differs from the live version, if it does. */
  mark: Change['kind'] | undefined;
  hands: StepHands;
}

const MARKS = { added: 'new', moved: 'moved', changed: 'changed', removed: 'gone' };

function Mark({ mark }: { mark: Change['kind'] | undefined }) {
  if (!mark) return null;
  return (
    <span className="pointer-events-none absolute -top-2.5 left-2 rounded-full border border-[#e6d3a6] bg-ochre-tint px-2 text-[11px] leading-4 font-semibold text-ochre-text">
      {MARKS[mark]}
    </span>
  );
}

type FaceProps = Omit<StepBoxProps, 'box'> & { step: Step; inArm: boolean };

/** What a box shows: drawn anew only when that changes, and not when the box moves since something was put in above it. */
const Face = memo(function Face({ step, inArm, aside, day, names, numbers, selected, ends, mark, hands }: FaceProps) {
  const ring = selected ? 'ring-2 ring-spruce' : '';
  const taken = useTakenSteps().has(step.id);
  const off = aside || taken ? 'opacity-40' : step.on ? '' : 'opacity-60';
  const menu = (
    <MenuOnDemand
      name={`More about ${stepWords(step, names)}`}
      entries={() => hands.entries(step, inArm)}
      className="flex size-6 items-center justify-center rounded-control text-ink-2 hover:bg-paper"
    >
      <MoreHorizontal size={15} aria-hidden="true" />
    </MenuOnDemand>
  );
  const face = 'flex-1 min-w-0 text-left h-full';
  const pick = {
    type: 'button' as const,
    onClick: (e: MouseEvent) => (e.shiftKey || e.ctrlKey || e.metaKey ? hands.also(step.id) : hands.select(step.id)),
    'aria-pressed': selected,
    'data-step': step.id,
  };
  if (step.kind === 'email')
    return (
      <div
        className={`relative size-full rounded-sheet border bg-sheet ${selected ? 'border-spruce' : 'border-line'} ${ring} ${off}`}
      >
        <button {...pick} className="block size-full px-3 py-2 text-left">
          <EmailCard step={step} day={day} numbers={numbers} names={names} />
        </button>
        <Mark mark={mark} />
        <span className="absolute top-1.5 right-2">{menu}</span>
      </div>
    );
  if (isFork(step)) {
    const { tone, icon: Icon, words } = forkFace(step, names);
    return (
      <div className={`relative flex size-full items-center gap-2 rounded-control border px-3 ${tone} ${ring} ${off}`}>
        <Mark mark={mark} />
        <Icon size={16} aria-hidden="true" />
        <button {...pick} className={`${face} truncate font-semibold`}>
          {words}
          {step.kind === 'until' && waitingHere(numbers, step.id)}
        </button>
        <NoteMark note={step.note} />
        {menu}
      </div>
    );
  }
  const icon =
    step.kind === 'wait' ? (
      <Hourglass size={13} aria-hidden="true" />
    ) : step.kind === 'action' ? (
      <Tag size={14} aria-hidden="true" />
    ) : (
      <CornerDownRight size={14} aria-hidden="true" />
    );
  return (
    <div className="pointer-events-none flex size-full items-center justify-center">
      <div
        className={`pointer-events-auto relative flex h-full max-w-full items-center gap-1 rounded-full border bg-sheet pr-1 pl-3 text-[13px] ${step.kind === 'wait' ? 'border-dashed border-[#c9c2b2] text-ink-2' : 'border-line'} ${ring} ${off}`}
      >
        <button {...pick} className="flex min-w-0 items-center gap-1.5 truncate">
          {icon}
          {stepWords(step, names)}
          {step.kind === 'wait' && !ends && daysBetween(step) && <span>· {daysBetween(step)}</span>}
          {ends && <b className="font-semibold text-spruce-deep">· {ends}</b>}
          {step.kind === 'wait' && waitingHere(numbers, step.id)}
          {!step.on && ' · off'}
        </button>
        <NoteMark note={step.note} />
        {menu}
        <Mark mark={mark} />
      </div>
    </div>
  );
});

/** A step in the plan at its place, with the plus behind it. */
export function StepBox({ box, ...rest }: StepBoxProps) {
  const { step, arm } = box;
  const { names, hands } = rest;
  // A wait or an action is as wide as its words: what lies beside it is the plan.
  const through = step.kind === 'email' || isFork(step) ? '' : 'pointer-events-none';
  return (
    <>
      <div
        className={`absolute ${through}`}
        style={{ left: LEFT + box.x, top: box.y, width: box.width, height: box.height }}
      >
        <Face step={step} inArm={arm !== null} {...rest} />
      </div>
      {!isFork(step) && (
        <span className="absolute" style={{ left: LEFT + box.x + 153, top: box.y + box.height + 1 }}>
          <InserterAfter step={step} names={names} hands={hands} />
        </span>
      )}
    </>
  );
}
