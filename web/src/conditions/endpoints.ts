import type { Condition } from '@ascenso/core';
import type { CountAnswer } from '@ascenso/contracts';
import { api } from '../app/api.ts';

export const { useMatchesQuery } = api.injectEndpoints({
  endpoints: (b) => ({
    matches: b.query<CountAnswer, { condition: Condition; quick?: boolean }>({
      query: (body) => ({ url: '/conditions/count', method: 'POST', body }),
      providesTags: ['people'],
    }),
  }),
});
