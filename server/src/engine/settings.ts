import type { SmtpTransport } from '../mail/transport.ts';

/** How long what a process has taken in hand is its own, ms on the system clock; renewed while it is worked on. */
export const LEASE_MS = 60_000;

export interface SendSettings {
  transport: SmtpTransport;
  /** Public base address, without a slash at the end. */
  base: string;
  secret: string;
  /** Domain of the addresses that mail comes back to, or null: then it comes back to its sender. */
  returnDomain?: string | null;
  /** Parallel SMTP conversations. */
  parallel: number;
  /** Length of a lease, ms. 0 takes the lease out: only the test that proves that it is needed does so. */
  leaseMs: number;
  /** Where whoever runs this is told by another way than mail, if there is one. */
  alertUrl?: string | null;
  /** "host:port" of stand-ins that webhooks may call although they are private. */
  allowedHosts: readonly string[];
}
