import { Plus } from 'lucide-react';
import { useCallback, useEffect, useMemo, useRef, useState, type KeyboardEvent, type RefObject } from 'react';
import { useNavigate, useParams, useSearchParams } from 'react-router';
import {
  armsOf,
  dayWords,
  findStep,
  reaches,
  walk,
  type Place,
  type Sequence,
  type Step,
  type StepKind,
} from '@ascenso/core';
import { useChangesQuery } from './endpoints.ts';
import { useSequenceQuery } from '../drafts/endpoints.ts';
import { useNumbersQuery } from '../numbers/endpoints.ts';
import { edit } from '../drafts/draft.ts';
import { useAct, useApp } from '../app/store.ts';
import { RehearsalDock } from '../rehearsal/dock.tsx';
import { Button, type MenuEntry } from '../ui/index.tsx';
import { useNames } from '../ui/names.ts';
import { useLastSelected } from '../ui/use-last-selected.ts';
import { duplicateStep, testEmail, insertStep, neighbour, removeStep, removeSteps } from './actions.ts';
import { ArmHead } from './arm-head.tsx';
import { copyToHand, pasteAt } from './copying.ts';
import { Entrance } from './entrance.tsx';
import { Ground } from './ground.tsx';
import { InserterAfter } from './inserter.tsx';
import { focusSettings, Inspector, type Wanted } from './inspector.tsx';
import { ChosenBar } from './chosen-bar.tsx';
import { PlanDragging } from './dragging.tsx';
import { liesInside, outermost, placeBehind } from './moves.ts';
import { moveAcross, moveSteps, moveTo } from './moving.ts';
import { layoutPlan } from './layout.ts';
import { OtherEmail } from './other-email.tsx';
import { PlanTools } from './plan-tools.tsx';
import { LEFT, StepBox, type StepHands } from './step-box.tsx';
import { stepKinds } from './step-kinds.ts';

/** What has changed since the live version, renewed once edits have come to rest. */
function usePendingChanges(id: string) {
  const { revision, unsaved, id: loaded } = useApp((s) => s.draft);
  const { data: about } = useSequenceQuery(id);
  const skip = loaded !== id || unsaved > 0 || !about || about.liveVersion === null;
  const { data } = useChangesQuery({ id, revision }, { skip, refetchOnMountOrArgChange: true });
  return about?.liveVersion === null ? undefined : data;
}

/** Puts the focus on the step that wants it, once it is on the screen. */
function takeFocus(canvas: HTMLElement | null, wanted: RefObject<string | null>): void {
  if (wanted.current === null) return;
  const step = canvas?.querySelector<HTMLElement>(`[data-step="${CSS.escape(wanted.current)}"]`);
  if (!step) return;
  wanted.current = null;
  step.focus({ preventScroll: true });
}

/** Arms around a step that are folded up: to show the step they have to open. */
function foldedAround(doc: Sequence, step: string, folded: ReadonlySet<string>): string[] {
  const out: string[] = [];
  for (let v = findStep(doc, step) ?? null; v; v = v.parent)
    if (v.place.arm && folded.has(v.place.arm)) out.push(v.place.arm);
  return out;
}

export function PlanView() {
  const id = useParams().id as string;
  const doc = useApp((s) => s.draft.doc);
  const dispatch = useAct();
  const navigate = useNavigate();
  const names = useNames(doc);
  const { data: numbers } = useNumbersQuery({ id }, { refetchOnMountOrArgChange: true });
  const [params, setParams] = useSearchParams();
  const selected = params.get('select');
  const last = useLastSelected(selected);
  const canvas = useRef<HTMLDivElement>(null);
  const rehearsing = useApp((s) => s.rehearsing);
  const toFocus = useRef<string | null>(null);
  const toSettings = useRef<Wanted | null>(null);
  const [folded, setFolded] = useState<ReadonlySet<string>>(new Set());
  const [zoom, setZoom] = useState(1);
  const [otherAt, setOtherAt] = useState<Place | null>(null);
  /** Steps that are chosen together, by Shift and a click. */
  const [others, setOthers] = useState<ReadonlySet<string>>(new Set());
  const changes = usePendingChanges(id);
  const reach = useMemo(() => (doc ? reaches(doc) : null), [doc]);
  const layout = useMemo(() => (doc && reach ? layoutPlan(doc, folded, reach) : null), [doc, folded, reach]);

  const select = (step: string | null) => {
    last.current = step;
    setOthers(new Set());
    setParams(step ? { select: step } : {}, { replace: true });
  };
  /**
   * Chooses a step beside those that are chosen, `from` the one that is; one that is chosen already is so no longer, unless it is
   * to `stay`.
   */
  const alsoSelect = (step: string, stay = false, from = last.current) => {
    last.current = step;
    const next = new Set(others.size > 0 || from === null || from === 'trigger' ? others : [from]);
    if (stay || !next.delete(step)) next.add(step);
    setOthers(next);
    setParams({ select: step }, { replace: true });
  };
  const fold = useCallback((arm: string) => {
    setFolded((now) => {
      const next = new Set(now);
      if (!next.delete(arm)) next.add(arm);
      return next;
    });
  }, []);
  // The boxes are given the same hands at every render, and these always reach for what is there now.
  const now = useRef<StepHands>(null as unknown as StepHands);
  const hands = useMemo<StepHands>(
    () => ({
      select: (step) => now.current.select(step),
      also: (step) => now.current.also(step),
      copyArm: (arm) => now.current.copyArm(arm),
      entries: (step, inArm) => now.current.entries(step, inArm),
      insert: (kind, at) => now.current.insert(kind, at),
      other: (at) => now.current.other(at),
      open: (step) => now.current.open(step),
      after: (step) => now.current.after(step),
      moving: (at) => now.current.moving(at),
      moveHere: (at) => now.current.moveHere(at),
    }),
    [],
  );
  useEffect(() => {
    const box = selected && canvas.current?.querySelector<HTMLElement>(`[data-step="${CSS.escape(selected)}"]`);
    if (!box || !canvas.current) return;
    // A bar over many lanes is wider than the view: going to its end would hide where it begins.
    const { scrollLeft, clientWidth } = canvas.current;
    box.scrollIntoView({ block: 'nearest', inline: 'nearest' });
    if (box.offsetWidth > clientWidth / 2) canvas.current.scrollLeft = scrollLeft;
  }, [selected]);
  // A step that was just put in, or unfolded, may be drawn a render later.
  useEffect(() => takeFocus(canvas.current, toFocus));
  if (!doc || !layout || !reach) return null;

  const focusStep = (step: string) => {
    toFocus.current = step;
    requestAnimationFrame(() => takeFocus(canvas.current, toFocus));
  };
  const show = (step: string) => {
    const around = foldedAround(doc, step, folded);
    if (around.length > 0) setFolded(new Set([...folded].filter((a) => !around.includes(a))));
    select(step);
    focusStep(step);
  };
  const fit = () => {
    const { clientWidth = 1, clientHeight = 1 } = canvas.current ?? {};
    setZoom(Math.max(0.25, Math.min(1, clientWidth / (LEFT + layout.width + 60), clientHeight / (layout.height + 60))));
  };
  const insert = (kind: StepKind, at: Place) => show(dispatch(insertStep(kind, at)));
  /** What stood before the deleted step is at hand next, so that the keyboard has somewhere to go on from. */
  const remove = (step: string) => {
    const before = neighbour(doc, step, -1);
    dispatch(removeStep(step));
    show(before && before !== step ? before : 'trigger');
  };
  const removeAll = (steps: ReadonlySet<string>) => {
    dispatch(removeSteps(steps));
    select('trigger');
  };
  /** Selects a step, or the start, and puts the focus into its settings. */
  const settings = (step: string, part?: Wanted['part']) => {
    select(step);
    // Of a step that is selected already nothing is drawn anew: its settings are there.
    if (step === (selected ?? 'trigger')) focusSettings({ part });
    else toSettings.current = { step, part };
  };
  const open = (step: string) => {
    if (findStep(doc, step)?.step.kind === 'email') void navigate(`/sequences/${id}/emails/${step}`);
    else settings(step);
  };
  const chosen: ReadonlySet<string> = others.size > 0 ? others : new Set(selected ? [selected] : []);
  /** A step with those that are chosen beside it. */
  const meant = (step: string): ReadonlySet<string> => (others.has(step) ? others : new Set([step]));
  const onKey = (e: KeyboardEvent) => {
    if ((e.target as HTMLElement).closest('input, select, textarea, [role=menu]')) return;
    // What has the focus is meant: the selection in the address follows it a moment later.
    const current = (e.target as HTMLElement).closest<HTMLElement>('[data-step]')?.dataset.step ?? selected;
    const found = current ? findStep(doc, current) : undefined;
    const after = placeBehind(doc, current);
    const key = e.key.toLowerCase();
    const moving = { arrowup: -1, arrowdown: 1, arrowleft: -1, arrowright: 1 }[key] as -1 | 1 | undefined;
    const kind =
      e.ctrlKey || e.metaKey || e.altKey ? undefined : stepKinds.find((k) => k.keys.toLowerCase() === key)?.kind;
    if (kind) insert(kind, after);
    else if (moving && e.altKey && current)
      dispatch(
        key === 'arrowup' || key === 'arrowdown'
          ? moveSteps(meant(current), moving)
          : moveAcross(meant(current), moving),
      );
    else if (moving && (key === 'arrowup' || key === 'arrowdown')) {
      const to = neighbour(doc, current === 'trigger' ? null : current, moving);
      if (to && e.shiftKey && to !== 'trigger') {
        alsoSelect(to, true, current);
        focusStep(to);
      } else if (to) show(to);
    } else if ((key === 'delete' || key === 'backspace') && found)
      if (others.size > 1) removeAll(others);
      else remove(found.step.id);
    else if (key === 'd' && (e.ctrlKey || e.metaKey) && found) {
      const copy = dispatch(duplicateStep(found.step.id));
      if (copy) show(copy);
    } else if (key === 'c' && (e.ctrlKey || e.metaKey) && found) dispatch(copyToHand([...meant(found.step.id)]));
    else if (key === 'v' && (e.ctrlKey || e.metaKey)) {
      const pasted = dispatch(pasteAt(after, names.offer));
      if (pasted) show(pasted);
    } else if (key === 'enter' && current && (e.target as HTMLElement).dataset.step)
      if (found && !e.shiftKey) open(found.step.id);
      else settings(current);
    else return;
    e.preventDefault();
  };
  const entriesFor = (step: Step, inArm: boolean): MenuEntry[] => [
    ...(step.kind === 'email' ? [{ label: 'Open in composer', keys: 'Enter', act: () => open(step.id) }] : []),
    ...(step.kind === 'email'
      ? [{ label: 'Test another version', act: () => select(dispatch(testEmail(step.id))) }]
      : []),
    { label: 'Duplicate', keys: 'Ctrl D', act: () => select(dispatch(duplicateStep(step.id))) },
    { label: 'Copy', keys: 'Ctrl C', act: () => dispatch(copyToHand([...meant(step.id)])) },
    { label: 'Move up', keys: 'Alt ↑', act: () => dispatch(moveSteps(meant(step.id), -1)) },
    { label: 'Move down', keys: 'Alt ↓', act: () => dispatch(moveSteps(meant(step.id), 1)) },
    ...(inArm
      ? [{ label: 'Move to the next arm', keys: 'Alt →', act: () => dispatch(moveAcross(meant(step.id), 1)) }]
      : []),
    {
      label: step.on ? 'Switch off' : 'Switch on',
      act: () => dispatch(edit([{ type: 'step.set', step: step.id, field: 'on', value: !step.on }])),
    },
    { label: 'Delete', keys: 'Del', danger: true, act: () => remove(step.id) },
  ];
  const copyArm = (arm: string) => {
    const arms = walk(doc).flatMap(({ step }) => armsOf(step));
    const steps = arms.find((a) => a.id === arm)?.steps ?? [];
    dispatch(copyToHand(steps.map((s) => s.id)));
  };
  now.current = {
    select,
    also: (step) => alsoSelect(step),
    copyArm,
    entries: entriesFor,
    insert,
    other: setOtherAt,
    open,
    after: (step) => placeBehind(doc, step),
    moving: (at) => (liesInside(doc, chosen, at) ? [] : outermost(doc, chosen)),
    moveHere: (at) => dispatch(moveTo(chosen, at)),
  };
  const day = (step: string) => {
    const at = reach.get(step);
    return at ? dayWords(at) : 'never';
  };
  const marks = new Map(changes?.changes.map((c) => [c.step, c.kind]));
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div className="flex min-h-0 flex-1">
        <div className="flex min-w-0 flex-1 flex-col">
          <PlanTools
            doc={doc}
            names={names}
            show={show}
            changes={changes}
            zoom={zoom}
            setZoom={setZoom}
            fit={fit}
            folded={folded.size}
            openAll={() => setFolded(new Set())}
          />
          {others.size > 1 && (
            <ChosenBar
              n={outermost(doc, others).length}
              copy={() => dispatch(copyToHand([...others]))}
              move={(by) => dispatch(moveSteps(others, by))}
              remove={() => removeAll(others)}
              leave={() => select(selected)}
            />
          )}
          <div
            ref={canvas}
            className="relative min-h-0 min-w-0 flex-1 overflow-auto"
            onKeyDown={onKey}
            role="group"
            aria-label="Plan"
          >
            <PlanDragging doc={doc} names={names} meant={meant}>
              <div
                className="relative min-h-full overflow-y-clip"
                style={{ width: LEFT + layout.width + 60, height: layout.height + 60, zoom }}
              >
                <Ground layout={layout} path={rehearsing.path} />
                <Entrance
                  doc={doc}
                  names={names}
                  selected={selected === 'trigger'}
                  changed={marks.has(null)}
                  open={(part) => (part ? settings('trigger', part) : select('trigger'))}
                />
                {doc.steps.length === 0 && (
                  <div
                    className="absolute flex w-[330px] flex-col items-start gap-3 rounded-sheet border border-dashed border-[#c9c2b2] p-4"
                    style={{ left: LEFT, top: 60 }}
                  >
                    <p className="text-ink-2">The first email goes out as soon as somebody starts.</p>
                    <Button tone="main" onClick={() => insert('email', { arm: null, index: 0 })}>
                      <Plus size={15} aria-hidden="true" />
                      Add the first email
                    </Button>
                    <Button tone="quiet" onClick={() => setOtherAt({ arm: null, index: 0 })}>
                      An email of another sequence
                    </Button>
                  </div>
                )}
                {layout.boxes.map((box) => (
                  <StepBox
                    key={box.id}
                    box={box}
                    aside={rehearsing.path !== null && !rehearsing.path.includes(box.id)}
                    day={day(box.id)}
                    names={names}
                    numbers={numbers}
                    selected={others.size > 0 ? others.has(box.id) : selected === box.id}
                    ends={rehearsing.ends[box.id]}
                    mark={marks.get(box.id)}
                    hands={hands}
                  />
                ))}
                {layout.ends.map(({ box, y }) => (
                  <span key={`after-${box.id}`} className="absolute" style={{ left: LEFT + box.x + 153, top: y + 6 }}>
                    <InserterAfter step={box.step} names={names} hands={hands} />
                  </span>
                ))}
                {layout.arms.map((a) => (
                  <ArmHead key={a.id} arm={a} names={names} numbers={numbers} fold={fold} hands={hands} />
                ))}
              </div>
            </PlanDragging>
          </div>
        </div>
        {otherAt && <OtherEmail at={otherAt} show={show} onClose={() => setOtherAt(null)} />}
        <Inspector id={id} selected={selected} names={names} reach={reach} open={hands.open} wanted={toSettings} />
      </div>
      {rehearsing.open && <RehearsalDock doc={doc} select={select} />}
    </div>
  );
}
