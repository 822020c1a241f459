import type { FindAnswer } from '@ascenso/contracts';
import { api } from '../app/api.ts';
import { around } from '../app/tags.ts';

export const { useFindQuery } = api.injectEndpoints({
  endpoints: (b) => ({
    find: b.query<FindAnswer, string>({
      query: (q) => `/find?${new URLSearchParams({ q: q.slice(0, 100) }).toString()}`,
      providesTags: ['sequences', 'draft', 'people', 'templates', ...around()],
    }),
  }),
});
