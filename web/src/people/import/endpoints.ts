import type { ImportAnswer, ImportRow, ImportState } from '@ascenso/contracts';
import type { ImportPlan } from '@ascenso/core';
import { api } from '../../app/api.ts';
import { around } from '../../app/tags.ts';

/** Somebody works on it: what is shown of it changes by itself. */
export const isUnderWay = (state: ImportState) => state === 'checking' || state === 'running' || state === 'undoing';

/** What people who come in or go out change. */
export const changing = ['imports', 'people', 'sequences', 'numbers', ...around('lists', 'tags')] as const;

export const importsApi = api.enhanceEndpoints({ addTagTypes: ['imports'] }).injectEndpoints({
  endpoints: (b) => ({
    imports: b.query<{ imports: ImportRow[] }, void>({ query: () => '/imports', providesTags: ['imports'] }),
    import: b.query<ImportAnswer, string>({
      query: (id) => `/imports/${id}`,
      providesTags: ['imports', ...around('attributes', 'lists')],
    }),
    checkImport: b.mutation<object, { id: string; plan: ImportPlan }>({
      query: ({ id, plan }) => ({ url: `/imports/${id}/check`, method: 'POST', body: plan }),
      invalidatesTags: ['imports'],
    }),
    runImport: b.mutation<object, { id: string; starts: string[] }>({
      query: ({ id, starts }) => ({ url: `/imports/${id}/run`, method: 'POST', body: { starts } }),
      invalidatesTags: ['imports'],
    }),
    endImport: b.mutation<object, { id: string; how: 'cancel' | 'undo' }>({
      query: ({ id, how }) => ({ url: `/imports/${id}/${how}`, method: 'POST', body: {} }),
      invalidatesTags: [...changing],
    }),
  }),
});

export const { useImportsQuery, useImportQuery, useCheckImportMutation, useRunImportMutation, useEndImportMutation } =
  importsApi;
