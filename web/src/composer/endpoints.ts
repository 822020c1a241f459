import type { Condition, Sequence } from '@ascenso/core';
import type { FollowedLink, HistoryRow, ReaderAnswer, ReviewAnswer, SeenAnswer, TemplateRow } from '@ascenso/contracts';
import { api } from '../app/api.ts';

export const {
  useReviewQuery,
  useHistoryQuery,
  usePastDraftQuery,
  useTemplatesQuery,
  useSeenQuery,
  useTestSendMutation,
  useReaderQuery,
  useFollowLinksMutation,
} = api.injectEndpoints({
  endpoints: (b) => ({
    review: b.query<ReviewAnswer, { id: string; step: string }>({
      query: ({ id, step }) => `/sequences/${id}/steps/${step}/review`,
      providesTags: ['review'],
    }),
    history: b.query<{ history: HistoryRow[] }, { id: string; revision: number }>({
      query: ({ id }) => `/sequences/${id}/history`,
      providesTags: ['draft', 'review'],
    }),
    pastDraft: b.query<{ sequence: Sequence }, { id: string; revision: number }>({
      query: ({ id, revision }) => `/sequences/${id}/history/${revision}`,
    }),
    templates: b.query<{ templates: TemplateRow[] }, void>({ query: () => '/templates', providesTags: ['templates'] }),
    seen: b.query<SeenAnswer, (Condition | null)[]>({
      query: (chain) => ({ url: '/conditions/seen', method: 'POST', body: { chain } }),
      providesTags: ['people'],
    }),
    testSend: b.mutation<object, { id: string; step: string; to: string; person: string; event: string | null }>({
      query: ({ id, step, ...body }) => ({ url: `/sequences/${id}/steps/${step}/test`, method: 'POST', body }),
      invalidatesTags: ['mail', 'draft'],
    }),
    followLinks: b.mutation<{ links: FollowedLink[] }, string[]>({
      query: (addresses) => ({ url: '/links/follow', method: 'POST', body: { addresses } }),
    }),
    reader: b.query<ReaderAnswer, string>({ query: (id) => `/people/${id}/reader`, providesTags: ['people'] }),
  }),
});
