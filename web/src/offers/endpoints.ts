import type { After, TimerFace } from '@ascenso/core';
import type { OfferAnswer } from '@ascenso/contracts';
import { api } from '../app/api.ts';

export const { useOffersQuery, useTimerLinkMutation } = api.injectEndpoints({
  endpoints: (b) => ({
    offers: b.query<{ offers: OfferAnswer[]; now: number }, void>({
      query: () => '/offers',
      providesTags: ['around', 'people', 'numbers'],
    }),
    timerLink: b.mutation<{ address: string }, { face: TimerFace; wall: string; zone: string; after: After }>({
      query: (body) => ({ url: '/timers/link', method: 'POST', body }),
    }),
  }),
});
