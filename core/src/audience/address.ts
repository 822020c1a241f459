/** What may stand in the local part without quotation marks: atext of RFC 5322, 3.2.3, and any letter beyond ASCII (RFC 6531, 3.3). */
const LOCAL =
  /^(?:[\w!#$%&'*+/=?^`{|}~-]|[^\p{ASCII}\s\p{C}])+(?:\.(?:[\w!#$%&'*+/=?^`{|}~-]|[^\p{ASCII}\s\p{C}])+)*$/u;
/** Longest local part and address in octets, longest label and name of a domain (RFC 5321, 4.5.3.1; RFC 1035, 2.3.4). */
const LONGEST = { local: 64, address: 254, label: 63, domain: 253 };
const LABEL = /^[a-z0-9](?:[a-z0-9-]*[a-z0-9])?$/;
/** The last label is never figures alone: that would be the address of a machine. */
const LAST = /^(?:[a-z]{2,}|xn--[a-z0-9-]+)$/;
const OUTSIDE_ASCII = /[^\p{ASCII}]/u;

const octets = (text: string) => (OUTSIDE_ASCII.test(text) ? new TextEncoder().encode(text).length : text.length);

/** A domain by its A-labels (RFC 5891), or null where it is none. */
function aLabels(domain: string): string | null {
  if (!OUTSIDE_ASCII.test(domain)) return domain;
  // What ends the name of a machine in a URL has no business in a domain.
  if (/[!-,/:-@[-`{-~]|\s|\p{C}/u.test(domain)) return null;
  try {
    // UTS #46, as every browser and every server reads a name of a machine.
    return new URL(`http://${domain}`).hostname;
  } catch {
    return null;
  }
}

/** An address that was read, or why it cannot be: words that go on after it. */
export type ReadAddress = { email: string } | { why: string };

/**
 * Reads an email address as people write them: in lower case, its domain by A-labels, in one form of Unicode (NFC), so that
 * one address is one person whichever door it comes by. Local parts in quotation marks and domains of figures are refused.
 */
export function readAddress(written: string): ReadAddress {
  const text = written.trim();
  // Nothing longer is looked at any closer.
  if (text.length > 4 * LONGEST.address) return { why: `is over ${LONGEST.address} characters long` };
  const at = text.lastIndexOf('@');
  if (at < 0) return { why: 'has no @' };
  const local = text.slice(0, at).normalize('NFC').toLowerCase();
  const domain = aLabels(text.slice(at + 1).toLowerCase());
  if (!LOCAL.test(local)) return { why: 'has something before the @ that no address has' };
  if (octets(local) > LONGEST.local) return { why: `has over ${LONGEST.local} characters before the @` };
  const labels = domain?.split('.') ?? [];
  if (labels.some((l) => l.length > LONGEST.label))
    return { why: `has a part of over ${LONGEST.label} characters behind the @` };
  if (labels.length < 2 || !labels.every((l) => LABEL.test(l)) || !LAST.test(labels.at(-1) ?? ''))
    return { why: 'has no domain behind the @, such as foldwell.example' };
  const email = `${local}@${domain}`;
  if (octets(email) > LONGEST.address || (domain ?? '').length > LONGEST.domain)
    return { why: `is over ${LONGEST.address} characters long` };
  return { email };
}

/** Whether a mail server has to know RFC 6531 (SMTPUTF8) to take mail for an address. */
export const needsUtf8 = (email: string): boolean => OUTSIDE_ASCII.test(email);
