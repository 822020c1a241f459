import type { NumbersAnswer } from '@ascenso/contracts';
import { api } from '../app/api.ts';

export const { useNumbersQuery } = api.injectEndpoints({
  endpoints: (b) => ({
    numbers: b.query<NumbersAnswer, string>({ query: (id) => `/sequences/${id}/numbers`, providesTags: ['numbers'] }),
  }),
});
