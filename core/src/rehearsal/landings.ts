import type { Facts } from '../audience/index.ts';
import { advance, armLabel, armsOf, enter, prepare, type Sequence, type Step } from '../sequence/index.ts';
import type { Names } from '../audience/index.ts';

/** An email where it really lands for somebody who enters at a given moment and takes a given way. */
export interface Landing {
  step: string;
  /** Epoch ms. */
  at: number;
  /** Moment it was reached, where a window held it back. */
  heldFrom: number | null;
}

/** One way through a sequence: the arm taken at each fork that was met. */
export interface Way {
  arms: { fork: string; arm: string }[];
  landings: Landing[];
  /** Product of the shares of its arms, in (0, 1], all arms of a fork alike. */
  share: number;
}

/** Ways that are followed: a plan with many forks in a row has more than anybody can read. */
const MOST_WAYS = 64;
/** A sequence that goes on longer is cut off here. */
const MOST_ROUNDS = 2000;

export interface LandingRequest {
  sequence: Sequence;
  /** Moment of entry, epoch ms, and the payload of the event that starts it. */
  at: number;
  entry: Record<string, unknown>;
  /** Who enters: their zone decides where windows and days fall. Conditions are not asked: every way is followed. */
  facts: Facts;
}

/** Follows one way to its end; `choices` says which arm to take at each fork met, in order. Forks beyond them take the first. */
function follow(request: LandingRequest, choices: readonly number[]): { way: Way; forks: Step[] } {
  const forks: Step[] = [];
  const way: Way = { arms: [], landings: [], share: 1 };
  const run = {
    ...prepare({ ...request.sequence, goal: null, exit: null }),
    choose: (fork: Step) => {
      const met = forks.findIndex((f) => f.id === fork.id);
      const index = met >= 0 ? met : forks.push(fork) - 1;
      const arms = armsOf(fork);
      const arm = arms[choices[index] ?? 0] ?? arms[0];
      if (met < 0 && arm) {
        way.arms.push({ fork: fork.id, arm: arm.id });
        way.share /= arms.length;
      }
      return arm?.id;
    },
  };
  // Everybody may be mailed here, and every email is for everybody: the question is when, not whether.
  const { list } = request.sequence;
  const person = {
    ...request.facts.person,
    mailStatus: 'ok' as const,
    lists: list ? { [list]: 'confirmed' as const } : {},
  };
  const facts: Facts = { ...request.facts, person, events: [], emails: {} };
  const all = {
    ...run,
    steps: new Map(
      [...run.steps].map(([id, v]) => [id, v.step.kind === 'email' ? { ...v, step: { ...v.step, forWhom: null } } : v]),
    ),
  };
  let visit = enter('calendar', 'calendar', 0, all, request.at, request.entry);
  const heldFrom = new Map<string, number>();
  for (let round = 0; visit.status === 'active' && round < MOST_ROUNDS; round++) {
    const done = advance(visit, all, facts, visit.dueAt);
    for (const t of done.trace)
      if (t.code === 'email-held' && t.step && !heldFrom.has(t.step)) heldFrom.set(t.step, t.at);
    for (const e of done.effects)
      if (e.kind === 'send') way.landings.push({ step: e.step, at: e.dueAt, heldFrom: heldFrom.get(e.step) ?? null });
    visit = done.visit;
  }
  return { way, forks };
}

/** The next list of choices in order, or null after the last: like counting, each fork a digit. */
function nextChoices(choices: readonly number[], forks: readonly Step[]): number[] | null {
  for (let i = forks.length - 1; i >= 0; i--) {
    const taken = choices[i] ?? 0;
    if (taken + 1 < armsOf(forks[i] as Step).length)
      return [...choices.slice(0, i), ...Array.from({ length: i - Math.min(i, choices.length) }, () => 0), taken + 1];
  }
  return null;
}

/**
 * Where each email lands for somebody who enters at a moment, on every way through the sequence, reckoned by `advance`
 * itself with the arms given. At most 64 ways are followed; `cut` says that there are more.
 */
export function landings(request: LandingRequest): { ways: Way[]; cut: boolean } {
  const ways: Way[] = [];
  let choices: number[] | null = [];
  while (choices && ways.length < MOST_WAYS) {
    const { way, forks } = follow(request, choices);
    ways.push(way);
    choices = nextChoices(choices, forks);
  }
  return { ways, cut: choices !== null };
}

/** Which arms make a way, in words: "Downloaded the guide: yes; 50%". */
export function wayWords(way: Way, steps: ReadonlyMap<string, { step: Step }>, names: Names): string {
  return way.arms
    .flatMap(({ fork, arm }) => {
      const step = steps.get(fork)?.step;
      return step ? [armLabel(step, arm, names)] : [];
    })
    .join(', then ');
}
