import type { Value } from '../audience/index.ts';
import { isZone } from '../time/index.ts';
import type { ColumnType, ImportPlan } from './plan.ts';
import { partsOf, readDate, readValue } from './values.ts';

/** What has to be known of a workspace to read its people. */
export interface Knowing {
  /** Types of attributes by key. */
  attributes: ReadonlyMap<string, { type: ColumnType; label: string }>;
  /** Ids of lists by name, in lower case. */
  lists: ReadonlyMap<string, string>;
  /** Whether a text is an email address, in lower case. */
  isEmail: (text: string) => boolean;
}

/** One person of a file. Cells that are empty say nothing about them. */
export interface ImportedRow {
  /** In lower case. */
  email: string;
  attributes: Record<string, Value>;
  zone: string | null;
  tags: string[];
  lists: string[];
  /** When they agreed, as midnight UTC of the day (epoch ms), or null where the file does not say. */
  consentAt: number | null;
}

const TAG_LENGTH = 60;

/** Reads one row. Whatever cannot be read makes the whole row a fault, with the reason in words: half a person is none. */
export function readRow(cells: readonly string[], plan: ImportPlan, known: Knowing): ImportedRow | { fault: string } {
  const row: ImportedRow = {
    email: '',
    attributes: {},
    zone: null,
    tags: [...plan.tags],
    lists: [...plan.lists],
    consentAt: null,
  };
  if (cells.slice(plan.columns.length).some((c) => c.trim() !== ''))
    return { fault: `There are ${cells.length} cells, and the first rows have ${plan.columns.length}.` };
  for (const [i, column] of plan.columns.entries()) {
    const text = (cells[i] ?? '').trim();
    if (column.to === 'email') {
      row.email = text.toLowerCase();
      if (text === '') return { fault: 'There is no email address.' };
      if (!known.isEmail(row.email)) return { fault: `“${text.slice(0, 80)}” is no email address.` };
      continue;
    }
    if (text === '') continue;
    if (text.includes('\u0000')) return { fault: 'A cell holds a character that is no text (NUL).' };
    switch (column.to) {
      case 'nothing':
        break;
      case 'attribute': {
        const attribute = known.attributes.get(column.key);
        if (!attribute) return { fault: `There is no attribute “${column.key}” any more.` };
        const read = readValue(attribute.type, text, plan);
        if (!read.ok) return { fault: `${attribute.label}: ${read.why}.` };
        row.attributes[column.key] = read.value;
        break;
      }
      case 'zone':
        if (!isZone(text)) return { fault: `“${text.slice(0, 40)}” is no time zone such as Europe/Lisbon.` };
        row.zone = text;
        break;
      case 'tags': {
        const tags = partsOf(text);
        const long = tags.find((t) => t.length > TAG_LENGTH);
        if (long) return { fault: `The tag “${long.slice(0, 40)} …” is over ${TAG_LENGTH} characters long.` };
        row.tags = [...new Set([...row.tags, ...tags])];
        break;
      }
      case 'lists':
        for (const name of partsOf(text)) {
          const id = known.lists.get(name.toLowerCase());
          if (!id) return { fault: `There is no list “${name.slice(0, 60)}”.` };
          if (!row.lists.includes(id)) row.lists.push(id);
        }
        break;
      case 'consent-at': {
        const day = readDate(text, plan.days);
        if (!day) return { fault: `“${text.slice(0, 40)}” is no date of a consent.` };
        row.consentAt = Date.parse(day);
        break;
      }
    }
  }
  return row;
}
