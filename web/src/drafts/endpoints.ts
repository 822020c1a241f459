import type { SequenceAnswer } from '@ascenso/contracts';
import { api } from '../app/api.ts';

export const draftApi = api.injectEndpoints({
  endpoints: (b) => ({
    sequence: b.query<SequenceAnswer, string>({ query: (id) => `/sequences/${id}`, providesTags: ['draft'] }),
  }),
});
export const { useSequenceQuery } = draftApi;
