import { sql } from 'drizzle-orm';
import { EXPIRED_EVENT, FILE_EVENT, ISSUED_EVENT, SEEN_EVENT, USED_EVENT } from '@ascenso/core';
import type { Executor } from './connect.ts';
import { batch } from './rows.ts';

type Field = { name: string; type: 'text' | 'number' };
const text = (name: string): Field => ({ name, type: 'text' });
const OFFER = { fields: [text('name'), text('code')], sample: { name: 'Ten off a first kit', code: 'KIT-7QX4' } };

/** Kinds of events that happen here rather than at a shop: every workspace has them, so that one can start with them and ask for them. */
const OWN_KINDS = [
  {
    name: FILE_EVENT,
    label: 'Downloaded a file',
    fields: [text('name'), text('file')],
    sample: { name: 'guide.pdf' },
  },
  { name: 'unsubscribed', label: 'Unsubscribed', fields: [], sample: {} },
  { name: ISSUED_EVENT, label: 'Got an offer', ...OFFER },
  { name: SEEN_EVENT, label: 'Saw an offer', ...OFFER },
  {
    name: USED_EVENT,
    label: 'Used an offer',
    fields: [...OFFER.fields, text('order'), { name: 'total', type: 'number' }, text('currency')],
    sample: { ...OFFER.sample, order: '1042', total: 24, currency: 'EUR' },
  },
  { name: EXPIRED_EVENT, label: 'Let an offer close unused', ...OFFER },
] as const;

/** Declares what happens here in a workspace; what is declared already stays as it is. */
export const declareOwnKinds = (db: Executor, ws: string) =>
  db.execute(sql`
    insert into event_kinds (workspace_id, name, label, fields, sample, learned)
    select ${ws}, k.name, k.label, k.fields, k.sample, false
    from jsonb_to_recordset(${batch(OWN_KINDS)}) as k(name text, label text, fields jsonb, sample jsonb) on conflict do nothing`);
