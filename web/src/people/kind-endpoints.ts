import type { EventKindRow, FieldUse } from '@ascenso/contracts';
import { api } from '../app/api.ts';
import { around } from '../app/tags.ts';

export const { useFieldUsesQuery, useChangeKindMutation, useDeclareKindMutation } = api.injectEndpoints({
  endpoints: (b) => ({
    fieldUses: b.query<{ uses: FieldUse[] }, string>({
      query: (name) => `/event-kinds/${encodeURIComponent(name)}/uses`,
      providesTags: ['sequences', 'draft'],
    }),
    /** A form's own words, which the server checks. */
    declareKind: b.mutation<object, Record<'name' | 'label' | 'fields', unknown>>({
      query: (body) => ({ url: '/event-kinds', method: 'PUT', body }),
      invalidatesTags: around('kinds'),
    }),
    changeKind: b.mutation<object, { name: string; body: Pick<EventKindRow, 'label' | 'fields' | 'sample'> }>({
      query: ({ name, body }) => ({ url: `/event-kinds/${encodeURIComponent(name)}`, method: 'PUT', body }),
      invalidatesTags: around('kinds'),
    }),
  }),
});
