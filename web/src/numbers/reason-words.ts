const ends: Record<string, string> = {
  'goal-reached': 'reached the goal',
  'left-by-rule': 'left by the rule for leaving',
  'reached-end': 'came to the end',
  'left-by-step': 'left by a step',
  'left-by-publishing': 'left when a version was published',
  'stopped-by': 'stopped by another sequence',
  'taken-out': 'taken out again after being added by hand',
  archived: 'left when it was archived',
};
const bars: Record<string, string> = {
  unsubscribed: 'unsubscribed',
  bounced: 'bounced',
  complained: 'called it spam',
  'left-list': 'left the list',
};
const kept: Record<string, string> = {
  'email-skipped': 'it was not for them',
  'email-too-late': 'it came too late when resuming',
};
const takenBack: Record<string, string> = {
  goal: 'taken back: the goal was reached',
  exit: 'taken back: they left by the rule for leaving',
  'offer-closed': 'taken back: its offer had closed',
  'offer-used': 'taken back: its offer was used',
  archived: 'taken back: archived',
};

/** Why passages ended, or an email did not go out, in a few words: of a code with its detail behind a space. */
export function reasonWords(reason: string): string {
  const [code = '', detail = ''] = reason.split(' ', 2);
  if (code === 'mail-stopped') return bars[detail] ?? 'may not be mailed any more';
  if (code === 'email-cancelled') return takenBack[detail] ?? `taken back: ${bars[detail] ?? 'before it went out'}`;
  return ends[code] ?? kept[code] ?? code;
}
