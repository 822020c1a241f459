import { z } from 'zod';

// One sender exchanged in many emails at once, with the list of them first.

/** An email of a draft, with the sender that it says; '' for the default one. */
export interface EmailSender {
  sequence: { id: string; name: string; live: boolean };
  step: string;
  name: string;
  sender: string;
}

export const senderExchangeRequest = z.strictObject({
  /** The sender from now on; '' for the default one. */
  sender: z.union([z.literal(''), z.uuid()], 'Choose a sender.'),
  emails: z
    .array(z.strictObject({ sequence: z.uuid(), step: z.string().max(60) }))
    .min(1, 'Choose an email.')
    .max(2000, '2,000 emails at most.'),
});
export type SenderExchange = z.infer<typeof senderExchangeRequest>;
