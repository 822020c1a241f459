import type { BehindAnswer, ForecastAnswer, NewSequence, SequencesAnswer } from '@ascenso/contracts';
import { api } from '../app/api.ts';
import { around } from '../app/tags.ts';

export const {
  useBehindQuery,
  useSenderGoesOnMutation,
  useSequencesQuery,
  useTryAsideNowMutation,
  useTryMailNowMutation,
  useImportSequenceMutation,
  useForecastQuery,
  useAddSequenceMutation,
} = api.injectEndpoints({
  endpoints: (b) => ({
    sequences: b.query<SequencesAnswer, void>({ query: () => '/sequences', providesTags: ['sequences', ...around()] }),
    behind: b.query<BehindAnswer, void>({
      query: () => '/behind',
      providesTags: ['sequences', ...around('style', 'shared', 'senders', 'offers')],
    }),
    tryAsideNow: b.mutation<object, void>({
      query: () => ({ url: '/aside/now', method: 'POST', body: {} }),
      invalidatesTags: ['sequences'],
    }),
    tryMailNow: b.mutation<{ tried: boolean }, void>({
      query: () => ({ url: '/mail-service/try', method: 'POST', body: {} }),
      invalidatesTags: ['sequences'],
    }),
    senderGoesOn: b.mutation<{ emails: number }, string>({
      query: (email) => ({ url: '/senders/go-on', method: 'POST', body: { email } }),
      invalidatesTags: ['sequences'],
    }),
    addSequence: b.mutation<{ id: string }, NewSequence>({
      query: (body) => ({ url: '/sequences', method: 'POST', body }),
      invalidatesTags: ['sequences', ...around('sequences')],
    }),
    importSequence: b.mutation<{ id: string }, unknown>({
      query: (body) => ({ url: '/sequences/import', method: 'POST', body }),
      invalidatesTags: ['sequences', 'around'],
    }),
    forecast: b.query<ForecastAnswer, void>({ query: () => '/forecast', providesTags: ['numbers'] }),
  }),
});
