import type { DomainResult, OfferResult, ResultsAnswer } from '@ascenso/contracts';
import { api } from '../app/api.ts';
import { inAddress, type Period } from '../numbers/periods.ts';

export const { useResultsQuery, useDomainsQuery, useOfferResultsQuery } = api.injectEndpoints({
  endpoints: (b) => ({
    results: b.query<ResultsAnswer, Period | null>({
      query: (period) => `/results${inAddress(period)}`,
      providesTags: ['numbers', 'sequences', 'people'],
    }),
    domains: b.query<{ domains: DomainResult[] }, Period | null>({
      query: (period) => `/results/domains${inAddress(period)}`,
      providesTags: ['numbers'],
    }),
    offerResults: b.query<{ offers: OfferResult[] }, Period | null>({
      query: (period) => `/results/offers${inAddress(period)}`,
      providesTags: ['numbers', 'around'],
    }),
  }),
});
