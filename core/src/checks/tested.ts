import { inOrder, signOf, type Email } from '../email/index.ts';
import { emailCheck, type CheckContext } from './check.ts';
import { withShared } from './shared.ts';

/** A sign of the whole content of an email, what its shared blocks hold included: the same as long as nothing in it changes. */
export const contentSign = (email: Email, shared: CheckContext['shared']): string =>
  signOf(JSON.stringify(inOrder({ ...withShared(email, shared), template: undefined })));

export const notTested = emailCheck('not-tested', 'warning', ({ id, email, name }, { tested, shared }) => {
  if (!tested || tested[id] === contentSign(email, shared)) return [];
  return [
    {
      message: tested[id]
        ? `“${name}” has changed since it was last sent as a test.`
        : `“${name}” was never sent as a test.`,
      fix: 'Send a test to yourself and read it on your phone.',
    },
  ];
});
