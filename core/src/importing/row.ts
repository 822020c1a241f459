import { readAddress, type MailStatus, type Value } from '../audience/index.ts';
import { DAY, isZone } from '../time/index.ts';
import type { FileColumn, ImportPlan, ValueKind } from './plan.ts';
import { readStatus, STATUSES } from './suppressions.ts';
import { eitherWay, partsOf, readDate, remembering, unharmed, valueReader } from './values.ts';

/** What has to be known of a workspace to read its people. */
export interface Knowing {
  /** What attributes are called, and which values they take, by key. */
  attributes: ReadonlyMap<string, ValueKind & { label: string }>;
  /** Ids of lists by name, in lower case. */
  lists: ReadonlyMap<string, string>;
  /** Business clock, epoch ms: what lies ahead of it has not happened. */
  now: number;
  /** Is told each number that the other way of writing numbers would read as another one. */
  either?: (text: string) => void;
}

/** One person of a file. Cells that are empty say nothing about them. */
export interface ImportedRow {
  /** In lower case. */
  email: string;
  attributes: Record<string, Value>;
  zone: string | null;
  tags: readonly string[];
  lists: readonly string[];
  /** When they agreed, as midnight UTC of the day (epoch ms), or null where the file does not say. */
  consentAt: number | null;
  /** Whether they may be mailed, or null where the file does not say. Nobody becomes mailable by it. */
  mail: MailStatus | null;
}

const TAG_LENGTH = 60;

/** Puts what a cell says into the row; answers what is wrong with it, or nothing. */
type CellReader = (text: string, row: ImportedRow) => string | undefined;

function cellReader(column: FileColumn, plan: ImportPlan, known: Knowing): CellReader | null {
  switch (column.to) {
    case 'nothing':
      return null;
    case 'email':
      return (text, row) => {
        const read = readAddress(text);
        if ('why' in read) return `“${text.slice(0, 80)}” is no email address: it ${read.why}.`;
        row.email = read.email;
        return undefined;
      };
    case 'attribute': {
      const attribute = known.attributes.get(column.key);
      if (!attribute) return () => `There is no attribute “${column.key}” any more.`;
      const read = valueReader(attribute, plan);
      const tellEither = attribute.type === 'number' ? known.either : undefined;
      return (text, row) => {
        const reading = read(text);
        if (!reading.ok) return `${attribute.label}: ${reading.why}.`;
        if (tellEither && eitherWay(text)) tellEither(text);
        row.attributes[column.key] = reading.value;
        return undefined;
      };
    }
    case 'zone':
      return (text, row) => {
        if (!isZone(text)) return `“${text.slice(0, 40)}” is no time zone such as Europe/Lisbon.`;
        row.zone = text;
        return undefined;
      };
    case 'tags': {
      const read = remembering(partsOf);
      return (text, row) => {
        const tags = read(text);
        const long = tags.find((t) => t.length > TAG_LENGTH);
        if (long) return `The tag “${long.slice(0, 40)} …” is over ${TAG_LENGTH} characters long.`;
        row.tags = row.tags.length === 0 ? tags : [...new Set([...row.tags, ...tags])];
        return undefined;
      };
    }
    case 'lists':
      return (text, row) => {
        for (const name of partsOf(text)) {
          const id = known.lists.get(name.toLowerCase());
          if (!id) return `There is no list “${name.slice(0, 60)}”.`;
          if (!row.lists.includes(id)) row.lists = [...row.lists, id];
        }
        return undefined;
      };
    case 'consent-at':
      return (text, row) => {
        const day = readDate(text, plan.days);
        if (!day) return `“${text.slice(0, 40)}” is no date of a consent.`;
        const at = Date.parse(day);
        // A day begins twelve hours earlier in some zones than in UTC.
        if (at > known.now + DAY / 2)
          return `“${text.slice(0, 40)}” lies in the future: nobody can have consented then.`;
        row.consentAt = at;
        return undefined;
      };
    case 'mail':
      return (text, row) => {
        const status = readStatus(text);
        if (!status) return `“${text.slice(0, 40)}” does not say whether they get mail: ${STATUSES.join(', ')}.`;
        row.mail = status;
        return undefined;
      };
  }
}

/**
 * Makes what reads the rows of a file. Whatever cannot be read makes the whole row a fault, with the reason in words: half a
 * person is none.
 */
export function rowReader(
  plan: ImportPlan,
  known: Knowing,
): (cells: readonly string[]) => ImportedRow | { fault: string } {
  const readers = plan.columns.map((c) => cellReader(c, plan, known));
  const lists = [...new Set(plan.lists)];
  return (cells) => {
    if (cells.length > readers.length && cells.slice(readers.length).some((c) => c.trim() !== ''))
      return { fault: `There are ${cells.length} cells, and the first rows have ${readers.length}.` };
    const row: ImportedRow = {
      email: '',
      attributes: {},
      zone: null,
      tags: plan.tags,
      lists,
      consentAt: null,
      mail: null,
    };
    // By number: this is done for every cell of a file.
    for (let i = 0; i < readers.length; i++) {
      const read = readers[i];
      const text = read ? unharmed((cells[i] ?? '').trim()) : '';
      if (!read || text === '') continue;
      if (text.includes('\u0000')) return { fault: 'A cell holds a character that is no text (NUL).' };
      const fault = read(text, row);
      if (fault) return { fault };
    }
    return row.email === '' ? { fault: 'There is no email address.' } : row;
  };
}
