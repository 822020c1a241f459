import { armsOf, dayWords, reaches, walk, type Sequence, type Step } from '@ascenso/core';

/** Sizes of the plan, px. */
export const CARD = {
  width: 330,
  email: 126,
  wait: 32,
  branch: 36,
  split: 36,
  until: 36,
  action: 38,
  leave: 34,
  arm: 30,
};
const GAP = 26;
const LANE = 24;
const TOP = 56;

export interface Box {
  id: string;
  step: Step;
  x: number;
  y: number;
  width: number;
  height: number;
  /** The arm in which it stands; null outside of all. */
  arm: string | null;
}
/** The label at the head of an arm. */
export interface ArmBox {
  id: string;
  fork: Step;
  x: number;
  y: number;
  width: number;
  place: { arm: string; index: number };
  /** Steps in it that a folded lane does not show; 0 where it is open. */
  folded: number;
}
export interface Wire {
  id: string;
  path: string;
}
export interface DayMark {
  y: number;
  text: string;
}
export interface PlanLayout {
  boxes: Box[];
  arms: ArmBox[];
  wires: Wire[];
  days: DayMark[];
  /** Where the lanes of a fork have come together again: what is put in after it goes there. */
  ends: { box: Box; y: number }[];
  width: number;
  height: number;
}

/** A step after which the plan runs in lanes. */
export const isFork = (step: Step): boolean => armsOf(step).length > 0;

const heightOf = (step: Step) => CARD[step.kind];

/** Arms whose lanes are folded up. */
export type Folded = ReadonlySet<string>;
/** A folded lane is as wide as its label. */
const FOLDED_WIDTH = 170;

const laneWidth = (arm: { id: string; steps: readonly Step[] }, folded: Folded): number =>
  folded.has(arm.id) ? FOLDED_WIDTH : widthOf(arm.steps, folded);

function widthOf(steps: readonly Step[], folded: Folded): number {
  return Math.max(CARD.width, ...steps.map((s) => armsOf(s).reduce((w, a) => w + laneWidth(a, folded) + LANE, -LANE)));
}

/** True when nobody comes out at the end of a list of steps. */
function ends(steps: readonly Step[]): boolean {
  return steps.some((s) => s.on && (s.kind === 'leave' || (isFork(s) && armsOf(s).every((a) => ends(a.steps)))));
}

/**
 * Lays out a plan: time runs down, arms are lanes side by side. Each list keeps to the left edge of its lane, so that
 * the eye can follow one line; boxes have fixed sizes, so nothing has to be measured.
 */
export function layoutPlan(
  sequence: Pick<Sequence, 'steps'>,
  folded: Folded = new Set(),
  reach: ReturnType<typeof reaches> = reaches(sequence),
): PlanLayout {
  const out: PlanLayout = {
    boxes: [],
    arms: [],
    wires: [],
    days: [],
    ends: [],
    width: widthOf(sequence.steps, folded),
    height: 0,
  };
  const middle = (x: number) => x + CARD.width / 2;
  const wire = (id: string, path: string) => out.wires.push({ id, path });

  const list = (steps: readonly Step[], arm: string | null, x: number, top: number, from: number): number => {
    let y = top;
    let lineFrom = from;
    steps.forEach((step) => {
      wire(`to-${step.id}`, `M${middle(x)} ${lineFrom}V${y}`);
      const height = heightOf(step);
      const width = isFork(step) ? widthOf([step], folded) : CARD.width;
      const box = { id: step.id, step, x, y, width, height, arm };
      out.boxes.push(box);
      y += height;
      lineFrom = y;
      if (isFork(step)) {
        const bottoms: { arm: string; line: number; y: number; open: boolean }[] = [];
        let lane = x;
        for (const a of armsOf(step)) {
          const head = y + 16;
          const isFolded = folded.has(a.id);
          const width = isFolded ? FOLDED_WIDTH : CARD.width;
          const line = lane + width / 2;
          wire(`arm-${a.id}`, `M${line} ${y}V${head}`);
          out.arms.push({
            id: a.id,
            fork: step,
            x: lane,
            y: head,
            width,
            place: { arm: a.id, index: 0 },
            folded: isFolded ? walk(a).length : 0,
          });
          const bottom = isFolded
            ? head + CARD.arm * 2
            : list(a.steps, a.id, lane, head + CARD.arm + GAP, head + CARD.arm);
          bottoms.push({ arm: a.id, line, y: bottom, open: !ends(a.steps) });
          lane += laneWidth(a, folded) + LANE;
        }
        const end = Math.max(...bottoms.map((b) => b.y)) + 36;
        for (const b of bottoms) {
          if (!b.open) continue;
          const bend =
            b.line === middle(x) ? `V${end}` : `V${end - 8}q0 8 ${b.line > middle(x) ? -8 : 8} 8H${middle(x)}`;
          wire(`join-${step.id}-${b.arm}`, `M${b.line} ${b.y}${bend}`);
        }
        if (bottoms.some((b) => b.open)) out.ends.push({ box, y: end });
        y = end;
        lineFrom = end;
      }
      y += GAP;
    });
    return lineFrom;
  };
  const bottom = list(sequence.steps, null, 0, TOP, TOP - 22);
  out.height = bottom + 60;
  out.days = dayMarks(reach, out.boxes);
  return out;
}

/** A mark where an email of the leftmost lane begins a day that the ruler has not named yet. */
function dayMarks(reach: ReturnType<typeof reaches>, boxes: readonly Box[]): DayMark[] {
  const marks: DayMark[] = [];
  for (const box of [...boxes].sort((a, b) => a.y - b.y)) {
    const at = reach.get(box.id);
    if (box.x > 0 || !at || box.step.kind === 'wait' || box.step.kind === 'action') continue;
    const text = dayWords(at);
    if (marks.at(-1)?.text !== text) marks.push({ y: box.y + 12, text });
  }
  return marks;
}
