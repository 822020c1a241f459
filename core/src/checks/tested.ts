import { signOf, type Email } from '../email/index.ts';
import { emailCheck } from './check.ts';

/** A sign of the whole content of an email: the same as long as nothing in it changes. */
export const contentSign = (email: Email): string => signOf(JSON.stringify(email));

export const notTested = emailCheck('not-tested', 'warning', ({ id, email, name }, { tested }) => {
  if (!tested || tested[id] === contentSign(email)) return [];
  return [
    {
      message: tested[id] ? `“${name}” has changed since it was last sent as a test.` : `“${name}” was never sent as a test.`,
      fix: 'Send a test to yourself and read it on your phone.',
    },
  ];
}); // prettier-ignore
