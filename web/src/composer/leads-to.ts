import { writeField } from '@ascenso/core';

/** What a link, a button or a picture can lead to. */
export const LEADS = {
  page: 'a page',
  file: 'a file of ours',
  email: 'an email to somebody',
  phone: 'a phone call',
  field: 'an address of theirs (a merge field)',
} as const;
export type Leads = keyof typeof LEADS;

const BEGINS = { file: 'file:', email: 'mailto:', phone: 'tel:' } as const;
const FIELD = /^\{\{\s*([\w.]+)(?:[^\w.{}][^{}]*)?\}\}$/;

export const leadsOf = (address: string): Leads =>
  (Object.keys(BEGINS) as (keyof typeof BEGINS)[]).find((k) => address.toLowerCase().startsWith(BEGINS[k])) ??
  (FIELD.test(address) ? 'field' : 'page');

/** What is typed or chosen of an address: the part behind its scheme, or the path of its field. */
export function wordsOf(address: string): string {
  const leads = leadsOf(address);
  if (leads === 'field') return FIELD.exec(address)?.[1] ?? '';
  return leads === 'page' ? address : address.slice(BEGINS[leads].length);
}

/** The address that leads there. A phone number keeps its plus and its figures (RFC 3966). */
export function addressOf(leads: Leads, words: string): string {
  const text = words.trim();
  if (leads === 'page') return text;
  if (leads === 'field') return text ? writeField({ path: text, fallback: null, filters: [] }) : '';
  return `${BEGINS[leads]}${leads === 'phone' ? text.replace(/[^\d+]/g, '') : text}`;
}
