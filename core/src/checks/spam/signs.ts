/** Something in the words of an email that filters count. */
export interface Sign {
  /** The rule of SpamAssassin that it mirrors, with its points where neither Bayes nor the network is asked (score set 0). */
  rule: string;
  points: number;
  /** What it is, as one would say it to the author. */
  says: string;
  find: RegExp;
}

/**
 * Rules of SpamAssassin 4.0 (Apache License 2.0) that somebody who writes to customers can run into, in our own words. They
 * are about English: its filters know no phrases of the other languages. `server/test/spam.test.ts` holds them to the original.
 */
export const subjectSigns: readonly Sign[] = [
  { rule: 'SUBJ_AS_SEEN', points: 2.7, says: 'the subject says “as seen”', find: /\bas seen\b/i },
  { rule: 'SUBJ_BUY', points: 0.6, says: 'the subject begins with “buy”', find: /^\s*buy/i },
  {
    rule: 'TVD_SUBJ_WIPE_DEBT',
    points: 2.6,
    says: 'the subject promises a way out of debt',
    find: /\b(?:wipe out|remove|get (?:rid|out) of|eradicate)\b.{0,20}(?:owe|debt|obligation)/i,
  },
  {
    rule: 'SUBJECT_DIET',
    points: 1.9,
    says: 'the subject is about losing weight',
    find: /\blose\b.*(?:pounds|lbs|weight)/i,
  },
  { rule: 'SUBJ_YOUR_FAMILY', points: 2.9, says: 'the subject says “your family”', find: /your family/i },
];

export const bodySigns: readonly Sign[] = [
  { rule: 'MONEY_BACK', points: 2.9, says: 'it offers a “money back guarantee”', find: /money back guarantee/i },
  { rule: 'GUARANTEED_100_PERCENT', points: 2.7, says: 'something is “100% guaranteed”', find: /100% guaranteed/i },
  { rule: 'BANG_GUAR', points: 1, says: '“guaranteed” with an exclamation mark', find: /\bguaranteed?!/i },
  { rule: 'DEAR_FRIEND', points: 2.7, says: 'it begins “Dear friend”', find: /^[ \t]{0,20}dear friend\b/im },
  {
    rule: 'DEAR_SOMETHING',
    points: 2,
    says: 'it begins as if to nobody in particular',
    find: /\bdear (?:sirs?|madam|candidate|investor|travell?er)\b/i,
  },
  { rule: 'DEAR_WINNER', points: 3.1, says: 'it speaks to a “winner”', find: /\bdear.{1,20}winner/i },
  {
    rule: 'UNCLAIMED_MONEY',
    points: 2.7,
    says: 'something is “unclaimed”',
    find: /\bunclaimed\s(?:assets?|accounts?|mon(?:ey|ies)|balance|funds?|prizes?|rewards?|payments?|deposits?)\b/i,
  },
  {
    rule: 'EXCUSE_REMOVE',
    points: 2.9,
    says: 'it tells how “to be removed from” mailings',
    find: /to be removed from.{0,20}(?:mailings|offers)/i,
  },
  { rule: 'EXCUSE_4', points: 2.4, says: 'it says “to be removed, please”', find: /to be removed,? please/i },
  {
    rule: 'ONE_TIME',
    points: 1.8,
    says: 'it is a “one-time” offer',
    find: /\bone\W+time (?:charge|investment|offer|promotion)/i,
  },
  {
    rule: 'FREE_QUOTE_INSTANT',
    points: 2.7,
    says: 'it offers a free and instant quote',
    find: /free.{0,12}(?:instant|express|online|no.?obligation).{0,36}\bquote/i,
  },
  {
    rule: 'DIET_1',
    points: 0.7,
    says: 'it is about losing weight',
    find: /\b(?:(?:without|no) (?:exercis(?:e(?! price)|ing)|dieting)|weight.?loss|(?:extra|lose|lost|losing).{0,10}(?:pounds|weight|inches|lbs)|burn.{1,10}fat)\b/i,
  },
  {
    rule: 'PRICES_ARE_AFFORDABLE',
    points: 0.8,
    says: 'it praises “affordable prices”',
    find: /\baffordable .{0,10}prices\b/i,
  },
  {
    rule: 'US_DOLLARS_3',
    points: 1,
    says: 'it is about millions of dollars',
    find: /(?:\$|usd).?\d{1,3}[,.]\d{3}[,.]\d{3}/i,
  },
  {
    rule: 'URG_BIZ',
    points: 1.7,
    says: 'it calls something “urgent”',
    find: /urgent.{0,16}(?:assistance|business|buy|confidential|notice|proposal|reply|request|response)/i,
  },
  { rule: 'REPLICA_WATCH', points: 3.5, says: 'it is about replica watches', find: /\breplica.{1,20}rolex/i },
  {
    rule: 'NO_PRESCRIPTION',
    points: 1.9,
    says: 'it says that no prescription is needed',
    find: /\bno.{1,10}prescription.{1,10}(?:needed|required|necessary)/i,
  },
  {
    rule: 'ONLINE_PHARMACY',
    points: 2.8,
    says: 'it is about an online pharmacy',
    find: /\bonline ph.rmacy|\b(?:drugs|medications) online/i,
  },
  {
    rule: 'MARKETING_PARTNERS',
    points: 0.6,
    says: 'it speaks of marketing partners',
    find: /\b(?:marketing|network) partner|\bpartner (?:web)?site/i,
  },
  { rule: 'BANKING_LAWS', points: 2.4, says: 'it speaks of banking laws', find: /banking laws/i },
  { rule: 'NO_MEDICAL', points: 2.2, says: 'it says “no medical exam”', find: /\bno medical exam/i },
];
