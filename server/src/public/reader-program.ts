import bowser from 'bowser';
import type { ReadWith } from '../people/readings.ts';

/**
 * Mail programs by what they send as their user agent; browsers are told by bowser. Common practice, no published source; from
 * memory, November 2026. A proxy that fetches pictures says nothing of the device behind it.
 */
const PROGRAMS: readonly [RegExp, string][] = [
  [/Thunderbird\//, 'Thunderbird'],
  [/Microsoft Outlook|MSOffice|ms-office|Outlook-(iOS|Android)/i, 'Outlook'],
  // WebKit in a program that is no browser: the mail program of that system.
  [/AppleWebKit\/(?!.*(Safari|Chrome|CriOS|FxiOS|EdgiOS)\/)/, 'Apple Mail'],
];
const PROXY = /GoogleImageProxy|YahooMailProxy/;

const DEVICES: Readonly<Record<string, ReadWith['device']>> = {
  mobile: 'phone',
  tablet: 'tablet',
  desktop: 'computer',
};

/** Longer names are no browser's. */
const LONGEST = 40;

/** What a user agent says of where an email is read, and with which mail program or browser. */
export function programOf(userAgent: string): ReadWith {
  if (userAgent === '') return { device: null, program: null };
  if (PROXY.test(userAgent)) return { device: null, program: /Google/.test(userAgent) ? 'Gmail' : 'Yahoo Mail' };
  const { browser, platform } = bowser.parse(userAgent);
  const own = PROGRAMS.find(([pattern]) => pattern.test(userAgent))?.[1];
  return {
    device: DEVICES[platform.type ?? ''] ?? null,
    program: (own ?? browser.name)?.slice(0, LONGEST) || null,
  };
}
