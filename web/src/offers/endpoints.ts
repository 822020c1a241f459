import type { After, Offer, TimerFace } from '@ascenso/core';
import type { OfferAnswer } from '@ascenso/contracts';
import { api } from '../app/api.ts';
import { around } from '../app/tags.ts';

export const {
  useOffersQuery,
  useTimerLinkMutation,
  useAddOfferMutation,
  useSetOfferMutation,
  useDeleteOfferMutation,
} = api.injectEndpoints({
  endpoints: (b) => ({
    offers: b.query<{ offers: OfferAnswer[]; now: number }, void>({
      query: () => '/offers',
      providesTags: ['people', 'numbers', ...around('offers')],
    }),
    addOffer: b.mutation<{ id: string }, Offer>({
      query: (body) => ({ url: '/offers', method: 'POST', body }),
      invalidatesTags: around('offers'),
    }),
    setOffer: b.mutation<object, { id: string; offer: Offer }>({
      query: ({ id, offer }) => ({ url: `/offers/${id}`, method: 'PUT', body: offer }),
      invalidatesTags: around('offers'),
    }),
    deleteOffer: b.mutation<object, string>({
      query: (id) => ({ url: `/offers/${id}`, method: 'DELETE' }),
      invalidatesTags: around('offers'),
    }),
    timerLink: b.mutation<{ address: string }, { face: TimerFace; wall: string; zone: string; after: After }>({
      query: (body) => ({ url: '/timers/link', method: 'POST', body }),
    }),
  }),
});
