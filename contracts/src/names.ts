import type { Names } from '@ascenso/core';

/** What there is in a workspace that sentences speak of by id. */
export interface Named {
  lists: readonly { id: string; name: string }[];
  kinds: readonly { name: string; label: string }[];
  files: readonly { id: string; name: string }[];
  segments: readonly { id: string; name: string }[];
  sequences: readonly { id: string; name: string }[];
  offers: readonly { id: string; name: string }[];
  forms: readonly { id: string; name: string }[];
  /** Emails of every sequence: `id` is that of the sequence and that of the step, with a slash between. */
  emails: readonly { id: string; name: string }[];
}

/** Words for all that a sentence can name, steps apart: those belong to a version. */
export function namesOf(around: Named | undefined): Omit<Names, 'step'> {
  const find = (key: 'lists' | 'files' | 'segments' | 'sequences' | 'offers', gone: string) => (id: string) =>
    around && id ? (around[key].find((n) => n.id === id)?.name ?? gone) : '…';
  return {
    list: find('lists', 'a list that is gone'),
    file: (id) => around?.files.find((f) => f.id === id)?.name ?? id,
    segment: find('segments', 'a segment that is gone'),
    offer: find('offers', 'an offer that is gone'),
    sequence: find('sequences', 'a sequence that is gone'),
    form: (id) => around?.forms.find((f) => f.id === id)?.name ?? id,
    email: (sequence, step) => {
      if (!around || !step) return '…';
      return around.emails.find((e) => e.id === `${sequence}/${step}`)?.name ?? 'an email that is gone';
    },
    event: (name) => around?.kinds.find((k) => k.name === name)?.label ?? (name || '…'),
  };
}
