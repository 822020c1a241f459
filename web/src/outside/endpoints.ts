import type { ClockAnswer, MailAnswer, MailboxAnswer } from '@ascenso/contracts';
import { api } from '../app/api.ts';

export const { useClockQuery, useAheadMutation, useMailboxQuery, useMessageQuery } = api.injectEndpoints({
  endpoints: (b) => ({
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
