import { createRequire } from 'node:module';
import { GlobalFonts } from '@napi-rs/canvas';
import { timerFonts, type TimerFont } from '@ascenso/core';

const require = createRequire(import.meta.url);
const files: Record<TimerFont, string> = {
  'Instrument Sans': 'instrument-sans',
  'Bricolage Grotesque': 'bricolage-grotesque',
  'Barlow Condensed': 'barlow-condensed',
  'Source Serif 4': 'source-serif-4',
  'Courier Prime': 'courier-prime',
};
/** Weight that figures and labels are drawn in. */
export const WEIGHT = 700;

let registered = false;

/** Registers the fonts of timers once. Both subsets of a font go under one name: labels have letters of ten languages. */
export function registerFonts(): void {
  if (registered) return;
  registered = true;
  for (const font of timerFonts)
    for (const subset of ['latin', 'latin-ext']) {
      const file = `@fontsource/${files[font]}/files/${files[font]}-${subset}-${WEIGHT}-normal.woff2`;
      // A font that is missing would be drawn in another one, unseen.
      if (!GlobalFonts.registerFromPath(require.resolve(file), font))
        throw new Error(`The font ${file} cannot be read.`);
    }
}
