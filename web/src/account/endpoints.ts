import type { SessionRow } from '@ascenso/contracts';
import { api } from '../app/api.ts';

const account = api.enhanceEndpoints({ addTagTypes: ['sessions'] }).injectEndpoints({
  endpoints: (b) => ({
    sessions: b.query<{ sessions: SessionRow[] }, void>({
      query: () => '/account/sessions',
      providesTags: ['sessions'],
    }),
    changePassword: b.mutation<object, { old: string; next: string }>({
      query: (body) => ({ url: '/account/password', method: 'PUT', body }),
      invalidatesTags: (_r, error) => (error ? [] : ['sessions']),
    }),
    endSession: b.mutation<object, string>({
      query: (id) => ({ url: `/account/sessions/${id}`, method: 'DELETE' }),
      invalidatesTags: ['sessions'],
    }),
    endOtherSessions: b.mutation<object, void>({
      query: () => ({ url: '/account/sessions', method: 'DELETE' }),
      invalidatesTags: ['sessions'],
    }),
  }),
});

export const { useSessionsQuery, useChangePasswordMutation, useEndSessionMutation, useEndOtherSessionsMutation } =
  account;
