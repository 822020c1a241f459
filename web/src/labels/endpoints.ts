import type { LabelledKind, LabelRow } from '@ascenso/contracts';
import { api } from '../app/api.ts';
import { around } from '../app/tags.ts';

export const {
  useLabelsQuery,
  useAddLabelMutation,
  useRenameLabelMutation,
  useSetLabelMutation,
  useDeleteLabelMutation,
} = api.injectEndpoints({
  endpoints: (b) => ({
    labels: b.query<{ labels: LabelRow[] }, void>({ query: () => '/labels', providesTags: ['labels', ...around()] }),
    addLabel: b.mutation<{ id: string }, string>({
      query: (name) => ({ url: '/labels', method: 'POST', body: { name } }),
      invalidatesTags: ['labels'],
    }),
    renameLabel: b.mutation<object, { id: string; name: string }>({
      query: ({ id, name }) => ({ url: `/labels/${id}`, method: 'PATCH', body: { name } }),
      invalidatesTags: ['labels'],
    }),
    setLabel: b.mutation<object, { label: string; kind: LabelledKind; thing: string; on: boolean }>({
      query: ({ label, ...body }) => ({ url: `/labels/${label}/things`, method: 'PUT', body }),
      invalidatesTags: ['labels'],
    }),
    deleteLabel: b.mutation<{ undo: string }, string>({
      query: (id) => ({ url: `/labels/${id}`, method: 'DELETE' }),
      invalidatesTags: ['labels'],
    }),
  }),
});
