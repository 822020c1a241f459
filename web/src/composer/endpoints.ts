import type { Condition, Sequence } from '@ascenso/core';
import type {
  DescribedPage,
  FollowedLink,
  HistoryRow,
  ReaderAnswer,
  ReviewAnswer,
  SeenAnswer,
  TemplateRow,
} from '@ascenso/contracts';
import { api } from '../app/api.ts';
import { around } from '../app/tags.ts';

export const {
  useReviewQuery,
  useHistoryQuery,
  usePastDraftQuery,
  useTemplatesQuery,
  useSeenQuery,
  useTestSendMutation,
  useReaderQuery,
  useFollowLinksMutation,
  useDescribePageMutation,
  useKeepTemplateMutation,
  useOpenTemplateMutation,
  useMarkMutation,
  useCommentMutation,
  useResolveMutation,
  useApproveMutation,
  useSetMappingMutation,
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
    keepTemplate: b.mutation<
      { id?: string },
      { id?: string } & Pick<TemplateRow, 'name' | 'about' | 'email' | 'private'>
    >({
      query: ({ id, ...body }) =>
        id ? { url: `/templates/${id}`, method: 'PUT', body } : { url: '/templates', method: 'POST', body },
      invalidatesTags: ['templates'],
    }),
    /** The draft in which a template is written. */
    openTemplate: b.mutation<{ sequence: string; step: string }, string>({
      query: (id) => ({ url: `/templates/${id}/draft`, method: 'POST' }),
    }),
    /** Names the version of a draft as it is. */
    mark: b.mutation<object, { id: string; name: string }>({
      query: ({ id, name }) => ({ url: `/sequences/${id}/marks`, method: 'POST', body: { name } }),
      invalidatesTags: ['review'],
    }),
    comment: b.mutation<object, { id: string; step: string; block: string | null; text: string }>({
      query: ({ id, step, ...body }) => ({ url: `/sequences/${id}/steps/${step}/comments`, method: 'POST', body }),
      invalidatesTags: ['review'],
    }),
    resolve: b.mutation<object, { comment: string; resolved: boolean }>({
      query: ({ comment, resolved }) => ({ url: `/comments/${comment}`, method: 'PATCH', body: { resolved } }),
      invalidatesTags: ['review'],
    }),
    approve: b.mutation<object, { id: string; step: string; status: 'asked' | 'approved' }>({
      query: ({ id, step, status }) => ({
        url: `/sequences/${id}/steps/${step}/approval`,
        method: 'PUT',
        body: { status },
      }),
      invalidatesTags: ['review'],
    }),
    /** Says which field of the items of an event is which part of a repeat. */
    setMapping: b.mutation<object, { kind: string; list: string; mapping: unknown }>({
      query: ({ kind, ...body }) => ({
        url: `/event-kinds/${encodeURIComponent(kind)}/mapping`,
        method: 'PUT',
        body,
      }),
      invalidatesTags: around('kinds'),
    }),
    seen: b.query<SeenAnswer, (Condition | null)[]>({
      query: (chain) => ({ url: '/conditions/seen', method: 'POST', body: { chain } }),
      providesTags: ['people'],
    }),
    testSend: b.mutation<object, { id: string; step: string; to: string; person: string; event: string | null }>({
      query: ({ id, step, ...body }) => ({ url: `/sequences/${id}/steps/${step}/test`, method: 'POST', body }),
      invalidatesTags: ['mail', 'draft'],
    }),
    /** What a page of one's own says of itself; `keep` takes its picture into the library. */
    describePage: b.mutation<DescribedPage, { address: string; keep: boolean }>({
      query: (body) => ({ url: '/links/describe', method: 'POST', body }),
      invalidatesTags: (answer) => (answer?.file ? around('files') : []),
    }),
    followLinks: b.mutation<{ links: FollowedLink[] }, string[]>({
      query: (addresses) => ({ url: '/links/follow', method: 'POST', body: { addresses } }),
    }),
    reader: b.query<ReaderAnswer, string>({ query: (id) => `/people/${id}/reader`, providesTags: ['people'] }),
  }),
});
