import { z } from 'zod';
import { formSchema, type SignUpForm } from '@ascenso/core';

// Sign-up forms.

export const formRequest = formSchema;
export const newFormRequest = z.strictObject({ name: z.string().trim().min(1, 'Give the form a name.').max(80) });
export const formStatusRequest = z.strictObject({ status: z.enum(['open', 'closed']) });

export const subjectRequest = z.strictObject({ subject: z.string().trim().min(1, 'Write a subject.').max(200) });

export interface FormRow {
  id: string;
  form: SignUpForm;
  version: number;
  status: 'draft' | 'open' | 'closed';
  /** The sequence that sends the confirmation email, its state, and the step of the email. */
  sequence: string;
  sequenceStatus: string;
  step: string | null;
  /** Subject of the email as it is written, and the revision of its draft. */
  subject: string;
  revision: number;
  asked: number;
  confirmed: number;
}

export interface FormAnswer extends FormRow {
  /** Where it stands, and what puts it on a page of one's own. */
  address: string;
  snippet: string;
}
