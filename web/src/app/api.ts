import { createApi, type BaseQueryFn } from '@reduxjs/toolkit/query/react';
import type { After, Condition, Sequence, TimerFace } from '@ascenso/core';
import type {
  BehindAnswer,
  ClockAnswer,
  ErrorAnswer,
  FollowedLink,
  KeyRow,
  MailAnswer,
  MailboxAnswer,
  Me,
  NumbersAnswer,
  ChangesAnswer,
  ForecastAnswer,
  CountAnswer,
  Inside,
  OfferAnswer,
  ReaderAnswer,
  PersonAnswer,
  Resume,
  ResumeCounts,
  SegmentCount,
  SentEmail,
  VersionRow,
  SequenceAnswer,
  HistoryRow,
  ReviewAnswer,
  SeenAnswer,
  SequencesAnswer,
  Surroundings,
  TemplateRow,
} from '@ascenso/contracts';

export interface Failure {
  status: number;
  message: string;
  field: string | undefined;
  code: string;
}

export interface Request {
  url: string;
  method?: string;
  body?: unknown;
}

/** A request that outlives its page may carry this much (Fetch standard: 64 KiB over all of them). */
const KEPT_ALIVE = 30_000;

/** A body with its headers. What is small is sent to its end even when the page is left at that moment. */
function bodyOf(body: unknown): RequestInit {
  if (body instanceof FormData) return { body };
  const text = JSON.stringify(body);
  return { body: text, headers: { 'Content-Type': 'application/json' }, keepalive: text.length < KEPT_ALIVE };
}

/** Calls the server; a failure is its own sentence, ready to show. */
export async function call<T>({ url, method = 'GET', body }: Request): Promise<{ data: T } | { error: Failure }> {
  try {
    const answer = await fetch(`/api${url}`, { method, ...(body === undefined ? {} : bodyOf(body)) });
    const data: unknown = await answer.json();
    if (answer.ok) return { data: data as T };
    const { error } = data as ErrorAnswer;
    return { error: { status: answer.status, message: error.message, field: error.field, code: error.code } };
  } catch {
    return {
      error: {
        status: 0,
        message: 'The server cannot be reached. Check that Ascenso is running, then try again.',
        field: undefined,
        code: 'offline',
      },
    };
  }
}

const baseQuery: BaseQueryFn<Request | string, unknown, Failure> = (request) =>
  call(typeof request === 'string' ? { url: request } : request);

export const api = createApi({
  baseQuery,
  tagTypes: ['me', 'sequences', 'draft', 'review', 'templates', 'people', 'around', 'keys', 'clock', 'mail', 'numbers'],
  endpoints: (b) => ({
    me: b.query<Me, void>({ query: () => '/session', providesTags: ['me'] }),
    signIn: b.mutation<object, { email: string; password: string }>({
      query: (body) => ({ url: '/session', method: 'POST', body }),
      invalidatesTags: (_r, error) => (error ? [] : ['me']),
    }),
    sequences: b.query<SequencesAnswer, void>({ query: () => '/sequences', providesTags: ['sequences'] }),
    behind: b.query<BehindAnswer, void>({ query: () => '/behind', providesTags: ['sequences', 'around'] }),
    tryAsideNow: b.mutation<object, void>({
      query: () => ({ url: '/aside/now', method: 'POST', body: {} }),
      invalidatesTags: ['sequences'],
    }),
    senderGoesOn: b.mutation<{ emails: number }, string>({
      query: (email) => ({ url: '/senders/go-on', method: 'POST', body: { email } }),
      invalidatesTags: ['sequences'],
    }),
    addSequence: b.mutation<{ id: string }, { name: string; pattern?: string; copyOf?: string }>({
      query: (body) => ({ url: '/sequences', method: 'POST', body }),
      invalidatesTags: ['sequences'],
    }),
    importSequence: b.mutation<{ id: string }, unknown>({
      query: (body) => ({ url: '/sequences/import', method: 'POST', body }),
      invalidatesTags: ['sequences', 'around'],
    }),
    forecast: b.query<ForecastAnswer, void>({ query: () => '/forecast', providesTags: ['numbers'] }),
    sequence: b.query<SequenceAnswer, string>({ query: (id) => `/sequences/${id}`, providesTags: ['draft'] }),
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
    numbers: b.query<NumbersAnswer, string>({ query: (id) => `/sequences/${id}/numbers`, providesTags: ['numbers'] }),
    publish: b.mutation<{ version: number }, { id: string; revision: number; inside: Inside }>({
      query: ({ id, ...body }) => ({ url: `/sequences/${id}/publish`, method: 'POST', body }),
      invalidatesTags: ['sequences', 'draft', 'numbers', 'people', 'around'],
    }),
    changes: b.query<ChangesAnswer, { id: string; revision: number }>({
      query: ({ id }) => `/sequences/${id}/changes`,
      providesTags: ['draft'],
    }),
    setStatus: b.mutation<object, { id: string; status: 'paused' | 'archived' }>({
      query: ({ id, status }) => ({ url: `/sequences/${id}/status`, method: 'POST', body: { status } }),
      invalidatesTags: ['sequences', 'draft', 'numbers', 'people', 'around'],
    }),
    resumeCounts: b.query<ResumeCounts, { id: string; late: number }>({
      query: ({ id, late }) => `/sequences/${id}/resume?late=${late}`,
      providesTags: ['numbers'],
    }),
    resume: b.mutation<object, { id: string } & Resume>({
      query: ({ id, ...body }) => ({ url: `/sequences/${id}/resume`, method: 'POST', body }),
      invalidatesTags: ['sequences', 'draft', 'numbers', 'people', 'around'],
    }),
    addPeople: b.mutation<
      { entered: number; asked: number },
      { id: string; who: { person: string } | { segment: string; count: number } }
    >({
      query: ({ id, who }) => ({ url: `/sequences/${id}/people`, method: 'POST', body: who }),
      invalidatesTags: ['sequences', 'numbers', 'people'],
    }),
    versions: b.query<{ versions: VersionRow[] }, string>({
      query: (id) => `/sequences/${id}/versions`,
      providesTags: ['draft', 'numbers'],
    }),
    version: b.query<{ sequence: Sequence }, { id: string; number: number }>({
      query: ({ id, number }) => `/sequences/${id}/versions/${number}`,
    }),
    segments: b.query<{ segments: SegmentCount[] }, void>({
      query: () => '/segments',
      providesTags: ['around', 'people'],
    }),
    webhookSecret: b.query<{ secret: string }, void>({ query: () => '/webhooks/secret' }),
    testSend: b.mutation<object, { id: string; step: string; to: string; person: string; event: string | null }>({
      query: ({ id, step, ...body }) => ({ url: `/sequences/${id}/steps/${step}/test`, method: 'POST', body }),
      invalidatesTags: ['mail', 'draft'],
    }),
    matches: b.query<CountAnswer, { condition: Condition; quick?: boolean }>({
      query: (body) => ({ url: '/conditions/count', method: 'POST', body }),
      providesTags: ['people'],
    }),
    person: b.query<PersonAnswer, string>({ query: (id) => `/people/${id}`, providesTags: ['people'] }),
    reader: b.query<ReaderAnswer, string>({ query: (id) => `/people/${id}/reader`, providesTags: ['people'] }),
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
    around: b.query<Surroundings, void>({ query: () => '/surroundings', providesTags: ['around'] }),
    change: b.mutation<{ id?: string; key?: string; undo?: string }, Request>({
      query: (request) => request,
      invalidatesTags: ['around', 'keys', 'people', 'templates', 'review'],
    }),
    offers: b.query<{ offers: OfferAnswer[]; now: number }, void>({
      query: () => '/offers',
      providesTags: ['around', 'people', 'numbers'],
    }),
    followLinks: b.mutation<{ links: FollowedLink[] }, string[]>({
      query: (addresses) => ({ url: '/links/follow', method: 'POST', body: { addresses } }),
    }),
    timerLink: b.mutation<{ address: string }, { face: TimerFace; wall: string; zone: string; after: After }>({
      query: (body) => ({ url: '/timers/link', method: 'POST', body }),
    }),
    keys: b.query<{ keys: KeyRow[] }, void>({ query: () => '/keys', providesTags: ['keys'] }),
    clock: b.query<ClockAnswer, void>({ query: () => '/outside/clock', providesTags: ['clock'] }),
    ahead: b.mutation<{ target: number }, { by: 'hour' | 'day' | 'week' }>({
      query: (body) => ({ url: '/outside/clock/ahead', method: 'POST', body }),
      invalidatesTags: ['clock'],
    }),
    mailbox: b.query<MailboxAnswer, string>({
      query: (q) => `/outside/mailbox?${new URLSearchParams({ q })}`,
      providesTags: ['mail'],
    }),
    message: b.query<MailAnswer, number>({ query: (id) => `/outside/mailbox/${id}` }),
  }),
});

export const {
  useBehindQuery,
  useMeQuery,
  useSignInMutation,
  useSenderGoesOnMutation,
  useSequencesQuery,
  useTryAsideNowMutation,
  useImportSequenceMutation,
  useForecastQuery,
  useAddSequenceMutation,
  useSequenceQuery,
  useReviewQuery,
  useHistoryQuery,
  usePastDraftQuery,
  useTemplatesQuery,
  useSeenQuery,
  useNumbersQuery,
  usePublishMutation,
  useChangesQuery,
  useSetStatusMutation,
  useResumeCountsQuery,
  useResumeMutation,
  useAddPeopleMutation,
  useVersionsQuery,
  useLazyVersionQuery,
  useVersionQuery,
  useSegmentsQuery,
  useWebhookSecretQuery,
  useTestSendMutation,
  useMatchesQuery,
  usePersonQuery,
  useReaderQuery,
  useAddPersonMutation,
  useChangePersonMutation,
  useSetMembershipMutation,
  useSentEmailQuery,
  useAroundQuery,
  useChangeMutation,
  useOffersQuery,
  useFollowLinksMutation,
  useTimerLinkMutation,
  useKeysQuery,
  useClockQuery,
  useAheadMutation,
  useMailboxQuery,
  useMessageQuery,
} = api;

/** The sentence of a failure. */
export const sentence = (error: unknown): string =>
  (error as Failure | undefined)?.message ?? 'Something went wrong. Try again.';
