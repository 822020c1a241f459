import packed from 'moment-timezone/data/packed/latest.json' with { type: 'json' };

/**
 * One zone as a table of transitions. `at[i]` is the instant (epoch ms) from which `offset[i + 1]` holds;
 * before the first transition `offset[0]` holds. Offsets are ms to add to UTC to get wall time.
 */
export interface Zone {
  readonly name: string;
  readonly at: readonly number[];
  readonly offset: readonly number[];
}

const MINUTE = 60_000;
const DAY = 86_400_000;
/** Year up to which a zone's last rule is written out; the data ends in 2037. */
const LAST_YEAR = 2120;

/** Version of the zone data in use, such as "2026f". */
export const zoneDataVersion: string = packed.version;

const BASE60 = '0123456789abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWX';

function base60(text: string): number {
  const sign = text.startsWith('-') ? -1 : 1;
  const [whole = '', fraction = ''] = text.replace('-', '').split('.');
  let value = 0;
  for (const c of whole) value = value * 60 + BASE60.indexOf(c);
  let scale = 1;
  for (const c of fraction) {
    scale /= 60;
    value += BASE60.indexOf(c) * scale;
  }
  return sign * value;
}

function unpack(line: string): Zone {
  const [name = '', , offsets = '', indices = '', diffs = ''] = line.split('|');
  const table = offsets.split(' ').map((o) => Math.round(-base60(o) * MINUTE) || 0);
  const offset = [...indices].map((i) => table[BASE60.indexOf(i)] ?? 0);
  const at: number[] = [];
  let minutes = 0;
  for (const diff of diffs ? diffs.split(' ') : []) {
    minutes += base60(diff);
    at.push(Math.round(minutes * 60) * 1000);
  }
  return prolong({ name, at: at.slice(0, offset.length - 1), offset });
}

interface YearlyRule {
  month: number;
  weekday: number;
  /** 1 to 4 counted from the start of the month, or 0 for the last of the month. */
  nth: number;
  wallTime: number;
}

function civil(ms: number) {
  const d = new Date(ms);
  return { year: d.getUTCFullYear(), month: d.getUTCMonth(), day: d.getUTCDate(), weekday: d.getUTCDay() };
}

function daysInMonth(year: number, month: number): number {
  return new Date(Date.UTC(year, month + 1, 0)).getUTCDate();
}

/** The rule that puts every one of these wall times (one a year) in its place, or null when none does. */
function ruleOf(walls: readonly number[]): YearlyRule | null {
  const all = walls.map((w) => ({ ...civil(w), wallTime: ((w % DAY) + DAY) % DAY }));
  const first = all[0];
  if (
    !first ||
    all.some((w) => w.month !== first.month || w.weekday !== first.weekday || w.wallTime !== first.wallTime)
  )
    return null;
  const last = all.every((w) => w.day + 7 > daysInMonth(w.year, w.month));
  const nth = Math.ceil(first.day / 7);
  if (!last && all.some((w) => Math.ceil(w.day / 7) !== nth)) return null;
  return { month: first.month, weekday: first.weekday, nth: last ? 0 : nth, wallTime: first.wallTime };
}

function applyRule(rule: YearlyRule, year: number): number {
  if (rule.nth === 0) {
    const end = daysInMonth(year, rule.month);
    const endWeekday = civil(Date.UTC(year, rule.month, end)).weekday;
    return Date.UTC(year, rule.month, end - ((endWeekday - rule.weekday + 7) % 7)) + rule.wallTime;
  }
  const startWeekday = civil(Date.UTC(year, rule.month, 1)).weekday;
  return Date.UTC(year, rule.month, 1 + ((rule.weekday - startWeekday + 7) % 7) + (rule.nth - 1) * 7) + rule.wallTime;
}

/** The last rule of a zone goes on after the end of its data, as long as it is a plain pair of yearly changes. */
function prolong(zone: Zone): Zone {
  const at = [...zone.at];
  const offset = [...zone.offset];
  const end = at[at.length - 1];
  if (end === undefined || civil(end).year < 2037) return zone;
  const sample = (back: number) =>
    Array.from({ length: 6 }, (_, i) => {
      const k = at.length - 1 - back - 2 * i;
      return (at[k] ?? 0) + (offset[k] ?? 0);
    });
  const lateRule = ruleOf(sample(0));
  const earlyRule = ruleOf(sample(1));
  if (!lateRule || !earlyRule) return zone;
  const afterLate = offset[offset.length - 1] ?? 0;
  const afterEarly = offset[offset.length - 2] ?? 0;
  for (let year = 2038; year <= LAST_YEAR; year++) {
    at.push(applyRule(earlyRule, year) - afterLate, applyRule(lateRule, year) - afterEarly);
    offset.push(afterEarly, afterLate);
  }
  return { name: zone.name, at, offset };
}

const lines = new Map(packed.zones.map((line) => [line.slice(0, line.indexOf('|')), line]));
const links = new Map(packed.links.map((link) => link.split('|').reverse() as [string, string]));
const parsed = new Map<string, Zone>();

/** All zone names that can be chosen, links included, in alphabetical order. */
export const zoneNames: readonly string[] = [...lines.keys(), ...links.keys()].sort();

/** True for a name of the zone data, such as "Europe/Lisbon". */
export function isZone(name: string): boolean {
  return lines.has(name) || links.has(name);
}

/** The zone of an IANA name. Throws RangeError for a name that the data does not hold. */
export function zoneOf(name: string): Zone {
  const known = parsed.get(name);
  if (known) return known;
  const line = lines.get(name) ?? lines.get(links.get(name) ?? '');
  if (!line) throw new RangeError(`Unknown time zone "${name}": use an IANA name such as Europe/Lisbon.`);
  const zone = { ...unpack(line), name };
  parsed.set(name, zone);
  return zone;
}

/** Number of transitions at or before the instant: the index of the offset that holds then. */
export function segmentAt(zone: Zone, instant: number): number {
  let low = 0;
  let high = zone.at.length;
  while (low < high) {
    const mid = (low + high) >> 1;
    if ((zone.at[mid] as number) <= instant) low = mid + 1;
    else high = mid;
  }
  return low;
}

/** Offset in ms that holds at an instant (epoch ms). */
export function offsetAt(zone: Zone, instant: number): number {
  return zone.offset[segmentAt(zone, instant)] ?? 0;
}

/** Wall time of an instant, as the epoch ms that the same digits would have in UTC. */
export function toWall(zone: Zone, instant: number): number {
  return instant + offsetAt(zone, instant);
}

/**
 * Instant of a wall time. A time that a gap swallows moves forward by the gap; one that happens twice is its first:
 * "compatible" in the ECMAScript Temporal proposal.
 */
export function fromWall(zone: Zone, wall: number): number {
  // A segment ends, in its own wall time, at at[i] + offset[i]: the first segment that ends after `wall` holds it.
  let low = 0;
  let high = zone.at.length;
  while (low < high) {
    const mid = (low + high) >> 1;
    if ((zone.at[mid] as number) + (zone.offset[mid] as number) <= wall) low = mid + 1;
    else high = mid;
  }
  const offset = zone.offset[low] as number;
  const instant = wall - offset;
  const start = low > 0 ? (zone.at[low - 1] as number) : -Infinity;
  // In a gap the found segment has not begun at that wall time: the offset before the gap moves it forward.
  return instant >= start ? instant : wall - (zone.offset[low - 1] as number);
}
