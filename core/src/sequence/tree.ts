import { insideOf, walkBlocks } from '../email/index.ts';
import type { EmailStep, Sequence, SplitRule, SplitStep, Step } from './schema.ts';

/** Where a step stands: in the list of the sequence itself (`arm` null) or of an arm, at an index. */
export interface Place {
  arm: string | null;
  index: number;
}

export interface Visited {
  step: Step;
  place: Place;
  /** Steps of the list that holds it. */
  siblings: readonly Step[];
  /** The branch whose arm holds it, if any. */
  parent: Visited | null;
}

/** The arms of a step that has some: of a branch, a split, or a wait for something. */
export function armsOf(step: Step): readonly { id: string; name?: string | undefined; steps: Step[] }[] {
  return 'arms' in step ? step.arms : [];
}

/** Every step in reading order: a branch before its arms, arms in order. */
export function walk(sequence: Pick<Sequence, 'steps'>): Visited[] {
  const out: Visited[] = [];
  const list = (steps: readonly Step[], arm: string | null, parent: Visited | null) => {
    steps.forEach((step, index) => {
      const visited: Visited = { step, place: { arm, index }, siblings: steps, parent };
      out.push(visited);
      for (const a of armsOf(step)) list(a.steps, a.id, visited);
    });
  };
  list(sequence.steps, null, null);
  return out;
}

export function findStep(sequence: Pick<Sequence, 'steps'>, id: string): Visited | undefined {
  return walk(sequence).find((v) => v.step.id === id);
}

export function emailSteps(sequence: Pick<Sequence, 'steps'>): EmailStep[] {
  return walk(sequence).flatMap((v) => (v.step.kind === 'email' ? [v.step] : []));
}

/** The step after this one for somebody who has done it: the next of its list, else what follows the branch around it. */
export function nextStep(visited: Visited): Step | null {
  for (let v: Visited | null = visited; v; v = v.parent) {
    const next = v.siblings[v.place.index + 1];
    if (next) return next;
  }
  return null;
}

/** A way to look up steps by id many times over one version. */
export function indexSteps(sequence: Pick<Sequence, 'steps'>): Map<string, Visited> {
  return new Map(walk(sequence).map((v) => [v.step.id, v]));
}

/** The steps inside and including one, in reading order. */
export function withInner(step: Step): Step[] {
  return walk({ steps: [step] }).map((v) => v.step);
}

/** Plain data with new ids for everything inside these steps: steps, arms and blocks, and whatever refers to them. */
function renewed<T>(value: T, steps: readonly Step[], newId: () => string): T {
  const old = walk({ steps: [...steps] }).flatMap(({ step }) => [
    step.id,
    ...armsOf(step).map((a) => a.id),
    ...(step.kind === 'email'
      ? walkBlocks(step.email.blocks).flatMap(({ block }) => [block.id, ...insideOf(block).map((l) => l.id)])
      : []),
  ]);
  const ids = new Map(old.map((id) => [id, newId()]));
  return JSON.parse(JSON.stringify(value, (_key, v: unknown) => (typeof v === 'string' ? (ids.get(v) ?? v) : v))) as T;
}

/** A step copied with new ids throughout; what its inside asks about its own steps is asked about the copies. */
export const copyStep = (step: Step, newId: () => string): Step => renewed(step, [step], newId);

/** Steps copied together: what one asks about another of them is asked about its copy. */
export const copySteps = (steps: readonly Step[], newId: () => string): Step[] => renewed([...steps], steps, newId);

/** A whole sequence copied with new ids. */
export const copySequence = <T extends Pick<Sequence, 'steps'>>(doc: T, newId: () => string): T =>
  renewed(doc, doc.steps, newId);

/** A split that decides itself. */
export type RuledSplit = SplitStep & { rule: SplitRule };

/** The splits of a sequence that a rule decides. */
export const ruledSplits = (sequence: Pick<Sequence, 'steps'>): RuledSplit[] =>
  walk(sequence).flatMap(({ step }) => (step.kind === 'split' && step.on && step.rule ? [step as RuledSplit] : []));
