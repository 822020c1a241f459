import { paragraphs, blockKinds } from '../email/index.ts';
import { blankEmail, blankSequence, type Sequence } from '../sequence/index.ts';
import { confirmationWords, joiningWords, type Written } from '../words/index.ts';
import { ASKED_EVENT, type SignUpForm } from './schema.ts';

/** A new form: an address, a first name, and words to begin with. */
export const blankForm = (name: string, list: string, language: Written, firstName: boolean): SignUpForm => ({
  name,
  language,
  title: name,
  intro: '',
  fields: firstName
    ? [
        {
          kind: 'attribute',
          id: 'first_name',
          key: 'first_name',
          label: joiningWords[language].firstName,
          required: false,
        },
      ]
    : [],
  button: joiningWords[language].send,
  consent: joiningWords[language].consent,
  lists: list ? [list] : [],
  after: { kind: 'words', title: joiningWords[language].thanks, text: joiningWords[language].thanksText, file: '' },
  forget: 14,
});

/**
 * What goes out when a form was sent: one email of service mail, with one big button that leads to the page on which they
 * confirm. It is a sequence like any other: written in the composer, checked, published.
 */
export function confirmationOf(form: { id: string; name: string; language: Written }, newId: () => string): Sequence {
  const words = confirmationWords(form.language, form.name);
  const email = blankEmail(newId, `Confirmation of ${form.name}`);
  const text = {
    ...blockKinds.text.blank(newId),
    doc: paragraphs(
      [words.greeting[0], { path: 'event.first_name', fallback: words.greeting[2], filters: [] }, words.greeting[1]],
      [words.text],
    ),
  };
  // What it is about is its heading too: whoever has it read to them goes by headings.
  const heading = { ...blockKinds.heading.blank(newId), level: 1 as const, text: words.subject };
  const button = { ...blockKinds.button.blank(newId), label: words.button, address: '{{ event.confirm }}', wide: true };
  const ignore = { ...blockKinds.text.blank(newId), doc: paragraphs([words.ignore]) };
  return {
    ...blankSequence(`Confirmation of ${form.name}`, null),
    triggers: [{ kind: 'event', event: ASKED_EVENT, where: [{ field: 'form', op: 'is', value: form.id }] }],
    entry: { again: 'after-leaving', days: 1, key: '', holdout: 0 },
    steps: [
      {
        ...email,
        email: {
          ...email.email,
          subject: words.subject,
          preview: words.text.slice(0, 100),
          language: form.language,
          blocks: [
            heading,
            text,
            button,
            ignore,
            { ...blockKinds.footer.blank(newId), reason: '' },
          ] as typeof email.email.blocks,
        },
      },
    ],
  };
}
