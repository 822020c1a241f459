import { momentFor, zoneNames, zoneOf, type TriggerOf } from '@ascenso/core';
import { audiencePage, type Audience } from '../db/audience.ts';
import type { Tx } from '../db/connect.ts';
import { NEVER } from '../db/leaving.ts';
import type { Entrant } from '../people/passages.ts';

// A moment takes in everybody whom it is for, a page at a time. Readers in zones that come later are a look of their own.

/** People taken in by one round: so many that a statement for each thing pays, so few that nobody else waits long. */
const PAGE = 1000;

/** A look over several rounds: until which moment it looks, whom it has come to, and whether there are more. */
export interface Pass {
  to: number;
  after: string | null;
  more: boolean;
}

export interface MomentSweep {
  workspace_id: string;
  sequence_id: string;
  key: string;
  swept_to: number;
  pass_to: number | null;
  pass_after: string | null;
}

/**
 * Whom one round takes in: a page of those whose moment lies in what has not been looked at; nobody where there is no audience,
 * since the sequence is put away. `nextAt` is when the
 * next zone's moment is.
 */
export async function sweepMoment(
  tx: Tx,
  s: MomentSweep,
  trigger: TriggerOf<'moment'>,
  audience: Audience | null,
  now: number,
): Promise<{ found: Entrant[]; nextAt: number; pass: Pass }> {
  const to = s.pass_to ?? now;
  // What waits for publishing is due at the first look, and never again.
  const published = s.swept_to === 0 ? to : 0;
  const moments = zoneNames.map((zone) => ({ zone, at: momentFor(trigger, zoneOf(zone)) ?? published }));
  const due = moments.filter((m) => m.at > s.swept_to && m.at <= to);
  const later = moments.filter((m) => m.at > to).map((m) => m.at);
  const nextAt = later.length === 0 ? NEVER : Math.min(...later);
  const cause = `moment:${s.key}`;
  const people =
    due.length === 0 || !audience
      ? []
      : await audiencePage(tx, s.workspace_id, audience, now, {
          zones: due.length === zoneNames.length ? null : due.map((d) => d.zone),
          sequence: s.sequence_id,
          cause,
          after: s.pass_after,
          limit: PAGE,
        });
  const at = new Map(due.map((d) => [d.zone, d.at]));
  return {
    found: people.map(({ id, zone }) => ({
      person: id,
      // Published when it had passed there: they are taken in with that.
      at: s.swept_to === 0 ? to : (at.get(zone) ?? to),
      cause: { id: cause, event: null, entry: {}, told: { once: true } },
    })),
    nextAt,
    pass: { to, after: people.at(-1)?.id ?? s.pass_after, more: people.length === PAGE },
  };
}
