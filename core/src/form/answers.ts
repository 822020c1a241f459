import type { Value } from '../audience/index.ts';
import { valueReader, NO, YES, type ValueKind } from '../importing/index.ts';
import type { SignUpForm } from './schema.ts';

/** What somebody said in a form, as it is kept until they confirm. */
export interface FormAnswers {
  attributes: Record<string, Value>;
  /** Labels of the options chosen, by the name of the choice. */
  choices: Record<string, string>;
  tags: string[];
  /** Lists beside those of the form. */
  lists: string[];
}

/** A field that cannot be taken as it is: which one, and whether it is missing or wrong. */
export interface FormFault {
  field: string;
  why: 'missing' | 'wrong';
}

/**
 * Reads what was sent to a form. `sent` are the fields of the request by name; those of no field of the form say nothing.
 * Days come as a browser's own field sends them (HTML standard, valid date string), and are read day first where typed.
 */
export function readAnswers(
  form: SignUpForm,
  sent: Readonly<Record<string, string>>,
  kindOf: (key: string) => ValueKind | undefined,
): FormAnswers | FormFault {
  const answers: FormAnswers = { attributes: {}, choices: {}, tags: [], lists: [] };
  for (const f of form.fields) {
    const name = f.kind === 'choice' ? f.name : f.key;
    const text = (sent[name] ?? '').trim().slice(0, 500);
    if (f.kind === 'choice') {
      const option = f.options.find((o) => o.id === text || o.label === text);
      if (!option) {
        if (text !== '') return { field: name, why: 'wrong' };
        continue;
      }
      answers.choices[f.name] = option.label;
      const { sets } = option;
      if (sets.kind === 'tag') answers.tags.push(sets.tag);
      if (sets.kind === 'list') answers.lists.push(sets.list);
      if (sets.kind === 'attribute') answers.attributes[sets.key] = sets.value;
      continue;
    }
    const kind = kindOf(f.key);
    if (text === '' || kind === undefined) {
      if (f.required && kind !== undefined) return { field: name, why: 'missing' };
      continue;
    }
    const read = valueReader(kind, { days: 'dmy', decimal: '.', yes: [...YES, 'on'], no: NO })(text);
    if (!read.ok) return { field: name, why: 'wrong' };
    answers.attributes[f.key] = read.value;
  }
  return answers;
}

/** Letters, marks, spaces, hyphens and apostrophes; a dot only behind an initial, where no address can be made of it. */
const NAME = /^\p{L}[\p{L}\p{M}’' -]*(?:\.(?: [\p{L}\p{M}’' -]+)?)*$/u;
const LONGEST_NAME = 40;

/**
 * A first name as it may stand in an email to somebody who has not confirmed yet: whoever fills in a form can write to any
 * address, and these are the only words of theirs that the email carries. Null for what is longer than a name or could be read
 * as an address.
 */
export function nameBeforeConfirming(text: unknown): string | null {
  if (typeof text !== 'string') return null;
  const name = text.trim().replace(/\s+/g, ' ');
  return name.length <= LONGEST_NAME && NAME.test(name) ? name : null;
}
