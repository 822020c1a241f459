import { contentOf } from '../email/index.ts';
import { emailSteps } from '../sequence/index.ts';
import { emailCheck } from './check.ts';

/** Names that are nobody's outside (RFC 6761, RFC 6762, RFC 8375) or in houses only (common practice). */
const INSIDE = /(?:^|\.)(?:localhost|local|internal|intranet|lan|home|corp|test|invalid|home\.arpa)$/i;
/** What the machines are called on which a site is tried out (common practice, no published source). */
const TRIED_OUT = /^(?:staging|stage|stg|dev|develop|test|testing|qa|uat|preprod|pre|preview|sandbox|beta)\d{0,2}$/i;
/** Addresses of networks that are not public (RFC 1918, RFC 6598, RFC 3927, RFC 4193). */
const PRIVATE =
  /^(?:127\.|10\.|192\.168\.|169\.254\.|172\.(?:1[6-9]|2\d|3[01])\.|100\.(?:6[4-9]|[7-9]\d|1[01]\d|12[0-7])\.|0\.|\[(?:::1|f[cd]|fe80))/i;

const hostOf = (address: string): string | null =>
  /^https?:\/\/(?:[^/?#@\s]*@)?(\[[^\]]*\]|[^/?#:\s{}]+)/i.exec(address.trim())?.[1]?.toLowerCase() ?? null;

/** The name of a house: the last two labels, three where the last but one is a general one. */
const houseOf = (host: string): string => {
  const labels = host.split('.');
  const general = /^(?:co|com|org|net|gov|ac|edu)$/.test(labels.at(-2) ?? '') && labels.at(-1)?.length === 2;
  return labels.slice(general ? -3 : -2).join('.');
};

function whyNotPublic(host: string): string | null {
  if (PRIVATE.test(host) || INSIDE.test(host)) return 'leads to a machine that is not public';
  const labels = host.split('.');
  if (labels.length < 3) return null;
  return labels.slice(0, -2).some((l) => l.split('-').some((part) => TRIED_OUT.test(part)))
    ? 'leads to where a site is tried out'
    : null;
}

/** An address of a machine that readers cannot reach, or are not meant to. */
export const notPublic = emailCheck('not-public', 'error', ({ email }) =>
  contentOf(email).links.flatMap(({ address, block, place, label }) => {
    const host = hostOf(address);
    const why = host && whyNotPublic(host);
    return why
      ? [
          {
            block,
            part: place,
            message: `${label ? `“${label}”` : 'A link'} ${why}: “${host}”.`,
            fix: 'Give it the address of the page as readers see it.',
          },
        ]
      : [];
  }),
);

/** Whether two names differ by one letter put in, left out, exchanged or swapped with the next: a slip of the hand. */
function isSlip(a: string, b: string): boolean {
  if (a === b || Math.abs(a.length - b.length) > 1) return false;
  let i = 0;
  while (i < a.length && a[i] === b[i]) i++;
  const [restA, restB] = [a.slice(i), b.slice(i)];
  const swapped = restA.slice(0, 2) === [...restB.slice(0, 2)].reverse().join('') && restA.slice(2) === restB.slice(2);
  return swapped || restA.slice(1) === restB.slice(1) || restA === restB.slice(1) || restA.slice(1) === restB;
}

/** The host of a link that is like no other of the house, and nearly like one. */
export const oddHost = emailCheck('odd-host', 'warning', ({ email }, { style }, sequence) => {
  const known = new Map<string, number>();
  const count = (address: string) => {
    const host = hostOf(address);
    if (host) known.set(houseOf(host), (known.get(houseOf(host)) ?? 0) + 1);
  };
  for (const step of emailSteps(sequence)) for (const { address } of contentOf(step.email).links) count(address);
  for (const address of JSON.stringify(style).match(/https?:\/\/[^"\\]+/g) ?? []) count(address);
  const houses = [...known].sort((a, b) => b[1] - a[1]);
  return contentOf(email).links.flatMap(({ address, block, place, label }) => {
    const host = hostOf(address);
    const house = host && houseOf(host);
    const like = house && houses.find(([h, n]) => n > (known.get(house) ?? 0) && isSlip(h, house));
    return like
      ? [
          {
            block,
            part: place,
            message: `${label ? `“${label}”` : 'A link'} leads to “${house}”; the others lead to “${like[0]}”.`,
            fix: 'Look at the address letter by letter.',
          },
        ]
      : [];
  });
});
