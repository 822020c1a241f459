import { Fragment } from 'react';
import { readTemplate } from '@ascenso/core';

/** What the fields of an offer and of a timer are called: their names alone could be anything's. */
const NAMED: Readonly<Record<string, string>> = {
  'offer.code': 'code',
  'offer.deadline': 'deadline',
  'offer.left': 'time left',
  'offer.words': 'what is given',
  'offer.figure': 'its figure',
  'offer.name': 'name of the offer',
};

/** Words for a field: "first name". */
export const fieldLabel = (path: string): string =>
  NAMED[path] ?? (path.startsWith('timers.') ? 'deadline' : path.split('.').slice(1).join(' ').replaceAll('_', ' '));

/** A template with its merge fields shown as chips. */
export function TemplateText({ source, empty }: { source: string; empty: string }) {
  if (source.trim() === '') return <span className="text-ink-2 italic">{empty}</span>;
  return readTemplate(source).pieces.map((p, i) =>
    typeof p === 'string' ? (
      <Fragment key={i}>{p}</Fragment>
    ) : (
      <span key={i} className="rounded-[5px] bg-slate-tint px-1.5 text-[0.92em] font-semibold text-slate">
        {fieldLabel(p.path)}
      </span>
    ),
  );
}
