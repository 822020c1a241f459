/** Days and hours as the region of the browser writes and reads them. A day is `YYYY-MM-DD`, a time of day minutes since midnight. */

const region = () => navigator.language;
const DAY = { day: 'numeric', month: 'short', year: 'numeric', timeZone: 'UTC' } as const;
const atUtc = (day: string) => Date.parse(`${day}T00:00:00Z`);

export const dayInWords = (day: string, locale = region()): string =>
  Number.isNaN(atUtc(day)) ? day : new Intl.DateTimeFormat(locale, DAY).format(atUtc(day));

export const timeInWords = (minute: number, locale = region()): string =>
  new Intl.DateTimeFormat(locale, { hour: 'numeric', minute: '2-digit', timeZone: 'UTC' }).format(minute * 60_000);

/** The months' names of a region, lower case, long and short. */
function monthOf(word: string, locale: string): number | null {
  for (const month of ['long', 'short'] as const) {
    const name = new Intl.DateTimeFormat(locale, { ...DAY, month });
    for (let m = 0; m < 12; m++) {
      const written = name.formatToParts(Date.UTC(2000, m, 1)).find((p) => p.type === 'month')?.value ?? '';
      if (
        written.toLowerCase().replace('.', '') === word ||
        (word.length >= 3 && written.toLowerCase().startsWith(word))
      )
        return m + 1;
    }
  }
  return null;
}

/** Whether a region writes the month before the day. */
const monthFirst = (locale: string) => {
  const parts = new Intl.DateTimeFormat(locale, { dateStyle: 'short' }).formatToParts(0).map((p) => p.type);
  return parts.indexOf('month') < parts.indexOf('day');
};

/** A day as somebody types it: 2026-03-24, 24/3/2026, 3/24/2026 where the region has it so, 24 March, Mar 24 2026. Null where it is none. */
export function readDay(typed: string, today: string, locale = region()): string | null {
  const parts = typed.toLowerCase().match(/\d+|\p{L}+/gu) ?? [];
  const words = parts.filter((p) => !/^\d/.test(p));
  const figures = parts.filter((p) => /^\d/.test(p)).map(Number);
  let [year, month, day]: (number | undefined)[] = [];
  if (words.length > 0) {
    month = words.map((w) => monthOf(w, locale)).find((m) => m !== null) ?? undefined;
    [day, year] = (figures[0] ?? 0) > 31 ? [figures[1], figures[0]] : figures;
  } else if (/^\d{4}/.test(parts[0] ?? '')) [year, month, day] = figures;
  else if (monthFirst(locale)) [month, day, year] = figures;
  else [day, month, year] = figures;
  year ??= Number(today.slice(0, 4));
  if (month === undefined || day === undefined || figures.length > 3) return null;
  if (year < 100) year += 2000;
  const two = (n: number) => String(n).padStart(2, '0');
  const written = `${String(year).padStart(4, '0')}-${two(month)}-${two(day)}`;
  const at = atUtc(written);
  return !Number.isNaN(at) && new Date(at).toISOString().startsWith(written) ? written : null;
}

/** A time of day as somebody types it: 18:00, 18.30, 1830, 9, 6pm, 6:15 p.m. Null where it is none. */
export function readTime(typed: string): number | null {
  const found = /^(\d{1,2})(?:\s{0,3}[:.h]?\s{0,3}(\d{2}))?\s{0,3}(?:([ap])\.?\s{0,3}m?\.?)?$/i.exec(typed.trim());
  if (!found) return null;
  const half = found[3]?.toLowerCase();
  let hour = Number(found[1]);
  const minute = Number(found[2] ?? 0);
  if (half && (hour < 1 || hour > 12)) return null;
  if (half) hour = (hour % 12) + (half === 'p' ? 12 : 0);
  return hour < 24 && minute < 60 ? hour * 60 + minute : null;
}
