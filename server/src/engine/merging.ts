import { evaluate, offerValues, recentOf, type Asking, type Facts, type MergeContext } from '@ascenso/core';
import type { LoadedProgram } from '../db/versions.ts';

/** What is known of a send beside the person's facts. */
export interface About {
  /** Payload of the event that started the passage. */
  entry: Record<string, unknown> | null;
  sender: LoadedProgram['sender'];
  /** ISO 4217 code of the workspace. */
  currency: string;
  /** Id of the offer that the email makes, or undefined. */
  offer?: string | undefined;
  /** Names of the sequence and of the email. */
  sequence: { name: string; email: string };
  /** The moment that conditions are asked in, epoch ms, and where the passage stands. */
  asking: Omit<Asking, 'facts'>;
}

/** What fills the moving parts of one send, and answers who sees what. */
export function mergeContext(facts: Facts, about: About): MergeContext {
  const { sender, asking } = about;
  const language = facts.person.attributes['language'];
  const made = about.offer === undefined ? undefined : facts.offers?.[about.offer];
  return {
    ...(made
      ? { offer: offerValues(made.offer, made.given, asking.now, typeof language === 'string' ? language : '') }
      : {}),
    subscriber: { ...facts.person.attributes, email: facts.person.email },
    event: about.entry ?? {},
    sender: { name: sender.name, email: sender.email, ...sender.fields },
    sequence: about.sequence,
    locale: {
      language: typeof language === 'string' ? language : '',
      zone: facts.person.zone,
      currency: about.currency,
    },
    // What happened after the moment that was decided has not happened yet.
    recent: recentOf(
      facts.events.filter((e) => e.at <= asking.now),
      [...new Set(facts.events.map((e) => e.name))],
    ),
    holds: (condition) => evaluate(condition, { ...asking, facts }),
  };
}
