import { emailCheck } from './check.ts';
import { saidIn } from './said.ts';

/**
 * What people write into an email that is only tried out: not to be sent, a draft, to be ignored. In the ten languages of the
 * house. Common practice, from memory.
 */
const NOT_TO_BE_SENT =
  /(?<!\p{L})(?:(?:do not|don[’']t|please don[’']t|never) send|test (?:only|e-?mail|mail|send|version)|(?:please )?ignore this(?: e-?mail| message)?|nicht (?:ver)?senden|bitte ignorieren|ne pas envoyer|no enviar|não enviar|non inviare|niet verzenden|nie wysyłać|skicka inte|må ikke sendes)(?!\p{L})/iu;
/** In capitals only: a test of a glue is a test too. */
const TEST = /(?<!\p{L})(?:TEST(?:ING)?|DRAFT)(?!\p{L})/u;
const AT_THE_BEGINNING = /^\s*[[(]?(?:test|draft|copy of)\b[\])]?\s*(?:[:\-–—!]|$)/iu;

const inCapitals = (text: string) => text.length > 8 && !/\p{Ll}/u.test(text);

export const testWords = emailCheck('test-words', 'error', ({ email, name }) => {
  return saidIn(email).flatMap(({ text: source, block, place }) => {
    const found =
      NOT_TO_BE_SENT.exec(source)?.[0] ??
      (place === 'subject' ? AT_THE_BEGINNING.exec(source)?.[0] : undefined) ??
      (inCapitals(source) ? undefined : TEST.exec(source)?.[0]);
    return found === undefined
      ? []
      : [
          {
            block,
            part: place,
            message: `“${found.trim()}” in “${name}” says that it is not meant to go out.`,
            fix: 'Take the words out, or switch the email off.',
          },
        ];
  });
});
