import type { Sequence } from '@ascenso/core';
import type { ChangesAnswer, Inside, Resume, ResumeCounts, VersionRow, Whom, Foreseen, Who } from '@ascenso/contracts';
import { api } from '../app/api.ts';
import { around } from '../app/tags.ts';

export const {
  usePublishMutation,
  useWhomQuery,
  useChangesQuery,
  useSetStatusMutation,
  useResumeCountsQuery,
  useResumeMutation,
  useAddPeopleMutation,
  useForeseeQuery,
  useVersionsQuery,
  useLazyVersionQuery,
  useVersionQuery,
  useSetDailyCapMutation,
  useSetGraceMutation,
} = api.injectEndpoints({
  endpoints: (b) => ({
    publish: b.mutation<{ version: number }, { id: string; revision: number; inside: Inside; people?: number }>({
      query: ({ id, ...body }) => ({ url: `/sequences/${id}/publish`, method: 'POST', body }),
      invalidatesTags: ['sequences', 'clock', 'draft', 'numbers', 'people', ...around('sequences', 'shared', 'offers')],
    }),
    whom: b.query<Whom, { id: string; revision: number }>({
      query: ({ id }) => `/sequences/${id}/whom`,
      providesTags: ['draft', 'people'],
    }),
    changes: b.query<ChangesAnswer, { id: string; revision: number }>({
      query: ({ id }) => `/sequences/${id}/changes`,
      providesTags: ['draft'],
    }),
    setStatus: b.mutation<object, { id: string; status: 'paused' | 'archived' }>({
      query: ({ id, status }) => ({ url: `/sequences/${id}/status`, method: 'POST', body: { status } }),
      invalidatesTags: ['sequences', 'clock', 'draft', 'numbers', 'people', ...around('sequences', 'shared', 'offers')],
    }),
    resumeCounts: b.query<ResumeCounts, { id: string; late: number }>({
      query: ({ id, late }) => `/sequences/${id}/resume?late=${late}`,
      providesTags: ['numbers'],
    }),
    resume: b.mutation<object, { id: string } & Resume>({
      query: ({ id, ...body }) => ({ url: `/sequences/${id}/resume`, method: 'POST', body }),
      invalidatesTags: ['sequences', 'clock', 'draft', 'numbers', 'people', ...around('sequences', 'shared', 'offers')],
    }),
    addPeople: b.mutation<
      { entered: number; asked: number; undo: string | null },
      { id: string; who: { person: string } | { segment: string; count: number } }
    >({
      query: ({ id, who }) => ({ url: `/sequences/${id}/people`, method: 'POST', body: who }),
      invalidatesTags: ['sequences', 'numbers', 'people'],
    }),
    foresee: b.query<Foreseen, { id: string; who: Who }>({
      query: ({ id, who }) => ({ url: `/sequences/${id}/people/foreseen`, method: 'POST', body: { who } }),
      // It is true of this moment.
      keepUnusedDataFor: 0,
    }),
    setDailyCap: b.mutation<object, number | null>({
      query: (dailyCap) => ({ url: '/cap', method: 'PUT', body: { dailyCap } }),
      invalidatesTags: around('dailyCap'),
    }),
    setGrace: b.mutation<object, number>({
      query: (minutes) => ({ url: '/grace', method: 'PUT', body: { minutes } }),
      invalidatesTags: around('graceMinutes'),
    }),
    versions: b.query<{ versions: VersionRow[] }, string>({
      query: (id) => `/sequences/${id}/versions`,
      providesTags: ['draft', 'numbers'],
    }),
    version: b.query<{ sequence: Sequence }, { id: string; number: number }>({
      query: ({ id, number }) => `/sequences/${id}/versions/${number}`,
    }),
  }),
});
