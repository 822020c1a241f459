import type { FormAnswer, FormRow } from '@ascenso/contracts';
import type { SignUpForm } from '@ascenso/core';
import { api } from '../../app/api.ts';
import { around } from '../../app/tags.ts';

const formsApi = api.enhanceEndpoints({ addTagTypes: ['forms'] }).injectEndpoints({
  endpoints: (b) => ({
    forms: b.query<{ forms: FormRow[] }, void>({ query: () => '/forms', providesTags: ['forms', 'sequences'] }),
    form: b.query<FormAnswer, string>({ query: (id) => `/forms/${id}`, providesTags: ['forms', 'sequences', 'draft'] }),
    makeForm: b.mutation<{ id: string }, string>({
      query: (name) => ({ url: '/forms', method: 'POST', body: { name } }),
      invalidatesTags: ['forms', 'sequences', ...around('forms', 'sequences')],
    }),
    saveForm: b.mutation<object, { id: string; form: SignUpForm }>({
      query: ({ id, form }) => ({ url: `/forms/${id}`, method: 'PUT', body: form }),
      invalidatesTags: ['forms', ...around('forms')],
    }),
    setSubject: b.mutation<object, { id: string; subject: string }>({
      query: ({ id, subject }) => ({ url: `/forms/${id}/subject`, method: 'PUT', body: { subject } }),
      invalidatesTags: ['forms', 'draft'],
    }),
    setFormStatus: b.mutation<object, { id: string; status: 'open' | 'closed' }>({
      query: ({ id, status }) => ({ url: `/forms/${id}/status`, method: 'POST', body: { status } }),
      invalidatesTags: ['forms', 'sequences', 'draft'],
    }),
  }),
});

export const {
  useFormsQuery,
  useFormQuery,
  useMakeFormMutation,
  useSaveFormMutation,
  useSetSubjectMutation,
  useSetFormStatusMutation,
} = formsApi;
