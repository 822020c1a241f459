import type { AttributeDetails, AttributeRow } from '@ascenso/contracts';
import { api } from '../app/api.ts';
import { around } from '../app/tags.ts';

export const { useAttributesQuery, useAddAttributeMutation, useChangeAttributeMutation, useOrderAttributesMutation } =
  api.injectEndpoints({
    endpoints: (b) => ({
      attributes: b.query<{ attributes: AttributeDetails[] }, void>({
        query: () => '/attributes',
        providesTags: ['people', 'sequences', 'draft', ...around('attributes')],
      }),
      addAttribute: b.mutation<object, AttributeRow>({
        query: (body) => ({ url: '/attributes', method: 'POST', body }),
        invalidatesTags: around('attributes'),
      }),
      changeAttribute: b.mutation<object, { key: string; change: { label?: string; options?: string[] } }>({
        query: ({ key, change }) => ({ url: `/attributes/${key}`, method: 'PATCH', body: change }),
        invalidatesTags: around('attributes'),
      }),
      orderAttributes: b.mutation<object, string[]>({
        query: (keys) => ({ url: '/attributes', method: 'PUT', body: { keys } }),
        invalidatesTags: around('attributes'),
      }),
    }),
  });

export const ATTRIBUTE_TYPES: Record<AttributeRow['type'], string> = {
  text: 'text',
  number: 'number',
  date: 'date',
  'yes-no': 'yes or no',
  list: 'list',
};

/** Values parted by commas. */
export const parted = (typed: string): string[] =>
  typed
    .split(',')
    .map((v) => v.trim())
    .filter(Boolean);
