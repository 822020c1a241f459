import type { Condition } from '@ascenso/core';
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
import { around } from '../app/tags.ts';

/** What is asked again when something was done to many people, or taken back. */
export const MANY_CHANGE = ['people', 'numbers', ...around('lists', 'tags')] as const;

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
  useKeepSegmentMutation,
  useAddListMutation,
  useAddKeyMutation,
  useRevokeKeyMutation,
} = api.injectEndpoints({
  endpoints: (b) => ({
    segments: b.query<{ segments: SegmentCount[] }, void>({
      query: () => '/segments',
      providesTags: ['people', ...around('segments')],
    }),
    person: b.query<PersonAnswer, string>({ query: (id) => `/people/${id}`, providesTags: ['people'] }),
    addPerson: b.mutation<{ id: string }, object>({
      query: (body) => ({ url: '/people', method: 'POST', body }),
      invalidatesTags: ['people', 'numbers', 'sequences', ...around('lists', 'tags')],
    }),
    changePerson: b.mutation<object, { id: string; change: object }>({
      query: ({ id, change }) => ({ url: `/people/${id}`, method: 'PATCH', body: change }),
      invalidatesTags: ['people', ...around('tags')],
    }),
    setMembership: b.mutation<object, { id: string; list: string; state: 'confirmed' | 'left' }>({
      query: ({ id, ...body }) => ({ url: `/people/${id}/lists`, method: 'POST', body }),
      invalidatesTags: ['people', ...around('lists')],
    }),
    keepSegment: b.mutation<{ id: string }, { id?: string; name: string; rule: Condition; folder?: string }>({
      query: ({ id, ...body }) =>
        id ? { url: `/segments/${id}`, method: 'PUT', body } : { url: '/segments', method: 'POST', body },
      invalidatesTags: around('segments'),
    }),
    addList: b.mutation<{ id: string }, string>({
      query: (name) => ({ url: '/lists', method: 'POST', body: { name } }),
      invalidatesTags: around('lists'),
    }),
    addKey: b.mutation<{ key: string }, { name: string; origins: string[] }>({
      query: (body) => ({ url: '/keys', method: 'POST', body }),
      invalidatesTags: ['keys'],
    }),
    revokeKey: b.mutation<object, string>({
      query: (id) => ({ url: `/keys/${id}`, method: 'DELETE' }),
      invalidatesTags: ['keys'],
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
        error ? [] : what.kind === 'sequence' ? ['people', 'sequences', 'numbers'] : MANY_CHANGE,
    }),
  }),
});
