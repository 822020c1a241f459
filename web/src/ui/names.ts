import { useAround } from '../app/around.ts';
import { useMemo, useRef } from 'react';
import { findStep, stepWords, walk, type Names, type Sequence } from '@ascenso/core';
import { namesOf, type Named } from '@ascenso/contracts';

/** Words for lists, events and steps, from what the workspace has and from the plan as it is when one asks. */
function namesFrom(around: Named | undefined, plan: { current: Sequence | null }): Names {
  const names: Names = {
    ...namesOf(around),
    step: (id) => {
      const found = plan.current ? findStep(plan.current, id) : undefined;
      return found ? stepWords(found.step, names) : '…';
    },
  };
  return names;
}

/** Ids of steps that something else in the plan points at: only their words are said beside their own box. */
function pointedAt(doc: Sequence): Set<string> {
  const ids = new Set(walk(doc).map(({ step }) => step.id));
  const found = new Set<string>();
  const look = (value: unknown) => {
    if (typeof value === 'string') {
      if (ids.has(value)) found.add(value);
    } else if (typeof value === 'object' && value !== null)
      for (const [key, inner] of Object.entries(value)) if (key !== 'id') look(inner);
  };
  look(doc);
  return found;
}

/** What the words of a plan's steps are made of that are said elsewhere in it, in any order. */
function wordsIn(doc: Sequence): string {
  const said = pointedAt(doc);
  return walk(doc)
    .filter(({ step }) => said.has(step.id))
    .map(({ step }) => JSON.stringify({ ...step, arms: undefined, email: step.kind === 'email' && step.email.subject }))
    .sort()
    .join();
}

/** The same object for as long as it would say the same: whatever is drawn with it need not be drawn anew. */
export function useNames(doc: Sequence | null): Names {
  const data = useAround(['named']);
  const plan = useRef(doc);
  plan.current = doc;
  const words = useMemo(() => (doc ? wordsIn(doc) : ''), [doc]);
  const kept = useRef<{ data: unknown; words: string; names: Names } | null>(null);
  if (kept.current?.data !== data || kept.current?.words !== words)
    kept.current = { data, words, names: namesFrom(data?.named, plan) };
  return kept.current.names;
}

/** A new id for a step, an arm or a block. */
export const newId = (): string => crypto.randomUUID();
