import type { Logger } from 'pino';
import type { Connection } from '../db/connect.ts';
import type { Reading } from '../db/reading.ts';
import type { Counts } from './kept.ts';
import type { Crowd } from '../engine/mover.ts';
import type { SendSettings } from '../engine/settings.ts';

export type TrustProxy = number | string[] | false;

/** What every router is made with. */
export interface AppContext {
  connection: Connection;
  /** Where what may be a little old is read. */
  reading: Reading;
  /** Counts that may be a little old. */
  counts: Counts;
  sending: SendSettings;
  /** The mailbox stand-in's HTTP door, or null where there is none. */
  mailboxUrl: string | null;
  shopUrl: string | null;
  /** The mail server that hands mail on to whoever it is addressed to; null where it stays in the simulated mailbox. */
  mailTo: string | null;
  crowd: Crowd | null;
  log: Logger;
  /** Whose X-Forwarded headers are believed, as Express takes it; false where nothing stands before us. */
  trustProxy: TrustProxy;
  /** What whoever asks for figures must say; null answers this machine itself. */
  metricsToken: string | null;
}
