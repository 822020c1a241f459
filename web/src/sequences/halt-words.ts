import type { Halt } from '@ascenso/contracts';
import { number } from '../ui/index.tsx';

const share = (h: Halt) => `${((100 * h.count) / h.sent).toFixed(1)}%`;

/** What was too much of a sequence's day, and where the line is (`BEARS` in the server's halting). */
export const haltWords = (h: Halt): string =>
  h.why === 'bounced'
    ? `${number(h.count)} of ${number(h.sent)} emails of one day came back for good (${share(h)}): more than the 5% that mail providers bear with.`
    : `${number(h.count)} of ${number(h.sent)} emails of one day were called spam (${share(h)}): more than the 0.3% that mail providers bear with.`;
