import { dateWords, momentWords, periodWords, placeWords, zoneOf } from '../time/index.ts';
import type { Names } from '../audience/index.ts';

export const traceCodes = [
  'entered',
  'not-entered',
  'held-out',
  'email-sent',
  'email-held',
  'email-paused',
  'email-paced',
  'email-skipped',
  'email-cancelled',
  'email-bounced',
  'email-failed',
  'email-refused',
  'email-unanswered',
  'wait-begun',
  'wait-until',
  'date-passed',
  'date-missing',
  'branch-taken',
  'branch-otherwise',
  'split-taken',
  'split-waits',
  'until-begun',
  'until-happened',
  'until-passed',
  'tag-added',
  'tag-removed',
  'list-joined',
  'list-left',
  'attribute-set',
  'step-off',
  'goal-reached',
  'left-by-rule',
  'mail-stopped',
  'left-by-step',
  'carried-over',
  'left-by-publishing',
  'taken-out',
  'email-repeat',
  'reached-end',
  'email-yields',
  'email-yielded',
  'email-too-late',
  'points-added',
  'start-asked',
  'start-refused',
  'sequence-started',
  'stop-asked',
  'sequence-stopped',
  'stopped-by',
  'tell-asked',
  'team-told',
  'call-asked',
  'webhook-called',
  'call-failed',
  'archived',
  'shifted',
  'offer-opened',
  'offer-closed',
  'offer-used',
  'offer-undated',
  'offer-gone',
  'offer-empty',
  'set-aside',
] as const;
export type TraceCode = (typeof traceCodes)[number];

/** What was decided and why, as data. `at` is epoch ms. */
export interface TraceEntry {
  at: number;
  step: string | null;
  code: TraceCode;
  data: Record<string, string | number | boolean>;
}

/** Words that a sentence needs from around the entry. */
export interface TraceNames extends Names {
  /** The condition of an arm, or of a branch's first arm, as a sentence. */
  arm: (id: string) => string;
  /** Who may enter, as a sentence. */
  filter: () => string;
  /** Whom an email is for, as a sentence. */
  forWhom: (step: string) => string;
  /** Zone in which moments are told. */
  zone: string;
}

const whyYields = (e: TraceEntry, n: TraceNames) =>
  e.data.why === 'cap'
    ? 'they had as many emails that day as one person may get'
    : `“${n.sequence(String(e.data.sequence))}” goes first that day`;

type Sentence = (entry: TraceEntry, names: TraceNames) => string;

const place = (e: TraceEntry) =>
  `${placeWords(String(e.data.zone))}${e.data.assumed ? ' (assumed: no time zone is known)' : ''}`;
const until = (e: TraceEntry, n: TraceNames) =>
  momentWords(zoneOf(String(e.data.zone ?? n.zone)), Number(e.data.until));
const step = (e: TraceEntry, n: TraceNames) => (e.step ? `“${n.step(e.step)}”` : 'this step');
const fact = (e: TraceEntry, n: TraceNames) =>
  e.data.event ? `: “${n.event(String(e.data.event))}” on ${dateWords(zoneOf(n.zone), Number(e.data.at))}` : '';

/** What brought somebody in, from the data of an "entered" entry. */
const cause = (e: TraceEntry, n: TraceNames): string => {
  const { list, event, tag, attribute, segment, date, quiet, unfollowed, without, reading, by, once } = e.data;
  if (list !== undefined) return `: ${e.data.what === 'left' ? 'left' : 'confirmed'} “${n.list(String(list))}”`;
  if (event !== undefined) return `: “${n.event(String(event))}” happened`;
  if (tag !== undefined) return `: the tag “${tag}” was ${e.data.what}`;
  if (attribute !== undefined) return `: ${String(attribute).replaceAll('_', ' ')} became what it waits for`;
  if (segment !== undefined) return `: came into the segment “${n.segment(String(segment))}”`;
  if (date !== undefined) return `: the day of “${String(date).replaceAll('_', ' ')}” was near, here or past`;
  if (unfollowed !== undefined)
    return `: “${n.event(String(unfollowed))}”, and no “${n.event(String(without))}” behind it`;
  if (quiet !== undefined)
    return `: ${periodWords(Number(e.data.days), 'days')} without ${quiet === 'opened' ? 'opening an email' : quiet === 'clicked' ? 'a click' : `“${n.event(String(quiet))}”`}`;
  if (reading !== undefined)
    return `: ${reading} ${e.data.email === undefined ? 'an email' : `“${n.email(String(e.data.of), String(e.data.email))}”`}`;
  if (once !== undefined) return ': it goes out once, to everybody whom it is for';
  if (by === 'hand') return ': added by hand';
  return by === undefined ? '' : `: started by “${n.sequence(String(by))}”`;
};

const bars: Record<string, string> = {
  bounced: 'the address bounced, so nothing more is sent to it',
  complained: 'they reported an email as unwanted, so only service mail is sent',
  unsubscribed: 'they unsubscribed, so only service mail is sent',
  'offer-closed': 'its offer had closed before it went out',
  'offer-used': 'its offer had been used before it went out',
  goal: 'the goal had been reached before it went out',
  exit: 'they had left by the rule for leaving before it went out',
  archived: 'the sequence was archived before it went out',
  'left-list': 'they are not on the list that this sequence mails under',
};

const sentences: Record<TraceCode, Sentence> = {
  entered: (e, n) => `Joined the sequence${cause(e, n)}.`,
  'not-entered': (_e, n) => `Did not enter: only somebody who ${n.filter()} may.`,
  // Whether an email that was decided has gone out is asked of the outbox when the story is told; a rehearsal has none.
  'email-sent': (e, n) =>
    e.data.became === undefined || e.data.became === 'sent'
      ? `${step(e, n)} went out: the step was reached and its window was open.`
      : `${step(e, n)} was due: the step was reached and its window was open.${e.data.became === 'queued' || e.data.became === 'leased' ? ' It waits to be handed over.' : ''}`,
  'email-paced': (e, n) =>
    `${step(e, n)} is held until ${until(e, n)} in ${place(e)}: they want ${periodWords(Number(e.data.days), 'days')} between emails.`,
  'email-paused': (e, n) => `${step(e, n)} is held until ${until(e, n)} in ${place(e)}: they asked for a pause.`,
  'email-held': (e, n) => `${step(e, n)} is held until ${until(e, n)} in ${place(e)}: its window was closed.`,
  'email-skipped': (e, n) => `${step(e, n)} was passed over: it is only for whoever ${n.forWhom(e.step ?? '')}.`,
  'email-cancelled': (e, n) =>
    `${step(e, n)} was not sent: ${bars[String(e.data.why)] ?? 'the sequence had ended for them before it went out'}.`,
  'email-bounced': (e, n) =>
    `${step(e, n)} bounced: the receiving server answered “${e.data.answer}”. No more mail is sent to this address.`,
  'email-failed': (e, n) =>
    `${step(e, n)} was given up after ${e.data.attempts} tries: the last answer was “${e.data.answer}”.`,
  'email-refused': (e, n) =>
    `${step(e, n)} was not taken: the receiving server refused ${e.data.what === 'sender' ? 'the sender' : e.data.what === 'session' ? 'to talk to us' : 'the email'} with “${e.data.answer}”. The address itself is not at fault.`,
  'email-unanswered': (e, n) =>
    `${step(e, n)} was handed over, but the receiving server never said whether it took it. It is not sent again, since that could be a second copy.`,
  'wait-begun': (e, n) =>
    `Waits ${periodWords(Number(e.data.amount), String(e.data.unit))}${e.data.moreUnit === undefined ? '' : ` and ${periodWords(Number(e.data.moreAmount), String(e.data.moreUnit))}`}, until ${until(e, n)} in ${place(e)}.`,
  'wait-until': (e, n) => `Waits until ${until(e, n)} in ${place(e)}.`,
  'date-passed': (e, n) =>
    `${e.data.leaves ? 'Left' : 'Went on at once'} at ${step(e, n)}: that date had passed already.`,
  'date-missing': (e, n) =>
    `${e.data.leaves ? 'Left' : 'Went on at once'} at ${step(e, n)}: there is no such date for them.`,
  'branch-taken': (e, n) => `Took the arm “${n.arm(String(e.data.arm))}”${fact(e, n)}.`,
  'branch-otherwise': (e, n) => `Took “otherwise” at ${step(e, n)}: none of the conditions held.`,
  'split-taken': (e, n) =>
    `Took the arm “${n.arm(String(e.data.arm))}” of ${step(e, n)}: ${e.data.decided ? 'the test was decided for it' : 'by lot, the same for this person every time'}.`,
  'split-waits': (e, n) => `Waits at ${step(e, n)} until it is decided, about ${until(e, n)} in ${place(e)}.`,
  'until-begun': (e, n) => `Waits at ${step(e, n)} until ${until(e, n)} in ${place(e)} at the latest.`,
  'until-happened': (e, n) => `Went on from ${step(e, n)}: it happened${fact(e, n)}.`,
  'until-passed': (e, n) => `Went on from ${step(e, n)}: it did not happen in time.`,
  'tag-added': (e) => `The tag “${e.data.tag}” was added.`,
  'tag-removed': (e) => `The tag “${e.data.tag}” was removed.`,
  'list-joined': (e, n) => `Put on “${n.list(String(e.data.list))}”.`,
  'list-left': (e, n) => `Taken off “${n.list(String(e.data.list))}”.`,
  'attribute-set': (e) =>
    e.data.value === ''
      ? `The value for ${String(e.data.key).replaceAll('_', ' ')} was taken away.`
      : `The value for ${String(e.data.key).replaceAll('_', ' ')} was set to “${e.data.value}”.`,
  'step-off': (e, n) => `${step(e, n)} was passed over: it is switched off.`,
  'goal-reached': (e, n) => `Left at once: the goal was reached${fact(e, n)}.`,
  'left-by-rule': (e, n) => `Left at once, by the rule for leaving${fact(e, n)}.`,
  'mail-stopped': (e) => `Left the sequence: ${bars[String(e.data.why)] ?? 'mail is no longer allowed'}.`,
  'carried-over': (e) => `Goes on in version ${e.data.version}.`,
  'left-by-publishing': (e) => `Left: version ${e.data.version} was published, and people inside were let go.`,
  'taken-out': () => 'Left: adding them by hand was taken back.',
  'email-repeat': (e, n) => `${step(e, n)} was passed over: they have had it already.`,
  'left-by-step': () => 'Left here: the sequence ends on this arm.',
  'reached-end': () => 'Reached the end of the sequence.',
  'held-out': (e, n) =>
    `Would have joined${cause(e, n)}, but is one of those held out to measure what the sequence adds.`,
  'email-yields': (e, n) => `${step(e, n)} is put off until ${until(e, n)} in ${place(e)}: ${whyYields(e, n)}.`,
  'email-yielded': (e, n) => `${step(e, n)} was left out: ${whyYields(e, n)}.`,
  'email-too-late': (e, n) => `${step(e, n)} was left out: it was too late when the sequence was resumed.`,
  'points-added': (e) =>
    Number(e.data.points) < 0
      ? `Lost ${periodWords(-Number(e.data.points), 'points')}.`
      : `Got ${periodWords(Number(e.data.points), 'points')}.`,
  'start-asked': (e, n) => `Asked to start “${n.sequence(String(e.data.sequence))}”.`,
  'sequence-started': (e, n) => `Started “${n.sequence(String(e.data.sequence))}”.`,
  'start-refused': (e, n) =>
    `“${n.sequence(String(e.data.sequence))}” was not started: ${e.data.why === 'not-live' ? 'it is not live' : 'its rules did not let them in'}.`,
  'stop-asked': (e, n) => `Asked to stop “${n.sequence(String(e.data.sequence))}”.`,
  'sequence-stopped': (e, n) => `Stopped “${n.sequence(String(e.data.sequence))}”.`,
  'stopped-by': (e, n) => `Left: “${n.sequence(String(e.data.by))}” stopped it for them.`,
  'tell-asked': (e) => `Asked to tell the team: ${e.data.to}.`,
  'team-told': (e) => `The team was told: ${e.data.to}.`,
  'call-asked': (e) => `Asked to call ${e.data.url}.`,
  'webhook-called': (e) => `Called ${e.data.url}.`,
  'call-failed': (e) =>
    `${e.data.to} could not be reached: given up after ${e.data.attempts} tries. The last answer was “${e.data.answer}”.`,
  archived: () => 'Left: the sequence was archived.',
  'offer-opened': (e, n) =>
    `Was given “${n.offer(String(e.data.offer))}”${e.data.closes ? `: it closes on ${until({ ...e, data: { ...e.data, until: e.data.closes } }, n)} in ${place(e)}` : ''}.`,
  'offer-closed': (e, n) =>
    `${step(e, n)} was left out: “${n.offer(String(e.data.offer))}” ${e.data.closed ? `had closed on ${until({ ...e, data: { ...e.data, until: e.data.closed } }, n)} in ${place(e)}` : 'had closed already'}.`,
  'offer-used': (e, n) =>
    `${step(e, n)} was left out: “${n.offer(String(e.data.offer))}” was used on ${dateWords(zoneOf(n.zone), Number(e.data.closed))}.`,
  'offer-undated': (e, n) =>
    `${step(e, n)} was left out: what the deadline of “${n.offer(String(e.data.offer))}” counts from is not known for them.`,
  'offer-gone': (e, n) => `${step(e, n)} was left out: its offer is gone.`,
  'offer-empty': (e, n) =>
    `${step(e, n)} is held: no code of “${n.offer(String(e.data.offer))}” is left. It goes out when there are new ones.`,
  'set-aside': (e, n) => `${step(e, n)} was set aside: ${e.data.why}. It is tried again by itself.`,
  shifted: (e) =>
    `Moved on by ${periodWords(Math.round(Number(e.data.hours)), 'hours')}: the sequence had been paused.`,
};

/** The sentence of a trace entry: the fact, its date and the rule. */
export function traceSentence(entry: TraceEntry, names: TraceNames): string {
  return sentences[entry.code](entry, names);
}
