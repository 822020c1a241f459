import type {
  Bulk,
  BulkAnswer,
  KeyRow,
  PeopleAnswer,
  PersonAnswer,
  SegmentCount,
  SentEmail,
  Who,
} from '@ascenso/contracts';
import { api } from '../app/api.ts';

/** Which people. */
export interface PeopleAsked {
  q?: string;
  segment?: string;
  /** A condition, as JSON. */
  rule?: string;
  /** A figure of a sequence that they stand behind, as JSON. */
  figure?: string;
  /** "email", "points", "known" or "attribute.key", with - before it for downwards. */
  sort?: string;
  /** An event that they did. */
  did?: string;
  /** List whose confirmed people come first, and one whose confirmed people these are. */
  on?: string;
  within?: string;
}

export const {
  usePeopleQuery,
  useDoManyMutation,
  useSegmentsQuery,
  useWebhookSecretQuery,
  usePersonQuery,
  useAddPersonMutation,
  useChangePersonMutation,
  useSetMembershipMutation,
  useSentEmailQuery,
  useKeysQuery,
} = api.injectEndpoints({
  endpoints: (b) => ({
    segments: b.query<{ segments: SegmentCount[] }, void>({
      query: () => '/segments',
      providesTags: ['around', 'people'],
    }),
    person: b.query<PersonAnswer, string>({ query: (id) => `/people/${id}`, providesTags: ['people'] }),
    addPerson: b.mutation<{ id: string }, object>({
      query: (body) => ({ url: '/people', method: 'POST', body }),
      invalidatesTags: ['people', 'around', 'numbers', 'sequences'],
    }),
    changePerson: b.mutation<object, { id: string; change: object }>({
      query: ({ id, change }) => ({ url: `/people/${id}`, method: 'PATCH', body: change }),
      invalidatesTags: ['people', 'around'],
    }),
    setMembership: b.mutation<object, { id: string; list: string; state: 'confirmed' | 'left' }>({
      query: ({ id, ...body }) => ({ url: `/people/${id}/lists`, method: 'POST', body }),
      invalidatesTags: ['people', 'around'],
    }),
    sentEmail: b.query<SentEmail, string>({ query: (id) => `/sends/${id}` }),
    webhookSecret: b.query<{ secret: string }, void>({ query: () => '/webhooks/secret' }),
    keys: b.query<{ keys: KeyRow[] }, void>({ query: () => '/keys', providesTags: ['keys'] }),
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
