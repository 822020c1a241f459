import { useMemo } from 'react';
import { useNavigate } from 'react-router';
import { fieldsFor, type Surroundings } from '@ascenso/contracts';
import type { EmailStep, Sequence } from '@ascenso/core';
import type { Composer } from '../composer/context.ts';
import { choicesFrom } from '../composer/field-picker.tsx';
import { useReader } from '../composer/reader.tsx';

/**
 * What the composer's parts need, where an email is looked at and not written: who reads it, the finished email, and its
 * fields. A block that is gone to is gone to in the composer.
 */
export function useDesk(id: string, doc: Sequence, step: EmailStep, around: Surroundings) {
  const navigate = useNavigate();
  const reader = useReader(doc, around, step);
  const choices = useMemo(() => choicesFrom(fieldsFor(doc, around), reader.context), [doc, around, reader.context]);
  const goTo = (block: string) => void navigate(`/sequences/${id}/emails/${step.id}?block=${block}`);
  const composer: Composer = {
    id,
    doc,
    step,
    around,
    reader,
    selected: null,
    chosen: new Set(),
    select: goTo,
    show: goTo,
    write: goTo,
    peek: () => undefined,
    offer: () => void navigate(`/sequences/${id}/emails/${step.id}`),
  };
  return { composer, reader, choices };
}
