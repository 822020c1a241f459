import {
  clockChange,
  dateWords,
  instantOfWall,
  isZone,
  offsetAt,
  periodWords,
  placeWords,
  toWall,
  zoneOf,
} from '@ascenso/core';
import { useClockQuery } from '../outside/endpoints.ts';

function lengthOf(ms: number): string {
  const minutes = Math.abs(ms) / 60_000;
  return minutes % 60 === 0 ? periodWords(minutes / 60, 'hours') : periodWords(minutes, 'minutes');
}

/** That the clocks of a place change before a moment of its wall time ("2026-04-01T18:00"), and what that means for it. */
export function ClockChangeNote({ zone: name, wall }: { zone: string; wall: string }) {
  const { data: clock } = useClockQuery();
  if (!clock || !isZone(name)) return null;
  const zone = zoneOf(name);
  const end = instantOfWall(wall, zone);
  // No moment has been chosen yet, or half of one.
  if (end === null || !Number.isFinite(end)) return null;
  const change = clockChange(zone, clock.now, end);
  if (!change) return null;
  // What all changes until then come to: forward in spring and back in autumn is nothing.
  const net = offsetAt(zone, end) - offsetAt(zone, clock.now);
  const hour = new Date(toWall(zone, end)).toISOString().slice(11, 16);
  return (
    <p className="text-[12px] text-ink-2">
      The clocks in {placeWords(name)} go {change.by > 0 ? 'forward' : 'back'} by {lengthOf(change.by)} before that, on{' '}
      {dateWords(zone, change.at)}. {hour} is by the clock of then
      {net === 0
        ? ', which is as now again.'
        : `: the time left is ${lengthOf(net)} ${net > 0 ? 'shorter' : 'longer'} than the dates alone would say.`}
    </p>
  );
}
