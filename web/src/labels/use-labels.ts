import { useSearchParams } from 'react-router';
import type { LabelledKind, LabelRow } from '@ascenso/contracts';
import { useLabelsQuery } from './endpoints.ts';

const NONE: LabelRow[] = [];

export const has = (label: LabelRow, kind: LabelledKind, thing: string): boolean =>
  label.things.some((t) => t.kind === kind && t.id === thing);

/** The label that a list is narrowed to, as its address says; null for all. `keeps` says what of the list has it. */
export function useLabelFilter(): {
  labels: readonly LabelRow[];
  chosen: LabelRow | null;
  choose: (id: string | null) => void;
  keeps: (kind: LabelledKind, thing: string) => boolean;
} {
  const [params, setParams] = useSearchParams();
  const { data } = useLabelsQuery();
  const labels = data?.labels ?? NONE;
  const chosen = labels.find((l) => l.id === params.get('label')) ?? null;
  const choose = (id: string | null) =>
    setParams(
      (before) => {
        const next = new URLSearchParams(before);
        if (id === null) next.delete('label');
        else next.set('label', id);
        return next;
      },
      { replace: true },
    );
  return { labels, chosen, choose, keeps: (kind, thing) => chosen === null || has(chosen, kind, thing) };
}
