import type { EmailSender, SenderExchange } from '@ascenso/contracts';
import { api } from '../app/api.ts';
import { around } from '../app/tags.ts';

export const { useEmailSendersQuery, useExchangeSenderMutation } = api.injectEndpoints({
  endpoints: (b) => ({
    emailSenders: b.query<{ emails: EmailSender[] }, void>({
      query: () => '/senders/emails',
      providesTags: ['sequences', 'draft', ...around('senders')],
    }),
    exchangeSender: b.mutation<object, SenderExchange>({
      query: (body) => ({ url: '/senders/emails', method: 'PUT', body }),
      invalidatesTags: ['sequences', 'draft', ...around('senders')],
    }),
  }),
});
