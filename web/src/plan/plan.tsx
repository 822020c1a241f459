import {
  Clock3,
  CornerDownRight,
  GitFork,
  Split,
  TimerReset,
  Hourglass,
  LogOut,
  Mail,
  MoreHorizontal,
  Plus,
  Tag,
  UserPlus,
} from 'lucide-react';
import { useEffect, useMemo, useRef, type KeyboardEvent } from 'react';
import { useNavigate, useParams, useSearchParams } from 'react-router';
import type { NumbersAnswer } from '@ascenso/contracts';
import {
  armLabel,
  armsOf,
  branchWords,
  findStep,
  previewTemplate,
  rateWords,
  reaches,
  stepWords,
  dayWords,
  triggerWords,
  windowWords,
  type EmailStep,
  type Names,
  type Step,
  type Place,
  type StepKind,
} from '@ascenso/core';
import { useNumbersQuery } from '../app/api.ts';
import { edit } from '../app/draft.ts';
import { useAct, useApp } from '../app/store.ts';
import { TemplateText } from '../composer/template-text.tsx';
import { RehearsalDock } from '../rehearsal/dock.tsx';
import { ActionMenu, Button, number, type MenuEntry } from '../ui/index.tsx';
import { useNames } from '../ui/names.ts';
import { duplicateStep, insertStep, moveAcross, moveStep, neighbour, removeStep } from './actions.ts';
import { Inspector } from './inspector.tsx';
import { isFork, layoutPlan, type Box } from './layout.ts';

const LEFT = 112;
const kinds: { kind: StepKind; label: string; keys: string; icon: typeof Mail }[] = [
  { kind: 'email', label: 'Email', keys: 'E', icon: Mail },
  { kind: 'wait', label: 'Wait', keys: 'W', icon: Hourglass },
  { kind: 'branch', label: 'Branch', keys: 'B', icon: GitFork },
  { kind: 'split', label: 'Split by share', keys: 'S', icon: Split },
  { kind: 'until', label: 'Wait until something happens', keys: 'U', icon: TimerReset },
  { kind: 'action', label: 'Action on a tag, list or attribute', keys: 'A', icon: Tag },
  { kind: 'leave', label: 'Leave', keys: 'L', icon: LogOut },
];

function Inserter({ name, at, insert }: { name: string; at: Place; insert: (kind: StepKind, at: Place) => void }) {
  const entries: MenuEntry[] = kinds.map(({ kind, label, keys, icon: Icon }) => ({
    label,
    keys,
    icon: <Icon size={15} aria-hidden="true" />,
    act: () => insert(kind, at),
  }));
  return (
    <ActionMenu
      name={name}
      entries={entries}
      className="flex size-6 items-center justify-center rounded-full border border-line bg-sheet text-ink-2 hover:border-spruce hover:text-spruce"
    >
      <Plus size={13} aria-hidden="true" />
    </ActionMenu>
  );
}

function EmailCard({ step, day, numbers }: { step: EmailStep; day: string; numbers: NumbersAnswer | undefined }) {
  const n = numbers?.steps[step.id];
  return (
    <>
      <p className="flex items-center gap-1.5 text-[12px] text-ink-2"><Mail size={13} aria-hidden="true" />{step.name || 'Email'}<span>· {day}</span>{!step.on && <b className="text-ochre-text">· switched off</b>}{step.window && <Clock3 size={12} aria-label={windowWords(step.window)} />}</p>
      <p className="truncate text-[15px] font-semibold"><TemplateText source={step.email.subject} empty="No subject yet" /></p>
      <p className="truncate text-[13px] text-ink-2"><TemplateText source={previewTemplate(step.email)} empty="No text yet" /></p>
      <p className="mt-1.5 flex gap-4 border-t border-dashed border-line pt-1.5 text-[12px] text-ink-2 tabular-nums">
        {n && n.sent + n.here > 0 ? (
          <>
            <span><b className="text-ink">{number(n.sent)}</b> sent</span>
            <span><b className="text-ink">{rateWords(n.clicked, n.sent)}</b> clicked</span>
            <span><b className="text-ink">{rateWords(n.opened, n.sent)}</b> opened</span>
            {n.here > 0 && <span className="ml-auto"><b className="text-ink">{number(n.here)}</b> here</span>}
          </>
        ) : 'Nobody has got this far yet'}
      </p>
    </>
  ); // prettier-ignore
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

interface StepBoxProps {
  box: Box;
  /** Off the way of the rehearsed person. */
  aside: boolean;
  day: string;
  names: Names;
  numbers: NumbersAnswer | undefined;
  selected: boolean;
  select: () => void;
  entries: MenuEntry[];
}

function StepBox({ box, aside, day, names, numbers, selected, select, entries }: StepBoxProps) {
  const { step } = box;
  const style = { left: LEFT + box.x, top: box.y, width: box.width, height: box.height };
  const ring = selected ? 'ring-2 ring-spruce' : '';
  const off = aside ? 'opacity-40' : step.on ? '' : 'opacity-60';
  const menu = (
    <ActionMenu
      name={`More about ${stepWords(step, names)}`}
      entries={entries}
      className="flex size-6 items-center justify-center rounded-control text-ink-2 hover:bg-paper"
    >
      <MoreHorizontal size={15} aria-hidden="true" />
    </ActionMenu>
  );
  const face = 'flex-1 min-w-0 text-left h-full';
  const pick = { type: 'button' as const, onClick: select, 'aria-pressed': selected, 'data-step': step.id };
  if (step.kind === 'email')
    return (
      <div
        style={style}
        className={`absolute rounded-sheet border bg-sheet ${selected ? 'border-spruce' : 'border-line'} ${ring} ${off}`}
      >
        <button {...pick} className="block size-full px-3 py-2 text-left">
          <EmailCard step={step} day={day} numbers={numbers} />
        </button>
        <span className="absolute top-1.5 right-2">{menu}</span>
      </div>
    );
  if (isFork(step)) {
    const { tone, icon: Icon, words } = forkFace(step, names);
    return (
      <div
        style={style}
        className={`absolute flex items-center gap-2 rounded-control border px-3 ${tone} ${ring} ${off}`}
      >
        <Icon size={16} aria-hidden="true" />
        <button {...pick} className={`${face} truncate font-semibold`}>
          {words}
          {step.kind === 'until' && waitingHere(numbers, step.id)}
        </button>
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
    <div style={style} className="pointer-events-none absolute flex items-center justify-center">
      <div className={`pointer-events-auto flex h-full max-w-full items-center gap-1 rounded-full border bg-sheet pr-1 pl-3 text-[13px] ${step.kind === 'wait' ? 'border-dashed border-[#c9c2b2] text-ink-2' : 'border-line'} ${ring} ${off}`}>
        <button {...pick} className="flex min-w-0 items-center gap-1.5 truncate">{icon}{stepWords(step, names)}{step.kind === 'wait' && waitingHere(numbers, step.id)}{!step.on && ' · off'}</button>
        {menu}
      </div>
    </div>
  ); // prettier-ignore
}

export function PlanView() {
  const id = useParams().id as string;
  const doc = useApp((s) => s.draft.doc);
  const dispatch = useAct();
  const navigate = useNavigate();
  const names = useNames(doc);
  const { data: numbers } = useNumbersQuery(id, { refetchOnMountOrArgChange: true });
  const [params, setParams] = useSearchParams();
  const selected = params.get('select');
  const canvas = useRef<HTMLDivElement>(null);
  const rehearsing = useApp((s) => s.rehearsing);
  const toSettings = useRef<string | null>(null);
  const layout = useMemo(() => (doc ? layoutPlan(doc) : null), [doc]);
  const reach = useMemo(() => (doc ? reaches(doc) : null), [doc]);

  const select = (step: string | null) => setParams(step ? { select: step } : {}, { replace: true });
  useEffect(() => {
    const box = selected && canvas.current?.querySelector<HTMLElement>(`[data-step="${CSS.escape(selected)}"]`);
    if (!box || !canvas.current) return;
    // A bar over many lanes is wider than the view: going to its end would hide where it begins.
    const { scrollLeft, clientWidth } = canvas.current;
    box.scrollIntoView({ block: 'nearest', inline: 'nearest' });
    if (box.offsetWidth > clientWidth / 2) canvas.current.scrollLeft = scrollLeft;
  }, [selected]);
  // The settings of a step that Enter opened are on the screen one render later.
  useEffect(() => {
    if (selected === null || toSettings.current !== selected) return;
    toSettings.current = null;
    document.getElementById('inspector')?.querySelector<HTMLElement>('input, select, button')?.focus();
  });
  if (!doc || !layout || !reach) return null;

  const focusStep = (step: string) =>
    requestAnimationFrame(() =>
      canvas.current?.querySelector<HTMLElement>(`[data-step="${CSS.escape(step)}"]`)?.focus({ preventScroll: true }),
    );
  const show = (step: string) => {
    select(step);
    focusStep(step);
  };
  const insert = (kind: StepKind, at: Place) => show(dispatch(insertStep(kind, at)));
  /** What stood before the deleted step is at hand next, so that the keyboard has somewhere to go on from. */
  const remove = (step: string) => {
    const before = neighbour(doc, step, -1);
    dispatch(removeStep(step));
    show(before && before !== step ? before : 'trigger');
  };
  const open = (step: string) => {
    if (findStep(doc, step)?.step.kind === 'email') void navigate(`/sequences/${id}/emails/${step}`);
    else {
      select(step);
      toSettings.current = step;
    }
  };
  const onKey = (e: KeyboardEvent) => {
    if ((e.target as HTMLElement).closest('input, select, textarea, [role=menu]')) return;
    // What has the focus is meant: the selection in the address follows it a moment later.
    const current = (e.target as HTMLElement).closest<HTMLElement>('[data-step]')?.dataset.step ?? selected;
    const found = current ? findStep(doc, current) : undefined;
    const after: Place = found
      ? { arm: found.place.arm, index: found.place.index + 1 }
      : { arm: null, index: doc.steps.length };
    const key = e.key.toLowerCase();
    const moving = { arrowup: -1, arrowdown: 1, arrowleft: -1, arrowright: 1 }[key] as -1 | 1 | undefined;
    const kind = e.ctrlKey || e.metaKey || e.altKey ? undefined : kinds.find((k) => k.keys.toLowerCase() === key)?.kind;
    if (kind) insert(kind, after);
    else if (moving && e.altKey && current)
      dispatch(key === 'arrowup' || key === 'arrowdown' ? moveStep(current, moving) : moveAcross(current, moving));
    else if (moving && (key === 'arrowup' || key === 'arrowdown')) {
      const to = neighbour(doc, current === 'trigger' ? null : current, moving);
      if (to) show(to);
    } else if ((key === 'delete' || key === 'backspace') && found) remove(found.step.id);
    else if (key === 'd' && (e.ctrlKey || e.metaKey) && found) {
      const copy = dispatch(duplicateStep(found.step.id));
      if (copy) show(copy);
    } else if (key === 'enter' && found && (e.target as HTMLElement).dataset.step) open(found.step.id);
    else return;
    e.preventDefault();
  };
  const entriesFor = (box: Box): MenuEntry[] => [
    ...(box.step.kind === 'email' ? [{ label: 'Open in composer', keys: 'Enter', act: () => open(box.id) }] : []),
    { label: 'Duplicate', keys: 'Ctrl D', act: () => select(dispatch(duplicateStep(box.id))) },
    { label: 'Move up', keys: 'Alt ↑', act: () => dispatch(moveStep(box.id, -1)) },
    { label: 'Move down', keys: 'Alt ↓', act: () => dispatch(moveStep(box.id, 1)) },
    ...(box.after.arm
      ? [{ label: 'Move to the next arm', keys: 'Alt →', act: () => dispatch(moveAcross(box.id, 1)) }]
      : []),
    {
      label: box.step.on ? 'Switch off' : 'Switch on',
      act: () => dispatch(edit([{ type: 'step.set', step: box.id, field: 'on', value: !box.step.on }])),
    },
    { label: 'Delete', keys: 'Del', danger: true, act: () => remove(box.id) },
  ];
  const day = (step: string) => {
    const at = reach.get(step);
    return at ? dayWords(at) : 'never';
  };
  return (
    <div className="flex min-h-0 flex-1 flex-col">
    <div className="flex min-h-0 flex-1">
      <div ref={canvas} className="relative min-w-0 flex-1 overflow-auto" onKeyDown={onKey} role="group" aria-label="Plan">
        <div className="relative min-h-full overflow-y-clip" style={{ width: LEFT + layout.width + 60, height: layout.height + 60 }}>
          <svg className="pointer-events-none absolute inset-0 size-full" aria-hidden="true">
            <g transform={`translate(${LEFT} 0)`} fill="none" strokeWidth={2} stroke="#c8c0cb">{layout.wires.map((w) => <path key={w.id} d={w.path} className={rehearsing.path?.some((p) => w.id === `to-${p}` || w.id === `arm-${p}`) ? 'stroke-spruce' : ''} />)}</g>
          </svg>
          <div className="sticky left-0 z-10 h-0 w-0" aria-hidden={layout.days.length === 0}>
            <div className="absolute top-0 w-[96px] bg-paper" style={{ height: layout.height + 60, minHeight: '100vh' }}>
              <span className="absolute top-0 bottom-0 left-[83px] w-px bg-line" />
              {layout.days.map((d) => (
                <div key={d.y} className="absolute inset-x-0" style={{ top: d.y - 9 }}>
                  <p className="absolute left-2 w-16 text-right font-head text-[14px] leading-tight font-bold">{d.text}</p>
                  <span className="absolute top-[3px] left-[78px] size-[11px] rounded-full border-2 border-spruce bg-paper" />
                </div>
              ))}
            </div>
          </div>
          <button type="button" data-step="trigger" onClick={() => select('trigger')} aria-pressed={selected === 'trigger'} style={{ left: LEFT, top: 10 }}
            className={`absolute flex h-7 max-w-[330px] items-center gap-1.5 truncate rounded-control bg-dawn-tint px-2.5 font-semibold text-dawn-text ${selected === 'trigger' ? 'ring-2 ring-dawn' : ''}`}>
            <UserPlus size={14} aria-hidden="true" />{triggerWords(doc.trigger, names)}
          </button>
          {doc.steps.length === 0 && (
            <div className="absolute flex w-[330px] flex-col items-start gap-3 rounded-sheet border border-dashed border-[#c9c2b2] p-4" style={{ left: LEFT, top: 60 }}>
              <p className="text-ink-2">The first email goes out as soon as somebody starts.</p>
              <Button tone="main" onClick={() => insert('email', { arm: null, index: 0 })}><Plus size={15} aria-hidden="true" />Add the first email</Button>
            </div>
          )}
          {layout.boxes.map((box) => (
            <StepBox key={box.id} box={box} aside={rehearsing.path !== null && !rehearsing.path.includes(box.id)} day={day(box.id)} names={names} numbers={numbers} selected={selected === box.id} select={() => select(box.id)} entries={entriesFor(box)} />
          ))}
          {layout.boxes.filter((b) => !isFork(b.step)).map((b) => (
            <span key={`after-${b.id}`} className="absolute" style={{ left: LEFT + b.x + 153, top: b.y + b.height + 1 }}><Inserter name={`Insert after ${stepWords(b.step, names)}`} at={b.after} insert={insert} /></span>
          ))}
          {layout.boxes.filter((b) => isFork(b.step)).map((b) => {
            const end = layout.wires.find((w) => w.id.startsWith(`join-${b.id}`));
            const y = Math.max(...(layout.wires.filter((w) => w.id.startsWith(`join-${b.id}`)).map((w) => Number(/V(\d+)/.exec(w.path)?.[1] ?? 0))), 0);
            return end ? <span key={`after-${b.id}`} className="absolute" style={{ left: LEFT + b.x + 153, top: y + 6 }}><Inserter name={`Insert after ${stepWords(b.step, names)}`} at={b.after} insert={insert} /></span> : null;
          })}
          {layout.arms.map((a) => {
            const taken = numbers?.arms[a.id] ?? 0;
            const all = armsOf(a.fork).reduce((n, k) => n + (numbers?.arms[k.id] ?? 0), 0);
            // A single question needs no words of its own on its arms.
            const words = a.fork.kind === 'branch' && a.fork.arms.length === 2 && a.fork.arms[0]?.id === a.id ? 'Yes' : armLabel(a.fork, a.id, names);
            const otherwise = armsOf(a.fork).at(-1)?.id === a.id && a.fork.kind !== 'split';
            return (
              <div key={a.id} className="absolute flex flex-col items-center" style={{ left: LEFT + a.x, top: a.y, width: a.width }}>
                <span className={`rounded-control px-2.5 py-0.5 text-[13px] font-semibold ${otherwise ? 'bg-slate-tint text-slate' : 'bg-spruce-tint text-spruce-deep'}`}>{words}{all > 0 && ` · ${number(taken)} (${rateWords(taken, all)})`}</span>
                <span className="mt-1"><Inserter name={`Insert at the start of ${words}`} at={a.place} insert={insert} /></span>
              </div>
            );
          })}
        </div>
      </div>
      <Inspector id={id} selected={selected} names={names} open={open} />
    </div>
    {rehearsing.open && <RehearsalDock doc={doc} select={select} />}
    </div>
  ); // prettier-ignore
}
