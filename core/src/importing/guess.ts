import { readAddress } from '../audience/index.ts';
import { isZone } from '../time/index.ts';
import type { FileColumn, ColumnType, ImportPlan } from './plan.ts';
import { readStatus } from './suppressions.ts';
import { eitherWay, readDate, readNumber, unharmed } from './values.ts';

/** How a column looks: what it probably becomes, and the attribute that could be made for it. */
export interface GuessedColumn {
  heading: string;
  /** What stands in the first rows, those that are not empty. */
  samples: string[];
  column: FileColumn;
  /** The type that its values show. */
  type: ColumnType;
  /** A number in it that could be read either way, as it stands; null where none can. */
  either: string | null;
}

export interface Guess extends Pick<ImportPlan, 'heading' | 'days'> {
  columns: GuessedColumn[];
  /** What parts whole from fraction; null where numbers of the first rows could be read either way: then it is asked. */
  decimal: ImportPlan['decimal'] | null;
  /** A number that could be read either way, as it stands in the file; null where none can. */
  either: string | null;
}

/** Words for yes and no in the ten languages of the product, and what spreadsheets write. */
export const YES = ['yes', 'y', 'true', '1', 'x', 'sim', 'sí', 'si', 'oui', 'ja', 'sì', 'tak', '✓'];
export const NO = ['no', 'n', 'false', '0', 'não', 'nao', 'non', 'nein', 'nee', 'nie', 'nej', '-'];

const isAddress = (text: string) => 'email' in readAddress(text);
const EMAIL_HEADING = /^(e ?mail|mail|correo|courriel|posta)( |$)/;
const plain = (text: string) =>
  text
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, ' ')
    .trim();

/** Headings as people's own programs write them, by what they become. */
const HEADINGS: readonly (readonly [FileColumn['to'] | `attribute ${string}`, readonly string[]])[] = [
  [
    'attribute first_name',
    [
      'first name',
      'firstname',
      'given name',
      'name',
      'vorname',
      'prenom',
      'nombre',
      'nome',
      'voornaam',
      'imie',
      'fornavn',
      'fornamn',
    ],
  ],
  [
    'attribute last_name',
    [
      'last name',
      'lastname',
      'surname',
      'family name',
      'nachname',
      'nom',
      'apellido',
      'apellidos',
      'apelido',
      'cognome',
      'achternaam',
      'nazwisko',
      'efternavn',
      'efternamn',
    ],
  ],
  [
    'attribute birthday',
    [
      'birthday',
      'date of birth',
      'birth date',
      'born',
      'geburtstag',
      'geburtsdatum',
      'anniversaire',
      'cumpleanos',
      'aniversario',
      'compleanno',
      'verjaardag',
    ],
  ],
  ['attribute language', ['language', 'lang', 'locale', 'sprache', 'langue', 'idioma', 'lingua', 'taal']],
  ['zone', ['time zone', 'timezone', 'tz', 'zeitzone']],
  ['mail', ['mail', 'mail status', 'email status', 'status', 'subscription status', 'mailable']],
  ['tags', ['tags', 'tag', 'labels', 'keywords']],
  ['lists', ['lists', 'list']],
  [
    'consent-at',
    [
      'consent date',
      'consent at',
      'opt in date',
      'opted in',
      'opt in time',
      'subscribed at',
      'signed up',
      'sign up date',
      'confirmed at',
    ],
  ],
];

const most = (samples: readonly string[], holds: (text: string) => boolean) =>
  samples.length > 0 && samples.filter(holds).length >= samples.length * 0.8;

function typeOfColumn(
  samples: readonly string[],
  days: ImportPlan['days'],
  decimal: ImportPlan['decimal'],
): ColumnType {
  const word = (words: readonly string[]) => (s: string) => words.includes(s.toLowerCase());
  if (samples.length === 0) return 'text';
  if (samples.every((s) => word(YES)(s) || word(NO)(s)) && samples.some((s) => /\p{L}/u.test(s))) return 'yes-no';
  if (samples.every((s) => readDate(s, days) !== null)) return 'date';
  // A leading nought is a postcode's or a phone number's: as a number it would be lost.
  if (samples.every((s) => readNumber(s, decimal) !== null && !/^0\d|^\+/.test(s))) return 'number';
  return 'text';
}

/** The order of day and month that all dates of a file allow: day first where both would do. */
function orderOf(cells: readonly string[]): ImportPlan['days'] {
  const dates = cells.filter((c) => /^\d{1,2}[-/.]\d{1,2}[-/.]\d{2,4}/.test(c));
  if (dates.length === 0) return 'ymd';
  return dates.every((d) => readDate(d, 'dmy') !== null) || !dates.every((d) => readDate(d, 'mdy') !== null)
    ? 'dmy'
    : 'mdy';
}

/**
 * What parts whole from fraction in columns of numbers: what a number says that can only be read one way. Null where there
 * are only such as can be read either way.
 */
function decimalOf(columns: readonly (readonly string[])[]): Pick<Guess, 'decimal' | 'either'> {
  const isNumber = (c: string) => readNumber(c, '.') !== null || readNumber(c, ',') !== null;
  const numbers = columns.filter((c) => c.length > 0 && c.every(isNumber)).flat();
  const only = (one: '.' | ',', other: '.' | ',') =>
    numbers.filter((c) => readNumber(c, one) !== null && readNumber(c, other) === null).length;
  const [points, commas] = [only('.', ','), only(',', '.')];
  const either = numbers.find(eitherWay) ?? null;
  if (points + commas === 0) return { decimal: either === null ? '.' : null, either };
  return { decimal: commas > points ? ',' : '.', either };
}

/**
 * Guesses from the first rows of a file what its columns are, by their headings and by what stands in them. A column that
 * fits nothing that is known becomes nothing, until somebody says what.
 */
export function guessColumns(
  rows: readonly (readonly string[])[],
  attributes: readonly { key: string; label: string }[],
): Guess {
  const first = rows[0] ?? [];
  const heading = !first.some(isAddress);
  const body = heading ? rows.slice(1) : rows;
  const columnsOf = Array.from({ length: first.length }, (_, i) =>
    body.map((r) => unharmed((r[i] ?? '').trim())).filter(Boolean),
  );
  const cells = columnsOf.flat();
  const days = orderOf(cells);
  const { decimal, either } = decimalOf(columnsOf);
  const taken = new Set<string>();
  /** Each target is one column's, but tags and lists, which add up. */
  const take = (column: FileColumn): FileColumn => {
    const id = column.to === 'attribute' ? column.key : column.to;
    if (column.to === 'nothing' || column.to === 'tags' || column.to === 'lists') return column;
    if (taken.has(id)) return { to: 'nothing' };
    taken.add(id);
    return column;
  };
  const guess = (title: string, samples: readonly string[]): FileColumn => {
    const called = plain(title);
    if (EMAIL_HEADING.test(called) && (samples.length === 0 || samples.some(isAddress))) return { to: 'email' };
    if (most(samples, isAddress)) return { to: 'email' };
    const own = attributes.find((a) => called !== '' && (plain(a.key) === called || plain(a.label) === called));
    if (own) return { to: 'attribute', key: own.key };
    const known = HEADINGS.find(([, names]) => names.includes(called))?.[0];
    if (known?.startsWith('attribute ')) {
      const key = known.slice(10);
      return attributes.some((a) => a.key === key) ? { to: 'attribute', key } : { to: 'nothing' };
    }
    if (known && (known !== 'mail' || samples.every((s) => readStatus(s) !== null))) return { to: known } as FileColumn;
    return most(samples, (s) => s.includes('/') && isZone(s)) ? { to: 'zone' } : { to: 'nothing' };
  };
  return {
    heading,
    days,
    decimal,
    either,
    columns: columnsOf.map((samples, i) => ({
      heading: heading ? (first[i] ?? '').trim() : '',
      samples: samples.slice(0, 3),
      column: take(guess(heading ? (first[i] ?? '') : '', samples)),
      type: typeOfColumn(samples, days, decimal ?? '.'),
      either: samples.find(eitherWay) ?? null,
    })),
  };
}
