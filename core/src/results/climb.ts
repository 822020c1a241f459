import { walk, type EmailStep, type Sequence } from '../sequence/index.ts';

/** What a step counts, as far as the climb asks. */
interface Counted {
  ended: Readonly<Record<string, number>>;
  kept: Readonly<Record<string, number>>;
}

/** So many passages, and the steps at which they are counted. */
export interface Gathered {
  n: number;
  steps: string[];
}

/** What became of people between two emails: after the one, and before the other went out to them. */
export interface Between {
  /** Standing there now. */
  waiting: Gathered;
  /** Passages that ended there, by why. */
  ended: Record<string, Gathered>;
  /** Passages that the second of the two was not for, or came too late for, by why. They went on. */
  kept: Record<string, Gathered>;
}

export interface Climb {
  /** What became of people before the first email went out. */
  start: Between;
  /** Emails in reading order, each with what became of people between it and the next. */
  emails: { step: EmailStep; after: Between }[];
}

/** The one end that comes after its step was done. */
const THROUGH = 'reached-end';

const nothing = (): Between => ({ waiting: { n: 0, steps: [] }, ended: {}, kept: {} });

const gather = (to: Gathered | undefined, n: number, step: string): Gathered => ({
  n: (to?.n ?? 0) + n,
  steps: [...(to?.steps ?? []), step],
});

function add(to: Record<string, Gathered>, from: Readonly<Record<string, number>>, step: string): void {
  for (const [why, n] of Object.entries(from)) to[why] = gather(to[why], n, step);
}

/**
 * Follows people up a sequence, email by email in the order in which a plan is read: what stands between two emails is
 * counted to the gap between them. `waiting` is who stands at a step now, by step id.
 */
export function climb(
  sequence: Pick<Sequence, 'steps'>,
  steps: Readonly<Record<string, Counted>>,
  waiting: Readonly<Record<string, number>>,
): Climb {
  const start = nothing();
  const emails: Climb['emails'] = [];
  for (const { step } of walk(sequence)) {
    const gap = emails.at(-1)?.after ?? start;
    const counted = steps[step.id];
    const here = waiting[step.id] ?? 0;
    if (here > 0) gap.waiting = gather(gap.waiting, here, step.id);
    const { [THROUGH]: through = 0, ...before } = counted?.ended ?? {};
    add(gap.ended, before, step.id);
    add(gap.kept, counted?.kept ?? {}, step.id);
    if (step.kind === 'email') emails.push({ step, after: nothing() });
    // Whoever comes to the end has the last step behind them.
    if (through > 0) add(emails.at(-1)?.after.ended ?? start.ended, { [THROUGH]: through }, step.id);
  }
  return { start, emails };
}
