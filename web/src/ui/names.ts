import { useAround } from '../app/around.ts';
import { useMemo } from 'react';
import { findStep, stepWords, type Names, type Sequence } from '@ascenso/core';
import { namesOf, type Named } from '@ascenso/contracts';

/** Words for lists, events and steps, from what the workspace has. */
export function namesFrom(around: Named | undefined, doc: Sequence | null): Names {
  const names: Names = {
    ...namesOf(around),
    step: (id) => {
      const found = doc ? findStep(doc, id) : undefined;
      return found ? stepWords(found.step, names) : '…';
    },
  };
  return names;
}

export function useNames(doc: Sequence | null): Names {
  const data = useAround(['named']);
  return useMemo(() => namesFrom(data?.named, doc), [data, doc]);
}

/** A new id for a step, an arm or a block. */
export const newId = (): string => crypto.randomUUID();
