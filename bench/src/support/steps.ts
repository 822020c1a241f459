import { blankStep, type EmailStep, type Step } from '@ascenso/core';
import { letter } from './letter.ts';

let count = 0;
const newId = () => `id${++count}`;

/** An email step of the usual weight under a given id. */
export const emailStep = (id: string, more: Partial<EmailStep> = {}): EmailStep => ({
  ...(blankStep('email', newId) as EmailStep),
  id,
  name: id,
  email: letter(),
  ...more,
});

export const waitStep = (id: string, days: number): Step => ({ ...blankStep('wait', newId), id, amount: days }) as Step;
