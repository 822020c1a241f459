import { AA, channelsOf, contrast } from './contrast.ts';
import type { HouseStyle } from './style.ts';

// The dark form of an email, for programs that ask for one: colours that do not come from the house, so that any house
// style can be read, and words in the house's own link colour made light enough.
const PAGE = '#191816';
const SHEET = '#23211e';
/** Of a section that has a ground of its own. */
const GROUND = '#2f2c27';
const TEXT = '#ece7dc';
const SOFT = '#b9b1a3';
const LINE = '#57524a';

/** A colour with white mixed in until its words can be read on the dark sheet: 4.5 to 1 (WCAG 2.2, 1.4.3). */
function lightened(hex: string): string {
  for (let part = 0; part < 1; part += 0.05) {
    const mixed = `#${channelsOf(hex)
      .map((c) => Math.round(c + (255 - c) * part))
      .map((c) => c.toString(16).padStart(2, '0'))
      .join('')}`;
    if (contrast(mixed, GROUND) >= AA) return mixed;
  }
  return TEXT;
}

/** What stands on a ground, the sheet's or a section's own. */
const onGrounds = (...tags: string[]): string => tags.flatMap((t) => [`.sheet ${t}`, `.ground ${t}`]).join(',');

const rulesOf = (style: HouseStyle): [selector: string, rule: string][] => [
  ['body,.page,.page>div', `background-color:${PAGE}`],
  ['.sheet,.sheet td,.sheet th', `background-color:${SHEET};border-color:${LINE}`],
  ['.ground,.ground td,.ground th,.ground .sheet', `background-color:${GROUND};border-color:${LINE}`],
  [onGrounds('p', 'li', 'h1', 'h2', 'h3', 'div', 'td', 'th', 'span', 'strong', 'blockquote'), `color:${TEXT}`],
  [onGrounds('.soft'), `color:${SOFT}`],
  [onGrounds('a', 'a span'), `color:${lightened(style.link)}`],
  [onGrounds('.code'), `background-color:${PAGE};border-color:${SOFT}`],
  // A button keeps what the house made of it.
  [onGrounds('.fill td td', '.fill a'), `background-color:${style.accent};color:${style.onAccent}`],
  // Pictures made for a light ground, such as a logo or a timer, stand on a plate that is meant.
  [
    onGrounds('.plate img'),
    `background-color:${style.sheet};color:${style.text};border-radius:10px;box-shadow:0 0 0 8px ${style.sheet}`,
  ],
];

const important = (rule: string) =>
  rule
    .split(';')
    .map((r) => `${r}!important`)
    .join(';');

/** The style sheet of the dark form: by the media query, and by the attribute that some programs set instead. */
export function darkCss(style: HouseStyle): string {
  const rules = rulesOf(style);
  const plain = rules.map(([selector, rule]) => `${selector}{${important(rule)}}`).join('');
  const marked = rules
    .map(
      ([selector, rule]) =>
        `${selector
          .split(',')
          .map((s) => `[data-ogsc] ${s}`)
          .join(',')}{${important(rule)}}`,
    )
    .join('');
  return `@media (prefers-color-scheme:dark){${plain}}${marked}`;
}
