import { useMemo } from 'react';
import { findStep, stepWords, type Names, type Sequence } from '@ascenso/core';
import { namesOf, type Surroundings } from '@ascenso/contracts';
import { useAroundQuery } from '../app/api.ts';

/** Words for lists, events and steps, from what the workspace has. */
export function namesFrom(around: Surroundings | undefined, doc: Sequence | null): Names {
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
  const { data } = useAroundQuery();
  return useMemo(() => namesFrom(data, doc), [data, doc]);
}

/** A new id for a step, an arm or a block. */
export const newId = (): string => crypto.randomUUID();
