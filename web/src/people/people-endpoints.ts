import type { Bulk, BulkAnswer, PeopleAnswer, Who } from '@ascenso/contracts';
import { api } from '../app/api.ts';

/** Which people. */
export interface PeopleAsked {
  q?: string;
  segment?: string;
  /** A condition, as JSON. */
  rule?: string;
  /** "email", "points", "known" or "attribute.key", with - before it for downwards. */
  sort?: string;
  /** An event that they did. */
  did?: string;
  /** List whose confirmed people come first, and one whose confirmed people these are. */
  on?: string;
  within?: string;
}

export const { usePeopleQuery, useDoManyMutation } = api.injectEndpoints({
  endpoints: (b) => ({
    people: b.query<PeopleAnswer, PeopleAsked & { offset: number; limit: number }>({
      query: ({ offset, limit, ...asked }) =>
        `/people?${new URLSearchParams({ ...asked, offset: String(offset), limit: String(limit) }).toString()}`,
      providesTags: ['people'],
    }),
    doMany: b.mutation<BulkAnswer, { who: Who; what: Bulk }>({
      query: (body) => ({ url: '/people/bulk', method: 'POST', body }),
      invalidatesTags: (_answer, error, { what }) =>
        error ? [] : what.kind === 'sequence' ? ['people', 'sequences', 'numbers'] : ['people', 'around', 'numbers'],
    }),
  }),
});
