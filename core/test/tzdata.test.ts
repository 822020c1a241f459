import { execFileSync } from 'node:child_process';
import { existsSync, readFileSync } from 'node:fs';
import { expect, test } from 'vitest';
import { offsetAt, zoneDataVersion, zoneNames, zoneOf } from '../src/time/index.ts';

// The system's own zone data (IANA tz as Debian ships it), read by `date`, against our tables.
const VERSION = '/usr/share/zoneinfo/tzdata.zi';
const system = existsSync(VERSION) ? (/^# version (\S+)/.exec(readFileSync(VERSION, 'utf8'))?.[1] ?? 'unknown') : null;

/** Offsets that `date` tells for instants (epoch s) in a zone, minutes east of Greenwich. */
function byDate(zone: string, instants: number[]): number[] {
  const out = execFileSync('date', ['-f', '-', '+%z'], {
    env: { TZ: zone, LC_ALL: 'C' },
    input: instants.map((s) => `@${s}`).join('\n'),
  }).toString();
  return out
    .trim()
    .split('\n')
    .map((z) => (z[0] === '-' ? -1 : 1) * (Number(z.slice(1, 3)) * 60 + Number(z.slice(3, 5))));
}

/** Where the random instants begin: anew in each run; SEED=n repeats one. */
const SEED = Number(process.env.SEED ?? Math.floor(Math.random() * 1_000_000));

/** A small generator, so that a failure can be run again: mulberry32 (public domain). */
function random(seed: number): () => number {
  return () => {
    seed = (seed + 0x6d2b79f5) | 0;
    let t = Math.imul(seed ^ (seed >>> 15), 1 | seed);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

test.skipIf(system === null)(
  `offsets at 20,000 random instants agree with the system’s tz data, zone by zone (seed ${SEED})`,
  () => {
    const r = random(SEED);
    const from = Date.UTC(1990, 0, 1) / 1000;
    // What lies ahead may differ where one of the two data sets knows a newer decision of a government.
    const settled = Date.UTC(2025, 0, 1) / 1000;
    const wrong: string[] = [];
    let compared = 0;
    // Names without a slash (WET, EST) are old links that Debian and IANA point to different places.
    const zones = zoneNames.filter((z) => z.includes('/')).filter((z) => existsSync(`/usr/share/zoneinfo/${z}`));
    const each = Math.ceil(20_000 / zones.length);
    for (const name of zones) {
      const instants = Array.from({ length: each }, () => Math.floor(from + r() * (settled - from)));
      const theirs = byDate(name, instants);
      const zone = zoneOf(name);
      instants.forEach((s, i) => {
        compared++;
        const ours = offsetAt(zone, s * 1000) / 60_000;
        // Both tell whole minutes; our table keeps them whole too for these years.
        if (ours !== theirs[i])
          wrong.push(`${name} at ${new Date(s * 1000).toISOString()}: ${ours}, system ${theirs[i]}`);
      });
    }
    console.log(
      `zone tables ${zoneDataVersion}, system tzdata ${system}, ${compared} instants in ${zones.length} zones`,
    );
    expect(compared).toBeGreaterThanOrEqual(20_000);
    expect(wrong).toEqual([]);
  },
  60_000,
);

test('a zone goes on after the end of its data as the machine’s own calendar has it (ICU, by Intl)', () => {
  const byIntl = (zone: string, at: number) => {
    const text = new Intl.DateTimeFormat('en-GB', { timeZone: zone, timeZoneName: 'longOffset' }).format(at);
    const found = /GMT(?:([+-])(\d{2}):(\d{2}))?/.exec(text);
    return (found?.[1] === '-' ? -1 : 1) * (Number(found?.[2] ?? 0) * 60 + Number(found?.[3] ?? 0)) * 60_000;
  };
  for (const zone of [
    'Europe/Lisbon',
    'America/New_York',
    'Australia/Sydney',
    'America/Santiago',
    'Asia/Tokyo',
    'Australia/Lord_Howe',
  ])
    for (let year = 2036; year <= 2075; year++)
      for (let day = 0; day < 365; day += 3) {
        // Twice a day, so that the day of each change shows on which side of it the instant lies.
        const at = Date.UTC(year, 0, 1, 3) + day * 86_400_000 + (day % 2) * 43_200_000;
        expect([zone, at, offsetAt(zoneOf(zone), at)]).toEqual([zone, at, byIntl(zone, at)]);
      }
});
