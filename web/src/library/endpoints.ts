import type { FileRow, SenderRow } from '@ascenso/contracts';
import type { Block, HouseStyle } from '@ascenso/core';
import { api } from '../app/api.ts';
import { around } from '../app/tags.ts';

export const {
  useKeepFileMutation,
  useChangeFileMutation,
  useSetStyleMutation,
  useKeepSenderMutation,
  useKeepSharedMutation,
  useKeepWordMutation,
} = api.injectEndpoints({
  endpoints: (b) => ({
    keepFile: b.mutation<{ id: string; known: string | null }, FormData>({
      query: (body) => ({ url: '/files', method: 'POST', body }),
      invalidatesTags: around('files'),
    }),
    changeFile: b.mutation<object, { id: string } & Pick<FileRow, 'name' | 'folder' | 'alt' | 'keywords'>>({
      query: ({ id, ...body }) => ({ url: `/files/${id}`, method: 'PATCH', body }),
      invalidatesTags: around('files'),
    }),
    setStyle: b.mutation<object, Partial<HouseStyle>>({
      query: (body) => ({ url: '/style', method: 'PUT', body }),
      invalidatesTags: around('style'),
    }),
    keepSender: b.mutation<object, { id: string | undefined } & Pick<SenderRow, 'name' | 'email' | 'fields'>>({
      query: ({ id, ...body }) =>
        id ? { url: `/senders/${id}`, method: 'PUT', body } : { url: '/senders', method: 'POST', body },
      invalidatesTags: around('senders'),
    }),
    keepShared: b.mutation<{ id?: string }, { id?: string; name: string; blocks: Block[] }>({
      query: ({ id, ...body }) =>
        id ? { url: `/shared/${id}`, method: 'PUT', body } : { url: '/shared', method: 'POST', body },
      invalidatesTags: around('shared'),
    }),
    keepWord: b.mutation<object, string>({
      query: (word) => ({ url: '/words', method: 'POST', body: { word } }),
      invalidatesTags: around('words'),
    }),
  }),
});
