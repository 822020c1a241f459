import { useEffect } from 'react';
import { shallowEqual, useDispatch, useSelector } from 'react-redux';
import {
  aroundParts,
  surroundingParts,
  type AroundParts,
  type SurroundingPart,
  type Surroundings,
} from '@ascenso/contracts';
import { api, call, type Failure } from './api.ts';
import type { AppDispatch, RootState } from './store.ts';

// What drafts refer to comes in parts: a screen asks for those it shows, and a change asks again for those it changed.

type Answer = { data: Partial<AroundParts> } | { error: Failure };

let asked: Map<SurroundingPart, (answer: Answer) => void> | null = null;

/** Asks for a part. What a screen asks for in one go goes as one request. */
function ask(part: SurroundingPart): Promise<Answer> {
  return new Promise((resolve) => {
    if (!asked) {
      const together = new Map<SurroundingPart, (answer: Answer) => void>();
      asked = together;
      setTimeout(() => {
        asked = null;
        const parts = [...together.keys()].join(',');
        void call<Partial<AroundParts>>({ url: `/surroundings?parts=${parts}` }).then((answer) =>
          together.forEach((answered) => answered(answer)),
        );
      });
    }
    const before = asked.get(part);
    asked.set(part, (answer) => {
      before?.(answer);
      resolve(answer);
    });
  });
}

const aroundApi = api.injectEndpoints({
  endpoints: (b) => ({
    part: b.query<AroundParts[SurroundingPart], SurroundingPart>({
      queryFn: async (part) => {
        const answer = await ask(part);
        // A part that has no value (no cap a day) is null: a query must have some answer.
        return 'error' in answer ? answer : { data: answer.data[part] ?? null };
      },
      providesTags: (_found, _error, part) => [{ type: 'around', id: part }],
    }),
  }),
});

type Part = SurroundingPart;
/** One selector for each part: they are asked at every change of the store. */
const selectors = Object.fromEntries(
  aroundParts.map((part) => [part, aroundApi.endpoints.part.select(part)]),
) as unknown as Record<Part, ReturnType<typeof aroundApi.endpoints.part.select>>;

/**
 * Parts of what drafts refer to, or undefined until all of them are there. `fresh` asks for them again when the screen opens,
 * whatever is known; the present is asked again always.
 */
export function useAround<P extends SurroundingPart>(
  parts: readonly P[],
  { fresh = false } = {},
): Pick<AroundParts, P> | undefined {
  const dispatch = useDispatch<AppDispatch>();
  const key = parts.join(',');
  useEffect(() => {
    const asking = (key.split(',') as P[]).map((part) =>
      dispatch(aroundApi.endpoints.part.initiate(part, { forceRefetch: fresh || part === 'now' })),
    );
    return () => asking.forEach((a) => a.unsubscribe());
  }, [dispatch, key, fresh]);
  const found = useSelector((state: RootState) => {
    const known: Partial<AroundParts> = {};
    for (const part of parts) {
      const { data } = selectors[part](state);
      if (data === undefined) return undefined;
      Object.assign(known, { [part]: data });
    }
    return known;
  }, shallowEqual);
  return found as Pick<AroundParts, P> | undefined;
}

/** All that a draft is checked, compiled and rehearsed with. */
export const useSurroundings = (): Surroundings | undefined => useAround(surroundingParts);
