import { signOf, type Email } from '../email/index.ts';
import { emailCheck, type CheckContext } from './check.ts';
import { withShared } from './shared.ts';

/** Plain data with the keys of every object in one order: a database that keeps JSON gives them back in an order of its own. */
function inOrder(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(inOrder);
  if (typeof value !== 'object' || value === null) return value;
  const entries = Object.entries(value).filter(([, v]) => v !== undefined);
  return Object.fromEntries(entries.sort(([a], [b]) => (a < b ? -1 : 1)).map(([k, v]) => [k, inOrder(v)]));
}

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
